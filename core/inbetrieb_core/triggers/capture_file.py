"""Edge captures as files: read block by block, so that ten million edges need little memory."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
import polars as pl

from ..delimited import Columns, LineFeed, NotATable, NotText, read_block
from ..errors import LogRefused, field_refused
from ..quantities import FloatArray
from .capture_layout import HIGH, LOW, THOUSANDS, Layout, layout_of, numbers_in
from .counter import NO_TIME, Counter
from .follow import MOST_EDGES
from .followed import Capture

TimeUnit = Literal["auto", "s", "ms", "us", "ns", "ticks"]
Edge = Literal["rising", "falling"]

LARGEST_CAPTURE_BYTES = 600_000_000
#: Edges of one channel that are kept; the rest is only counted.
MOST_KEPT = MOST_EDGES + 20_000
_MOST_CHANNELS = 32
_FIRST_LOOK = 65_536
_SECONDS: dict[str, float] = {"s": 1.0, "ms": 1e-3, "us": 1e-6, "ns": 1e-9}
#: A tooth usually passes within this; it tells the unit where the file does not. [s]
_USUAL_STEP_S = 2e-3
_SHORTEST_TICK_US, _LONGEST_TICK_US = 0.001, 10_000.0
_CRANK_WORDS = ("crank", "ckp", "primary", "wheel")
_CAM_WORDS = ("cam", "cmp", "second", "sync", "home")


@dataclass(frozen=True)
class CaptureChoice:
    """How a capture is to be read; everything may be left to the file.

    Attributes
    ----------
    crank, cam : str
        Names of their channels; empty chooses by name and number of edges, "-" is no cam.
    unit : {"auto", "s", "ms", "us", "ns", "ticks"}
    edge, cam_edge : {"rising", "falling"}
        That counts on each channel.
    from_s : float
        Edges before it are passed over. [s]
    tick_us : float
        Length of one tick where the unit is ticks. [µs]
    """

    crank: str = ""
    cam: str = ""
    unit: TimeUnit = "auto"
    edge: Edge = "rising"
    cam_edge: Edge = "rising"
    from_s: float = 0.0
    tick_us: float = 1.0

    def seconds_in(self, unit: str) -> float:
        """Return the length of a unit of time. [s]"""
        return 1e-6 * self.tick_us if unit == "ticks" else _SECONDS[unit]


@dataclass(frozen=True, eq=False)
class CaptureFile:
    """What was read.

    Attributes
    ----------
    capture : Capture
    crank, cam : str
        Names of the channels used; empty without a cam.
    channels : mapping of str to int
        Edges of each channel, both directions.
    rows : int
    unit : str
    sentences : tuple of str
        What was understood, assumed and passed over.
    """

    capture: Capture
    crank: str
    cam: str
    channels: Mapping[str, int]
    rows: int
    unit: str
    sentences: tuple[str, ...]


@dataclass
class _Channel:
    """Edges of one channel as they come in, in raw time."""

    rises: list[FloatArray] = field(default_factory=list)
    falls: list[FloatArray] = field(default_factory=list)
    kept: int = 0
    count: int = 0
    last: float = math.nan


class CaptureReader:
    """Reads a capture fed to it in blocks of bytes."""

    def __init__(self, choice: CaptureChoice | None = None) -> None:
        self._choice = choice or CaptureChoice()
        if not _SHORTEST_TICK_US <= self._choice.tick_us <= _LONGEST_TICK_US:
            raise field_refused(
                "tick_us", f"A tick lasts {_SHORTEST_TICK_US:g} to {_LONGEST_TICK_US:g} µs."
            )
        self._layout: Layout | None = None
        self._feed = LineFeed()
        self._head = b""
        self._channels: dict[str, _Channel] = {}
        self._rows = self._bad = 0
        self._counter = Counter()
        self._bad_cells: list[str] = []
        self._thresholds: dict[str, float] = {}
        self._first_raw: float | None = None
        self._scale: float | None = None

    @property
    def rows(self) -> int:
        """Rows read so far."""
        return self._rows

    def feed(self, block: bytes) -> None:
        """Read the next bytes.

        Parameters
        ----------
        block : bytes
            Any length; lines may be cut anywhere.

        Raises
        ------
        LogRefused
            If it is not the text of a capture.
        """
        try:
            lines = self._feed.feed(block)
        except NotText as error:
            raise LogRefused(str(error)) from error
        if self._layout is None:
            self._head += lines
            if len(self._head) < _FIRST_LOOK:
                return
            lines = self._begin()
        self._take(lines)

    def finish(self) -> CaptureFile:
        """Return what was read.

        Raises
        ------
        LogRefused
            If there are not enough edges.
        """
        try:
            rest = self._feed.finish()
        except NotText as error:
            raise LogRefused(str(error)) from error
        if self._layout is None:
            self._head += rest
            rest = self._begin()
        assert self._layout is not None
        self._take(rest)
        if self._counter.backward > 0.1 * self._rows:
            raise LogRefused(NO_TIME)
        if not self._channels:
            raise LogRefused("There is no edge in this file: no row has a time and a level.")
        crank, cam = self._roles()
        unit, assumed = self._unit(crank)
        scale = self._choice.seconds_in(unit)
        crank_s = self._times(crank, self._choice.edge, scale)
        cam_s = self._times(cam, self._choice.cam_edge, scale) if cam else np.array([])
        if crank_s.size < 12:
            raise LogRefused(
                f"Channel '{crank}' has {crank_s.size} {self._choice.edge} edges; at least 12 are needed.",
                tuple(self._channels),
            )
        cam_s = cam_s[(cam_s >= crank_s[0]) & (cam_s <= crank_s[-1])]
        sentences = self._said(crank, cam, unit, assumed, crank_s)
        counts = {name: channel.count for name, channel in self._channels.items()}
        return CaptureFile(
            Capture(crank_s, cam_s), crank, cam, counts, self._rows, unit, tuple(sentences)
        )

    # --- layout ---------------------------------------------------------------------------

    def _begin(self) -> bytes:
        """Decide on the layout and return the lines below the heading."""
        head, self._head = self._head, b""
        if not head.strip():
            raise LogRefused("The file is empty.")
        lines = head[:_FIRST_LOOK].decode("utf-8", errors="replace").split("\n")
        if len(head) > _FIRST_LOOK and len(lines) > 1:
            lines.pop()  # cut in the middle
        self._layout = layout_of([line.removesuffix("\r") for line in lines])
        for _ in range(self._layout.skip):
            head = head[(head.find(b"\n") + 1) or len(head) :]
        return head

    # --- rows -----------------------------------------------------------------------------

    def _take(self, text: bytes) -> None:
        layout = self._layout
        assert layout is not None
        if self._counter.ended or not text.strip():
            return
        columns = Columns(layout.separator, layout.width, texts=range(layout.width), loose=True)
        try:
            frame = read_block(text, columns)
        except NotATable as error:
            raise LogRefused(
                "A part of the file is no table of time, channel and level."
            ) from error
        names = frame.columns
        if layout.time >= len(names):
            self._bad += frame.height
            return
        column = frame[names[layout.time]]
        time = layout.times_in(column)
        if not layout.thousands and column.str.contains(THOUSANDS.pattern).any():
            raise LogRefused(
                "The times have marks between the thousands (1.002.757): export them without."
            )
        good = np.isfinite(time)
        self._rows += frame.height
        if not good.all():
            self._bad += int((~good).sum())
            cells = frame[names[layout.time]].to_list()
            for i in np.flatnonzero(~good)[: 3 - len(self._bad_cells)]:
                self._bad_cells.append(str(cells[int(i)])[:20])
            frame = frame.filter(pl.Series(good))
            time = time[good]
        if time.size == 0:
            return
        time, used = self._counter.carried_on(time)
        if self._first_raw is None and time.size:
            self._first_raw = float(time[0])
        frame = frame.filter(pl.Series(used))
        if layout.wide:
            self._take_wide(frame, time, layout)
        else:
            self._take_long(frame, time, layout)

    def _take_long(self, frame: pl.DataFrame, time: FloatArray, layout: Layout) -> None:
        names = frame.columns
        level = self._level(frame[names[layout.level]], "") if layout.level is not None else None
        if layout.level is not None and level is None:
            return
        high = np.ones(time.size) if level is None else level
        if layout.channel is None or layout.channel >= len(names):
            self._add("1", time, high)
            return
        column = frame[names[layout.channel]].fill_null("")
        for name in column.unique(maintain_order=True).to_list():
            if not name:
                continue
            if name not in self._channels and len(self._channels) >= _MOST_CHANNELS:
                self._bad += 1
                continue
            at = (column == name).to_numpy()
            self._add(str(name)[:40], time[at], high[at])

    def _take_wide(self, frame: pl.DataFrame, time: FloatArray, layout: Layout) -> None:
        names = frame.columns
        for place, name in layout.wide.items():
            if place >= len(names):
                continue
            level = self._level(frame[names[place]], name)
            if level is None:
                continue
            channel = self._channels.setdefault(name, _Channel())
            before = np.concatenate([[channel.last], level[:-1]])
            changed = np.isfinite(before) & np.isfinite(level) & (level != before)
            channel.last = float(level[-1])
            self._add(name, time[changed], level[changed])

    def _level(self, column: pl.Series, channel: str) -> FloatArray | None:
        """Return 1 where a signal is high, 0 where it is low, NaN where a cell is neither."""
        words = column.str.to_lowercase()
        level = np.full(words.len(), np.nan)
        level[words.is_in(list(HIGH)).fill_null(False).to_numpy()] = 1.0
        level[words.is_in(list(LOW)).fill_null(False).to_numpy()] = 0.0
        assert self._layout is not None
        other = np.isnan(level)
        if other.any():
            volts = numbers_in(column, self._layout.decimal_comma)
            if channel not in self._thresholds and np.isfinite(volts).any():
                self._thresholds[channel] = 0.5 * float(np.nanmax(volts) + np.nanmin(volts))
            if channel in self._thresholds:
                known = other & np.isfinite(volts)
                level[known] = (volts[known] > self._thresholds[channel]).astype(float)
        missing = int(np.isnan(level).sum())
        self._bad += missing
        return level if missing < level.size else None

    def _add(self, name: str, time: FloatArray, level: FloatArray) -> None:
        channel = self._channels.setdefault(name, _Channel())
        channel.count += int(np.isfinite(level).sum())
        time, level = self._after_begin(time, level)
        if channel.kept >= 2 * MOST_KEPT or not time.size:
            return
        channel.rises.append(time[level == 1.0].copy())
        channel.falls.append(time[level == 0.0].copy())
        channel.kept += time.size

    def _after_begin(self, time: FloatArray, level: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Return the edges behind the wanted beginning, so that the ones before need no memory."""
        if self._choice.from_s <= 0.0 or self._first_raw is None or not time.size:
            return time, level
        if self._scale is None:
            assert self._layout is not None
            known = self._choice.unit if self._choice.unit != "auto" else self._layout.unit
            if known:
                self._scale = self._choice.seconds_in(known)
            elif time.size >= 24:
                step = float(np.median(np.diff(time[level == level[0]])))
                self._scale = _SECONDS[_likely_unit(step)]
            else:
                return time, level
        late = (time - self._first_raw) * self._scale >= self._choice.from_s
        return time[late], level[late]

    # --- what it means --------------------------------------------------------------------

    def _roles(self) -> tuple[str, str]:
        names = list(self._channels)
        choice = self._choice
        for wanted in (choice.crank, choice.cam):
            if wanted and wanted != "-" and wanted not in self._channels:
                raise LogRefused(f"There is no channel '{wanted}'.", names)
        by_count = sorted(names, key=lambda name: -self._channels[name].count)
        crank = choice.crank or next(
            (n for n in names if any(w in n.lower() for w in _CRANK_WORDS)), ""
        )
        cam = choice.cam or next(
            (n for n in names if any(w in n.lower() for w in _CAM_WORDS) and n != crank), ""
        )
        crank = crank or next(n for n in by_count if n != cam or len(by_count) == 1)
        if not cam and len(by_count) > 1:
            cam = next(n for n in by_count if n != crank)
        return crank, "" if cam in ("-", crank) else cam

    def _edges(self, name: str, edge: Edge) -> FloatArray:
        channel = self._channels[name]
        parts, other = channel.rises, channel.falls
        if edge == "falling":
            parts, other = other, parts
        edges = np.concatenate(parts) if parts else np.array([])
        if edges.size == 0 and other:  # recorded in one direction only
            edges = np.concatenate(other)
        return np.unique(edges)

    def _unit(self, crank: str) -> tuple[str, bool]:
        """Return the unit of time, and whether it was guessed from the spacing of the edges."""
        assert self._layout is not None
        if self._choice.unit != "auto":
            return self._choice.unit, False
        if self._layout.unit:
            return self._layout.unit, False
        edges = self._edges(crank, self._choice.edge)
        if edges.size < 3:
            return "s", True
        return _likely_unit(float(np.median(np.diff(edges)))), True

    def _times(self, name: str, edge: Edge, scale: float) -> FloatArray:
        edges = (self._edges(name, edge) - (self._first_raw or 0.0)) * scale
        edges = edges[edges >= self._choice.from_s]
        return edges[:MOST_KEPT]

    def _said(
        self, crank: str, cam: str, unit: str, assumed: bool, crank_s: FloatArray
    ) -> list[str]:
        total = sum(channel.count for channel in self._channels.values())
        sentences = [
            f"{_counted(total)} edges on {len(self._channels)} channel(s): crank is '{crank}', "
            + (f"cam is '{cam}'." if cam else "there is no cam signal.")
        ]
        ticks = f"ticks of {self._choice.tick_us:g} µs"
        name = {"us": "µs", "ticks": ticks}.get(unit, unit)
        sentences.append(
            f"Time was read in {name}"
            + (", judged by the spacing of the edges." if assumed else ".")
        )
        if self._channels[crank].count > 2 * MOST_KEPT or crank_s.size > MOST_EDGES:
            end = crank_s[min(crank_s.size, MOST_EDGES) - 1]
            sentences.append(
                f"The first {_counted(MOST_EDGES)} crank edges are followed, up to {end:.1f} s; the rest was "
                "counted. Begin later to look at another part."
            )
        if self._counter.wraps:
            sentences.append(
                f"The counter of the time started anew {self._counter.wraps} time(s) and was carried on."
            )
        if self._counter.backward:
            sentences.append(f"{self._counter.backward} row(s) out of order were passed over.")
        if self._bad:
            cells = ", ".join(f"'{cell}'" for cell in self._bad_cells)
            sentences.append(
                f"{self._bad} row(s) or cells were no numbers" + (f": {cells}." if cells else ".")
            )
        if self._counter.ended:
            sentences.append(
                "The time starts anew in the middle: only the first recording was read."
            )
        return sentences


def read_capture(data: bytes, choice: CaptureChoice | None = None) -> CaptureFile:
    """Return the capture of a whole file.

    Parameters
    ----------
    data : bytes
        Text: time, channel, level in each row; or time and one level for each channel.
    choice : CaptureChoice, optional
        What is known better than the file says it.

    Raises
    ------
    LogRefused
        If there is no capture in it.
    """
    reader = CaptureReader(choice)
    reader.feed(data)
    return reader.finish()


def _likely_unit(step: float) -> str:
    """Return the unit of time in which a step [that unit] is most like a tooth's."""
    return min(_SECONDS, key=lambda unit: abs(math.log(step * _SECONDS[unit] / _USUAL_STEP_S)))


def _counted(number: int) -> str:
    return f"{number:,}".replace(",", " ")

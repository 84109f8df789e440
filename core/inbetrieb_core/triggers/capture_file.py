"""Edge captures as files: read block by block, so that ten million edges need little memory."""

from __future__ import annotations

import codecs
import io
import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

import numpy as np
import polars as pl

from ..errors import LogRefused
from ..quantities import FloatArray
from .decode import MOST_EDGES, Capture

TimeUnit = Literal["auto", "s", "ms", "us", "ns"]
Edge = Literal["rising", "falling"]

LARGEST_CAPTURE_BYTES = 600_000_000
#: Edges of one channel that are kept; the rest is only counted.
MOST_KEPT = MOST_EDGES + 20_000
_MOST_CHANNELS = 32
_NO_TIME = "The times jump to and fro: this column is no time."
_FIRST_LOOK = 65_536
_SECONDS: dict[str, float] = {"s": 1.0, "ms": 1e-3, "us": 1e-6, "ns": 1e-9}
#: A tooth usually passes within this; it tells the unit where the file does not. [s]
_USUAL_STEP_S = 2e-3
#: Counters start anew at these.
_WRAPS = tuple(float(2**bits) for bits in (16, 20, 24, 31, 32, 40, 48))
_HIGH = {"1", "high", "h", "hi", "rising", "rise", "up", "true", "r", "+", "on"}
_LOW = {"0", "low", "l", "lo", "falling", "fall", "down", "false", "f", "-", "off"}
_CRANK_WORDS = ("crank", "ckp", "primary", "wheel")
_CAM_WORDS = ("cam", "cmp", "second", "sync", "home")


@dataclass(frozen=True)
class CaptureChoice:
    """How a capture is to be read; everything may be left to the file.

    Attributes
    ----------
    crank, cam : str
        Names of their channels; empty chooses by name and number of edges, "-" is no cam.
    unit : {"auto", "s", "ms", "us", "ns"}
    edge : {"rising", "falling"}
    from_s : float
        Edges before it are passed over. [s]
    """

    crank: str = ""
    cam: str = ""
    unit: TimeUnit = "auto"
    edge: Edge = "rising"
    from_s: float = 0.0


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
class _Layout:
    separator: str
    decimal_comma: bool
    skip: int
    time: int
    channel: int | None
    level: int | None
    wide: dict[int, str]
    unit: str
    thousands: str = ""


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
        self._layout: _Layout | None = None
        self._rest = b""
        self._channels: dict[str, _Channel] = {}
        self._rows = self._bad = self._backward = 0
        self._bad_cells: list[str] = []
        self._lift, self._last_raw, self._step = 0.0, -math.inf, 0.0
        self._wraps, self._ended = 0, False
        self._thresholds: dict[str, float] = {}
        self._decoder: codecs.IncrementalDecoder | None = None
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
        if self._decoder is None and not self._rest and block[:2] in (b"\xff\xfe", b"\xfe\xff"):
            self._decoder = codecs.getincrementaldecoder("utf-16")(errors="replace")
        if self._decoder is not None:
            block = self._decoder.decode(block).encode()
        self._rest += block
        if self._layout is None:
            if len(self._rest) < _FIRST_LOOK:
                return
            self._begin()
        cut = self._rest.rfind(b"\n")
        if cut >= 0:
            self._take(self._rest[: cut + 1])
            self._rest = self._rest[cut + 1 :]
        elif len(self._rest) > 1_000_000:
            raise LogRefused("This is no table: a line of a million letters.")

    def finish(self) -> CaptureFile:
        """Return what was read.

        Raises
        ------
        LogRefused
            If there are not enough edges.
        """
        if self._layout is None:
            self._begin()
        if self._rest.strip():
            self._take(self._rest.rstrip() + b"\n")
        self._rest = b""
        assert self._layout is not None
        if self._backward > 0.1 * self._rows:
            raise LogRefused(_NO_TIME)
        if not self._channels:
            raise LogRefused("There is no edge in this file: no row has a time and a level.")
        crank, cam = self._roles()
        unit, assumed = self._unit(crank)
        scale = _SECONDS[unit]
        crank_s = self._times(crank, scale)
        cam_s = self._times(cam, scale) if cam else np.array([])
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

    def _begin(self) -> None:
        head = self._rest[:_FIRST_LOOK]
        if not head.strip():
            raise LogRefused("The file is empty.")
        if b"\x00" in head:
            raise LogRefused("This is no text. A capture is a table of time, channel and level.")
        text = head.decode("utf-8-sig", errors="replace")
        lines = text.splitlines()
        if len(head) == _FIRST_LOOK and len(lines) > 1:
            lines.pop()  # cut in the middle
        self._layout = _layout_of(lines)
        self._rest = self._rest.removeprefix(b"\xef\xbb\xbf")
        for _ in range(self._layout.skip):
            cut = self._rest.find(b"\n")
            self._rest = b"" if cut < 0 else self._rest[cut + 1 :]

    # --- rows -----------------------------------------------------------------------------

    def _take(self, text: bytes) -> None:
        layout = self._layout
        assert layout is not None
        if self._ended or not text.strip():
            return
        if layout.separator == " ":
            text = re.sub(rb"[ \t]+", b" ", text)
            text = re.sub(rb"(?m)^ | $", b"", text)
        try:
            frame = pl.read_csv(
                io.BytesIO(text), has_header=False, separator=layout.separator, quote_char='"',
                infer_schema=False, truncate_ragged_lines=True, ignore_errors=True, encoding="utf8-lossy",
            )  # fmt: skip
        except pl.exceptions.PolarsError as error:
            raise LogRefused(
                "A part of the file is no table of time, channel and level."
            ) from error
        names = frame.columns
        if layout.time >= len(names):
            self._bad += frame.height
            return
        frame = frame.with_columns(pl.all().str.strip_chars())
        frame = frame.filter(~pl.all_horizontal(pl.all().fill_null("") == ""))  # blank lines
        column = frame[names[layout.time]]
        if layout.thousands:
            column = column.str.replace_all(layout.thousands, "", literal=True)
        time = _numbers(column, layout.decimal_comma)
        if not layout.thousands and column.str.contains(_THOUSANDS.pattern).any():
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
        time, used = self._unwrapped(time)
        if self._first_raw is None and time.size:
            self._first_raw = float(time[0])
        frame = frame[: time.size] if used is None else frame.filter(pl.Series(used))
        if layout.wide:
            self._take_wide(frame, time, layout)
        else:
            self._take_long(frame, time, layout)

    def _unwrapped(self, raw: FloatArray) -> tuple[FloatArray, FloatArray | None]:
        """Return times that go on where a counter starts anew, and which rows are used."""
        before = np.concatenate([[self._last_raw], raw[:-1]])
        steps = raw - before
        rising = steps[(steps > 0) & np.isfinite(steps)]
        if rising.size:
            self._step = float(np.median(rising))
        lift = np.zeros(raw.size)
        used = np.ones(raw.size, dtype=bool)
        highest = self._last_raw
        drops = np.flatnonzero(steps < 0)
        if drops.size > max(100, raw.size // 2):
            raise LogRefused(_NO_TIME)
        for i in drops:
            peak = max(highest, float(before[i]))
            wrap = next((w for w in _WRAPS if w > peak), None)
            gap = math.inf if wrap is None else raw[i] + wrap - before[i]
            if wrap is not None and gap <= max(200.0 * self._step, 0.02 * wrap):
                lift[i:] += wrap
                self._wraps += 1
            elif before[i] - raw[i] < 50.0 * max(self._step, 1e-12):
                used[i] = False
                self._backward += 1
                raw = raw.copy()
                raw[i] = before[i]
                if i + 1 < raw.size:
                    steps[i + 1] = raw[i + 1] - raw[i]
            else:  # another recording begins here
                self._ended = True
                raw, lift, used = raw[:i], lift[:i], used[:i]
                break
            highest = -math.inf
        if raw.size:
            self._last_raw = float(raw[-1])
        time = raw + lift + self._lift
        if lift.size:
            self._lift += float(lift[-1])
        if used.all() and not self._ended:
            return time, None
        full = np.zeros(before.size, dtype=bool)
        full[: used.size] = used
        return time[used], full

    def _take_long(self, frame: pl.DataFrame, time: FloatArray, layout: _Layout) -> None:
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

    def _take_wide(self, frame: pl.DataFrame, time: FloatArray, layout: _Layout) -> None:
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
        level[words.is_in(list(_HIGH)).fill_null(False).to_numpy()] = 1.0
        level[words.is_in(list(_LOW)).fill_null(False).to_numpy()] = 0.0
        assert self._layout is not None
        other = np.isnan(level)
        if other.any():
            volts = _numbers(column, self._layout.decimal_comma)
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
                self._scale = _SECONDS[known]
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

    def _edges(self, name: str) -> FloatArray:
        channel = self._channels[name]
        parts = channel.rises if self._choice.edge == "rising" else channel.falls
        other = channel.falls if self._choice.edge == "rising" else channel.rises
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
        edges = self._edges(crank)
        if edges.size < 3:
            return "s", True
        return _likely_unit(float(np.median(np.diff(edges)))), True

    def _times(self, name: str, scale: float) -> FloatArray:
        edges = (self._edges(name) - (self._first_raw or 0.0)) * scale
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
        name = {"us": "µs"}.get(unit, unit)
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
        if self._wraps:
            sentences.append(
                f"The counter of the time started anew {self._wraps} time(s) and was carried on."
            )
        if self._backward:
            sentences.append(f"{self._backward} row(s) out of order were passed over.")
        if self._bad:
            cells = ", ".join(f"'{cell}'" for cell in self._bad_cells)
            sentences.append(
                f"{self._bad} row(s) or cells were no numbers" + (f": {cells}." if cells else ".")
            )
        if self._ended:
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


def _numbers(column: pl.Series, decimal_comma: bool) -> FloatArray:
    if decimal_comma:
        column = column.str.replace(",", ".", literal=True)
    values = column.cast(pl.Float64, strict=False).fill_null(math.nan)
    return np.array(values.to_numpy(), dtype=float)


_NUMBER = re.compile(r"^[+-]?(\d+([.,]\d*)?|[.,]\d+)([eE][+-]?\d+)?$")


_THOUSANDS = re.compile(r"^\d{1,3}([.']\d{3}){2,}$")
_IS_CHANNEL = re.compile(r"chan|^ch\b|input|signal|line|kanal")
_IS_LEVEL = re.compile(r"level|^lv|state|value|edge|polarity|dir|pegel")
_IS_TIME = re.compile(r"time|^t\b|stamp|zeit")


def _layout_of(raw: Sequence[str]) -> _Layout:
    """Return how a capture is laid out, from its first lines, blank ones too."""
    lines = [line for line in raw if line.strip()]
    separator = _separator(lines[min(5, len(lines) // 2) :][:400])
    rows = [_split(line, separator) for line in raw[:600]]
    first = next((i for i, row in enumerate(rows) if _is_data(row)), None)
    if first is None:
        raise LogRefused(
            "No row begins with a time. A capture is a table of time, channel and level."
        )
    above = [row for row in rows[:first] if any(row)]
    head = [cell.lower() for cell in above[-1]] if above else []
    data = [row for row in rows[first : first + 400] if _is_data(row)]
    width = max(len(row) for row in data)
    if head and len(above) > 1 and sum(map(bool, head)) == 1 and _unit_of(head[0]):
        units, head = head, [cell.lower() for cell in above[-2]]  # a row of units
        head = [f"{h} [{u}]" if u else h for h, u in zip(head, units, strict=False)]
    named = [i for i, h in enumerate(head) if _IS_TIME.search(h)]
    time = named[0] if named else _rising(data, width)
    numbers = separator != "," and any(time < len(row) and "," in row[time] for row in data)
    marked = next((m.group(1)[0] for row in data if time < len(row)
                   if (m := _THOUSANDS.match(row[time]))), "")  # fmt: skip
    layout = _Layout(
        separator, numbers, first, time, None, None, {},
        _unit_of(head[time]) if time < len(head) else "", marked,
    )  # fmt: skip
    others = [i for i in range(width) if i != time]
    channels = [i for i in others if i < len(head) and _IS_CHANNEL.search(head[i])]
    levels = [
        i for i in others if i < len(head) and _IS_LEVEL.search(head[i]) and i not in channels
    ]
    named_level = levels[0] if levels else next(
        (i for i in others if i not in channels and _is_level(data, i)), None
    )  # fmt: skip
    if len(channels) == 1:
        layout.channel, layout.level = channels[0], named_level
    elif len(others) == 1:
        layout.level = others[0]
    elif len(others) == 2 and not _is_wide(data, others):
        layout.channel, layout.level = others
        if _is_level(data, others[0]) and not _is_level(data, others[1]):
            layout.channel, layout.level = others[1], others[0]
    elif others:
        titles = above[-1] if above and len(above[-1]) == width else []
        layout.wide = {
            i: head_name(titles[i]) if titles else str(i) for i in others if _is_signal(data, i)
        }
    return layout


def _rising(rows: Sequence[Sequence[str]], width: int) -> int:
    """Return the first column of numbers that go up."""
    for i in range(width):
        cells = [row[i].replace(",", ".") for row in rows[:200] if i < len(row)]
        values = [float(cell) for cell in cells if _NUMBER.match(cell)]
        ups = sum(b > a for a, b in zip(values, values[1:], strict=False))
        if len(values) >= 3 and ups >= 0.8 * (len(values) - 1):
            return i
    return 0


def _is_signal(rows: Sequence[Sequence[str]], place: int) -> bool:
    """Say whether a column is a level, or numbers such as volts."""
    cells = [row[place].replace(",", ".") for row in rows if place < len(row)]
    return _is_level(rows, place) or sum(bool(_NUMBER.match(c)) for c in cells) > 0.9 * len(cells)


def _is_wide(rows: Sequence[Sequence[str]], others: Sequence[int]) -> bool:
    """Say whether two columns are a signal each, and not a channel and its level."""
    if not all(_is_signal(rows, i) for i in others):
        return False
    if all(_is_level(rows, i) for i in others):
        return not _alternates(rows, *others)
    return not any(_is_level(rows, i) for i in others)


def head_name(cell: str) -> str:
    """Return the heading of a column as the name of its channel."""
    return cell.strip().strip('"')[:40] or "?"


def _split(line: str, separator: str) -> list[str]:
    parts = line.split() if separator == " " else line.split(separator)
    return [part.strip().strip('"').strip() for part in parts]


def _separator(lines: Sequence[str]) -> str:
    """Return the mark that parts most lines into the same number of cells, a time first."""
    best, best_score = ",", -1.0
    for mark in ("\t", ";", ",", "|", " "):
        rows = [_split(line, mark) for line in lines]
        good = [row for row in rows if _is_data(row)]
        if not good:
            continue
        widths = [len(row) for row in good]
        usual = max(set(widths), key=widths.count)
        score = len(good) / len(rows) + 0.2 * (usual in (2, 3)) + 0.1 * (usual > 1)
        # "0,5;1;0" parts at commas too; the other mark explains more.
        if score > best_score + (0.25 if mark == "," and best in ("\t", ";") else 0.0):
            best, best_score = mark, score
    return best


def _is_data(row: Sequence[str]) -> bool:
    """Say whether a row holds a number among its first three cells."""
    return any(_NUMBER.match(cell.replace(" ", "")) or _THOUSANDS.match(cell) for cell in row[:3])


def _is_level(rows: Sequence[Sequence[str]], place: int) -> bool:
    cells = {row[place].lower() for row in rows if place < len(row)}
    return bool(cells) and cells <= (_HIGH | _LOW)


def _alternates(rows: Sequence[Sequence[str]], channel: int, level: int) -> bool:
    """Say whether one column alternates within each value of another: an edge list."""
    last: dict[str, str] = {}
    same = total = 0
    for row in rows:
        if max(channel, level) >= len(row):
            continue
        if row[channel] in last:
            total += 1
            same += last[row[channel]] == row[level]
        last[row[channel]] = row[level]
    return total > 0 and same <= 0.1 * total


def _unit_of(head: str) -> str:
    match = re.search(r"(?:[\[(_/ ]|^)(ns|us|µs|μs|ms|s|sec|seconds|micros|millis)[\])]?\s*$", head)
    if match is None:
        return ""
    word = match.group(1)
    return {
        "µs": "us", "μs": "us", "micros": "us", "millis": "ms", "sec": "s", "seconds": "s"
    }.get(word, word)  # fmt: skip

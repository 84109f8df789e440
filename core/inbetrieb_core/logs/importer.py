"""From the bytes of a log file to canonical channels, with everything that was decided on the way."""

from __future__ import annotations

import io
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import BinaryIO

import numpy as np
import polars as pl

from ..delimited import (
    NotATable,
    NotText,
    as_stream,
    clock_seconds,
    is_clock,
    number_of,
    read_blocks,
)
from ..errors import LogRefused
from ..quantities import FloatArray, recognise_unit
from .clock import continuous_clock
from .columns import Column, ColumnUse
from .layout import Layout, read_layout
from .mapping import from_mapping, propose, split_unit
from .mdf import is_mdf, mdf_table
from .names import CHANNELS
from .plausible import contradictions
from .questions import Question, questions_of
from .trace import Trace

#: Larger files are refused before they are read.
LARGEST_BYTES = 120_000_000
_JUDGED_ROWS = 400
_DAY_S = 86_400.0
#: A state that some logs write in words.
_YES_OR_NO = {
    **dict.fromkeys(("yes", "on", "true", "ok", "synced", "ja", "full", "synchronised"), "1"),
    **dict.fromkeys(("no", "off", "false", "lost", "nein", "none", "not synced"), "0"),
}


@dataclass(frozen=True, eq=False)
class ImportedLog:
    """A log as understood.

    Attributes
    ----------
    trace : Trace
        Canonical channels.
    uses : tuple of ColumnUse
        What became of each column, with its reason.
    problems : tuple of str
        What was odd, in sentences.
    """

    trace: Trace
    uses: tuple[ColumnUse, ...]
    problems: tuple[str, ...]

    @property
    def ignored(self) -> tuple[ColumnUse, ...]:
        """Columns that were not read."""
        return tuple(use for use in self.uses if use.channel is None)


@dataclass(frozen=True)
class LogPreview:
    """What an import would do, before anything is saved.

    Attributes
    ----------
    layout : Layout
        How the file is laid out.
    uses : tuple of ColumnUse
        Proposed or chosen use of every column.
    questions : tuple of Question
        What a person has to decide, because two readings are possible.
    problems : tuple of str
        What is odd in the layout, and values that contradict their meaning, in sentences.
    """

    layout: Layout
    uses: tuple[ColumnUse, ...]
    questions: tuple[Question, ...] = ()
    problems: tuple[str, ...] = ()


def preview_log(data: bytes | BinaryIO, mapping: Mapping[str, object] | None = None) -> LogPreview:
    """Return how a file would be read, without reading all of it.

    Parameters
    ----------
    data : bytes or binary stream
        The file; only its beginning is read.
    mapping : mapping, optional
        Decisions of a person, see :func:`~inbetrieb_core.logs.mapping.from_mapping`.

    Raises
    ------
    LogRefused
        If the file is empty, too large, not text or not a table.
    InputRefused
        If the mapping names unknown columns or channels.
    """
    data = as_table(data)
    size = _size_of(data)
    if size > LARGEST_BYTES:
        raise LogRefused(
            f"The file has {size / 1e6:.0f} MB; up to {LARGEST_BYTES / 1e6:.0f} MB can be read. "
            "Cut the log to the part around the start."
        )
    layout = read_layout(data)
    columns = _columns(layout)
    uses = from_mapping(columns, mapping) if mapping else propose(columns)
    begin = {
        use.channel: use.column.sample * use.factor + use.offset
        for use in uses
        if use.channel is not None and not use.inverse and not use.column.clock
    }
    problems = (*layout.problems, *contradictions(begin))
    return LogPreview(layout, uses, questions_of(columns, uses), problems)


def as_table(data: bytes | BinaryIO) -> bytes | BinaryIO:
    """Return a file as text of a table: a measurement file is opened, everything else is as it is.

    Raises
    ------
    LogRefused
        If a measurement file is too large or cannot be read.
    """
    if not is_mdf(data):
        return data
    if _size_of(data) > LARGEST_BYTES:
        raise LogRefused(f"The measurement file is larger than {LARGEST_BYTES / 1e6:.0f} MB. Cut it to the part around the start.")  # fmt: skip
    return mdf_table(data)


def _size_of(data: bytes | BinaryIO) -> int:
    return len(data) if isinstance(data, bytes) else data.seek(0, io.SEEK_END)


def import_log(
    data: bytes | BinaryIO,
    mapping: Mapping[str, object] | None = None,
    told: Callable[[float], None] | None = None,
) -> ImportedLog:
    """Return the log of a file in canonical channels.

    Parameters
    ----------
    data : bytes or binary stream
        The file: CSV text in any usual dialect. It is read in blocks; only the columns that are
        used stay in memory.
    mapping : mapping, optional
        Decisions of a person; without it the proposal is taken.
    told : callable, optional
        Is told after every block which share of the file is read. What it raises ends the reading. [–]

    Returns
    -------
    ImportedLog
        Channels, the use of every column, and what was odd.

    Raises
    ------
    LogRefused
        If the file cannot be read, or has no time or no engine speed.
    InputRefused
        If the mapping names unknown columns or channels.
    """
    data = as_table(data)
    preview = preview_log(data, mapping)
    uses, layout = preview.uses, preview.layout
    read = {use.channel: use for use in uses if use.channel is not None}
    names = [use.column.header for use in uses]
    if "rpm" not in read:
        raise LogRefused(
            "No column was recognised as engine speed. Say which column it is. "
            f"The file has: {_listed(names)}.",
            names,
        )
    if "time_s" not in read:
        raise LogRefused(
            f"No column was recognised as time. Say which column it is. The file has: {_listed(names)}.",
            names,
        )
    problems = list(layout.problems)
    frame = _read_frame(data, layout, read, problems, told)
    channels = {name: _converted(frame, use, problems) for name, use in read.items()}
    trace = _clean(channels, problems)
    problems += contradictions(trace.channels)
    problems += [f"{question.text} It is read as proposed." for question in preview.questions]
    return ImportedLog(trace, uses, tuple(problems))


def read_columns(
    data: bytes | BinaryIO, mapping: Mapping[str, object] | None = None
) -> tuple[dict[str, FloatArray], tuple[ColumnUse, ...], tuple[str, ...]]:
    """Return the canonical channels of a table that need not have a time, the use of every column, and what was odd.

    Parameters
    ----------
    data, mapping
        As :func:`import_log`.

    Raises
    ------
    LogRefused
        If the file cannot be read.
    InputRefused
        If the mapping names unknown columns or channels.
    """
    preview = preview_log(data, mapping)
    read = {use.channel: use for use in preview.uses if use.channel is not None}
    problems = list(preview.layout.problems)
    frame = _read_frame(data, preview.layout, read, problems, None)
    channels = {name: _converted(frame, use, problems) for name, use in read.items()}
    return channels, preview.uses, tuple(problems)


def _listed(names: Sequence[str]) -> str:
    shown = ", ".join(names[:12])
    return shown if len(names) <= 12 else f"{shown} and {len(names) - 12} more"


def _columns(layout: Layout) -> tuple[Column, ...]:
    """Return the columns with some values, for judging names and units."""
    columns = []
    for number, header in enumerate(layout.headers):
        name, unit = split_unit(header)
        row_unit = layout.units[number]
        cells = [row[number] for row in layout.first_rows if number < len(row) and row[number]]
        clock = bool(cells) and sum(map(is_clock, cells)) > 0.8 * len(cells) and ":" in cells[0]
        sample = np.array([value for cell in cells if (value := number_of(cell)) is not None])
        if row_unit:
            name, unit = (name if unit and recognise_unit(unit) else header), row_unit
        columns.append(Column(number, header, name, unit, sample, clock))
    return tuple(columns)


def _read_frame(
    data: bytes | BinaryIO,
    layout: Layout,
    read: Mapping[str, ColumnUse],
    problems: list[str],
    told: Callable[[float], None] | None,
) -> pl.DataFrame:
    """Return the columns that are used, as numbers; clock and state columns as text."""
    wanted = tuple(sorted({use.column.number for use in read.values()}))
    texts = {use.column.number for use in read.values() if use.column.clock}
    texts |= {use.column.number for name, use in read.items() if name == "sync"}
    columns = layout.columns(wanted, frozenset(texts))
    frames: list[pl.DataFrame] = []
    last = b""
    size, stream = max(1, _size_of(data)), as_stream(data)
    try:
        for lines, frame in read_blocks(stream, columns, layout.data_line):
            frames.append(frame)
            last = lines
            if told is not None:
                told(stream.tell() / size)
    except (NotText, NotATable) as error:
        raise LogRefused(f"The table of numbers cannot be read. {error}") from error
    frames = [frame for frame in frames if frame.width]
    if not frames:
        return pl.DataFrame({f"c{i}": [] for i in wanted})
    frame = pl.concat(frames)
    if _ends_in_half_a_line(last, layout) and frame.height > 1:
        frame = frame.head(frame.height - 1)
        problems.append("The last line is cut off; it was left out.")
    return frame


def _ends_in_half_a_line(lines: bytes, layout: Layout) -> bool:
    if lines.endswith((b"\n", b"\r")):
        return False
    last = lines[lines.rfind(b"\n") + 1 :]
    separator = layout.separator.encode()
    expected = len(layout.first_rows[0]) - 1 if layout.first_rows else 0
    return last.count(separator) < expected


def _converted(frame: pl.DataFrame, use: ColumnUse, problems: list[str]) -> FloatArray:
    column = frame[f"c{use.column.number}"]
    if use.column.clock:
        return _clock_seconds(column)
    if use.channel == "sync":
        column = column.str.strip_chars(' "').str.to_lowercase().replace(_YES_OR_NO)
    values = np.asarray(column.cast(pl.Float64, strict=False).to_numpy(), dtype=float).copy()
    infinite = np.isinf(values)
    if infinite.any():
        values[infinite] = np.nan
        problems.append(
            f"{int(infinite.sum())} infinite value(s) in '{use.column.header}' count as missing."
        )
    if use.inverse:
        with np.errstate(divide="ignore", invalid="ignore"):
            return np.where(values > 0.05, 1.0 / values, np.nan)
    return values if use.factor == 1.0 and use.offset == 0.0 else values * use.factor + use.offset


def _clock_seconds(column: pl.Series) -> FloatArray:
    """Return clock times as seconds; a step back by about a day is midnight."""
    values = clock_seconds(column)
    steps = np.diff(values, prepend=values[:1])
    days = np.cumsum(np.nan_to_num(steps) < -0.5 * _DAY_S)
    return np.asarray(values + _DAY_S * days)


def _clean(channels: dict[str, FloatArray], problems: list[str]) -> Trace:
    """Return the trace with unusable samples left out, saying how many and why."""
    time = channels["time_s"]
    readable = np.isfinite(time)
    if not readable.all():
        problems.append(f"{int((~readable).sum())} line(s) without a readable time were left out.")
        channels = {name: values[readable] for name, values in channels.items()}
        time = channels["time_s"]
    if time.size < 2:
        raise LogRefused("The log holds fewer than two samples with a time.")
    time = continuous_clock(time, channels, problems)
    channels["time_s"] = time
    same = np.r_[False, np.diff(time) == 0]
    if same.any():
        problems.append(f"{int(same.sum())} sample(s) with a repeated time were left out.")
        channels = {name: values[~same] for name, values in channels.items()}
        if channels["time_s"].size < 2:
            raise LogRefused("Time stands still in this log.")
    for name, values in channels.items():
        gaps = int((~np.isfinite(values)).sum())
        if gaps == values.size and name == "rpm":
            raise LogRefused("The column of engine speed holds no numbers.")
        if gaps:
            share = 100.0 * gaps / values.size
            problems.append(f"{CHANNELS[name].title}: {gaps} missing value(s) ({share:.1f} %).")
    channels = {**channels, "time_s": channels["time_s"] - channels["time_s"][0]}
    return Trace(channels)

"""How a capture file is laid out: separator, which column is time, channel and level, and the unit."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import polars as pl

from ..delimited import NUMBER, bare, best_mark, clock_seconds, is_clock, rows_of
from ..errors import LogRefused
from ..quantities import FloatArray

HIGH = {"1", "high", "h", "hi", "rising", "rise", "up", "true", "r", "+", "on"}
LOW = {"0", "low", "l", "lo", "falling", "fall", "down", "false", "f", "-", "off"}
_LOOKED_AT = 600


@dataclass
class Layout:
    """How a capture is laid out.

    Attributes
    ----------
    separator : str
    decimal_comma : bool
    skip : int
        Lines above the first row of data. [–]
    time : int
        Column of the time.
    channel, level : int or None
        Columns of an edge list; None where there is none.
    wide : dict of int to str
        Columns that are a signal each, with its name.
    width : int
        Columns of the widest row. [–]
    unit : str
        Of the time; empty where the file does not say.
    thousands : str
        Mark between thousands; empty for none.
    clock : bool
        Whether times are those of a clock.
    """

    separator: str
    decimal_comma: bool
    skip: int
    time: int
    channel: int | None
    level: int | None
    wide: dict[int, str]
    width: int
    unit: str
    thousands: str = ""
    clock: bool = False

    def times_in(self, column: pl.Series) -> FloatArray:
        """Return the times of a column in its unit, NaN where a cell is none."""
        if self.clock:
            return clock_seconds(column)
        if self.thousands:
            column = column.str.replace_all(self.thousands, "", literal=True)
        return numbers_in(column, self.decimal_comma)


def numbers_in(column: pl.Series, decimal_comma: bool) -> FloatArray:
    """Return the cells of a column as numbers, NaN where a cell is none."""
    if decimal_comma:
        column = column.str.replace(",", ".", literal=True)
    values = column.cast(pl.Float64, strict=False).fill_null(math.nan)
    return np.array(values.to_numpy(), dtype=float)


THOUSANDS = re.compile(r"^\d{1,3}([.']\d{3}){2,}$")
_IS_CHANNEL = re.compile(r"chan|^ch\b|input|signal|line|kanal")
_IS_LEVEL = re.compile(r"level|^lv|state|value|edge|polarity|dir|pegel")
_IS_TIME = re.compile(r"time|^t\b|stamp|zeit")


def layout_of(raw: Sequence[str]) -> Layout:
    """Return how a capture is laid out, from its first lines, blank ones too."""
    lines = [line for line in raw if line.strip()]
    separator = best_mark(lines[min(5, len(lines) // 2) :][:400], _mark_score) or ","
    rows = rows_of(raw[:_LOOKED_AT], separator)
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
                   if (m := THOUSANDS.match(row[time]))), "")  # fmt: skip
    clock = any(time < len(row) and is_clock(row[time]) for row in data)
    unit = "s" if clock else _unit_of(head[time]) if time < len(head) else ""
    layout = Layout(
        separator, numbers, first, time, None, None, {}, width, unit, marked, clock
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
        if cells and is_clock(cells[0]):
            return i
        values = [float(cell) for cell in cells if NUMBER.match(cell)]
        ups = sum(b > a for a, b in zip(values, values[1:], strict=False))
        if len(values) >= 3 and ups >= 0.8 * (len(values) - 1):
            return i
    return 0


def _is_signal(rows: Sequence[Sequence[str]], place: int) -> bool:
    """Say whether a column is a level, or numbers such as volts."""
    cells = [row[place].replace(",", ".") for row in rows if place < len(row)]
    return _is_level(rows, place) or sum(bool(NUMBER.match(c)) for c in cells) > 0.9 * len(cells)


def _is_wide(rows: Sequence[Sequence[str]], others: Sequence[int]) -> bool:
    """Say whether two columns are a signal each, and not a channel and its level."""
    if not all(_is_signal(rows, i) for i in others):
        return False
    if all(_is_level(rows, i) for i in others):
        return not _alternates(rows, *others)
    return not any(_is_level(rows, i) for i in others)


def head_name(cell: str) -> str:
    """Return the heading of a column as the name of its channel."""
    return bare(cell)[:40] or "?"


def _mark_score(rows: list[list[str]], mark: str) -> tuple[float, ...] | None:
    """Return how evenly a mark parts lines into cells, a time first."""
    good = [row for row in rows if _is_data(row)]
    if not good:
        return None
    widths = [len(row) for row in good]
    usual = max(set(widths), key=widths.count)
    score = len(good) / len(rows) + 0.2 * (usual in (2, 3)) + 0.1 * (usual > 1)
    # "0,5;1;0" parts at commas too; the other mark explains more.
    return (score - 0.25 if mark == "," and any(";" in c for r in good for c in r) else score,)


def _is_data(row: Sequence[str]) -> bool:
    """Say whether a row holds a number among its first three cells."""
    return any(
        NUMBER.match(cell.replace(" ", "")) or THOUSANDS.match(cell) or is_clock(cell)
        for cell in row[:3]
    )


def _is_level(rows: Sequence[Sequence[str]], place: int) -> bool:
    cells = {row[place].lower() for row in rows if place < len(row)}
    return bool(cells) and cells <= (HIGH | LOW)


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

"""One table as a grid of cells, the way it stands in a spreadsheet, and back again.

The first cell names the table and its unit, ``ve [%]``. The second row names the axes, the one
that runs down in its first cell, and carries the breakpoints of the one that runs across. A curve
has one column named ``value``; a single number stands beside its name.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..delimited import LONGEST_CELL, name_and_unit, number_of
from ..errors import field_refused
from ..provenance import Provenance
from ..quantities import FloatArray, linear_conversion, recognise_unit
from ..trade import PETROL_GAUGE_AFR
from .as_meant import (
    STANDARD_KPA,
    is_fraction,
    is_gauge,
    is_throttle,
    read_breakpoints,
    stands_turned,
)
from .axis import AxisError
from .definitions import AXES, DEFINITIONS
from .table import Table, TableError, axes_named, filled, make_axis

Cell = str | float | int | None
#: The unit of :mod:`..quantities` in which a canonical unit is kept there.
_PINT_UNITS = {
    "°C": "degC", "kPa": "kPa", "rpm": "rpm", "V": "V", "%": "percent", "ms": "ms", "s": "s",
    "–": "lambda", "°": "degree", "g/s": "g/s", "Hz": "hertz", "%/s": "percent",
}  # fmt: skip


def grid_of(table: Table) -> list[list[Cell]]:
    """Return a table as the rows of a spreadsheet, in canonical units."""
    head: Cell = f"{table.key} [{table.definition.unit}]"
    if not table.axes:
        return [[head, float(table.values)]]
    down = table.axes[0]
    corner: Cell = f"{down.name} [{down.unit}]"
    if len(table.axes) == 1:
        rows: list[list[Cell]] = [[head, None], [corner, "value"]]
        return rows + [[p, float(v)] for p, v in zip(down.points, table.values, strict=True)]
    across = table.axes[1]
    rows = [[head, f"{across.name} [{across.unit}]"], [corner, *across.points]]
    return rows + [
        [p, *map(float, line)] for p, line in zip(down.points, table.values, strict=True)
    ]


@dataclass(frozen=True)
class GridRead:
    """A table found in a grid.

    Attributes
    ----------
    table : Table
    sentences : tuple of str
        What was understood beyond the plain form, and what was passed over.
    """

    table: Table
    sentences: tuple[str, ...]


def read_grid_table(rows: Sequence[Sequence[Cell]], key: str = "", reason: str = "") -> GridRead:
    """Return the table of a grid, with its axes.

    Parameters
    ----------
    rows : sequence of sequence of cell
        As in a spreadsheet. Names of the table and the axes may be missing where `key` is given.
    key : str
        Which table it is; empty where its first cell says so.
    reason : str
        For the provenance of its cells.

    Raises
    ------
    InputRefused
        With a sentence that names the row or the column.
    """
    lines = [list(row) for row in rows if any(_text(cell) for cell in row)]
    if not lines:
        raise field_refused("table", "The table is empty.")
    name, unit = _label(lines[0][0])
    named = name in DEFINITIONS
    if named:
        if key and key != name:
            raise field_refused("table", f"It says {name}, not {key}.")
        key = name
    if key not in DEFINITIONS:
        raise field_refused(
            "table",
            "It does not say which table it is: choose it, or write its key into the first cell.",
        )
    axes = DEFINITIONS[key].axes
    read = _Reader(key, reason, unit if named else "")
    if not axes:
        return read.single(lines[0][1:] if named else lines[0])
    body = lines[1:] if named else lines
    if not body:
        raise field_refused("table", f"{DEFINITIONS[key].title}: there are no rows under its name.")
    if len(axes) == 1:
        return read.curve(body)
    across = _label(lines[0][1])[1] if named and len(lines[0]) > 1 else ""
    first = _label(lines[0][1])[0] if named and len(lines[0]) > 1 else ""
    return read.surface(body, first, across)


class _Reader:
    """Reads one table; keeps what it says on the way."""

    def __init__(self, key: str, reason: str, unit: str) -> None:
        self.definition = DEFINITIONS[key]
        self.reason = reason or "Read from a table without a stated origin."
        self.unit = unit
        self.said: list[str] = []

    def single(self, cells: Sequence[Cell]) -> GridRead:
        value = next((number_of(cell) for cell in cells if number_of(cell) is not None), None)
        if value is None:
            raise field_refused("table", f"{self.definition.title}: there is no number.")
        return self._made((), self._values(np.array(value)))

    def curve(self, body: list[list[Cell]]) -> GridRead:
        axis, unit, own = self.definition.axes[0], "", False
        if number_of(body[0][0]) is None:  # a row of heads
            name, unit = _label(body[0][0])
            (axis,), own = self._axes(name), name in AXES
            body = body[1:]
        if len(body) <= 2 and body and len(_trimmed(body[0])) > 2:
            body = _upright(body, self.definition.title)
        pairs = [self._pair(i, row) for i, row in enumerate(body, start=1)]
        marked, thousands = read_breakpoints([row[0] for row in body], own_form=own)
        if thousands and marked is not None:
            pairs = [(point, value) for point, (_, value) in zip(marked, pairs, strict=True)]
            self.said.append("Marks between thousands of the breakpoints were left out.")
        points = self._points(axis, [p for p, _ in pairs], unit)
        return self._made(
            (points,), self._values(np.array([v for _, v in pairs])), axis_names=(axis,)
        )

    def _axes(self, *names: str) -> tuple[str, ...]:
        try:
            return axes_named(self.definition.key, names)
        except TableError as error:
            raise field_refused("table", str(error)) from error

    def _pair(self, line: int, row: list[Cell]) -> tuple[float, float]:
        numbers = [number_of(cell) for cell in row[:2]]
        if len(numbers) < 2 or numbers[0] is None or numbers[1] is None:
            raise field_refused(
                "table",
                f"{self.definition.title}, line {line}: a breakpoint and a value are needed, not "
                f"'{' '.join(_text(c) for c in row)[:40]}'.",
            )
        return numbers[0], numbers[1]

    def surface(self, body: list[list[Cell]], across_name: str, across_unit: str) -> GridRead:
        corner, down_unit = _label(body[0][0])
        down, across = self._axes(corner, across_name)
        turned = corner == across or across_name == down
        width = len(_trimmed(body[0]))
        own = corner in AXES or across_name in AXES
        head = self._breakpoints(body[0][1:width], "the head of the table", own)
        left = self._breakpoints([row[0] for row in body[1:]], "the first column", own)
        values = np.empty((len(body) - 1, len(head)))
        for i, row in enumerate(body[1:]):
            cells = _trimmed(row)
            if len(cells) != width:
                raise field_refused(
                    "table",
                    f"{self.definition.title}, line {i + 2}: {max(0, len(cells) - 1)} values where the "
                    f"head has {width - 1}. Nothing was taken.",
                )
            values[i] = self._numbers(cells, f"line {i + 2}")[1:]
        if not left:
            raise field_refused(
                "table", f"{self.definition.title}: there are no rows under its head."
            )
        if not turned and not across_name and corner not in AXES:
            turned = stands_turned(down, across, left, head)
        if turned:
            values, left, head = values.T, head, left
            down_unit, across_unit = across_unit, down_unit
            self.said.append(
                f"It stood with {AXES[across].title.lower()} down; it was turned round."
            )
        across = self._by_throttle(down, across, head, across_unit, {corner, across_name})
        points = (self._points(down, left, down_unit), self._points(across, head, across_unit))
        return self._made(points, self._values(values), axis_names=(down, across))

    def _by_throttle(
        self, down: str, across: str, head: Sequence[float], unit: str, names: set[str]
    ) -> str:
        """Return the axis across: the throttle's where its numbers are openings, not pressures."""
        if unit or names & set(AXES) or not is_throttle(across, head):
            return across
        try:
            axes_named(self.definition.key, (down, "throttle_pct"))
        except TableError:
            return across
        self.said.append(
            "Its load runs from shut to 100: it was taken for the opening of the throttle in %, and kept so."
        )
        return "throttle_pct"

    def _breakpoints(self, cells: Sequence[Cell], where: str, own_form: bool) -> list[float]:
        points, thousands = read_breakpoints(cells, own_form=own_form)
        if points is None:
            return self._numbers(cells, where)  # says which cell is none
        if thousands:
            self.said.append("Marks between thousands of the breakpoints were left out.")
        return points

    def _numbers(self, cells: Sequence[Cell], where: str) -> list[float]:
        found = []
        for j, cell in enumerate(cells):
            number = number_of(cell)
            if number is None:
                raise field_refused(
                    "table",
                    f"{self.definition.title}, {where}: '{_text(cell)[:20]}' in column {j + 1} is not a "
                    "number. Nothing was taken.",
                )
            found.append(number)
        return found

    def _points(self, axis: str, points: Sequence[float], unit: str) -> tuple[float, ...]:
        factor, offset = self._factor(unit, AXES[axis].unit, AXES[axis].title)
        converted = [p * factor + offset for p in points]
        if is_gauge(axis, converted):
            converted = [p + STANDARD_KPA for p in converted]
            self.said.append(
                f"Pressures below zero are counted from the air outside: {STANDARD_KPA} kPa were added."
            )
        return tuple(round(p, 6) for p in converted)

    def _values(self, values: FloatArray) -> FloatArray:
        factor, offset = self._factor(self.unit, self.definition.unit, self.definition.title)
        if self.definition.unit == "–" and not self.unit and float(np.median(values)) > 5.0:
            factor, offset = 1.0 / PETROL_GAUGE_AFR, 0.0
            self.said.append(
                f"The values look like air–fuel ratios; they were divided by {PETROL_GAUGE_AFR}."
            )
        if not self.unit and is_fraction(self.definition.key, values):
            factor = 100.0
            self.said.append("The filling stood as a share of one; it was multiplied by 100.")
        return np.round(values * factor + offset, 6)

    def _factor(self, given: str, canonical: str, what: str) -> tuple[float, float]:
        if not given or given == canonical:
            return 1.0, 0.0
        known = recognise_unit(given)
        target = _PINT_UNITS.get(canonical)
        if known is None or target is None:
            raise field_refused("table", f"{what}: the unit '{given[:20]}' is not known.")
        if known[1] == "air_fuel_ratio" and target == "lambda":
            self.said.append(f"{what}: air–fuel ratio divided by {PETROL_GAUGE_AFR}.")
            return 1.0 / PETROL_GAUGE_AFR, 0.0
        if known[1] == target:
            return 1.0, 0.0
        factor, offset = linear_conversion(known[1], target)
        self.said.append(f"{what}: converted from {given} to {canonical}.")
        return factor, offset

    def _made(
        self, points: Sequence[Sequence[float]], values: FloatArray, axis_names: Sequence[str] = ()
    ) -> GridRead:
        title = self.definition.title
        try:
            order = [np.argsort(line) for line in points]
            if any((np.diff(o) < 0).all() and len(o) > 1 for o in order):
                # A table that stands upside down is the same table.
                for dimension, line in enumerate(order):
                    if (np.diff(line) < 0).all() and len(line) > 1:
                        values = np.flip(values, dimension)
                points = [
                    sorted(p) if (np.diff(o) < 0).all() else p
                    for p, o in zip(points, order, strict=True)
                ]
                self.said.append("An axis fell; the table was turned so that it rises.")
            axes = tuple(make_axis(n, p) for n, p in zip(axis_names, points, strict=True))
            mark = Provenance("carried_over", self.reason)
            table = Table(self.definition.key, axes, values, filled(values.shape, mark))
        except AxisError as error:
            raise field_refused("table", f"{title}: {error}.") from error
        except TableError as error:
            raise field_refused("table", f"{error}") from error
        return GridRead(table, tuple(self.said))


def _upright(body: list[list[Cell]], title: str) -> list[list[Cell]]:
    """Return a curve that lies on its side as pairs that stand."""
    if len(body) != 2 or len(_trimmed(body[0])) != len(_trimmed(body[1])):
        raise field_refused("table", f"{title}: breakpoints and values differ in number.")
    return [[p, v] for p, v in zip(_trimmed(body[0]), _trimmed(body[1]), strict=True)]


def _trimmed(row: Sequence[Cell]) -> list[Cell]:
    cells = list(row)
    while cells and not _text(cells[-1]):
        cells.pop()
    return cells


def _label(cell: Cell) -> tuple[str, str]:
    """Return name and unit of a head such as ``rpm [1/min]``."""
    if cell is None or isinstance(cell, int | float):
        return "", ""
    found = name_and_unit(cell)
    if found is not None:
        return found
    return ("", "") if any(mark in cell for mark in "[]") else (cell[:LONGEST_CELL].strip(), "")


def _text(cell: Cell) -> str:
    return "" if cell is None else str(cell).strip()

"""Working on a region of a table: set, add, scale, interpolate, smooth, fill, paste."""

from __future__ import annotations

import math
from collections.abc import Collection, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..delimited import first_mark, number_of, rows_of
from ..errors import field_refused
from ..quantities import FloatArray
from ..sentences import number, quantity
from .edits import CellChange, breakpoints
from .table import Index, Table

Operation = Literal[
    "set", "add", "percent", "interpolate_across", "interpolate_down", "interpolate", "smooth",
    "fill_right", "fill_down",
]  # fmt: skip

OPERATIONS: dict[Operation, str] = {
    "set": "set to",
    "add": "add",
    "percent": "change by percent",
    "interpolate_across": "interpolate across",
    "interpolate_down": "interpolate down",
    "interpolate": "interpolate between the corners",
    "smooth": "smooth",
    "fill_right": "fill to the right",
    "fill_down": "fill down",
}
_WITH_AMOUNT = ("set", "add", "percent", "smooth")


@dataclass(frozen=True)
class Region:
    """A rectangle of cells, both ends included; a curve has one column.

    Attributes
    ----------
    first_row, last_row, first_column, last_column : int
        From 0. [–]
    """

    first_row: int
    last_row: int
    first_column: int = 0
    last_column: int = 0

    def check(self, table: Table) -> Region:
        """Return the region itself once it lies in a table.

        Raises
        ------
        InputRefused
            If it does not.
        """
        rows, columns = _shape(table)
        if not (
            0 <= self.first_row <= self.last_row < rows
            and 0 <= self.first_column <= self.last_column < columns
        ):
            raise field_refused("region", "The region lies outside the table.")
        return self

    @property
    def cells(self) -> int:
        """How many there are. [–]"""
        return (self.last_row - self.first_row + 1) * (self.last_column - self.first_column + 1)


@dataclass(frozen=True)
class Operated:
    """What an operation does to a table.

    Attributes
    ----------
    changes : tuple of CellChange
        Only cells whose value changes.
    held : int
        Cells that stopped at a bound. [–]
    locked : int
        Cells of the region that were locked. [–]
    sentence : str
        What will happen, before it happens.
    """

    changes: tuple[CellChange, ...]
    held: int
    locked: int
    sentence: str


def _shape(table: Table) -> tuple[int, int]:
    shape = (*table.values.shape, 1, 1)  # a curve has one column, a single number one cell
    return shape[0], shape[1]


def _grid(table: Table) -> FloatArray:
    """Return the values with two dimensions; a curve stands upright."""
    return np.array(table.values, dtype=float).reshape(_shape(table))


def _points(table: Table) -> tuple[FloatArray, FloatArray]:
    down = np.array(table.axes[0].points) if table.axes else np.array([0.0])
    across = np.array(table.axes[1].points) if len(table.axes) == 2 else np.array([0.0])
    return down, across


def operate(
    table: Table,
    region: Region,
    operation: Operation,
    amount: float = 0.0,
    locked: Collection[Index] = (),
) -> Operated:
    """Return what an operation does to a region of a table.

    Parameters
    ----------
    table : Table
        As it is.
    region : Region
        What to work on.
    operation : str
        Key of :data:`OPERATIONS`.
    amount : float
        Value to set or add [unit of the table], percent to change by, or how far to smooth, 0 to
        1. [–]
    locked : collection of index
        Cells that stay as they are; smoothing leans on them all the same.

    Raises
    ------
    InputRefused
        If the region lies outside the table or the amount is none.

    Notes
    -----
    Interpolation is linear in the breakpoints, as the controller reads the table, not in the
    number of the cell. Smoothing moves a cell by `amount` towards the mean of what its
    neighbours across and down interpolate at its place; a plane stays a plane. Values come out
    on the table's resolution and within its bounds.
    """
    region.check(table)
    if operation not in OPERATIONS:
        raise field_refused("operation", f"There is no operation '{operation[:30]}'.")
    if not math.isfinite(amount) or (operation == "smooth" and not 0.0 < amount <= 1.0):
        raise field_refused("amount", "How far to smooth lies between 0 and 1."
                                         if operation == "smooth" else "Type a number.")  # fmt: skip
    wanted = _wanted(table, region, operation, amount)
    return _operated(table, region, wanted, locked, _said(table, region, operation, amount))


def _wanted(table: Table, region: Region, operation: Operation, amount: float) -> FloatArray:
    values = _grid(table)
    r0, r1, c0, c1 = region.first_row, region.last_row, region.first_column, region.last_column
    part = values[r0 : r1 + 1, c0 : c1 + 1]
    down, across = (points[a : b + 1] for points, (a, b) in zip(_points(table), ((r0, r1), (c0, c1)), strict=True))  # fmt: skip
    if operation == "set":
        return np.full(part.shape, amount)
    if operation == "add":
        return part + amount
    if operation == "percent":
        return part * (1.0 + amount / 100.0)
    if operation == "fill_right":
        return np.repeat(part[:, :1], part.shape[1], axis=1)
    if operation == "fill_down":
        return np.repeat(part[:1, :], part.shape[0], axis=0)
    if operation == "smooth":
        return _smoothed(values, *_points(table), amount)[r0 : r1 + 1, c0 : c1 + 1]
    if operation == "interpolate_across":
        return _between(part, across)
    if operation == "interpolate_down":
        return _between(part.T, down).T
    edges = part.copy()
    edges[[0, -1], :] = _between(part[[0, -1], :], across)
    return _between(edges.T, down).T


def _between(part: FloatArray, points: FloatArray) -> FloatArray:
    """Return rows that run straight from their first to their last value."""
    span = float(points[-1] - points[0])
    if span <= 0.0:
        return part.copy()
    share = (points - points[0]) / span
    return np.asarray(part[:, :1] * (1.0 - share) + part[:, -1:] * share)


def _smoothed(
    values: FloatArray, down: FloatArray, across: FloatArray, how_far: float
) -> FloatArray:
    total = np.zeros_like(values)
    count = np.zeros_like(values)
    for axis, points in ((0, down), (1, across)):
        if points.size < 3:
            continue
        moved = np.moveaxis(values, axis, 0)
        share = ((points[1:-1] - points[:-2]) / (points[2:] - points[:-2]))[:, None]
        inner = moved[:-2] * (1.0 - share) + moved[2:] * share
        np.moveaxis(total, axis, 0)[1:-1] += inner
        np.moveaxis(count, axis, 0)[1:-1] += 1.0
    target = np.where(count > 0.0, total / np.maximum(count, 1.0), values)
    return values + how_far * (target - values)


def _operated(
    table: Table, region: Region, wanted: FloatArray, locked: Collection[Index], sentence: str
) -> Operated:
    definition, dimensions = table.definition, table.values.ndim
    before = _grid(table)[
        region.first_row : region.first_row + wanted.shape[0],
        region.first_column : region.first_column + wanted.shape[1],
    ]
    fixed = np.zeros(wanted.shape, dtype=bool)
    for index in locked:
        row, column = (*index, 0, 0)[:2]
        i, j = row - region.first_row, column - region.first_column
        if 0 <= i < wanted.shape[0] and 0 <= j < wanted.shape[1]:
            fixed[i, j] = True
    given = np.isfinite(wanted) & ~fixed
    within = np.clip(np.where(given, wanted, before), definition.lower, definition.upper)
    held = int((given & (np.abs(within - wanted) > 1e-12)).sum())
    kept = int(fixed.sum())
    steps = np.round(np.round(within / definition.resolution) * definition.resolution, 9)
    moved = given & (np.abs(steps - before) > 1e-9)
    changes = []
    for i, j in np.argwhere(moved).tolist():
        cell: Index = (region.first_row + i, region.first_column + j)[:dimensions]
        at = breakpoints(table, cell)
        changes.append(CellChange(cell, at, float(before[i, j]), float(steps[i, j])))
    if held:
        sentence += f" {held} stop at the bound."
    if kept:
        sentence += f" {kept} locked cell(s) stay."
    return Operated(tuple(changes), held, kept, sentence)


def _said(table: Table, region: Region, operation: Operation, amount: float) -> str:
    count = region.cells
    cells = "the cell" if count == 1 else f"{count} cells"
    unit = table.definition.unit
    if operation == "set":
        return f"Sets {cells} to {quantity(amount, unit)}."
    if operation == "add":
        return f"Adds {quantity(amount, unit, signed=True)} to {cells}."
    if operation == "percent":
        return f"Changes {cells} by {'+' if amount > 0 else ''}{number(amount)} %."
    if operation == "smooth":
        return f"Moves {cells} {100.0 * amount:g} % of the way to what the neighbours say."
    return f"{OPERATIONS[operation].capitalize()}: {cells}."


@dataclass(frozen=True)
class PastedGrid:
    """A block of cells from a spreadsheet; NaN where there was no number.

    Attributes
    ----------
    values : ndarray
        Rows and columns as pasted, shorter rows filled with NaN.
    sentences : tuple of str
        What was read and what was passed over.
    """

    values: FloatArray
    sentences: tuple[str, ...]


_MOST_CELLS = 64 * 64


def cells_of(text: str) -> list[list[str]]:
    """Return the cells of pasted text, parted by tabs, else semicolons, else commas, else blanks."""
    lines = [line.rstrip("\r") for line in text[:400_000].strip("\n").split("\n")]
    lines = [line for line in lines if line.strip()]
    return rows_of(lines, first_mark(lines, "\t;", "," if _parted_by_commas(lines) else " "))


def _parted_by_commas(lines: Sequence[str]) -> bool:
    """Say whether commas part the numbers, and are none themselves: 1,5 2,5 are parted by blanks."""
    body = rows_of(lines[2:] or lines[-1:], ",")
    cells = [cell for row in body for cell in row if cell]
    if any(" " in cell or number_of(cell) is None for cell in cells):
        return False
    widest = max((len(row) for row in body), default=0)
    # 34,6 alone is one number; a heading with a comma, a point or a third column tells otherwise.
    return widest > 2 or (
        widest == 2 and (_names_two(lines[0]) or any("." in cell for cell in cells))
    )


def _names_two(line: str) -> bool:
    return len(parts := line.split(",")) > 1 and any(number_of(part) is None for part in parts)


def read_grid(text: str) -> PastedGrid:
    """Return a block of numbers pasted from a spreadsheet.

    Cells are parted by tabs, else by semicolons, else by blanks; a decimal comma is read.

    Parameters
    ----------
    text : str
        As pasted.

    Raises
    ------
    InputRefused
        If there is no number in it, or more than any table holds.
    """
    rows = cells_of(text)
    width = max((len(row) for row in rows), default=0)
    if not rows or len(rows) * width > _MOST_CELLS or len(text) > 400_000:
        raise field_refused(
            "text", "Nothing was pasted." if not rows else "That is more than a table holds."
        )
    values = np.full((len(rows), width), np.nan)
    passed: list[str] = []
    for i, row in enumerate(rows):
        for j, cell in enumerate(row):
            number = number_of(cell)
            if number is not None:
                values[i, j] = number
            elif cell.strip():
                passed.append(cell.strip()[:20])
    if not np.isfinite(values).any():
        raise field_refused("text", "There is no number in what was pasted.")
    sentences = [f"{len(rows)} rows of up to {width} columns."]
    if any(len(row) != width for row in rows):
        sentences.append("The rows differ in length; what is missing stays as it is.")
    if passed:
        shown = ", ".join(f"'{cell}'" for cell in passed[:4])
        sentences.append(f"{len(passed)} cell(s) are no numbers and stay as they are: {shown}.")
    return PastedGrid(values, tuple(sentences))


def canonical_grid(grid: FloatArray, factor: float, offset: float) -> FloatArray:
    """Return pasted values in canonical units.

    Parameters
    ----------
    grid : ndarray
        As shown: canonical·factor + offset.
    factor : float
        Not 0. [–]
    offset : float
        [unit as shown]

    Raises
    ------
    InputRefused
        If the conversion cannot be.
    """
    if not (math.isfinite(factor) and math.isfinite(offset)) or factor == 0.0:
        raise field_refused("factor", "That conversion cannot be.")
    return (grid - offset) / factor


def paste(
    table: Table, row: int, column: int, grid: FloatArray, locked: Collection[Index] = ()
) -> Operated:
    """Return what pasting a block at a cell does; what lies outside the table is left out.

    Parameters
    ----------
    table : Table
        As it is.
    row, column : int
        Upper left cell of the block. [–]
    grid : ndarray
        Block of values; NaN leaves a cell as it is. [unit of the table]
    locked : collection of index
        Cells that stay as they are.

    Raises
    ------
    InputRefused
        If the cell lies outside the table.
    """
    rows, columns = _shape(table)
    Region(row, row, column, column).check(table)
    part = grid[: rows - row, : columns - column]
    region = Region(row, row + part.shape[0] - 1, column, column + part.shape[1] - 1)
    sentence = f"Pastes {part.shape[0]} × {part.shape[1]} cells."
    outside = grid.size - part.size
    if outside:
        sentence += f" {outside} cell(s) lie outside the table and are left out."
    return _operated(table, region, part, locked, sentence)

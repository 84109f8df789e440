"""Changing a table: single cells, and moving the interpolated value at a place."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..provenance import Provenance
from ..quantities import FloatArray
from .table import Index, Table, TableError


@dataclass(frozen=True)
class CellChange:
    """One cell of a table before and after.

    Attributes
    ----------
    index : tuple of int
        Position in the array.
    at : tuple of float
        Breakpoints of the cell. [unit of each axis]
    before, after : float
        Values. [unit of the table]
    """

    index: Index
    at: tuple[float, ...]
    before: float
    after: float


def breakpoints(table: Table, index: Index) -> tuple[float, ...]:
    """Return the breakpoints of a cell. [unit of each axis]"""
    return tuple(axis.points[i] for axis, i in zip(table.axes, index, strict=True))


def move_by(table: Table, delta: float, *place: float) -> tuple[CellChange, ...]:
    """Return the changes that move the interpolated value at a place by exactly `delta`.

    Parameters
    ----------
    table : Table
        The table to move.
    delta : float
        Wanted change of the interpolated value. [unit of the table]
    place : float
        One value per axis. [unit of each axis]

    Returns
    -------
    tuple of CellChange
        Each neighbouring cell moves by δ·w_i/Σw², the smallest change in the sense of least
        squares. A cell that reaches a bound stays there and the others take over its part;
        where every cell is at its bound the value moves as far as it can.
    """
    definition = table.definition
    weights = dict(table.weights(*place))
    result = {index: float(table.values[index]) for index in weights}
    free = dict(weights)
    remaining = delta
    for _ in range(len(weights) + 1):  # each round fixes at least one cell at its bound
        norm = sum(weight * weight for weight in free.values())
        if norm == 0.0 or abs(remaining) <= 1e-12 * max(1.0, abs(delta)):
            break
        step = remaining
        for index, weight in list(free.items()):
            wanted = result[index] + step * weight / norm
            clipped = min(max(wanted, definition.lower), definition.upper)
            remaining -= weight * (clipped - result[index])
            result[index] = clipped
            if clipped != wanted:
                del free[index]
    return tuple(
        CellChange(index, breakpoints(table, index), float(table.values[index]), after)
        for index, after in sorted(result.items())
        if after != float(table.values[index])
    )


def move_by_factor(table: Table, factor: float, *place: float) -> tuple[CellChange, ...]:
    """Return the changes that multiply the interpolated value at a place by exactly `factor`.

    Parameters
    ----------
    table : Table
        The table to move.
    factor : float
        Above 0. [–]
    place : float
        One value per axis. [unit of each axis]

    Raises
    ------
    TableError
        If the factor is not above 0.
    """
    if not (np.isfinite(factor) and factor > 0.0):
        raise TableError(f"a factor must be a number above 0, not {factor:g}")
    return move_by(table, (factor - 1.0) * table.at(*place), *place)


def rounded(table: Table, changes: Sequence[CellChange]) -> tuple[CellChange, ...]:
    """Return changes with their new values on the table's resolution; empty moves dropped."""
    resolution = table.definition.resolution
    digits = table.definition.decimals
    result = []
    for change in changes:
        after = round(round(change.after / resolution) * resolution, digits)
        after = min(max(after, table.definition.lower), table.definition.upper)
        if after != change.before:
            result.append(CellChange(change.index, change.at, change.before, after))
    return tuple(result)


def values_after(table: Table, changes: Sequence[CellChange]) -> FloatArray:
    """Return the values of a table after changes; the table itself stays. [unit of the table]

    Parameters
    ----------
    table : Table
        Of which the cells are.
    changes : sequence of CellChange
        Of cells that exist.
    """
    values = np.array(table.values)
    for change in changes:
        values[change.index] = change.after
    return values


def apply(table: Table, changes: Sequence[CellChange], provenance: Provenance) -> Table:
    """Return the table with changes applied and their cells marked with `provenance`.

    Raises
    ------
    TableError
        If a cell does not exist or a value is out of bounds.
    """
    values = np.array(table.values)
    marks = table.provenance.copy()
    for change in changes:
        if len(change.index) != values.ndim or any(
            not 0 <= i < size for i, size in zip(change.index, values.shape, strict=False)
        ):
            raise TableError(f"{table.definition.title} has no cell {list(change.index)}")
        values[change.index] = change.after
        marks[change.index] = provenance
    return Table(table.key, table.axes, values, marks)


def difference(before: Table, after: Table) -> tuple[CellChange, ...]:
    """Return every cell in which two tables differ.

    Raises
    ------
    TableError
        If the tables have different keys or axes and so cannot be compared cell by cell.
    """
    if before.key != after.key or before.axes != after.axes:
        raise TableError(
            f"{before.definition.title} cannot be compared cell by cell: the axes differ"
        )
    return tuple(
        CellChange(
            index,
            breakpoints(before, index),
            float(before.values[index]),
            float(after.values[index]),
        )
        for index in map(tuple, np.argwhere(before.values != after.values).tolist())
    )

"""A table with axes, values and the provenance of each cell; it never changes once made."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from ..errors import CoreError
from ..provenance import Provenance, ProvenanceKind
from ..quantities import FloatArray
from ..sentences import quantity
from .axis import Axis, AxisError
from .definitions import AXES, DEFINITIONS, TableDefinition

Index = tuple[int, ...]


#: Origin of cells that are kept as they were found, and the most that a number can be in them. [any unit]
AS_FOUND: ProvenanceKind = "carried_over"
MOST_AS_FOUND = 1e6


class TableError(CoreError):
    """Values that do not make a table."""


@dataclass(frozen=True, eq=False)
class Table:
    """Values over one or two axes, or a single number without any.

    Attributes
    ----------
    key : str
        Key of the table's definition.
    axes : tuple of Axis
        None to two, in the order of the array's dimensions.
    values : ndarray
        Shape (), (len(axis 1),) or (len(axis 1), len(axis 2)). [unit of the definition]
    provenance : ndarray of Provenance
        Same shape.

    Raises
    ------
    TableError
        If shapes differ, or a value is not finite or out of bounds. A cell that was brought in as it
        was found may hold anything finite: what is wrong with it is for the review to say.
    """

    key: str
    axes: tuple[Axis, ...]
    values: FloatArray
    provenance: np.ndarray

    def __post_init__(self) -> None:
        values = np.array(self.values, dtype=float)
        shape = tuple(len(axis.points) for axis in self.axes)
        definition = self.definition
        if not definition.runs_over(tuple(axis.name for axis in self.axes)):
            over = " and ".join(definition.axes) or "no axis"
            raise TableError(f"{definition.title} runs over {over}")
        if values.shape != shape or self.provenance.shape != shape:
            raise TableError(
                f"{definition.title} needs {' × '.join(map(str, shape))} values, "
                f"not {' × '.join(map(str, values.shape)) or 'one'}"
            )
        fits = (values >= definition.lower) & (values <= definition.upper)  # NaN does not fit
        for index in map(tuple, np.argwhere(~fits).tolist()):
            value = float(values[index])
            if not (self.provenance[index].kind == AS_FOUND and abs(value) <= MOST_AS_FOUND):
                check_bounds(definition, value, self.place(index))
        values.setflags(write=False)
        object.__setattr__(self, "values", values)

    @property
    def definition(self) -> TableDefinition:
        """Unit, bounds and wording."""
        return DEFINITIONS[self.key]

    def mark(self, index: Index) -> Provenance:
        """Return where the value of a cell comes from."""
        cell: Provenance = self.provenance[index]
        return cell

    def place(self, index: Index) -> str:
        """Return where a cell lies, in words: ``at 20 °C``; empty for a single number."""
        if not self.axes:
            return ""
        return "at " + ", ".join(
            f"{quantity(axis.points[i], axis.unit)}"
            for axis, i in zip(self.axes, index, strict=True)
        )

    def weights(self, *place: float) -> tuple[tuple[Index, float], ...]:
        """Return the cells a controller blends at a place, and their weights (sum 1).

        Parameters
        ----------
        place : float
            One value per axis. [unit of each axis]
        """
        cells: list[tuple[Index, float]] = [((), 1.0)]
        for axis, value in zip(self.axes, place, strict=True):
            cells = [
                ((*index, i), weight * share)
                for index, weight in cells
                for i, share in axis.weights(value)
            ]
        return tuple(cells)

    def at_load(self, rpm: float, map_kpa: float, throttle_pct: float) -> float:
        """Return the value of a map at a load, whichever of the two its load axis is.

        Parameters
        ----------
        rpm, map_kpa, throttle_pct : float
            Speed [1/min], manifold pressure, absolute [kPa], and throttle opening. [%]
        """
        return self.at(rpm, throttle_pct if self.by_throttle else map_kpa)

    @property
    def by_throttle(self) -> bool:
        """Whether it is a map whose load is throttle angle."""
        return any(axis.name == "throttle_pct" for axis in self.axes)

    def at(self, *place: float) -> float:
        """Return the value by linear (bilinear) interpolation; the ends hold.

        Parameters
        ----------
        place : float
            One value per axis. [unit of each axis]
        """
        return float(sum(weight * self.values[index] for index, weight in self.weights(*place)))


def axes_named(key: str, names: Iterable[str | None]) -> tuple[str, ...]:
    """Return the axes of a table where a file names them.

    Parameters
    ----------
    key : str
        Of the table.
    names : iterable of str or None
        As they stand there; words that name no axis say nothing.

    Raises
    ------
    TableError
        If an axis is named over which the table cannot run: its breakpoints mean something else.
    """
    definition, stated = DEFINITIONS[key], [name for name in names if name]
    axes = definition.axes_of(stated)
    foreign = [name for name in stated if name in AXES and name not in axes]
    if foreign:
        over = " and ".join(AXES[name].title.lower() for name in axes) or "no axis"
        raise TableError(
            f"{definition.title} runs over {over}, not over {AXES[foreign[0]].title.lower()}."
        )
    return axes


def check_bounds(definition: TableDefinition, value: float, place: str) -> None:
    """Refuse a value [unit of the table] that is not finite or out of its bounds."""
    if not np.isfinite(value) or not definition.lower <= value <= definition.upper:
        raise TableError(
            f"{definition.title}{place and f' {place}'} must be between "
            f"{quantity(definition.lower, definition.unit, bare=True)} and "
            f"{quantity(definition.upper, definition.unit)}, not "
            f"{quantity(value, definition.unit, bare=True)}."
        )


def make_axis(name: str, points: Sequence[float]) -> Axis:
    """Return a known axis with its unit, its breakpoints checked against its bounds.

    Raises
    ------
    AxisError
        If points are out of bounds or do not rise.
    """
    definition = AXES[name]
    axis = Axis(name, definition.unit, tuple(float(point) for point in points))
    for point in axis.points:
        if not definition.lower <= point <= definition.upper:
            raise AxisError(
                f"a breakpoint of {definition.title.lower()} must be between "
                f"{quantity(definition.lower, definition.unit, bare=True)} and "
                f"{quantity(definition.upper, definition.unit)}, not "
                f"{quantity(point, definition.unit, bare=True)}"
            )
    return axis


def filled(shape: tuple[int, ...], provenance: Provenance) -> np.ndarray:
    """Return a provenance array that is the same in every cell."""
    cells = np.empty(shape, dtype=object)
    cells[...] = provenance
    return cells

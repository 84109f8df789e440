"""Moving a table to other breakpoints, and saying what was lost."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..provenance import Provenance
from ..quantities import FloatArray
from ..sentences import quantity, significant
from .axis import Axis
from .table import Table
from .weights import weight_matrix


@dataclass(frozen=True)
class Reaxed:
    """A table on other axes.

    Attributes
    ----------
    table : Table
        On the new axes; values on the table's resolution.
    worst : float
        Largest difference between old and new, anywhere. [unit of the table]
    worst_at : tuple of float
        Where. [unit of each axis]
    rms : float
        Root mean square of the differences at all old and new breakpoints. [unit of the table]
    outside : int
        Cells beyond the old axes, which hold the end value. [–]
    sentence : str
        What was lost, for people.
    """

    table: Table
    worst: float
    worst_at: tuple[float, ...]
    rms: float
    outside: int
    sentence: str


def interpolated(table: Table, places: Sequence[FloatArray]) -> FloatArray:
    """Return a table at every crossing of some places, as a controller reads it; the ends hold.

    Parameters
    ----------
    table : Table
        One or two axes.
    places : sequence of ndarray
        One array for each axis. [unit of each axis]
    """
    values = np.asarray(table.values, dtype=float)
    for dimension, (axis, wanted) in enumerate(zip(table.axes, places, strict=True)):
        weights = weight_matrix([axis.points], [np.asarray(wanted, dtype=float)])
        lines = np.moveaxis(values, dimension, 0)
        read = weights @ lines.reshape(lines.shape[0], -1)
        values = np.moveaxis(read.reshape(len(wanted), *lines.shape[1:]), 0, dimension)
    return values


def reaxe(table: Table, axes: Sequence[Axis]) -> Reaxed:
    """Return a table on other axes, with a report of what was lost.

    Parameters
    ----------
    table : Table
        One or two axes.
    axes : sequence of Axis
        The new ones, in the same order.

    Notes
    -----
    Old and new are linear between their breakpoints, so the largest difference stands on a
    crossing of old and new breakpoints: the report is exact, not sampled.
    """
    definition = table.definition
    places = [np.array(axis.points) for axis in axes]
    raw = interpolated(table, places)
    values = np.round(np.round(raw / definition.resolution) * definition.resolution, 6)
    values = np.clip(values, definition.lower, definition.upper)
    marks = np.empty(values.shape, dtype=object)
    outside = 0
    for index in np.ndindex(values.shape):
        spots = [axis.points[i] for axis, i in zip(axes, index, strict=True)]
        outside += _is_beyond(table, spots)
        marks[index] = mark_between(table, spots)
    new = Table(table.key, tuple(axes), values, marks)
    worst, at, rms = _loss(table, new)
    return Reaxed(new, worst, at, rms, outside, _sentence(new, worst, at, rms, outside))


def _is_beyond(table: Table, spots: Sequence[float]) -> bool:
    return any(
        not axis.points[0] <= spot <= axis.points[-1]
        for axis, spot in zip(table.axes, spots, strict=True)
    )


def mark_between(table: Table, spots: Sequence[float]) -> Provenance:
    """Return the origin of a new cell: that of the old cell there, or interpolated from its neighbours.

    Parameters
    ----------
    table : Table
        The old one.
    spots : sequence of float
        One value for each axis. [unit of each axis]
    """
    cells = table.weights(*spots)
    nearest = table.mark(max(cells, key=lambda cell: cell[1])[0])
    if _is_beyond(table, spots):
        return Provenance("assumed", "Beyond the old axes; their end value is held.")
    if len(cells) == 1:
        return nearest
    return Provenance(
        nearest.kind if nearest.kind in ("assumed", "carried_over") else "calculated",
        f"Interpolated between old breakpoints; nearest: {nearest.reason}"[:500],
        nearest.source,
    )


def _loss(old: Table, new: Table) -> tuple[float, tuple[float, ...], float]:
    places = [
        np.union1d(np.array(a.points), np.array(b.points))
        for a, b in zip(old.axes, new.axes, strict=True)
    ]
    # Beyond the new axes the controller holds the end, so that is compared too.
    off = interpolated(new, places) - interpolated(old, places)
    index = np.unravel_index(int(np.argmax(np.abs(off))), off.shape)
    at = tuple(float(p[i]) for p, i in zip(places, index, strict=True))
    return float(np.abs(off[index])), at, float(np.sqrt(np.mean(off**2)))


def _sentence(table: Table, worst: float, at: Sequence[float], rms: float, outside: int) -> str:
    definition = table.definition
    said = f"{definition.title}: "
    if worst <= 0.51 * definition.resolution:
        said += "nothing is lost."
    else:
        where = ", ".join(f"{quantity(p, a.unit)}" for p, a in zip(at, table.axes, strict=True))
        said += (
            f"off by at most {quantity(significant(worst, 3), definition.unit)} (at {where}), {quantity(significant(rms, 2), definition.unit)} in "
            "the mean square."
        )
    if outside:
        said += f" {outside} cells lie beyond the old axes and hold the end value."
    return said

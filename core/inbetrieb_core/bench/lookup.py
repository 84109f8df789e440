"""Tables as the simulated controller reads them: plain lists, for speed inside the loop."""

from __future__ import annotations

from collections.abc import Callable

from ..tables import Table
from ..tables.weights import locate


def points_curve(points: tuple[float, ...], values: tuple[float, ...]) -> Callable[[float], float]:
    """Return a fast reader of values over points; the ends hold."""
    if len(values) == 1:
        return lambda place: values[0]

    def read(place: float) -> float:
        left, share = locate(points, place)
        return values[left] + share * (values[left + 1] - values[left])

    return read


def curve(table: Table) -> Callable[[float], float]:
    """Return a fast reader of a one-axis table, equal to :meth:`Table.at`."""
    return points_curve(table.axes[0].points, tuple(float(value) for value in table.values))


def surface(table: Table) -> Callable[[float, float], float]:
    """Return a fast reader of a two-axis table, equal to :meth:`Table.at`."""
    rows, columns = table.axes[0].points, table.axes[1].points
    # A doubled end lets the reader always take a right neighbour.
    padded = [[*map(float, row), float(row[-1])] for row in table.values]
    padded.append(padded[-1])

    def read(row: float, column: float) -> float:
        i, u = locate(rows, row)
        j, w = locate(columns, column)
        above, below = padded[i], padded[i + 1]
        upper = above[j] + w * (above[j + 1] - above[j])
        lower = below[j] + w * (below[j + 1] - below[j])
        return upper + u * (lower - upper)

    return read

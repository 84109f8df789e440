"""Tables as the simulated controller reads them: plain numbers, for speed inside the loop.

From one combustion event to the next hardly any quantity leaves the cell it is in, so every reader remembers that cell.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence

from ..tables import Table
from ..tables.weights import locate


def _span(points: Sequence[float], place: float) -> tuple[int, float, float, float, float]:
    """Return where a place lies: (breakpoint left of it, from, to, what its share is counted from, and over).

    Beyond an end the span has no end and the share is none: it is counted from there and over infinity.
    """
    left, share = locate(points, place)
    if len(points) == 1:
        return 0, -math.inf, math.inf, points[0], math.inf
    if place < points[0]:
        return 0, -math.inf, points[0], points[0], math.inf
    if share >= 1.0:
        return left + 1, points[-1], math.inf, points[-1], math.inf
    return left, points[left], points[left + 1], points[left], points[left + 1] - points[left]


def points_curve(points: Sequence[float], values: Sequence[float]) -> Callable[[float], float]:
    """Return a fast reader of values over points; the ends hold."""
    low, high, base, width = math.inf, -math.inf, 0.0, 1.0
    value = rise = 0.0

    def read(place: float) -> float:
        nonlocal low, high, base, width, value, rise
        if not low <= place < high:
            left, low, high, base, width = _span(points, place)
            value = values[left]
            rise = 0.0 if width == math.inf else values[left + 1] - value
        return value + (place - base) / width * rise

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
    row_low, row_high, row_base, row_width = math.inf, -math.inf, 0.0, 1.0
    low, high, base, width = math.inf, -math.inf, 0.0, 1.0
    above_left = above_rise = below_left = below_rise = 0.0

    def read(row: float, column: float) -> float:
        nonlocal row_low, row_high, row_base, row_width, low, high, base, width
        nonlocal above_left, above_rise, below_left, below_rise
        if not (row_low <= row < row_high and low <= column < high):
            i, row_low, row_high, row_base, row_width = _span(rows, row)
            j, low, high, base, width = _span(columns, column)
            above, below = padded[i], padded[i + 1]
            above_left, above_rise = above[j], above[j + 1] - above[j]
            below_left, below_rise = below[j], below[j + 1] - below[j]
        share = (column - base) / width
        upper = above_left + share * above_rise
        return upper + (row - row_base) / row_width * (below_left + share * below_rise - upper)

    return read

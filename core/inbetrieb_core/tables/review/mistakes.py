"""Rules for what happens to a map while it is copied or typed: a line twice, a block of one number,
axes the wrong way round, values that no such table can hold."""

from __future__ import annotations

import math
from collections.abc import Iterator

import numpy as np

from ...quantities import FloatArray
from ...sentences import quantity
from ..calibration import Calibration
from ..definitions import SPARK_MAPS, VE_MAPS
from ..table import Table
from .findings import ReviewContext, ReviewFinding, finding
from .maps import IDLE_KPA, IDLE_RPM

#: A map is smooth beside a doubled line where its neighbours change by this at least. [unit of the map]
_LEAST_CHANGE = {"ve": 1.0, "spark": 0.8}
#: A block of one number has so many lines each way at least, and would rise by so much over it. [–, %]
_LEAST_LINES, _LEAST_RISE = 3, 5.0
#: The other way round fits the engine data so much better, and well. [–]
_BETTER_TURNED, _GOOD_TURNED = 0.1, 0.5
#: What it costs where the two courses differ in size, each e-fold of it. [–]
_BY_SPAN = 0.25


def _by_pressure(calibration: Calibration, keys: tuple[str, ...]) -> Iterator[Table]:
    for key in keys:
        if key in calibration and not calibration[key].by_throttle:
            yield calibration[key]


def out_of_bounds(calibration: Calibration, context: ReviewContext) -> Iterator[ReviewFinding]:
    """Yield cells that were brought in with what no such table can hold."""
    for table in calibration.tables.values():
        definition = table.definition
        out = (table.values < definition.lower) | (table.values > definition.upper)
        cells = [tuple(cell) for cell in np.argwhere(out).tolist()]
        if not cells:
            continue
        value = float(table.values[cells[0]])
        bounds = f"{quantity(definition.lower, definition.unit, bare=True)} to {quantity(definition.upper, definition.unit)}"
        yield finding(
            "out_of_bounds", table, cells, "stop",
            f"{quantity(value, definition.unit)}; such a table holds {bounds}. It was kept as it was found.",
            abs(value - min(max(value, definition.lower), definition.upper)),
        )  # fmt: skip


def doubled_lines(calibration: Calibration, context: ReviewContext) -> Iterator[ReviewFinding]:
    """Yield rows and columns that repeat the one before, in a map that changes on both sides."""
    for table in _by_pressure(calibration, (*VE_MAPS, *SPARK_MAPS)):
        least = _LEAST_CHANGE[table.key.removesuffix("_second_cam")]
        for axis in (0, 1):
            values = np.moveaxis(np.asarray(table.values), axis, 0)
            change = np.abs(np.diff(values, axis=0))
            usual = np.median(change, axis=1)
            for i in range(1, len(usual) - 1):
                same = bool(np.allclose(change[i], 0.0, atol=table.definition.resolution / 2))
                if not same or min(usual[i - 1], usual[i + 1]) < least:
                    continue
                line = table.axes[axis]
                cells = [(i + 1, j) if axis == 0 else (j, i + 1) for j in range(values.shape[1])]
                yield finding(
                    "doubled", table, cells, "attention",
                    f"the line at {quantity(line.points[i + 1], line.unit)} repeats that at {quantity(line.points[i], line.unit)}: copied twice?",
                    float(min(usual[i - 1], usual[i + 1])),
                )  # fmt: skip


def plateaus(calibration: Calibration, context: ReviewContext) -> Iterator[ReviewFinding]:
    """Yield blocks of one number in a filling map: filling changes with speed and load everywhere."""
    for table in _by_pressure(calibration, VE_MAPS):
        values = np.asarray(table.values)
        for block in _blocks(values, table.definition.resolution / 2):
            rows, columns = block
            rpm, kpa = (axis.points for axis in table.axes)
            if rpm[rows[1] - 1] <= IDLE_RPM and kpa[columns[1] - 1] <= IDLE_KPA:
                continue
            before, after = max(columns[0] - 1, 0), min(columns[1], values.shape[1] - 1)
            rise = abs(float(np.median(values[slice(*rows), after] - values[slice(*rows), before])))
            if rise < _LEAST_RISE:
                continue
            cells = [(r, c) for r in range(*rows) for c in range(*columns)]
            yield finding(
                "plateau", table, cells, "attention",
                f"{len(cells)} cells hold the same {quantity(float(values[cells[0]]), table.definition.unit)}, where filling rises by "
                f"{quantity(rise, table.definition.unit, 0)} across them.", rise,
            )  # fmt: skip


def _blocks(values: FloatArray, alike: float) -> Iterator[tuple[tuple[int, int], tuple[int, int]]]:
    """Yield the largest blocks of one value, as rows and columns, three lines each way at least."""
    rows, columns = values.shape
    taken = np.zeros(values.shape, dtype=bool)
    for r in range(rows - _LEAST_LINES + 1):
        for c in range(columns - _LEAST_LINES + 1):
            if taken[r, c]:
                continue
            same = np.abs(values[r:, c:] - values[r, c]) <= alike
            wide = int(np.argmin(np.append(same[0], False)))
            high = int(np.argmin(np.append(same[:, :wide].all(axis=1), False))) if wide else 0
            if min(wide, high) >= _LEAST_LINES and min(rows - high, columns - wide) > 0:
                taken[r : r + high, c : c + wide] = True
                yield (r, r + high), (c, c + wide)


def swapped_axes(calibration: Calibration, context: ReviewContext) -> Iterator[ReviewFinding]:
    """Yield maps that look like the engine's with speed and load the wrong way round."""
    if context.expected is None:
        return
    for table in _by_pressure(calibration, (*VE_MAPS, *SPARK_MAPS)):
        if table.key not in context.expected:
            continue
        expected = np.asarray(context.expected[table.key].values)
        values = np.asarray(table.values)
        if expected.shape != values.shape or float(np.ptp(values)) == 0.0:
            continue
        upright, turned = _alike(values, expected), _alike(values, expected.T)
        if table.key in VE_MAPS and not _falls_with_load(values):
            continue
        if turned > max(upright + _BETTER_TURNED, _GOOD_TURNED):
            yield finding(
                "axes_swapped", table, [(0, 0)], "stop",
                "rows and columns look swapped: speed runs where load should. Turn the table before "
                "anything else.", turned - upright,
            )  # fmt: skip


def _falls_with_load(filling: FloatArray) -> bool:
    """Say whether most rows of a filling map are highest somewhere short of full load."""
    return bool((filling[:, -1] < filling.max(axis=1) - 1.0).mean() > 0.5)


def _alike(first: FloatArray, second: FloatArray) -> float:
    """Return how alike two maps are along rows and columns: 1 for the same course and the same share.

    Each is looked at by its mean course along either axis, on as many points as the first has.
    """
    score, spans = 0.0, []
    for axis in (0, 1):
        course = first.mean(axis=1 - axis)
        other = second.mean(axis=1 - axis)
        other = np.interp(np.linspace(0, 1, course.size), np.linspace(0, 1, other.size), other)
        if min(float(np.ptp(course)), float(np.ptp(other))) < 1e-9:
            return 0.0
        score += 0.5 * float(np.corrcoef(course, other)[0, 1])
        spans.append(float(np.ptp(course)) / float(np.ptp(other)))
    return score - _BY_SPAN * abs(math.log(spans[0] / spans[1]))

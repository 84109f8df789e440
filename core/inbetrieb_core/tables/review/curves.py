"""Rules for start tables and battery tables: what a warmer engine or a fuller battery never needs more of."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ...sentences import quantity, significant
from ..calibration import Calibration
from ..table import Table
from .findings import ReviewContext, ReviewFinding, finding

#: Falling with coolant temperature, from physics.
_FALLING = (
    "prime_pulse", "cranking_fuel", "after_start_enrichment", "warm_up_enrichment", "idle_target",
)  # fmt: skip
#: Idle air falls, too, but targets step: a rise of less than this share of the whole is none. [–]
_VALVE_RISE = 0.06
#: A cell of a curve may stand so far off the line through its neighbours: by this share, and so many
#: times what is usual in the curve. [–, –]
_OFF_LINE, _OFF_TIMES = 0.12, 4.0
_WARM_C, _COLD_C = 75.0, 20.0
#: Start fuel that is this far from what the engine data suggest deserves a second look. [–]
_START_SHARE = (0.3, 3.0)
#: Useful range of an idle valve in its tables (common practice, no source). [%]
_VALVE_LEAST_PCT, _VALVE_MOST_PCT = 2.0, 96.0


def rising_curves(calibration: Calibration, context: ReviewContext) -> Iterator[ReviewFinding]:
    """Yield start tables that rise where a warmer engine needs less: a bump, a dip, or a step."""
    for key in (*_FALLING, "idle_valve"):
        table = calibration[key]
        values = np.asarray(table.values)
        for i in _rises(values, table, key):
            culprit, rule = _culprit(values, i)
            size = float(values[i + 1] - values[i])
            unit = table.definition.unit
            word = {
                "rising": f"{quantity(significant(size, 3), unit)} more than a colder engine gets.",
                "bump": f"a bump, {quantity(significant(size, 3), unit)} above the colder neighbour.",
                "dip": f"a dip, {quantity(significant(size, 3), unit)} below the warmer neighbour.",
            }[rule]
            yield finding(rule, table, [(culprit,)], "attention", word, size)


def _rises(values: np.ndarray, table: Table, key: str) -> list[int]:
    """Return from which cells on a curve rises to the next."""
    share = _VALVE_RISE if key == "idle_valve" else 0.02
    limit = max(5.0 * table.definition.resolution, share * float(np.ptp(values)))
    return np.flatnonzero(np.diff(values) > limit).tolist()


def _blamed(values: np.ndarray, table: Table, key: str) -> set[int]:
    return {_culprit(values, i)[0] for i in _rises(values, table, key)}


def curve_outliers(calibration: Calibration, context: ReviewContext) -> Iterator[ReviewFinding]:
    """Yield cells of start tables that stand off the line through their neighbours, rising or not."""
    for key in (*_FALLING, "idle_valve"):
        table = calibration[key]
        values, points = np.asarray(table.values), np.array(table.axes[0].points)
        if values.size < 6:
            continue
        share = (points[1:-1] - points[:-2]) / (points[2:] - points[:-2])
        line = values[:-2] + share * (values[2:] - values[:-2])
        off = values[1:-1] - line
        i = int(np.argmax(np.abs(off)))
        around = [k for k in range(i - 1, i + 2) if 0 <= k < off.size]
        others = np.abs(np.delete(off, around))
        usual = float(np.median(others)) if others.size else 0.0
        limit = max(
            _OFF_LINE * abs(float(line[i])), _OFF_TIMES * usual, 5.0 * table.definition.resolution
        )
        # A lone cell pulls the lines of both its neighbours the other way; a corner does not.
        beside = [float(off[k]) for k in (i - 1, i + 1) if 0 <= k < off.size]
        # At the ends a cell that is held at a bound looks the same: there only a rise tells.
        lone = len(beside) == 2 and all(
            other * off[i] < 0.0 and abs(other) > 0.2 * abs(off[i]) for other in beside
        )
        if abs(off[i]) <= limit or not lone or (i + 1) in _blamed(values, table, key):
            continue
        size, unit = abs(float(off[i])), table.definition.unit
        word, side = ("bump", "above") if off[i] > 0.0 else ("dip", "below")
        yield finding(
            word, table, [(i + 1,)], "attention",
            f"a {word}, {quantity(significant(size, 3), unit)} {side} the line between its neighbours.", size,
        )  # fmt: skip


def _culprit(values: np.ndarray, i: int) -> tuple[int, str]:
    """Return which cell makes a curve rise from i to the next: the one without which it falls."""
    after = i + 1
    before_low = values[i - 1] if i > 0 else np.inf
    beyond = values[after + 1] if after + 1 < values.size else -np.inf
    without_dip = values[after] <= before_low  # the dip at i taken out, it falls
    without_bump = values[i] >= beyond
    if without_dip and without_bump:
        # Both would do: the one that stands farther off the line through its own neighbours.
        off = [
            abs(values[k] - 0.5 * (values[k - 1] + values[k + 1]))
            if 0 < k < values.size - 1
            else 0.0
            for k in (i, after)
        ]
        without_dip = off[0] > off[1] if max(off) > 0.0 else False
        without_bump = not without_dip
    if without_dip:
        return i, "dip"
    return after, "bump" if without_bump else "rising"


def cold_idle(calibration: Calibration, context: ReviewContext) -> Iterator[ReviewFinding]:
    """Yield a cold idle target that is not above the warm one."""
    table = calibration["idle_target"]
    points = np.array(table.axes[0].points)
    cold, warm = table.values[points <= _COLD_C], table.values[points >= _WARM_C]
    if cold.size and warm.size and cold.max() < warm.min() + 50.0:
        yield finding(
            "cold_idle", table, [(0,)], "stop",
            f"cold {cold.max():.0f} against warm {warm.min():.0f} rpm cannot work: cold oil needs more.",
            float(warm.min() + 50.0 - cold.max()),
        )  # fmt: skip


def untouched_start_tables(
    calibration: Calibration, context: ReviewContext
) -> Iterator[ReviewFinding]:
    """Yield start tables that are zero or the same everywhere: nobody has set them."""
    for key in ("cranking_fuel", "after_start_enrichment", "warm_up_enrichment", "cranking_air", "idle_valve"):  # fmt: skip
        table = calibration[key]
        if float(np.ptp(table.values)) > 2.0 * table.definition.resolution:
            continue
        value = float(table.values[0])
        cells = [(i,) for i in range(table.values.size)]
        what = "zero" if value == 0.0 else f"{quantity(value, table.definition.unit)}"
        yield finding(
            "untouched", table, cells, "stop",
            f"{what} at every temperature: this table was never set.", 1.0,
        )  # fmt: skip


def cranking_air(calibration: Calibration, context: ReviewContext) -> Iterator[ReviewFinding]:
    """Yield cranking air that leaves the engine starved: idle valve and addition together."""
    air, valve = calibration["cranking_air"], calibration["idle_valve"]
    points = np.array(air.axes[0].points)
    together = np.array([air.at(c) + valve.at(c) for c in points])
    warm = valve.at(_WARM_C)
    cells = [(i,) for i in np.flatnonzero((points <= _COLD_C) & (together < warm)).tolist()]
    if cells:
        yield finding(
            "cranking_air", air, cells, "attention",
            f"cranking opens the valve to {together[cells[0][0]]:.0f} %, less than a warm idle's "
            f"{warm:.0f} %: it will only start on the pedal.", float(warm - together.min()),
        )  # fmt: skip


def dead_time(calibration: Calibration, context: ReviewContext) -> Iterator[ReviewFinding]:
    """Yield a dead time that rises with voltage."""
    table = calibration["dead_time"]
    cells = [(i + 1,) for i in np.flatnonzero(np.diff(table.values) > 1e-6).tolist()]
    if cells:
        rise = float(np.diff(table.values).max())
        yield finding(
            "dead_time", table, cells, "stop",
            "rises with voltage; with more voltage an injector opens faster.", rise,
        )  # fmt: skip


def flat_battery_tables(
    calibration: Calibration, context: ReviewContext
) -> Iterator[ReviewFinding]:
    """Yield dead time or dwell that is the same at every voltage: nobody has set it."""
    for key, what in (("dead_time", "an injector is slower on a weak battery"),
                      ("dwell", "a coil charges more slowly on a weak battery")):  # fmt: skip
        table = calibration[key]
        if (
            float(np.ptp(table.values)) <= 2.0 * table.definition.resolution
            and table.values.size > 2
        ):
            cells = [(i,) for i in range(table.values.size)]
            yield finding(
                "battery_flat", table, cells, "attention",
                f"the same at every voltage; {what}, so cold starts suffer most.", 1.0,
            )  # fmt: skip


def valve_limits(calibration: Calibration, context: ReviewContext) -> Iterator[ReviewFinding]:
    """Yield idle-valve openings at the end of what a valve can do."""
    table = calibration["idle_valve"]
    if float(np.ptp(table.values)) <= 2.0 * table.definition.resolution:
        return  # said by another rule
    points = np.array(table.axes[0].points)
    for beyond, word, warm in (
        (
            table.values > _VALVE_MOST_PCT,
            "fully open",
            "the throttle stop lets too little air past",
        ),
        (table.values < _VALVE_LEAST_PCT, "shut", "the throttle stop lets too much air past"),
    ):
        cells = [(int(i),) for i in np.flatnonzero(beyond)]
        if cells:
            is_warm = bool((points[[c[0] for c in cells]] >= _WARM_C).any())
            yield finding(
                "valve_limit", table, cells, "attention" if is_warm else "note",
                f"the valve is {word}" + (f": {warm}." if is_warm else ", it has nothing left there."),
                float(len(cells)),
            )  # fmt: skip


def far_from_expected(calibration: Calibration, context: ReviewContext) -> Iterator[ReviewFinding]:
    """Yield start fuel that is far from what this engine's data suggest."""
    if context.expected is None:
        return
    for key in ("prime_pulse", "cranking_fuel"):
        table, expected = calibration[key], context.expected[key]
        if float(np.ptp(table.values)) <= 2.0 * table.definition.resolution:
            continue
        cold = np.array(table.axes[0].points) <= _COLD_C
        ratio = np.where(
            expected.values > 0.5, table.values / np.maximum(expected.values, 0.5), 1.0
        )
        low, high = _START_SHARE
        cells = [(int(i),) for i in np.flatnonzero(cold & ((ratio < low) | (ratio > high)))]
        if cells:
            worst = float(ratio[cells[0][0]])
            yield finding(
                "far_from_expected", table, cells, "note",
                f"{100.0 * worst:.0f} % of what this engine's data suggest; injectors, fuel or school "
                "may differ from what the tables were made for.", abs(float(np.log(max(worst, 1e-3)))),
            )  # fmt: skip

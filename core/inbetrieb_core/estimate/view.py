"""The estimate as people look at it: curves with bands, and what each trial does to them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..quantities import FloatArray
from ..tables import Calibration, Table
from .coordinates import COORDINATES, prior_mean
from .cranking import expected_fuel, primed_pct
from .ladder import CLOSED_FORM, LadderEstimate, estimate, idle_air_below
from .proposed import BAND

#: So many of the latest trials are taken out one by one.
_MOST_PULLS = 12
#: From this share on a cell counts as taught. [–]
_TAUGHT = 0.05


@dataclass(frozen=True)
class CurveView:
    """What is believed of one table at its own breakpoints.

    Attributes
    ----------
    table : str
        Its key.
    at_c : tuple of float
        Breakpoints. [°C]
    now, expected, mean, low, high : tuple of float
        In force, by engine data alone, believed, and the ends of its 90 % band. [unit of the table]
    told : tuple of float
        Share of what was unknown that evidence took away. [–]
    """

    table: str
    at_c: tuple[float, ...]
    now: tuple[float, ...]
    expected: tuple[float, ...]
    mean: tuple[float, ...]
    low: tuple[float, ...]
    high: tuple[float, ...]
    told: tuple[float, ...]

    @property
    def taught(self) -> tuple[bool, ...]:
        """Whether starts have taught anything of each cell; else its band is the engine data's."""
        return tuple(share >= _TAUGHT for share in self.told)


@dataclass(frozen=True)
class Pull:
    """What one trial does to a cell: its mean with the trial minus without. [unit of the table]"""

    trial: int
    pull: float


def curve_views(believed: LadderEstimate, calibration: Calibration) -> tuple[CurveView, ...]:
    """Return what is believed of every start table that can be estimated.

    Parameters
    ----------
    believed : LadderEstimate
        After all starts.
    calibration : Calibration
        In force.
    """
    views = [_closed_view(believed, calibration, key) for key in CLOSED_FORM]
    return (_cranking_view(believed, calibration), *views)


def _closed_view(believed: LadderEstimate, calibration: Calibration, key: str) -> CurveView:
    coordinate, points = COORDINATES[key], np.array(calibration[key].axes[0].points)
    below = idle_air_below(calibration, key, points)
    middle, wide = believed.need_at(key, points)
    scales = (
        prior_mean(believed.spec, key, points),
        middle,
        middle - BAND * wide,
        middle + BAND * wide,
    )
    values = [coordinate.from_scale(scale) - below for scale in scales]
    return _view(calibration[key], values, believed.curves[key].told_at(points))


def _cranking_view(believed: LadderEstimate, calibration: Calibration) -> CurveView:
    table = calibration["cranking_fuel"]
    points = np.array(table.axes[0].points)
    expected = expected_fuel(believed.spec, points)
    wide = COORDINATES[table.key].spread_at(points)
    if believed.cranking is None:
        low, middle, high = expected - BAND * wide, expected, expected + BAND * wide
        told = np.zeros(points.size)
    else:
        draws = believed.cranking.need_at(points)
        low, middle, high = np.quantile(draws, (0.05, 0.5, 0.95), axis=0)
        told = np.clip(1.0 - draws.var(axis=0) / wide**2, 0.0, 1.0)
    primed = primed_pct(believed.spec, calibration, points)
    return _view(table, [np.exp(scale) - primed for scale in (expected, middle, low, high)], told)


def _view(table: Table, values: Sequence[FloatArray], told: FloatArray) -> CurveView:
    """Return expected, believed, low and high values of a table as a view, within its bounds."""
    definition = table.definition

    def kept(row: FloatArray) -> tuple[float, ...]:
        return tuple(round(float(v), 2) for v in np.clip(row, definition.lower, definition.upper))

    expected, mean, low, high = (kept(row) for row in values)
    return CurveView(
        table.key,
        tuple(float(c) for c in table.axes[0].points),
        kept(table.values),
        expected,
        mean,
        low,
        high,
        tuple(round(float(share), 3) for share in told),
    )


def pulls(
    believed: LadderEstimate, calibration: Calibration, table: str, coolant_c: float
) -> tuple[Pull, ...]:
    """Return what each trial does to the believed need of a table at a temperature.

    Parameters
    ----------
    believed : LadderEstimate
        After all starts.
    calibration : Calibration
        In force.
    table : str
        Key of a start table.
    coolant_c : float
        [°C]
    """
    place = np.array([coolant_c])
    found = []
    for trial in believed.trials_of(table)[-_MOST_PULLS:]:
        if table == "cranking_fuel":
            if believed.cranking is None:
                continue
            whole = float(np.median(believed.cranking.need_at(place)))
            without = believed.cranking.need_without(trial, coolant_c)
            found.append(Pull(trial, math.exp(whole) - math.exp(without)))
            continue
        if table == "after_start_enrichment" and believed.run_up is not None:
            back = COORDINATES[table].from_scale
            whole = float(np.median(believed.run_up.need_at(place)))
            without = believed.run_up.need_without(trial, coolant_c)
            found.append(Pull(trial, float(back(whole)) - float(back(without))))
            continue
        rest = [e for e in believed.evidence if e.trial != trial]
        other = estimate(believed.spec, calibration, rest, searched=False)
        back = COORDINATES[table].from_scale
        whole, without = (float(back(b.need_at(table, place)[0])[0]) for b in (believed, other))
        found.append(Pull(trial, whole - without))
    return tuple(found)

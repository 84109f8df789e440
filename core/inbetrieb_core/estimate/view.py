"""The estimate as people look at it: curves with bands, chances of a good start, pulls of trials."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.special import ndtr

from ..charge.idle_air import IDLE_BAND_RPM, idle_gain
from ..quantities import FloatArray
from ..tables import Calibration
from .coordinates import COORDINATES, prior_mean
from .cranking import expected_fuel, primed_pct
from .ladder import CLOSED_FORM, LadderEstimate, estimate, idle_air_below
from .process import KNOTS_C, Curve, posterior
from .proposals import BAND

Coverage = Literal["proven", "likely", "open", "extrapolated"]
#: From which chance on a temperature counts as proven, if starts near by were good, and as likely. [–]
PROVEN, LIKELY = 0.6, 0.5
#: Tried near by, and how far evidence reaches that was not. [K]
_NEAR_K = 8.0
#: What a start bears: fuel right after it, air while cranking (common practice), and what one start
#: differs from the next with the same tables, as seen on simulated engines. [ln]
_RUN_UP_BEARS, _FLARE_BEARS, _RUN_UP_VARIES, _FLARE_VARIES = 0.20, 0.20, 0.11, 0.11
#: The worst stretch of an idle lies so far from its middle; what must be left to the limit. [1/min]
_IDLE_VARIES_RPM, _IDLE_MARGIN_RPM = 28.0, 10.0
#: So many of the latest trials are taken out one by one.
_MOST_PULLS = 12
#: From this share on a cell counts as taught. [–]
_TAUGHT = 0.05
#: Mixture that is still accepted. [ln]
_MIXTURE_BEARS, _MIXTURE_VARIES = 0.045, 0.012


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
class Chance:
    """The chance of a good start at one temperature with the tables in force.

    Attributes
    ----------
    coolant_c : float
        [°C]
    good : float
        That it is good. [–]
    runs, lives, flare, mixture, idle : float
        That each of its points is: it runs in time, does not die, does not flare, is neither lean nor
        rich, and idles. [–]
    coverage : {"proven", "likely", "open", "extrapolated"}
        What may be said of it.
    """

    coolant_c: float
    good: float
    runs: float
    lives: float
    flare: float
    mixture: float
    idle: float
    coverage: Coverage


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


def _rounded(values: FloatArray, lower: float, upper: float) -> tuple[float, ...]:
    return tuple(round(float(v), 2) for v in np.clip(values, lower, upper))


def _curve_of(believed: LadderEstimate, key: str) -> Curve:
    found = believed.curves.get(key)
    if found is not None:
        return found
    mean = prior_mean(believed.spec, key, KNOTS_C)
    return posterior(mean, COORDINATES[key], (), length_k=28.0, widening=1.0)


def _closed_view(believed: LadderEstimate, calibration: Calibration, key: str) -> CurveView:
    table, coordinate, curve = calibration[key], COORDINATES[key], _curve_of(believed, key)
    points = np.array(table.axes[0].points)
    below = idle_air_below(calibration, key, points)
    extra = believed.hot_map_off if key == "warm_up_enrichment" else 0.0
    back = np.vectorize(coordinate.from_scale, otypes=[float])
    mean, wide = curve.at(points) + extra, curve.spread_at(points)
    lower, upper = table.definition.lower, table.definition.upper

    def out(scale: FloatArray) -> tuple[float, ...]:
        return _rounded(back(scale) - below, lower, upper)

    return CurveView(
        key,
        tuple(float(c) for c in points),
        _rounded(table.values, lower, upper),
        out(prior_mean(believed.spec, key, points)),
        out(mean),
        out(mean - BAND * wide),
        out(mean + BAND * wide),
        tuple(round(float(t), 3) for t in curve.told_at(points)),
    )


def _cranking_view(believed: LadderEstimate, calibration: Calibration) -> CurveView:
    table = calibration["cranking_fuel"]
    points = np.array(table.axes[0].points)
    primed = primed_pct(believed.spec, calibration, points)
    expected = expected_fuel(believed.spec, points)
    wide = COORDINATES[table.key].spread_at(points)
    if believed.cranking is None:
        low, mean, high = expected - BAND * wide, expected, expected + BAND * wide
        told = np.zeros(points.size)
    else:
        draws = believed.cranking.need_at(points)
        low, mean, high = np.quantile(draws, (0.05, 0.5, 0.95), axis=0)
        told = np.clip(1.0 - draws.var(axis=0) / wide**2, 0.0, 1.0)
    lower, upper = table.definition.lower, table.definition.upper

    def out(scale: FloatArray) -> tuple[float, ...]:
        return _rounded(np.exp(scale) - primed, lower, upper)

    return CurveView(
        table.key,
        tuple(float(c) for c in points),
        _rounded(table.values, lower, upper),
        out(expected),
        out(mean),
        out(low),
        out(high),
        tuple(round(float(t), 3) for t in told),
    )


def chances(
    believed: LadderEstimate,
    calibration: Calibration,
    limit_s: Callable[[float], float],
    at_c: FloatArray,
    tried: Sequence[tuple[float, bool]] = (),
) -> tuple[Chance, ...]:
    """Return the chance of a good start at temperatures with the tables in force.

    Parameters
    ----------
    believed : LadderEstimate
        After all starts.
    calibration : Calibration
        In force.
    limit_s : callable
        Longest cranking at a coolant temperature [°C]. [s]
    at_c : ndarray
        [°C]
    tried : sequence of (float, bool)
        Coolant temperature of every start and whether it was good, oldest first. [°C]
    """
    runs = _runs(believed, calibration, limit_s, at_c)
    off = {key: _off(believed, calibration, key, at_c) for key in CLOSED_FORM}
    lives = _within(*off["after_start_enrichment"], _RUN_UP_BEARS, _RUN_UP_VARIES)
    flare = _within(*off["cranking_air"], _FLARE_BEARS, _FLARE_VARIES)
    mixture = _within(*off["warm_up_enrichment"], _MIXTURE_BEARS, _MIXTURE_VARIES)
    per_rpm = np.array([_opening_per_rpm(believed, calibration, float(c)) for c in at_c])
    bears = (IDLE_BAND_RPM - _IDLE_MARGIN_RPM) * per_rpm
    idle = _within(*off["idle_valve"], bears, _IDLE_VARIES_RPM * per_rpm)
    result = []
    for i, c in enumerate(at_c):
        good = float(runs[i] * lives[i] * flare[i] * mixture[i] * idle[i])
        near = [was_good for place, was_good in tried if abs(place - c) <= _NEAR_K]
        result.append(
            Chance(
                coolant_c=float(c),
                good=good,
                runs=float(runs[i]),
                lives=float(lives[i]),
                flare=float(flare[i]),
                mixture=float(mixture[i]),
                idle=float(idle[i]),
                coverage=_coverage(good, near),
            )
        )
    return tuple(result)


def _coverage(good: float, near: Sequence[bool]) -> Coverage:
    """Return what may be said: nothing is proven before the last two starts near by were good."""
    if not near:
        return "extrapolated"
    if good >= PROVEN and len(near) > 1 and near[-2] and near[-1]:
        return "proven"
    return "likely" if good >= LIKELY else "open"


def _runs(
    believed: LadderEstimate,
    calibration: Calibration,
    limit_s: Callable[[float], float],
    at_c: FloatArray,
) -> FloatArray:
    cranking = np.array([calibration.at_coolant("cranking_fuel", float(c)) for c in at_c])
    given = np.log(cranking + primed_pct(believed.spec, calibration, at_c))
    if believed.cranking is None:
        wide = COORDINATES["cranking_fuel"].spread_at(at_c)
        return _within(given - expected_fuel(believed.spec, at_c), wide, 0.25)
    limits = np.array([limit_s(float(c)) for c in at_c])
    return np.asarray(believed.cranking.good_at(at_c, given[None, :], limits)[0])


def _off(
    believed: LadderEstimate, calibration: Calibration, key: str, at_c: FloatArray
) -> tuple[FloatArray, FloatArray]:
    """Return how far a table in force stands from its need, and how surely. [–]"""
    curve, coordinate = _curve_of(believed, key), COORDINATES[key]
    values = np.array([calibration.at_coolant(key, float(c)) for c in at_c])
    values = values + idle_air_below(calibration, key, at_c)
    extra = believed.hot_map_off if key == "warm_up_enrichment" else 0.0
    scale = np.array([coordinate.to_scale(float(v)) for v in values])
    return scale - curve.at(at_c) - extra, curve.spread_at(at_c)


def _opening_per_rpm(believed: LadderEstimate, calibration: Calibration, coolant_c: float) -> float:
    """Return by which share the opening is off when idle is off by one turn a minute. [min]"""
    target = calibration.at_coolant("idle_target", coolant_c)
    valve = calibration.at_coolant("idle_valve", coolant_c)
    return 1.0 / max(target, 300.0) / max(idle_gain(believed.spec, valve), 0.1)


def _within(
    off: FloatArray,
    spread: FloatArray,
    bears: FloatArray | float,
    varies: FloatArray | float = 0.0,
) -> FloatArray:
    """Return the probability that a departure, and what it varies by, stay within what is borne. [–]"""
    wide = np.maximum(np.hypot(spread, varies), 1e-3)
    return np.asarray(ndtr((bears - off) / wide) - ndtr((-bears - off) / wide))


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

    def mean_of(all_of_it: LadderEstimate) -> float:
        if table == "cranking_fuel":
            if all_of_it.cranking is None:
                return float(np.exp(expected_fuel(believed.spec, place))[0])
            return float(np.exp(np.median(all_of_it.cranking.need_at(place))))
        value = _curve_of(all_of_it, table).at(place)[0]
        return COORDINATES[table].from_scale(float(value))

    evidence = [e for e in believed.evidence if e.quantity == table]
    searched = table == "cranking_fuel"
    whole = mean_of(estimate(believed.spec, calibration, evidence, searched=searched))
    found = []
    for trial in believed.trials_of(table)[-_MOST_PULLS:]:
        rest = [e for e in evidence if e.trial != trial]
        without = estimate(believed.spec, calibration, rest, searched=searched)
        found.append(Pull(trial, whole - mean_of(without)))
    return tuple(found)


__all__ = [
    "LIKELY",
    "PROVEN",
    "Chance",
    "Coverage",
    "CurveView",
    "Pull",
    "chances",
    "curve_views",
    "pulls",
]

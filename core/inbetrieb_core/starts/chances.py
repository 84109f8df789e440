"""The chance of a good start with the tables in force, by the limits that a good start is held to."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from scipy.special import ndtr

from ..charge.idle_air import idle_gain
from ..estimate import (
    COORDINATES,
    LEAST_FUEL_PCT,
    LadderEstimate,
    at_coolants,
    expected_fuel,
    idle_air_below,
    primed_pct,
)
from ..quantities import FloatArray
from ..sentences import celsius, quantity
from ..tables import Calibration
from .acceptance import IDLE_GOOD_RPM, MIXTURE_GOOD, run_good_within_s
from .limits import limits_of

Coverage = Literal["proven", "likely", "open", "extrapolated"]
#: From which chance on a temperature counts as proven, if starts near by were good, and as likely. [–]
_PROVEN, _LIKELY = 0.87, 0.85
#: The points of a start fail together: what spoils one spoils the others, and their spreads are wide on
#: purpose. The odds of a good start are so many times those of the product: chosen on simulated builds drawn
#: far outside (docs/how-it-computes.md). [–]
_TOGETHER = 3.0
#: Good starts in a row that proof asks for.
PROOF_STARTS = 2
#: A start within so many kelvin was near by. [K]
NEAR_PROOF_K = 8.0
#: What a start bears of fuel right after it, of air while cranking, and of cranking fuel where no start
#: told of it (common practice). [ln]
_RUN_UP_BEARS, _FLARE_BEARS, _CRANKING_BEARS = 0.20, 0.40, 0.25
#: What one start differs from the next with the same tables, as seen on simulated engines: fuel right
#: after it, flare, mixture with what the fading after-start leaves in it, and the worst stretch of an idle.
#: [ln, ln, ln, 1/min]
_RUN_UP_VARIES, _FLARE_VARIES, _MIXTURE_VARIES, _IDLE_VARIES_RPM = 0.11, 0.11, 0.023, 28.0
#: Above this nothing is worth a word of doubt. [–]
_SURE = 0.95


@dataclass(frozen=True)
class Chance:
    """The chance of a good start at one temperature with the tables in force.

    Attributes
    ----------
    coolant_c : float
        [°C]
    runs, lives, flare, mixture, idle : float
        That each of its points is good: it runs in time, does not die, does not flare, is neither lean
        nor rich, and idles. [–]
    coverage : {"proven", "likely", "open", "extrapolated"}
        What may be said of it.
    """

    coolant_c: float
    runs: float
    lives: float
    flare: float
    mixture: float
    idle: float
    coverage: Coverage = "extrapolated"

    @property
    def good(self) -> float:
        """That the start is good: all of its points, which fail together more than apart. [–]"""
        product = self.runs * self.lives * self.flare * self.mixture * self.idle
        return float(_together(product))

    @property
    def sentence(self) -> str:
        """What is to be expected, and what it hangs on."""
        points = {
            "running in time": self.runs,
            "living on after it": self.lives,
            "the flare": self.flare,
            "the mixture once it has settled": self.mixture,
            "idle speed": self.idle,
        }
        text = f"A start at {celsius(self.coolant_c)} is good with {_percent(self.good)}."
        if self.good < _SURE:
            weakest = min(points, key=lambda name: points[name])
            text += f" What is least sure is {weakest}: {_percent(points[weakest])}."
        return text + (" Nothing was tried near it yet." if self.coverage == "extrapolated" else "")


def _together(product: FloatArray | float) -> FloatArray:
    """Return how likely all points are good together, by the product of each alone. [–]"""
    p = np.asarray(product)
    return np.asarray(_TOGETHER * p / (1.0 + (_TOGETHER - 1.0) * p))


def _percent(share: float) -> str:
    return quantity(100.0 * share, "%", 0)


def chances(
    believed: LadderEstimate,
    calibration: Calibration,
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
    at_c : ndarray
        [°C]
    tried : sequence of (float, bool)
        Coolant temperature of every start and whether it was good, oldest first. [°C]
    """
    per_rpm = np.array([_opening_per_rpm(believed, calibration, float(c)) for c in at_c])
    columns = (
        _runs(believed, calibration, at_c),
        _lives(believed, calibration, at_c),
        _near_need(believed, calibration, "cranking_air", at_c, _FLARE_BEARS, _FLARE_VARIES),
        _near_need(
            believed, calibration, "warm_up_enrichment", at_c, MIXTURE_GOOD, _MIXTURE_VARIES
        ),
        _near_need(
            believed,
            calibration,
            "idle_valve",
            at_c,
            IDLE_GOOD_RPM * per_rpm,
            _IDLE_VARIES_RPM * per_rpm,
        ),
    )
    found = []
    for c, *parts in zip(at_c.tolist(), *columns, strict=True):
        runs, lives, flare, mixture, idle = (float(part) for part in parts)
        found.append(_covered(Chance(c, runs, lives, flare, mixture, idle), tried))
    return tuple(found)


def good_of_draws(
    believed: LadderEstimate,
    calibration: Calibration,
    at_c: FloatArray,
    *,
    draws: int = 400,
    seed: int = 1,
) -> FloatArray:
    """Return how likely a good start is by each of many draws of what is believed.

    What is right at one temperature is likely right at the next: the draws keep that together, which
    the chances of single temperatures do not.

    Parameters
    ----------
    believed : LadderEstimate
        After all starts.
    calibration : Calibration
        In force.
    at_c : ndarray, shape (n,)
        [°C]
    draws : int
        How many.
    seed : int
        Of the draws.

    Returns
    -------
    ndarray, shape (draws, n)
        [–]
    """
    rng = np.random.default_rng(seed)
    good = _of_draws(_runs_of_each(believed, calibration, at_c), draws, rng)
    good = good * _of_draws(_lives_of_each(believed, calibration, at_c), draws, rng)
    per_rpm = np.array([_opening_per_rpm(believed, calibration, float(c)) for c in at_c])
    closed: list[tuple[str, FloatArray | float, FloatArray | float]] = [
        ("cranking_air", _FLARE_BEARS, _FLARE_VARIES),
        ("warm_up_enrichment", MIXTURE_GOOD, _MIXTURE_VARIES),
        ("idle_valve", IDLE_GOOD_RPM * per_rpm, _IDLE_VARIES_RPM * per_rpm),
    ]
    if believed.run_up is None:
        closed.append(("after_start_enrichment", _RUN_UP_BEARS, _RUN_UP_VARIES))
    for table, bears, varies in closed:
        need = believed.curves[table].draws_at(at_c, draws, rng)
        off = _given(calibration, table, at_c) - believed.lacking(table) - need
        good = good * _within(off, np.asarray(varies), bears)
    return _raised(good)


def _raised(product: FloatArray) -> FloatArray:
    """Return draws of the product as draws of a good start: by the power that makes the mean so.

    Shape (draws, n), as given. The mean has to be that of :attr:`Chance.good`; the power of each draw
    that does it is sought by halving.
    """
    wanted = _together(product.mean(axis=0))
    low, high = np.zeros(product.shape[1]), np.ones(product.shape[1])
    for _ in range(25):
        power = 0.5 * (low + high)
        above = (product**power).mean(axis=0) > wanted
        low, high = np.where(above, power, low), np.where(above, high, power)
    return np.asarray(product**low)


def _of_draws(of_each: FloatArray, draws: int, rng: np.random.Generator) -> FloatArray:
    """Return so many rows of draws, shape (draws, n); any one row stands for a sure value."""
    if of_each.shape[0] == 1:
        return of_each
    return np.asarray(of_each[rng.integers(of_each.shape[0], size=draws)])


def _covered(chance: Chance, tried: Sequence[tuple[float, bool]]) -> Chance:
    """Return a chance with what may be said of it."""
    near = _near(chance.coolant_c, tried)
    if not near:
        return chance
    coverage: Coverage = "likely" if chance.good >= _LIKELY else "open"
    if chance.good >= _PROVEN and twice_good(chance.coolant_c, tried):
        coverage = "proven"
    return replace(chance, coverage=coverage)


def _near(coolant_c: float, tried: Sequence[tuple[float, bool]]) -> list[bool]:
    return [good for place, good in tried if abs(place - coolant_c) <= NEAR_PROOF_K]


def twice_good(coolant_c: float, tried: Sequence[tuple[float, bool]]) -> bool:
    """Return whether the last two starts near a temperature were good: what proof asks for.

    Parameters
    ----------
    coolant_c : float
        [°C]
    tried : sequence of (float, bool)
        Coolant temperature of every start and whether it was good, oldest first. [°C]
    """
    return _near(coolant_c, tried)[-PROOF_STARTS:] == [True] * PROOF_STARTS


def _runs(believed: LadderEstimate, calibration: Calibration, at_c: FloatArray) -> FloatArray:
    return np.asarray(_runs_of_each(believed, calibration, at_c).mean(axis=0))


def _runs_of_each(
    believed: LadderEstimate, calibration: Calibration, at_c: FloatArray
) -> FloatArray:
    """Return by each draw the probability that it runs in time, shape (draws, n). [–]"""
    given = at_coolants(calibration, "cranking_fuel", at_c)
    given = np.log(np.maximum(given + primed_pct(believed.spec, calibration, at_c), LEAST_FUEL_PCT))
    if believed.cranking is None:
        off = given - expected_fuel(believed.spec, at_c)
        spread = COORDINATES["cranking_fuel"].spread_at(at_c)
        return _within(off, spread, _CRANKING_BEARS)[None, :]
    limits = np.array([run_good_within_s(float(c)) for c in at_c])
    return believed.cranking.good_of_each(at_c, given, limits)


def _lives(believed: LadderEstimate, calibration: Calibration, at_c: FloatArray) -> FloatArray:
    if believed.run_up is None:
        key = "after_start_enrichment"
        return _near_need(believed, calibration, key, at_c, _RUN_UP_BEARS, _RUN_UP_VARIES)
    return np.asarray(_lives_of_each(believed, calibration, at_c).mean(axis=0))


def _lives_of_each(
    believed: LadderEstimate, calibration: Calibration, at_c: FloatArray
) -> FloatArray:
    """Return by each draw the probability that it lives, shape (draws, n); ones where unsampled. [–]"""
    key = "after_start_enrichment"
    if believed.run_up is None:
        return np.ones((1, at_c.size))
    fall = limits_of(calibration).fall
    warm_up = COORDINATES["warm_up_enrichment"].to_scale(
        at_coolants(calibration, "warm_up_enrichment", at_c)
    )
    given = COORDINATES[key].to_scale(at_coolants(calibration, key, at_c))
    given = given + warm_up - believed.need_at("warm_up_enrichment", at_c)[0]
    limits = np.array([fall(float(c)) for c in at_c])
    return believed.run_up.good_of_each(at_c, given, limits)


def _near_need(
    believed: LadderEstimate,
    calibration: Calibration,
    table: str,
    at_c: FloatArray,
    bears: FloatArray | float,
    varies: FloatArray | float,
) -> FloatArray:
    """Return the probability that a table in force stands near enough to its need. [–]"""
    need, spread = believed.need_at(table, at_c)
    off = _given(calibration, table, at_c) - need
    return _within(off, np.hypot(spread, varies), bears)


def _given(calibration: Calibration, table: str, at_c: FloatArray) -> FloatArray:
    """Return a table in force in its estimated coordinate, with what stands below it. [–]"""
    values = at_coolants(calibration, table, at_c) + idle_air_below(calibration, table, at_c)
    return COORDINATES[table].to_scale(values)


def _opening_per_rpm(believed: LadderEstimate, calibration: Calibration, coolant_c: float) -> float:
    """Return by which share the opening is off when idle is off by one turn a minute. [min]"""
    target = calibration.at_coolant("idle_target", coolant_c)
    valve = calibration.at_coolant("idle_valve", coolant_c)
    return 1.0 / max(target, 300.0) / idle_gain(believed.spec, valve)


def _within(off: FloatArray, spread: FloatArray, bears: FloatArray | float) -> FloatArray:
    """Return the probability that a departure stays within what is borne. [–]"""
    wide = np.maximum(spread, 1e-3)
    return np.asarray(ndtr((bears - off) / wide) - ndtr((-bears - off) / wide))

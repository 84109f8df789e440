"""How much fuel cranking needs, from outcomes alone: two-sided, and sampled.

An engine runs promptly inside a window of fuel. Leaner, its walls have to fill first: it runs later, and
at last not at all. Richer, it floods: later at most by a little, then not at all. Where the window
lies over temperature and how wide it is are unknown; elliptical slice sampling keeps every place that
the outcomes leave, so that two windows are never averaged into one that was not seen.
"""

from __future__ import annotations

import functools
import math
from collections.abc import Callable, Mapping, Sequence

import numpy as np
from scipy.special import ndtr

from ..charge import expected_start_value
from ..engine import EngineSpec
from ..quantities import FloatArray
from ..tables import Calibration
from .coordinates import COORDINATES, widened_by
from .draws import PLACES_C, Draws, columns, double, sigmoid, single, spread_out, survives
from .evidence import CrankingOutcome, Evidence
from .process import Curve, knot_weights, prior_covariance
from .slice_sampling import sample

#: Engine cycles until a healthy engine fires: so many cranking injections stand beside one prime.
CYCLES_TO_FIRE = 2.0  # common practice, no source
#: Less cranking fuel than this counts as this: an inherited table may hold none. [%]
LEAST_FUEL_PCT = 1.0
_LENGTH_K = 35.0
#: Prior of the window, as (median, spread of the logarithm): to its lean edge, to its rich edge, from
#: the lean edge to where it never runs, time of a prompt start at 80 °C, growth of the time beyond
#: each edge, and how much longer a colder engine takes.
#: Common practice, no source; wide on purpose. [ln, ln, ln, s, –, –, 1/K]
_WINDOW = (
    (0.25, 0.35),
    (0.28, 0.35),
    (0.45, 0.40),
    (0.70, 0.45),
    (1.7, 0.35),
    (1.0, 0.6),
    (0.006, 0.7),
)
#: Shares of the rich edge from which on it runs later, and at which it floods. [–]
_LATE_FROM, _FLOODS_AT = 0.7, 1.25
#: How soft the edges are, and how well times repeat, logged and counted. With the same tables an engine
#: that gets enough takes the same number of charges every time; one more is a charge that did not burn,
#: and those are missed near an edge. [ln]
_EDGE, _NEVER_EDGE, _TIME, _COUNTED = 0.07, 0.09, 0.08, 0.35
#: How much later it may run where it lacks air. [–]
_LATE_BY_AIR = 1.5
#: Share of outcomes that have another cause than fuel, and of times that do. [–]
_OTHER_CAUSE, _ODD = 0.04, 0.05
#: From here on down cold makes a prompt start later. [°C]
_WARM_START_C = 80.0
#: Share of an attempt's fuel that is still on the walls at the next of the same morning. Common
#: practice, no source. [–]
_LEFT_ON_WALLS = 0.4
#: Cranking shorter than this was given up before anything could be told. [s]
_GIVEN_UP_S = 1.2
#: Growth of the time beyond which an engine is not waited for. [ln]
_LATEST = 4.0
_CHAINS, _BURN_IN, _BURN_IN_FROM_LIKE, _KEPT = 128, 16, 6, 6


class CrankingPosterior(Draws):
    """Draws of the need while cranking.

    The need is the ln of the fuel of the best start, in cranking percent. Parts of a window: lean edge,
    rich edge, where it never runs, prompt time, growth of the time beyond the lean and the rich edge,
    slowing by cold. [ln, ln, ln, s, –, –, 1/K]
    """

    def good_of_each(
        self, coolant_c: FloatArray, given: FloatArray, limit: FloatArray
    ) -> FloatArray:
        """Return by each draw the probability that it runs within a limit, shape (..., draws, n).

        Parameters
        ----------
        coolant_c : ndarray, shape (n,)
            [°C]
        given : ndarray, shape (..., n)
            Fuel given. [ln %]
        limit : ndarray, shape (n,)
            Longest cranking. [s]
        """
        off = single(given[..., None, :]) - single(self.need_at(coolant_c))
        parts = columns(single(self.window))
        coolant_c, limit = single(coolant_c), single(limit)
        in_time = ndtr((np.log(limit) - _ln_expected_time(off, parts, coolant_c)) / _TIME)
        return np.asarray(survives(*_edges(off, parts)) * in_time)

    def burns_at(self, coolant_c: float, given: float) -> float:
        """Return the probability that it runs, however late. [–]

        Parameters
        ----------
        coolant_c : float
            [°C]
        given : float
            Fuel given. [ln %]
        """
        return float(self.burns_of_each(coolant_c, given).mean())

    def burns_of_each(self, coolant_c: float, given: float) -> FloatArray:
        """Return by each draw the probability that it runs, shape (draws,). [–]

        Parameters
        ----------
        coolant_c : float
            [°C]
        given : float
            Fuel given. [ln %]
        """
        off = np.array([given]) - self.need_at(np.array([coolant_c]))
        return np.asarray(survives(*_edges(off, columns(self.window)))[:, 0])


def effective_fuel(spec: EngineSpec, fuel_pct: float, prime_ms: float) -> float:
    """Return prime and cranking fuel as one figure, in percent of the reference pulse.

    Parameters
    ----------
    spec : EngineSpec
        The engine.
    fuel_pct : float
        Cranking fuel. [%]
    prime_ms : float
        Prime pulse. [ms]
    """
    return max(fuel_pct + prime_share(spec) * prime_ms, LEAST_FUEL_PCT)


def fuel_of(spec: EngineSpec, outcome: CrankingOutcome) -> float:
    """Return prime and cranking fuel of a start as one figure, as they would act in ordinary air. [%]

    Parameters
    ----------
    spec : EngineSpec
        The engine.
    outcome : CrankingOutcome
        Of its cranking.
    """
    given = effective_fuel(spec, outcome.fuel_pct, outcome.prime_ms)
    return max(given * math.exp(outcome.thinner), LEAST_FUEL_PCT)


def prime_share(spec: EngineSpec) -> float:
    """Return what one millisecond of prime adds to cranking fuel. [%/ms]

    Parameters
    ----------
    spec : EngineSpec
        The engine.
    """
    per_cycle = spec.reference_pulse_ms * spec.injections_per_cycle
    return 100.0 / (per_cycle * CYCLES_TO_FIRE)


def primed_pct(spec: EngineSpec, calibration: Calibration, coolant_c: FloatArray) -> FloatArray:
    """Return what the prime pulses in force add to cranking fuel. [%]

    Parameters
    ----------
    spec : EngineSpec
        The engine.
    calibration : Calibration
        In force.
    coolant_c : ndarray
        [°C]
    """
    prime = [calibration.at_coolant("prime_pulse", float(c)) for c in coolant_c]
    return prime_share(spec) * np.array(prime)


def expected_fuel(spec: EngineSpec, coolant_c: FloatArray) -> FloatArray:
    """Return the ln of the fuel that engine data expect, prime included. [ln %]

    Parameters
    ----------
    spec : EngineSpec
        The engine.
    coolant_c : ndarray
        [°C]
    """
    given = [
        effective_fuel(
            spec,
            expected_start_value(spec, "cranking_fuel", float(c)),
            expected_start_value(spec, "prime_pulse", float(c)),
        )
        for c in coolant_c
    ]
    return np.asarray(np.log(np.array(given)))


def cranking_posterior(
    spec: EngineSpec,
    evidence: Sequence[Evidence],
    opening: Curve | None = None,
    seed: int = 1,
    ran_up_well: Mapping[tuple[int | None, float], float] | None = None,
    like: CrankingPosterior | None = None,
) -> CrankingPosterior:
    """Return draws of the need from the outcomes of starts.

    Parameters
    ----------
    spec : EngineSpec
        The engine.
    evidence : sequence of Evidence
        Outcomes; anything else is passed over. Their order does not matter.
    opening : Curve, optional
        What is believed of the air while cranking: where it was short, a late run says less of fuel.
    seed : int
        Of the draws.
    ran_up_well : mapping, optional
        By trial and coolant of starts that died on leaving cranking, the probability that the fuel
        after it was right. Those that are not in it are left out. [–]
    like : CrankingPosterior, optional
        Draws of nearly the same outcomes: the chains begin there, and have less far to go.
    """
    well = ran_up_well or {}
    starts = sorted(
        (
            e
            for e in evidence
            if e.outcome is not None
            and tells(e.outcome)
            and (not e.outcome.handover or (e.trial, e.coolant_c) in well)
        ),
        key=lambda e: (_kind(e.outcome), e.trial or 0, e.coolant_c, e.value),
    )
    mean = single(expected_fuel(spec, PLACES_C))
    root = single(widened_by(spec, "cranking_fuel") * _prior_root())

    def unpacked(state: FloatArray) -> tuple[FloatArray, FloatArray]:
        need = mean + state[:, : PLACES_C.size] @ root.T
        return need, spread_out(state[:, PLACES_C.size :], _WINDOW)

    others_right = np.array([well.get((e.trial, e.coolant_c), 1.0) for e in starts])
    likelihood, blamed = _likelihood_of(spec, starts, opening, others_right)
    size = PLACES_C.size + len(_WINDOW)
    draws = sample(
        lambda state: likelihood(*unpacked(state)).sum(axis=1),
        size,
        chains=_CHAINS,
        burn_in=(_BURN_IN if like is None else _BURN_IN_FROM_LIKE) if starts else 1,
        kept=_KEPT,
        seed=seed,
        begin=None if like is None else (like.state, like.told.sum(axis=1)),
    )
    need, window = unpacked(draws)
    told, trials = likelihood(need, window), tuple(start.trial for start in starts)
    by_this = double(blamed(need, window, told))
    return CrankingPosterior(double(need), double(window), double(told), by_this, trials, draws)


def _kind(outcome: CrankingOutcome | None) -> int:
    """Return which of the kinds of outcome it is: a time that was read, one that came soon, no time, no start."""
    assert outcome is not None
    if not outcome.ran:
        return 3
    return 2 if outcome.run_after_s is None else int(outcome.prompt)


def tells(outcome: CrankingOutcome) -> bool:
    """Return whether an outcome says anything of fuel: it fired, or was cranked for long enough."""
    return outcome.ran or outcome.handover or (outcome.cranked_s or 0.0) >= _GIVEN_UP_S


def _likelihood_of(
    spec: EngineSpec,
    starts: Sequence[Evidence],
    opening: Curve | None,
    others_right: FloatArray,
) -> tuple[Callable[..., FloatArray], Callable[..., FloatArray]]:
    """Return the log likelihood of every start of needs and windows, and how much of it is by this fuel.

    Both of shape (states, starts); the second of needs, windows and that log likelihood.
    """
    if not starts:
        return (lambda need, window, *_: np.zeros((need.shape[0], 0)),) * 2
    outcomes = [e.outcome for e in starts if e.outcome is not None]
    coolant_c = single([e.coolant_c for e in starts])
    weights = single(knot_weights(np.array([e.coolant_c for e in starts]), PLACES_C).T)
    given = np.log([fuel_of(spec, o) for o in outcomes])
    left = np.log1p(_LEFT_ON_WALLS * np.array([min(o.attempt, 4) - 1 for o in outcomes]))
    given = single(given + left)
    after = single(np.log([max(o.run_after_s or 1.0, 0.1) for o in outcomes]))
    noise = single([_time_noise(e, opening) for e in starts])
    lean = sigmoid(single([o.lean_log_odds for o in outcomes]))
    others_right = single(others_right)

    # Starts stand in the order of their kinds, so that each kind is asked for as one piece: a likelihood is
    # asked for some ten thousand times.
    ends = np.searchsorted([_kind(o) for o in outcomes], [1, 2, 3])
    read, soon = slice(0, ends[0]), slice(ends[0], ends[1])
    ran, failed = slice(0, ends[2]), slice(ends[2], None)
    sided = np.flatnonzero(lean[ran] != 0.5)  # of the others nobody saw on which side they lay

    def log_likelihood(need: FloatArray, window: FloatArray) -> FloatArray:
        off = given - need @ weights
        parts = columns(window)
        too_rich, too_lean = _edges(off, parts)
        told = np.empty_like(off)
        told[:, ran] = survives(too_rich[:, ran], too_lean[:, ran])
        if sided.size:
            there = off[:, sided]
            side = single(there > _LATE_FROM * parts[1]) - single(there < -parts[0])
            told[:, sided] *= 1.0 + (1.0 - 2.0 * lean[sided]) * side
        if ends[1]:
            timed = slice(0, ends[1])
            late = _late(off[:, timed], parts, coolant_c[timed], after[timed]) / noise[timed]
            by_time = late[:, read]
            told[:, read] *= (1.0 - _ODD) * np.exp(-0.5 * by_time * by_time) / noise[read] + _ODD
            told[:, soon] *= (1.0 - _ODD) * ndtr(late[:, soon]) + _ODD
        told[:, failed] = failed_by_fuel(too_rich, too_lean) + (1.0 - others_right[failed])
        told *= 1.0 - _OTHER_CAUSE
        told += _OTHER_CAUSE
        return np.asarray(np.log(told, out=told))

    def failed_by_fuel(too_rich: FloatArray, too_lean: FloatArray) -> FloatArray:
        odds, right = lean[failed], others_right[failed]
        by_fuel = too_lean[:, failed] * odds + too_rich[:, failed] * (1.0 - odds)
        return np.asarray(2.0 * right * by_fuel)

    def blamed(need: FloatArray, window: FloatArray, told: FloatArray) -> FloatArray:
        share = np.ones_like(told)
        edges = _edges(given - need @ weights, columns(window))
        by_fuel = (1.0 - _OTHER_CAUSE) * failed_by_fuel(*edges)
        share[:, failed] = by_fuel / np.exp(told[:, failed])
        return share

    return log_likelihood, blamed


def _late(
    off: FloatArray, window: Sequence[FloatArray], coolant_c: FloatArray, after: FloatArray
) -> FloatArray:
    """Return by how much later than expected engines ran, `after` being ln of the time. [ln]"""
    return after - _ln_expected_time(off, window, coolant_c)


def _time_noise(start: Evidence, opening: Curve | None) -> float:
    """Return how well the time until it ran tells of fuel: the less, the more air it lacked. [ln]"""
    outcome = start.outcome
    assert outcome is not None
    rough = outcome.counted or outcome.shared or outcome.attempt > 1
    noise = _COUNTED if rough else _TIME
    if opening is None or not outcome.opening_pct:
        return noise
    needed = float(opening.at(np.array([start.coolant_c]))[0])
    short = max(0.0, needed - math.log(max(outcome.opening_pct, 1.0)))
    return math.hypot(noise, _LATE_BY_AIR * short)


def _edges(off: FloatArray, window: Sequence[FloatArray]) -> tuple[FloatArray, FloatArray]:
    """Return the probabilities that it does not run because too rich, and because too lean."""
    lean, rich, never = window[:3]
    too_rich = sigmoid((off - _FLOODS_AT * rich) / _EDGE)
    return too_rich, sigmoid((off + (lean + never)) / -_NEVER_EDGE)


def _ln_expected_time(
    off: FloatArray, window: Sequence[FloatArray], coolant_c: FloatArray
) -> FloatArray:
    """Return the logarithm of the expected cranking until it runs. [ln s]"""
    lean, rich, _, prompt, growth, rich_growth, slowing = window
    later = -growth * np.minimum(off + lean, 0.0)
    later += rich_growth * np.maximum(off - _LATE_FROM * rich, 0.0)
    later += slowing * np.maximum(_WARM_START_C - coolant_c, 0.0)
    np.minimum(later, _LATEST, out=later)
    later += np.log(prompt)
    return np.asarray(later)


@functools.cache
def _prior_root() -> FloatArray:
    """Return the root of the prior covariance of the need at the places. [ln]"""
    covariance = prior_covariance(COORDINATES["cranking_fuel"], _LENGTH_K, knots_c=PLACES_C)
    return np.asarray(np.linalg.cholesky(covariance), dtype=float)

"""How much after-start enrichment an engine needs, from how it lived through the first seconds.

While no sensor reads, only speed tells: with too little fuel it falls below its target or dies, and so
it does with too much. How deep it falls grows with what is missing or too much; on which side it lies
is seldom seen in one start, so both are kept until outcomes part them. What mixture readings already
say of the need is the prior here.

Leaving cranking is a cliff: fuel falls to what running gives, and an engine that has too little then
dies at once or hangs, while one with hardly more runs up without any fall of speed.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from scipy.special import ndtr

from ..quantities import FloatArray
from .coordinates import COORDINATES
from .draws import PLACES_C, Draws, columns, double, sigmoid, single, spread_out
from .evidence import Evidence, RunUpOutcome
from .process import Curve, knot_weights
from .slice_sampling import sample

#: Prior of the window, as (median, spread of the logarithm): to its lean and its rich edge, how far
#: speed falls within it, and how much deeper beyond an edge. Common practice, no source; wide on
#: purpose. The last is how far below the need it dies on leaving cranking.
#: [ln, ln, share of the target, share per ln, ln]
_WINDOW = ((0.12, 0.45), (0.14, 0.45), (0.14, 0.45), (2.6, 0.5), (0.2, 0.6))
#: How softly that holds, and what hanging on it counts. [ln, –]
_CLIFF, _ON_THE_CLIFF = 0.03, 2.0
#: How deep it has to fall to die, and how softly that holds. [share of the target]
_DIES_AT, _DIES_EDGE = 0.52, 0.06
#: What a second of hanging at a low speed counts, up to how many. [share of the target, s]
_HANGS, _HANGS_MOST_S = 0.25, 4.0
#: How well the fall repeats, by a log and by an eye. [share of the target]
_FALL, _FALL_SEEN = 0.06, 0.12
#: By which share of them seconds of hanging differ from start to start, and how well they tell a fall.
#: [–, share of the target]
_HANG_REPEATS, _HANG_UNSURE = 0.35, 0.15
#: From which flare on it falls deeper, and how much less the fall then says of fuel.
#: [share of the target, –]
_HIGH_FLARE, _BY_FLARE = 0.35, 0.3
#: How much of what is not known of warm-up, and of a high flare, softens the fall and the edge. [–]
_BY_WARM_UP, _EDGE_BY_FLARE = 0.5, 0.6
#: Share of outcomes that have another cause than this fuel, which then says neither. [–]
_OTHER_CAUSE, _NEITHER = 0.08, 0.5
#: Seconds of hanging that have another cause may be any number: so much less likely is just this one. [–]
_HANG_BY_CHANCE = 0.15
#: How far the need of the first seconds lies from that read later where a wet manifold fills first. [ln]
_WET_UNSEEN = 0.25
_CHAINS, _BURN_IN, _KEPT = 96, 14, 6
_JITTER = 1e-8


class RunUpPosterior(Draws):
    """Draws of the need right after the start, in the coordinate of after-start enrichment.

    Parts of a window: lean edge, rich edge, fall of speed within it, its growth beyond, and how far below
    the need it dies on leaving cranking. [ln, ln, –, –, ln]
    """

    def good_of_each(
        self, coolant_c: FloatArray, given: FloatArray, limit: FloatArray
    ) -> FloatArray:
        """Return by each draw the probability that speed falls no further, shape (..., draws, n).

        Parameters
        ----------
        coolant_c : ndarray, shape (n,)
            [°C]
        given : ndarray, shape (..., n)
            After-start enrichment, with what warm-up gives too much or too little. [ln]
        limit : ndarray, shape (n,)
            Furthest fall. [share of the target]
        """
        off = single(given[..., None, :]) - single(self.need_at(coolant_c))
        parts = columns(single(self.window))
        fall = _fall(off, parts)
        lives = (1.0 - _dies(fall)) * _leaves(off, parts)
        return np.asarray(ndtr((single(limit) - fall) / _FALL) * lives)

    def lives_at(self, coolant_c: float, given: float) -> float:
        """Return the probability that it lives. [–]

        Parameters
        ----------
        coolant_c : float
            [°C]
        given : float
            After-start enrichment, with what warm-up gives too much or too little. [ln]
        """
        off = np.array([given]) - self.need_at(np.array([coolant_c]))
        parts = columns(self.window)
        return float(((1.0 - _dies(_fall(off, parts))) * _leaves(off, parts)).mean())


def run_up_posterior(
    after_start: Curve,
    warm_up: Curve,
    evidence: Sequence[Evidence],
    map_moved: Sequence[float],
    cranked_well: Sequence[float],
    seed: int = 1,
    *,
    wet: bool = False,
) -> RunUpPosterior:
    """Return draws of the need from the outcomes of the first seconds.

    Parameters
    ----------
    after_start : Curve
        What mixture readings say of it.
    warm_up : Curve
        What is believed of the enrichment under it.
    evidence : sequence of Evidence
        Outcomes of running up. Their order does not matter.
    map_moved : sequence of float
        Of each, what the fuel map gave then above what it gives and lacks today. [ln]
    cranked_well : sequence of float
        Of each that died on leaving cranking, the probability that cranking fuel was right. [–]
    seed : int
        Of the draws.
    wet : bool
        Whether the walls of a manifold stand between injector and valve: they take more in the first
        seconds than any mixture read later tells.
    """
    starts = sorted(
        zip(evidence, map_moved, cranked_well, strict=True),
        key=lambda pair: (pair[0].trial or 0, pair[0].coolant_c, pair[0].value),
    )
    weights = knot_weights(PLACES_C)
    mean = single(weights @ after_start.mean)
    covariance = weights @ after_start.covariance @ weights.T
    if wet:
        covariance = covariance + _WET_UNSEEN**2
    root = single(np.linalg.cholesky(covariance + _JITTER * np.eye(PLACES_C.size)))

    def unpacked(state: FloatArray) -> tuple[FloatArray, FloatArray]:
        need = mean + state[:, : PLACES_C.size] @ root.T
        return need, spread_out(state[:, PLACES_C.size :], _WINDOW)

    ordered, moved, well = ([s[0] for s in starts], [s[1] for s in starts], [s[2] for s in starts])
    likelihood, blamed = _likelihood_of(ordered, moved, well, warm_up)
    draws = sample(
        lambda state: likelihood(*unpacked(state)).sum(axis=1),
        PLACES_C.size + len(_WINDOW),
        chains=_CHAINS,
        burn_in=_BURN_IN if starts else 1,
        kept=_KEPT,
        seed=seed,
    )
    need, window = unpacked(draws)
    told, trials = likelihood(need, window), tuple(e.trial for e in ordered)
    by_this = double(blamed(need, window, told))
    return RunUpPosterior(double(need), double(window), double(told), by_this, trials, draws)


def _likelihood_of(
    starts: Sequence[Evidence],
    map_moved: Sequence[float],
    cranked_well: Sequence[float],
    warm_up: Curve,
) -> tuple[Callable[..., FloatArray], Callable[..., FloatArray]]:
    """Return the log likelihood of every start of needs and windows, and how much of it is by this fuel.

    Both of shape (states, starts); the second of needs, windows and that log likelihood.
    """
    if not starts:
        return (lambda need, window, *_: np.zeros((need.shape[0], 0)),) * 2
    outcomes = [e.run_up for e in starts if e.run_up is not None]
    coolant_c = np.array([e.coolant_c for e in starts])
    weights = single(knot_weights(coolant_c, PLACES_C).T)
    given = np.array([given_of(outcome) for outcome in outcomes]) + np.array(map_moved)
    given = single(given - warm_up.at(coolant_c))
    flare = np.array([o.flare_share for o in outcomes])
    by_flare = single(_BY_FLARE * np.maximum(flare - _HIGH_FLARE, 0.0))
    dies_edge = np.hypot(_DIES_EDGE, _EDGE_BY_FLARE * by_flare)
    # The warm-up under it, and a high flare, add to what is missing: a share of the unknown.
    unsure = single(_BY_WARM_UP * warm_up.spread_at(coolant_c))
    # What happened counts as 1 and else as 0: choosing piece by piece would take most of the time.
    handover, died, hung = single([(o.handover, o.died, o.hung_s is not None) for o in outcomes]).T
    others_right = single(np.where(handover, np.array(cranked_well), 1.0))
    falls = [_seen_fall(o) for o in outcomes]
    seen = single([fall is not None for fall in falls])
    fell = single([fall or 0.0 for fall in falls])
    repeats = single([_repeats(o) for o in outcomes])
    lean = sigmoid(single([o.lean_log_odds for o in outcomes]))
    # How much likelier the rich side of the need is than either; of a fall that is none no side is seen.
    tilt = 1.0 - 2.0 * lean
    tilt_lived = tilt * (fell > _DIES_AT / 2)
    neither = single(np.where(hung, _NEITHER * _HANG_BY_CHANCE, _NEITHER))

    def log_likelihood(need: FloatArray, window: FloatArray) -> FloatArray:
        off, parts = given - need @ weights, columns(window)
        fall, leaves = _fall(off, parts), _leaves(off, parts)
        variance = repeats**2 + by_flare**2 + (parts[3] * unsure) ** 2
        alike = np.exp(-0.5 * (fell - fall) ** 2 / variance) / np.sqrt(variance) * _FALL
        alike = 1.0 + seen * (alike - 1.0)
        stalls, rich = sigmoid((fall - _DIES_AT) / dies_edge), np.sign(off)
        lives = (1.0 - stalls) * alike * leaves
        # One that hung and lived stood on the cliff.
        lives += hung * 0.5 * (_ON_THE_CLIFF * leaves * (1.0 - leaves) - lives)
        lives *= 1.0 + tilt_lived * rich
        dies = 1.0 - (1.0 - dies_by_fuel(stalls * alike, leaves)) * others_right
        told = lives + died * (dies * (1.0 + tilt * rich) - lives)
        return np.asarray(np.log((1.0 - _OTHER_CAUSE) * told + _OTHER_CAUSE * neither))

    def dies_by_fuel(stalls: FloatArray, leaves: FloatArray) -> FloatArray:
        return np.asarray(1.0 - (1.0 - stalls) * (1.0 + handover * (leaves - 1.0)))

    def blamed(need: FloatArray, window: FloatArray, told: FloatArray) -> FloatArray:
        off, parts = given - need @ weights, columns(window)
        stalls = sigmoid((_fall(off, parts) - _DIES_AT) / dies_edge)
        by_fuel = dies_by_fuel(stalls, _leaves(off, parts)) * (1.0 + tilt * np.sign(off))
        share = (1.0 - _OTHER_CAUSE) * by_fuel / np.exp(told)
        return np.asarray(np.where(died, np.minimum(share, 1.0), 1.0))

    return log_likelihood, blamed


def given_of(outcome: RunUpOutcome) -> float:
    """Return the fuel given in the first seconds above that of the fuel map. [ln]"""
    after = float(COORDINATES["after_start_enrichment"].to_scale(outcome.after_start_pct))
    return after + float(COORDINATES["warm_up_enrichment"].to_scale(outcome.warm_up_pct))


def _repeats(outcome: RunUpOutcome) -> float:
    """Return how well what was seen repeats: seconds of hanging differ by a share. [share of the target]"""
    seen = _FALL_SEEN if outcome.counted else _FALL
    if outcome.hung_s is None:
        return seen
    hung = _HANGS * min(outcome.hung_s, _HANGS_MOST_S)
    return float(np.hypot(seen, _HANG_UNSURE + _HANG_REPEATS * hung))


def _seen_fall(outcome: RunUpOutcome) -> float | None:
    """Return how far speed fell; the longer it hung at a low one, the worse. [share of the target]"""
    if outcome.hung_s is not None:
        return _DIES_AT + _HANGS * min(outcome.hung_s, _HANGS_MOST_S)
    return outcome.dip_share


def _fall(off: FloatArray, window: Sequence[FloatArray]) -> FloatArray:
    """Return how far speed falls below its target. [share of it]"""
    lean, rich, within, growth = window[:4]
    beyond = np.maximum(off - rich, 0.0)
    beyond -= np.minimum(off + lean, 0.0)
    beyond *= growth
    beyond += within
    return np.asarray(beyond)


def _leaves(off: FloatArray, window: Sequence[FloatArray]) -> FloatArray:
    """Return the probability that it does not die on leaving cranking. [–]"""
    return sigmoid((off + window[4]) / _CLIFF)


def _dies(fall: FloatArray) -> FloatArray:
    return sigmoid((fall - _DIES_AT) / _DIES_EDGE)

"""What the mixture says about tables and causes: one small Gaussian model, compared by evidence.

The need for fuel of a running engine is taken as that of the physics with an honest width, plus what
the fuel map may be off. A cause adds its own signature to it: a constant share for flow, pressure
and a biased sensor, a part that grows as pulses shorten for dead time, one that grows as manifold
pressure falls for the sensor's offset. How much better the log is explained with a signature than
without it is the evidence for the cause (ratio of marginal likelihoods; MacKay, Information Theory,
Inference, and Learning Algorithms, chapter 28, from memory).
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.linalg import block_diag, cho_factor, cho_solve

from ..charge import expected_start_value
from ..charge.cold_fuel import WARM_C
from ..engine import EngineSpec
from ..quantities import FloatArray
from .observed import Stretch

#: Spread of the true need about the physics: warm, and of the enrichment itself as a share of it;
#: how alike neighbouring temperatures are. (Assumed; checked on engines of other form.)
_WARM_SPREAD, _ENRICHMENT_SPREAD, _ALIKE_K = 0.025, 0.55, 30.0
#: The fuel map is off alike within this step of load and speed. [ln]
_MAP_ALIKE = 0.3
#: What the reading moves from stretch to stretch, and what walls and sensor let it wander.
_READING_SPREAD, _WANDER_SPREAD, _WANDER_S = 0.02, 0.03, 25.0
#: Fewer readings than this are an accident. [–]
_LEAST_READINGS = 3
#: Until then fuel of cranking still comes off the walls, and lambda tells of it. [s]
_DRY_FROM_S = 8.0
#: What the after-start enrichment may be off, as a share of all fuel.
_AFTER_START_SPREAD = 0.12
#: A warm mixture this far off is supply or injector data, not a table (common practice). [ln, –]
_FAR_OFF, _FAR_OFF_ODDS = math.log(1.2), 2.0
#: A cold engine never needs less fuel than a warm one: what speaks against tables if it seems to.
_MOST_BELOW_NONE = 6.0

Signature = Callable[[Stretch], float | None]


@dataclass(frozen=True)
class _Shape:
    """Signature of a cause in ln(need), and how large it may be. [unit of the size]"""

    of: Signature
    spread: float


def _constant(_: Stretch) -> float | None:
    return 1.0


def _by_pulse(stretch: Stretch) -> float | None:
    return None if stretch.pulse_ms is None else 1.0 / max(stretch.pulse_ms, 0.3)


def _by_pressure(stretch: Stretch) -> float | None:
    return None if stretch.map_kpa is None else 1.0 / max(stretch.map_kpa, 10.0)


SHAPES: dict[str, _Shape] = {
    "injector-flow": _Shape(_constant, 0.25),
    "low-pressure": _Shape(_constant, 0.15),
    "wideband-biased": _Shape(_constant, 0.10),
    "dead-time": _Shape(_by_pulse, 0.40),
    "map-sensor": _Shape(_by_pressure, 6.0),
}


@dataclass(frozen=True)
class MixtureFit:
    """What the mixture of one or more logs says.

    Attributes
    ----------
    log_odds : dict of str to float
        ln(evidence with the cause ÷ evidence without any), by cause. [–]
    sizes : dict of str to (float, float)
        Size and its standard error if it is that cause: ln share, ms or kPa.
    stretches : int
        How many readings stand behind it. [–]
    residual : float
        Mean of ln(need ÷ physics) over them. [–]
    """

    log_odds: dict[str, float]
    sizes: dict[str, tuple[float, float]]
    stretches: int
    residual: float


def fit_mixture(
    logs: Sequence[Sequence[Stretch]], spec: EngineSpec, map_spread: float
) -> MixtureFit | None:
    """Return what the mixture of some logs says about the causes; None without any reading.

    Parameters
    ----------
    logs : sequence of sequence of Stretch
        Of the logs that are read together, each one's after-start on its own.
    spec : EngineSpec
        The engine.
    map_spread : float
        What the fuel map may be off where the engine idles. [ln]
    """
    read = [[s for s in log if s.total is not None and s.after_s >= _DRY_FROM_S] for log in logs]
    read = [log for log in read if log]
    flat = [stretch for log in read for stretch in log]
    if len(flat) < _LEAST_READINGS:
        return None
    coolant = np.array([s.coolant_c for s in flat])
    expected = np.array([warm_up_need(spec, s.coolant_c) for s in flat])
    y = np.array([s.total or 0.0 for s in flat]) - expected
    covariance = need_covariance(coolant, expected) + _after_start(read)
    covariance += _map_covariance(flat, map_spread) + _wandering(read)
    covariance[np.diag_indices_from(covariance)] += _READING_SPREAD**2
    base = _evidence(y, covariance)
    odds: dict[str, float] = {}
    sizes: dict[str, tuple[float, float]] = {}
    factor = cho_factor(covariance)
    against_tables = _below_none(np.array([s.total or 0.0 for s in flat]), map_spread)
    against_tables += _far_off(y[coolant >= WARM_C])
    for cause, shape in SHAPES.items():
        values = [shape.of(stretch) for stretch in flat]
        if any(value is None for value in values):
            continue
        x = np.array(values, dtype=float)
        with_cause = covariance + shape.spread**2 * np.outer(x, x)
        odds[cause] = _evidence(y, with_cause) - base + against_tables
        precision = 1.0 / shape.spread**2 + float(x @ cho_solve(factor, x))
        sizes[cause] = (float(x @ cho_solve(factor, y)) / precision, precision**-0.5)
    return MixtureFit(odds, sizes, len(flat), float(y.mean()))


def warm_up_need(spec: EngineSpec, coolant_c: float) -> float:
    """Return ln of the warm-up enrichment that the physics of the engine data suggest. [–]"""
    return math.log(expected_start_value(spec, "warm_up_enrichment", coolant_c) / 100.0)


def need_covariance(coolant_c: FloatArray, expected: FloatArray) -> FloatArray:
    """Return the covariance of ln(need ÷ physics) between coolant temperatures. [–]

    Parameters
    ----------
    coolant_c : ndarray, shape (n,)
        [°C]
    expected : ndarray, shape (n,)
        ln of the need by the physics. [–]

    Returns
    -------
    ndarray, shape (n, n)
    """
    spread = need_spread(expected)
    apart = (coolant_c[:, None] - coolant_c[None, :]) / _ALIKE_K
    return np.asarray(spread[:, None] * spread[None, :] * np.exp(-0.5 * apart**2))


def need_spread(expected: FloatArray) -> FloatArray:
    """Return the spread of the true warm-up need about the physics, of which ln is given. [–]"""
    return np.asarray(_WARM_SPREAD + _ENRICHMENT_SPREAD * (1.0 - np.exp(-expected)))


def _far_off(warm: FloatArray) -> float:
    """Return the evidence against tables where a warm engine is further off than any fuel map is."""
    return _FAR_OFF_ODDS if warm.size and abs(float(np.median(warm))) > _FAR_OFF else 0.0


def _map_covariance(flat: Sequence[Stretch], spread: float) -> FloatArray:
    """Return the covariance of what the fuel map is off, alike where load and speed are."""
    load = np.log([s.map_kpa if s.map_kpa else 40.0 for s in flat])
    speed = np.log([max(s.rpm, 200.0) for s in flat])
    apart = np.hypot(load[:, None] - load[None, :], speed[:, None] - speed[None, :]) / _MAP_ALIKE
    return np.asarray(spread**2 * np.exp(-0.5 * apart**2))


def _wandering(logs: Sequence[Sequence[Stretch]]) -> FloatArray:
    """Return the covariance of what drifts within a log and in each of them otherwise."""
    times = [np.array([s.after_s for s in log]) for log in logs]
    return np.asarray(
        block_diag(
            *(
                _WANDER_SPREAD**2 * np.exp(-np.abs(t[:, None] - t[None, :]) / _WANDER_S)
                for t in times
            )
        )
    )


def _below_none(total: FloatArray, map_spread: float) -> float:
    """Return the evidence against tables where the whole need lies below that of a warm engine."""
    below = min(0.0, float(np.median(total)))
    return min(_MOST_BELOW_NONE, 0.5 * (below / (2.0 * map_spread)) ** 2)


def _after_start(logs: Sequence[Sequence[Stretch]]) -> FloatArray:
    """Return the covariance of what the after-start enrichment is off, one amplitude a log."""
    size = sum(len(log) for log in logs)
    result = np.zeros((size, size))
    begin = 0
    for log in logs:
        most = max((s.after_start for s in log), default=0.0)
        shape = np.array([s.after_start / most if most > 0 else 0.0 for s in log])
        # Fuel on the walls still settles after the table has faded.
        shape = np.maximum(shape, np.array([math.exp(-s.after_s / 8.0) for s in log]))
        here = slice(begin, begin + len(log))
        result[here, here] = _AFTER_START_SPREAD**2 * np.outer(shape, shape)
        begin += len(log)
    return result


def _evidence(y: FloatArray, covariance: FloatArray) -> float:
    """Return the log density of observations under a zero-mean Gaussian. [–]"""
    factor = cho_factor(covariance, lower=True)
    log_det = 2.0 * float(np.log(np.diag(factor[0])).sum())
    return float(-0.5 * (y @ cho_solve(factor, y) + log_det + y.size * math.log(2.0 * math.pi)))

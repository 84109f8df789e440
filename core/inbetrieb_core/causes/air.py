"""What air, valve and speed say: whether the valve governs the air, and whether air makes torque.

The air that an idle speed needs (friction) is compared with the air that valve and stop should pass
as commanded, over all logs of a job at once: what is unknown about sizes and friction is the same in
each of them, so that it cancels where the valve stood differently.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass

import numpy as np

from ..charge.idle_air import (
    IDLE_BAND_RPM,
    expected_stop_gps,
    idle_air_gps,
    open_valve_gps,
    warm_idle_air_gps,
)
from ..engine import EngineSpec
from ..quantities import FloatArray
from .observed import Observed

#: How well sizes and friction are known together, with the valve's flow entered or assumed; and what
#: is left from log to log. (Assumed.)
_KNOWN_SIZES, _ASSUMED_SIZES, _LEFT = 0.16, 0.24, 0.10
#: How well the fuel map tells the air that is drawn, as far as it is the same in every log.
_MAP_AIR = 0.28
#: Drawing so much more air than the speed needs is bad burning. [ln]
_BURNS_BADLY = 0.45
#: How well friction says the air that a speed needs.
_FRICTION = 0.30
#: A leak is seldom more than this share of the warm idle air, and most are small.
_LEAKS = np.linspace(0.05, 1.2, 24)
_SHORT = np.linspace(0.05, 0.75, 15)
#: From here on evidence grows slower: the model is not to be trusted to the last digit. [–]
_SURE, _BEYOND = 5.0, 0.35
#: A valve beyond these is at its end. [%]
_VALVE_LOW_PCT, _VALVE_HIGH_PCT = 2.0, 97.0
#: Before that an engine has not settled, and its air is on its way.
_SETTLED_FROM_S = 8.0


@dataclass(frozen=True)
class AirFit:
    """What air and speed say.

    Attributes
    ----------
    log_odds : dict of str to float
        ln(evidence with the cause ÷ without), by cause. [–]
    surplus : float or None
        In the last log: ln(air that it has ÷ air that valve and stop should pass). [–]
    surplus_error : float
        How well that is known, of sizes and friction together. [ln]
    effort : float or None
        In the last log: ln(air drawn ÷ air that the speed needs). [–]
    """

    log_odds: dict[str, float]
    surplus: float | None
    surplus_error: float
    effort: float | None


@dataclass(frozen=True)
class _Point:
    """One log: ln of the air it has, the valve, and whether speed or the fuel map tells the air."""

    air: float
    valve_pct: float
    by_speed: bool


def fit_air(logs: Sequence[Observed], spec: EngineSpec) -> AirFit:
    """Return what air, valve and speed of a job's logs say about the causes.

    Parameters
    ----------
    logs : sequence of Observed
        Oldest first, the last is the one in question.
    spec : EngineSpec
        The engine.
    """
    points = [point for log in logs if (point := _point(log, spec)) is not None]
    # What speed tells is surer than what the map tells of an engine that died.
    points = [point for point in points if point.by_speed] or points
    odds = _compared(points, spec) if points else {}
    here = _point(logs[-1], spec)
    surplus = None if here is None else here.air - _through(spec, here.valve_pct)
    effort = _effort(logs[-1], spec)
    if effort is not None:
        odds["timing-off"] = 0.5 * _more_than(effort, _FRICTION)
    _by_the_end(logs[-1], odds)
    return AirFit(odds, surplus, _size_spread(spec), effort)


def _point(log: Observed, spec: EngineSpec) -> _Point | None:
    """Return what one log says of its air; None where it does not tell."""
    settled = [s for s in log.stretches if s.after_s >= _SETTLED_FROM_S and s.valve_pct is not None]
    # An engine that burns badly turns slower than its air allows: then speed tells nothing of air.
    effort = _effort(log, spec)
    misfires = 2 * sum(s.misfires for s in log.stretches) > len(log.stretches)
    burns_well = not misfires and (effort is None or effort < _BURNS_BADLY)
    if settled and not log.stalled and burns_well:
        air = _median(math.log(idle_air_gps(spec, s.rpm, s.coolant_c)) for s in settled)
        return _Point(air, _median(s.valve_pct or 0.0 for s in settled), True)
    known = [s for s in log.stretches if s.air_gps and s.valve_pct is not None and s.rpm > 350.0]
    if not known or log.ran_s < 2.0:
        return None
    air = _median(math.log(s.air_gps or 1.0) for s in known)
    return _Point(air, _median(s.valve_pct or 0.0 for s in known), False)


def _compared(points: Sequence[_Point], spec: EngineSpec) -> dict[str, float]:
    """Return the evidence for each cause against valve and stop doing what they should."""
    air = np.array([point.air for point in points])
    valve = np.array([point.valve_pct for point in points])
    by_speed = np.array([point.by_speed for point in points])
    covariance = np.full((air.size, air.size), _size_spread(spec) ** 2)
    covariance += _MAP_AIR**2 * np.outer(~by_speed, ~by_speed) + _LEFT**2 * np.eye(air.size)
    inverse = np.linalg.inv(covariance)

    def density(through: FloatArray) -> float:
        left = air - np.log(np.maximum(through, 1e-3))
        return float(-0.5 * left @ inverse @ left)

    stop, full = expected_stop_gps(spec), open_valve_gps(spec)
    usual = stop + full * valve / 100.0
    base = density(usual)
    warm = warm_idle_air_gps(spec)
    turned = stop + full * (100.0 - valve) / 100.0
    return {
        "air-leak": _held(_averaged(lambda x: density(usual + x * warm), _LEAKS) - base),
        "too-little-air": _held(_averaged(lambda x: density(usual * (1.0 - x)), _SHORT) - base),
        "valve-inverted": _held(density(turned) - base),
    }


def _size_spread(spec: EngineSpec) -> float:
    """Return how well sizes and friction are known together. [ln]"""
    return _KNOWN_SIZES if spec.idle_valve_full_gps is not None else _ASSUMED_SIZES


def _averaged(density: Callable[[float], float], sizes: FloatArray) -> float:
    """Return the log density averaged over a size, small ones more likely than large ones."""
    weights = np.exp(-sizes / 0.4)
    values = np.array([density(float(size)) for size in sizes])
    most = float(values.max())
    return most + math.log(float(weights @ np.exp(values - most)) / float(weights.sum()))


def _through(spec: EngineSpec, valve_pct: float) -> float:
    """Return ln of the air that valve and stop should pass. [g/s]"""
    return math.log(expected_stop_gps(spec) + open_valve_gps(spec) * valve_pct / 100.0)


def _effort(log: Observed, spec: EngineSpec) -> float | None:
    settled = [s for s in log.stretches if s.air_gps and s.after_s >= _SETTLED_FROM_S]
    if not settled or log.stalled:
        return None
    return _median(
        math.log((s.air_gps or 1.0) / idle_air_gps(spec, s.rpm, s.coolant_c)) for s in settled
    )


def _more_than(value: float, spread: float) -> float:
    """Return the evidence for an effect of unknown size above zero, against none. [–]"""
    sizes = np.linspace(0.05, 0.9, 18)
    averaged = _averaged(lambda size: -0.5 * ((value - size) / spread) ** 2, sizes)
    return _held(averaged + 0.5 * (value / spread) ** 2)


def _by_the_end(observed: Observed, odds: dict[str, float]) -> None:
    """Add what a valve at its end says: whatever the sizes, it cannot do more."""
    off, valve = observed.idle_off_rpm, observed.valve_pct
    if off is None or valve is None:
        return
    opened = valve >= _VALVE_HIGH_PCT and off < -IDLE_BAND_RPM
    closed = valve <= _VALVE_LOW_PCT and off > IDLE_BAND_RPM
    if opened or closed:
        cause = "too-little-air" if opened else "air-leak"
        odds[cause] = odds.get(cause, 0.0) + 5.0
        odds["valve-inverted"] = odds.get("valve-inverted", 0.0) + 2.0


def _held(value: float) -> float:
    if abs(value) <= _SURE:
        return value
    return math.copysign(_SURE + _BEYOND * (abs(value) - _SURE), value)


def _median(values: Iterable[float]) -> float:
    return float(np.median(np.array(list(values))))

"""Where a drive tells what the manifold sensor should read: engine at rest, and a throttle that is fully open."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..engine import EngineSpec
from ..logs import Trace

#: Fully open, and the speed below which nothing turns. [%, 1/min]
_OPEN_PCT, _STANDS_RPM = 90.0, 1.0
#: The slowest of what was read at full throttle, as a share. [–]
_SLOW = 0.3
#: Shortest stretch that counts. [s]
_LEAST_S = 0.8
#: The weather, one standard deviation about the air pressure of a place (common practice, no source). [kPa]
_WEATHER_KPA = 1.2
#: What air cleaner and open throttle take at the torque peak; it grows with the square of speed, and is known to so much
#: of itself and no better than the least (common practice, no source). [kPa, –, kPa]
_LOSS_KPA, _LOSS_KNOWN, _LOSS_LEAST_KPA = 2.0, 0.8, 1.0


@dataclass(frozen=True)
class PressureSeen:
    """What one drive read where the pressure is known.

    Attributes
    ----------
    at_rest_kpa : float
        Engine at rest; NaN where the log has no such stretch. [kPa]
    open_kpa, open_rpm : float
        Throttle fully open, at the slower speeds of it, and this speed; NaN likewise. [kPa, 1/min]
    """

    at_rest_kpa: float = math.nan
    open_kpa: float = math.nan
    open_rpm: float = math.nan


@dataclass(frozen=True)
class ReadsLow:
    """By how much the manifold sensor reads too low, with its standard error. [kPa]"""

    kpa: float
    error_kpa: float


def pressure_seen(trace: Trace) -> PressureSeen:
    """Return what a log read where the pressure is known.

    Parameters
    ----------
    trace : Trace
    """
    pressure, throttle = trace.get("map_kpa"), trace.get("throttle_pct")
    if pressure is None:
        return PressureSeen()
    known = np.isfinite(pressure)
    step = float(np.median(np.diff(trace.time_s))) if trace.time_s.size > 1 else 1.0
    least = max(3, round(_LEAST_S / max(step, 1e-3)))
    rest = known & (np.nan_to_num(trace["rpm"], nan=9e3) < _STANDS_RPM)
    # A manifold fills again within a moment of an engine that died: the first of them count for nothing.
    rest &= _long_since(trace.time_s, ~rest)
    at_rest = float(np.median(pressure[rest])) if rest.sum() >= least else math.nan
    if throttle is None:
        return PressureSeen(at_rest)
    wide = known & (np.nan_to_num(throttle) >= _OPEN_PCT)
    wide &= _long_since(trace.time_s, ~wide)
    if wide.sum() < least:
        return PressureSeen(at_rest)
    # Slow of them: there the least is lost on the way in.
    rpm = np.nan_to_num(trace["rpm"])
    slow = wide & (rpm <= np.quantile(rpm[wide], _SLOW))
    return PressureSeen(at_rest, float(np.median(pressure[slow])), float(np.median(rpm[slow])))


def _long_since(time_s: np.ndarray, other: np.ndarray) -> np.ndarray:
    """Say which samples lie at least the shortest stretch after the last of others."""
    last = np.maximum.accumulate(np.where(other, time_s, -np.inf))
    return np.asarray(time_s - last >= _LEAST_S)


def reads_low(seen: Sequence[PressureSeen], spec: EngineSpec) -> ReadsLow | None:
    """Return by how much the manifold sensor reads too low, as drives have it; None where none tells.

    The air pressure is that of the engine data, not one that was logged: many controllers take it from this very sensor.

    Parameters
    ----------
    seen : sequence of PressureSeen
    spec : EngineSpec
        As entered.
    """
    rest = [one.at_rest_kpa for one in seen if math.isfinite(one.at_rest_kpa)]
    if rest:
        return ReadsLow(spec.barometric_kpa - float(np.median(rest)), _WEATHER_KPA)
    # Full boost hides what the air pressure is.
    wide = (
        [one for one in seen if math.isfinite(one.open_kpa)] if spec.induction == "natural" else []
    )
    if not wide:
        return None
    losses = [_LOSS_KPA * (one.open_rpm / spec.torque_peak_rpm) ** 2 for one in wide]
    apart = [
        spec.barometric_kpa - one.open_kpa - loss for one, loss in zip(wide, losses, strict=True)
    ]
    loss_error = max(_LOSS_LEAST_KPA, _LOSS_KNOWN * float(np.median(losses)))
    return ReadsLow(float(np.median(apart)), math.hypot(_WEATHER_KPA, loss_error))

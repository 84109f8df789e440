"""Mixture target and ignition: conservative values to start an unknown engine on."""

from __future__ import annotations

import math

from ..engine import EngineSpec
from .idle import warm_idle_rpm


def _ramp(value: float, start: float, end: float) -> float:
    """Return 0 below `start`, 1 above `end`, and a smooth step between."""
    share = min(1.0, max(0.0, (value - start) / (end - start)))
    return share * share * (3.0 - 2.0 * share)


def _idle_share(spec: EngineSpec, rpm: float, map_kpa: float) -> float:
    """Return how far a place belongs to idle, 1 in its middle and 0 outside."""
    slow = 1.0 - _ramp(rpm, warm_idle_rpm(spec) + 250.0, warm_idle_rpm(spec) + 700.0)
    closed = 1.0 - _ramp(map_kpa, 0.50 * spec.barometric_kpa, 0.72 * spec.barometric_kpa)
    return slow * closed


def lambda_target(spec: EngineSpec, rpm: float, map_kpa: float) -> float:
    """Return the mixture target.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    rpm : float
        Shaft speed. [1/min]
    map_kpa : float
        Manifold pressure, absolute. [kPa]

    Returns
    -------
    float
        Lambda: idle 0.94 (rich school) or 1.0, cruise 1.0, full load 0.87, boost down to
        0.78 (common practice, no source). [–]
    """
    idle = 0.94 if spec.schools.idle_mixture == "rich" else 1.0
    barometric = spec.barometric_kpa
    full = 0.87 - 0.02 * _ramp(rpm, spec.torque_peak_rpm, spec.rev_limit_rpm)
    value = 1.0 + (full - 1.0) * _ramp(map_kpa, 0.62 * barometric, 0.97 * barometric)
    over = max(0.0, map_kpa - barometric)
    value = max(0.78, value - 0.0009 * over)
    share = _idle_share(spec, rpm, map_kpa)
    return share * idle + (1.0 - share) * value


def spark_deg(spec: EngineSpec, rpm: float, map_kpa: float) -> float:
    """Return ignition advance without any claim to knock margin.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    rpm : float
        Shaft speed. [1/min]
    map_kpa : float
        Manifold pressure, absolute. [kPa]

    Returns
    -------
    float
        Advance before top dead centre, 2 to 38. [°]

    Notes
    -----
    Rises with speed to the torque peak, 0.16 °/kPa more at light load, 1.2 ° less per point of
    compression above 9.5, a quarter degree less per 2.5 kPa of boost, a little more for
    ethanol; idle 14 ° to 19 ° by cam (common practice, no source).
    """
    climb = _ramp(math.log(max(rpm, 400.0)), math.log(600.0), math.log(spec.torque_peak_rpm))
    value = 9.0 + 16.0 * climb
    value += 0.16 * max(0.0, min(55.0, spec.barometric_kpa - map_kpa))
    value -= 1.2 * (spec.compression_ratio - 9.5)
    value -= 0.10 * max(0.0, map_kpa - spec.barometric_kpa)
    value += 3.0 * spec.ethanol_volume_share
    if spec.cycle == "rotary":
        value -= 3.0
    idle = {"mild": 14.0, "moderate": 18.0, "wild": 19.0}[spec.cam]
    if spec.cycle == "rotary":
        idle = 5.0
    share = _idle_share(spec, rpm, map_kpa)
    return min(38.0, max(2.0, share * idle + (1.0 - share) * value))

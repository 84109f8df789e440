"""Manifold pressure from throttle angle, for controllers that take the angle for load."""

from __future__ import annotations

import math

from scipy.optimize import brentq

from ..air import DRY_AIR_GAS_CONSTANT, REFERENCE_CHARGE_K, flow_function
from ..charge.filling import ve_pct
from ..engine import EngineSpec

#: A throttle passes the rated air with this loss when it is open (assumed). [kPa]
_LOSS_OPEN_KPA = 3.0
_CLOSED_DEG, _OPEN_DEG = 6.0, 90.0


def open_share(throttle_pct: float) -> float:
    """Return the open area of a round throttle plate as a share of the open one.

    Parameters
    ----------
    throttle_pct : float
        0 closed, 100 open. [%]

    Notes
    -----
    1 − cos α/cos α₀, closed at 6° (Heywood, eq. 7.19 without the shaft, memory).
    """
    angle = math.radians(_CLOSED_DEG + (_OPEN_DEG - _CLOSED_DEG) * throttle_pct / 100.0)
    return max(2e-3, 1.0 - math.cos(angle) / math.cos(math.radians(_CLOSED_DEG)))


def _engine_gps(spec: EngineSpec, rpm: float, map_kpa: float) -> float:
    chamber = ve_pct(spec, rpm, map_kpa) / 100.0 * map_kpa * spec.chamber_l
    return chamber / DRY_AIR_GAS_CONSTANT / REFERENCE_CHARGE_K * spec.firings_per_turn * rpm / 60.0


def throttle_map_kpa(spec: EngineSpec, rpm: float, throttle_pct: float) -> float:
    """Return the manifold pressure at which throttle and engine pass the same air.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine; boost is left out, because it does not follow the throttle.
    rpm : float
        Shaft speed. [1/min]
    throttle_pct : float
        0 closed, 100 open. [%]

    Returns
    -------
    float
        Absolute. The plate is taken large enough to lose 3 kPa at the rev limit. [kPa]
    """
    outside = spec.barometric_kpa
    rated = _engine_gps(spec, spec.rev_limit_rpm, outside - _LOSS_OPEN_KPA)
    choked = rated / flow_function(1.0 - _LOSS_OPEN_KPA / outside)
    passes = choked * open_share(throttle_pct)

    def excess(pressure: float) -> float:
        return passes * flow_function(pressure / outside) - _engine_gps(spec, rpm, pressure)

    lowest = 8.0
    if excess(lowest) <= 0.0:
        return lowest
    return float(brentq(excess, lowest, outside))

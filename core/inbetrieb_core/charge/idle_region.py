"""Where idle is on a map, and how it is blended into its neighbours."""

from __future__ import annotations

from ..engine import EngineSpec
from .idle_air import warm_idle_rpm


def ramp(value: float, start: float, end: float) -> float:
    """Return 0 below `start`, 1 above `end`, and a smooth step between.

    Parameters
    ----------
    value, start, end : float
        All in one unit. [–]
    """
    share = min(1.0, max(0.0, (value - start) / (end - start)))
    return share * share * (3.0 - 2.0 * share)


#: Above warm idle: where the idle region begins to end, and where it has ended. [1/min]
_IDLE_FADES_RPM, IDLE_ENDS_RPM = 250.0, 700.0


def idle_share(spec: EngineSpec, rpm: float, map_kpa: float, wider: float = 0.0) -> float:
    """Return how far a place belongs to idle: 1 in its middle, 0 outside.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    rpm : float
        Shaft speed. [1/min]
    map_kpa : float
        Manifold pressure, absolute. [kPa]
    wider : float
        How much longer than usual the way out of idle is, 0 to 1: it ends later, and over pressure begins sooner. [–]

    Returns
    -------
    float
        Share. [–]
    """
    idle = warm_idle_rpm(spec)
    slow = 1.0 - ramp(rpm, idle + _IDLE_FADES_RPM, idle + IDLE_ENDS_RPM + 1500.0 * wider)
    ends = 0.72 + 0.08 * wider
    closed = 1.0 - ramp(
        map_kpa, (0.50 - 0.06 * wider) * spec.barometric_kpa, ends * spec.barometric_kpa
    )
    return slow * closed

"""Oil pressure of the bench engine: galleries that fill, a pump, bearings that leak, a relief valve."""

from __future__ import annotations

import math

from ..friction import oil_viscosity_cst

_WARM_CST = oil_viscosity_cst(90.0)
#: Pressure of warm oil for each turn in a minute of the crankshaft. [kPa per 1/min]
_KPA_PER_RPM = 0.24
_SETTLES_S = 0.35


def oil_pressure_step(
    pressure_kpa: float, rpm: float, oil_c: float, dt_s: float, *, filled: bool, relief_kpa: float
) -> float:
    """Return the oil pressure after a time.

    Parameters
    ----------
    pressure_kpa : float
        Before. [kPa]
    rpm : float
        Of the crankshaft. [1/min]
    oil_c : float
        Of the oil. [°C]
    dt_s : float
        Time that passes. [s]
    filled : bool
        Whether pump and galleries hold oil; before that there is no pressure.
    relief_kpa : float
        At which the relief valve opens. [kPa]

    Returns
    -------
    float
        Gauge. [kPa]

    Notes
    -----
    Bearings leak in proportion to pressure over viscosity, the pump delivers in proportion to speed, so pressure
    goes with their product; the root tames it, as cold oil warms in the gap. Sizes are assumed.
    """
    thickness = math.sqrt(oil_viscosity_cst(oil_c) / _WARM_CST)
    target = min(relief_kpa, _KPA_PER_RPM * rpm * thickness) if filled else 0.0
    return pressure_kpa + (target - pressure_kpa) * (1.0 - math.exp(-dt_s / _SETTLES_S))

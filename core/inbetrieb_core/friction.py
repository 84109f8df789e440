"""Friction of an engine over oil temperature, the reason why a cold engine needs more air."""

from __future__ import annotations

import math

from .quantities import kelvin

#: Kinematic viscosity of a middling multigrade engine oil. [cSt at 40 °C, at 100 °C] (assumed)
_OIL_40_CST = 95.0
_OIL_100_CST = 14.0
_WARM_OIL_C = 90.0
_BOUNDARY_KPA = 35.0  # does not depend on the oil
_VISCOUS_KPA = 45.0  # warm, at the speed below
_VISCOUS_RPM = 800.0
#: What alternator, pumps and fan of a car take at idle (common practice, no source); a starter turns
#: them too slowly to count.
ACCESSORIES_KPA = 25.0
_VISCOSITY_EXPONENT = 0.24
_SPEED_EXPONENT = 0.4


def oil_viscosity_cst(oil_c: float) -> float:
    """Return the kinematic viscosity of a middling multigrade oil.

    Parameters
    ----------
    oil_c : float
        Oil temperature, held within −40 to 160. [°C]

    Returns
    -------
    float
        Kinematic viscosity. [cSt]

    References
    ----------
    Walther equation as in ASTM D341: log10 log10(ν + 0.7) = A − B·log10(T).
    """
    oil_c = min(max(oil_c, -40.0), 160.0)

    def ordinate(viscosity: float) -> float:
        return math.log10(math.log10(viscosity + 0.7))

    low, high = math.log10(kelvin(40.0)), math.log10(kelvin(100.0))
    slope = (ordinate(_OIL_40_CST) - ordinate(_OIL_100_CST)) / (high - low)
    intercept = ordinate(_OIL_40_CST) + slope * low
    return float(10.0 ** (10.0 ** (intercept - slope * math.log10(kelvin(oil_c)))) - 0.7)


def friction_pressure_kpa(rpm: float, oil_c: float) -> float:
    """Return friction as mean effective pressure, gas exchange not included.

    Parameters
    ----------
    rpm : float
        Shaft speed, 0 or more. [1/min]
    oil_c : float
        Oil temperature. [°C]

    Returns
    -------
    float
        Friction mean effective pressure. [kPa]

    Notes
    -----
    A boundary part plus a viscous part that grows with viscosity to the power 0.24 (the
    exponent used for warm-up friction by Patton, Nitschke & Heywood, SAE 890836, from memory)
    and with speed. The sizes are assumed.
    """
    return friction_at_thickness_kpa(rpm, oil_thickness(oil_c))


def oil_thickness(oil_c: float) -> float:
    """Return how much thicker than warm the oil acts on friction, 1 at 90 °C. [–]"""
    viscosity = oil_viscosity_cst(oil_c) / oil_viscosity_cst(_WARM_OIL_C)
    return float(viscosity**_VISCOSITY_EXPONENT)


def friction_at_thickness_kpa(rpm: float, thickness: float) -> float:
    """Return :func:`friction_pressure_kpa` for an oil thickness computed before. [kPa]"""
    speed = (max(rpm, 1.0) / _VISCOUS_RPM) ** _SPEED_EXPONENT
    return float(_BOUNDARY_KPA + _VISCOUS_KPA * thickness * speed)

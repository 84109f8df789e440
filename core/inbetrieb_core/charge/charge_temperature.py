"""Which air temperature a fuel map believes, and what a controller needs that sees another one.

At idle the charge has come part of the way from the intake air to the coolant before the valve closes.
The share is common practice (no published source); it falls as air flows faster.
"""

from __future__ import annotations

import math

from ..quantities import kelvin

#: Share of the way from intake to coolant temperature that the charge of an idling engine has come. [–]
COOLANT_SHARE = 0.35
_WARM_C = 88.0
#: In warmer air than this a start is not ordinary: it is that of heat that soaked in. [°C]
_ORDINARY_C = 20.0
#: More than this a sensor of the intake air does not say of a charge. [ln]
_MOST_THINNER = 0.2
#: Intake air over which the correction is given. [°C]
INTAKE_C = (-20.0, 0.0, 20.0, 40.0, 60.0, 80.0)


def idle_charge_c(intake_c: float, coolant_c: float = _WARM_C) -> float:
    """Return the temperature of an idling engine's charge.

    Parameters
    ----------
    intake_c, coolant_c : float
        Of the intake air, and of the coolant. [°C]

    Returns
    -------
    float
        [°C]
    """
    return intake_c + COOLANT_SHARE * (coolant_c - intake_c)


def sensor_only_pct(intake_c: float) -> float:
    """Return the fuel multiplier that a controller needs which takes the intake sensor for the charge.

    Parameters
    ----------
    intake_c : float
        What the sensor says. [°C]

    Returns
    -------
    float
        For a warm engine at idle; below 100, because the charge is thinner than the sensor says. [%]
    """
    return 100.0 * kelvin(intake_c) / kelvin(idle_charge_c(intake_c))


def thinner_charge(intake_c: float, coolant_c: float) -> float:
    """Return by how much the charge of a start weighs less than in ordinary air.

    The same fuel is so much richer. Ordinary air is as cold as a cold engine, and never warmer than 20 °C
    (common practice, no published source).

    Parameters
    ----------
    intake_c, coolant_c : float
        Of the intake air and of the coolant as cranking begins. [°C]

    Returns
    -------
    float
        Below 0 where it weighs more. [ln]
    """
    here, ordinary = (
        kelvin(idle_charge_c(air_c, coolant_c)) for air_c in (intake_c, min(coolant_c, _ORDINARY_C))
    )
    return max(-_MOST_THINNER, min(math.log(here / ordinary), _MOST_THINNER))

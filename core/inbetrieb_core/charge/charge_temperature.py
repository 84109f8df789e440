"""Which air temperature a fuel map believes, and what a controller needs that sees another one.

At idle the charge has come part of the way from the intake air to the coolant before the valve closes.
The share is common practice (no published source); it falls as air flows faster.
"""

from __future__ import annotations

from ..quantities import kelvin

#: Share of the way from intake to coolant temperature that the charge of an idling engine has come. [–]
COOLANT_SHARE = 0.35
_WARM_C = 88.0
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

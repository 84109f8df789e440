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
#: More than this no air makes of a charge, or of what an opening passes, and a sensor that says so is broken: the
#: opening's is air of −40 °C at a warm engine; and the coldest air that is believed. [ln, ln, K]
_MOST_THINNER, _MOST_MORE, _COLDEST_K = 0.2, 0.12, 180.0
#: Of what an opening passes more of cold air so much is left to an idle: the same mass stands at less pressure in
#: the manifold, and costs more pumping (common practice, no published source). [–]
_LEFT_TO_IDLE = 0.7
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

    The same fuel is so much richer. What is ordinary: :func:`ordinary_air_c`; by the gas law on
    :func:`idle_charge_c`, whose share is common practice (no published source).

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
        _air_k(idle_charge_c(air_c, coolant_c)) for air_c in (intake_c, ordinary_air_c(coolant_c))
    )
    return max(-_MOST_THINNER, min(math.log(here / ordinary), _MOST_THINNER))


def ordinary_air_c(coolant_c: float) -> float:
    """Return the air that tables over coolant temperature are meant for.

    As cold as a cold engine, and never warmer than 20 °C (common practice, no published source).

    Parameters
    ----------
    coolant_c : float
        [°C]

    Returns
    -------
    float
        [°C]
    """
    return min(coolant_c, _ORDINARY_C)


def opening_passes_more(intake_c: float, coolant_c: float) -> float:
    """Return by how much more air for an idle the same openings pass than in ordinary air.

    The mass through an opening falls with the root of absolute temperature (compressible flow; Heywood,
    appendix C); part of it is lost to pumping.

    Parameters
    ----------
    intake_c, coolant_c : float
        Of the intake air and of the coolant. [°C]

    Returns
    -------
    float
        Below 0 where they pass less. [ln]
    """
    root = 0.5 * math.log(kelvin(ordinary_air_c(coolant_c)) / _air_k(intake_c))
    return _LEFT_TO_IDLE * max(-_MOST_MORE, min(root, _MOST_MORE))


def _air_k(celsius: float) -> float:
    """Return an absolute temperature; of a sensor that is broken the coldest there is. [K]"""
    return max(kelvin(celsius), _COLDEST_K)

"""Boost target and duty: never more than the charger can make, and nothing before it was measured."""

from __future__ import annotations

from ..engine import EngineSpec
from ..trade import BOOST_VALVE_LEAST_PCT, BOOST_VALVE_MOST_PCT
from .limits import expected_wastegate_kpa

#: Full boost where nothing is known of the charger, as a share of the rev limit (assumed). [–]
_FULL_BOOST_SHARE = 0.5
#: A charger makes nothing to speak of below this share of its full-boost speed (assumed). [–]
_NO_BOOST_SHARE = 0.55
#: Of the boost meant for the fuel in the tank, what is left on pure petrol (assumed). [–]
_LESS_WITHOUT_ETHANOL = 0.25
#: Duty that first raises boost, and per share of wastegate boost above it: 25, 45 and 55 % for
#: 1.2, 1.6 and 1.8 times wastegate pressure (common practice, no source). [%]
_FIRST_DUTY_PCT, _DUTY_PER_SHARE_PCT = 15.0, 50.0
_CLOSED_LOOP_SHARE = 0.8


def full_boost_rpm(spec: EngineSpec) -> float:
    """Return the slowest speed of full boost: as entered, or half the rev limit. [1/min]"""
    if spec.boost_full_rpm is not None:
        return spec.boost_full_rpm
    return _FULL_BOOST_SHARE * spec.rev_limit_rpm


def reachable_boost_kpa(spec: EngineSpec, rpm: float) -> float:
    """Return the boost that the charger can make at a speed.

    Parameters
    ----------
    spec : EngineSpec
        A checked, boosted engine.
    rpm : float
        Shaft speed. [1/min]

    Returns
    -------
    float
        None below 55 % of the speed of full boost, all of it from there; gauge. [kPa]
    """
    full = full_boost_rpm(spec)
    share = min(1.0, max(0.0, (rpm / full - _NO_BOOST_SHARE) / (1.0 - _NO_BOOST_SHARE)))
    return spec.boost_kpa * share * share * (3.0 - 2.0 * share)


def wanted_boost_kpa(spec: EngineSpec, ethanol_share: float) -> float:
    """Return the boost wanted on a fuel: the entered one, less where there is less ethanol.

    Parameters
    ----------
    spec : EngineSpec
        A checked, boosted engine; its boost is meant for the fuel in its tank.
    ethanol_share : float
        Of the fuel, by volume. [–]
    """
    less = max(0.0, spec.ethanol_volume_share - ethanol_share)
    return spec.boost_kpa * (1.0 - _LESS_WITHOUT_ETHANOL * less)


def boost_target_kpa(spec: EngineSpec, rpm: float, ethanol_pct: float) -> float:
    """Return the boost target, absolute.

    Parameters
    ----------
    spec : EngineSpec
        A checked, boosted engine.
    rpm : float
        Shaft speed. [1/min]
    ethanol_pct : float
        Of the fuel, by volume. [%]

    Returns
    -------
    float
        Barometric pressure plus what is wanted, at most what the charger can make there. [kPa]
    """
    return spec.barometric_kpa + min(
        reachable_boost_kpa(spec, rpm), wanted_boost_kpa(spec, ethanol_pct / 100.0)
    )


def boost_duty_pct(spec: EngineSpec, rpm: float, ethanol_pct: float) -> float:
    """Return the duty of the boost valve.

    Parameters
    ----------
    spec : EngineSpec
        A checked, boosted engine.
    rpm : float
        Shaft speed. [1/min]
    ethanol_pct : float
        Of the fuel, by volume. [%]

    Returns
    -------
    float
        0 until wastegate pressure was measured: the staircase begins at 0 %. Then what raises
        wastegate boost to the target, at most 90; four fifths of it where a loop adds the rest.
        [%]
    """
    gate = expected_wastegate_kpa(spec)
    if spec.wastegate_kpa is None or gate <= 0.0:
        return 0.0
    target = boost_target_kpa(spec, rpm, ethanol_pct) - spec.barometric_kpa
    above = target / gate - 1.0
    if above <= 0.01:
        return 0.0
    duty = _FIRST_DUTY_PCT + _DUTY_PER_SHARE_PCT * above
    if spec.schools.boost_control == "closed_loop":
        duty *= _CLOSED_LOOP_SHARE
    return min(BOOST_VALVE_MOST_PCT, max(BOOST_VALVE_LEAST_PCT, duty))

"""Limits for the first start and switching conditions: low enough that a wrong number breaks nothing."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np

from ..charge.idle_air import idle_map_kpa, warm_idle_rpm
from ..engine import EngineSpec
from ..sentences import kilopascal
from ..tables import ProvenanceKind
from ..trade import LOOP_AUTHORITY_PCT

#: First start, however much the engine may do later (common practice, no source). [1/min]
FIRST_LIMIT_RPM = 6000.0
#: Mean piston speed that an engine nobody has heard run is not taken beyond (assumed). [m/s]
FIRST_PISTON_SPEED_M_S = 18.0
#: Share of the first limit at a coolant temperature: lower cold, lower again too hot.
_LIMIT_SHARE = ((-40.0, 0.55), (0.0, 0.62), (60.0, 1.0), (102.0, 1.0), (112.0, 0.6))
#: Boost taken for wastegate pressure until it is measured: a soft spring (common practice). [kPa]
ASSUMED_WASTEGATE_KPA = 60.0
#: How far above the pressure that is expected fuel is cut. [kPa]
CUT_ABOVE_KPA = 10.0
#: An injector that passes the warm idle's fuel in less than this is big for its engine. [ms]
_SHORT_IDLE_MS = 1.2


def first_limit_rpm(spec: EngineSpec) -> float:
    """Return the rev limit of the first start, warm.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.

    Returns
    -------
    float
        The lowest of the engine's own limit, 6000, and the speed of 18 m/s mean piston speed
        where the stroke is known. [1/min]
    """
    limit = min(spec.rev_limit_rpm, FIRST_LIMIT_RPM)
    speed = spec.piston_speed_at_limit_m_s
    if speed is not None and speed > 0.0:
        limit = min(limit, spec.rev_limit_rpm * FIRST_PISTON_SPEED_M_S / speed)
    return limit


def rev_limit_rpm(spec: EngineSpec, coolant_c: float) -> float:
    """Return the rev limit at a coolant temperature.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    coolant_c : float
        Coolant temperature. [°C]

    Returns
    -------
    float
        Limit; never so low that a cold idle meets it, never above the engine's own. [1/min]
    """
    points, shares = zip(*_LIMIT_SHARE, strict=True)
    share = float(np.interp(coolant_c, points, shares))
    # On the 50 below: rounding must not lift a limit above the engine's own.
    limit = max(share * first_limit_rpm(spec), warm_idle_rpm(spec) + 1500.0)
    # A slow engine is not lifted above its own limit by that.
    limit = min(limit, spec.rev_limit_rpm)
    return math.floor(limit / 50.0) * 50.0


def expected_wastegate_kpa(spec: EngineSpec) -> float:
    """Return boost with the boost valve at rest: as measured, or a soft spring. [kPa]"""
    if spec.wastegate_kpa is not None:
        return spec.wastegate_kpa
    return min(spec.boost_kpa, ASSUMED_WASTEGATE_KPA)


def boost_cut_kpa(spec: EngineSpec) -> float:
    """Return the absolute pressure at which boost is cut.

    Parameters
    ----------
    spec : EngineSpec
        A checked, boosted engine.

    Returns
    -------
    float
        Just above wastegate pressure until that is known, then just above the highest boost.
        [kPa]
    """
    expected = spec.boost_kpa if spec.wastegate_kpa is not None else expected_wastegate_kpa(spec)
    return spec.barometric_kpa + expected + CUT_ABOVE_KPA


def _overrun_raise_rpm(spec: EngineSpec) -> float:
    """Return how much later big injectors may cut and come back: short pulses come back uneven."""
    idle_ms = spec.reference_pulse_ms * 0.35
    return 300.0 if idle_ms < _SHORT_IDLE_MS else 0.0


#: key -> (value, kind, reason) of every single number that any engine gets.
SETTING_RULES: dict[str, Callable[[EngineSpec], tuple[float, ProvenanceKind, str]]] = {
    "overrun_cut_rpm": lambda spec: (
        warm_idle_rpm(spec) + 900.0 + _overrun_raise_rpm(spec),
        "assumed",
        f"Warm idle {warm_idle_rpm(spec):.0f} rpm + 900"
        + (
            ", + 300 because these injectors are big for the engine and deceleration would buck."
            if _overrun_raise_rpm(spec)
            else "; the injectors are not big for the engine."
        ),
    ),
    "overrun_resume_rpm": lambda spec: (
        warm_idle_rpm(spec) + 450.0 + _overrun_raise_rpm(spec),
        "assumed",
        f"Warm idle {warm_idle_rpm(spec):.0f} rpm + 450, so that fuel is back before idle.",
    ),
    "overrun_map": lambda spec: (
        max(12.0, idle_map_kpa(spec) - 6.0),
        "calculated",
        f"{kilopascal(6)} below the manifold pressure expected at idle, {kilopascal(idle_map_kpa(spec))}.",
    ),
    "overrun_delay": lambda spec: (
        0.5,
        "assumed",
        "Half a second, so that a gear change is no overrun.",
    ),
    "closed_loop_authority": lambda spec: (
        LOOP_AUTHORITY_PCT,
        "assumed",
        "±10 %: more would hide a fault that has to be found (common practice).",
    ),
    "closed_loop_coolant": lambda spec: (
        70.0,
        "assumed",
        "Warm-up enrichment is small from here; colder, the loop would fight it.",
    ),
    "closed_loop_delay": lambda spec: (
        30.0,
        "assumed",
        "The wideband sensor heats up first, and after-start enrichment has faded.",
    ),
    "closed_loop_map": lambda spec: (
        0.85 * spec.barometric_kpa,
        "assumed",
        f"85 % of {kilopascal(spec.barometric_kpa)}: full load runs on the table alone.",
    ),
    "idle_spark_authority": lambda spec: (
        5.0 if spec.schools.idle_spark == "smooth" else spec.by_cam(10.0, 20.0, 35.0),
        "assumed",
        "±5° for a clean idle (school: smooth)."
        if spec.schools.idle_spark == "smooth"
        else "Large, so that a big cam may lope without stalling (school: lopey).",
    ),
}

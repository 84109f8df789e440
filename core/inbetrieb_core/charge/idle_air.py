"""Idle: how fast, and how much air that takes against friction."""

from __future__ import annotations

from ..air import DRY_AIR_GAS_CONSTANT, STANDARD_PRESSURE_KPA
from ..engine import EngineSpec
from ..friction import ACCESSORIES_KPA, friction_pressure_kpa
from .filling import residual_pressure_kpa, ve_slope_pct

_WARM_C = 85.0
#: An idle within this of its target is as wanted (common practice). [1/min]
IDLE_BAND_RPM = 80.0
_TARGET_WARM_FROM_C = 60.0  # the target falls to its warm value well before full temperature
_COLD_RAISE_PER_K = 5.0
_COLD_RAISE_MAX = 350.0

#: Work from one gram of air in an idling engine: 2.99 kJ/g at lambda 1, 28 % indicated
#: efficiency with the late spark of idle (memory; Heywood ch. 5 and 13 give the range).
INDICATED_WORK_KJ_PER_G = 2.99 * 0.28
_IDLE_CHARGE_K = 315.0  # warmed by a hot engine (assumed)
IDLE_PUMPING_KPA = 62.0  # barometric minus idle manifold pressure
#: Share of the warm idle air that a correctly set throttle stop passes (assumed).
_STOP_SHARE = 0.42
#: By which power speed follows the whole air: friction rises with speed (common practice, no source). [–]
SPEED_BY_AIR = 0.7
#: Oil in the films of a cold engine that runs is warmer than its coolant by this share of the way to 60 °C: shear heats
#: it within seconds (common practice; the size is assumed). [–, °C]
_FILMS_WARMER, _FILMS_AS_WARM_C = 0.2, 60.0
#: A well-chosen valve passes this multiple of the warm idle air when fully open (assumed).
VALVE_SIZE = 2.6


def warm_idle_rpm(spec: EngineSpec) -> float:
    """Return the warm idle speed of the chosen school.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.

    Returns
    -------
    float
        Speed; 700–800 in the low school, 950–1000 in the high one, slower for many cylinders
        and faster for a wild cam or a rotary (common practice, no source). [1/min]
    """
    rpm = 760.0 if spec.schools.idle_speed == "low" else 950.0
    rpm += spec.by_cam(0.0, 20.0, 40.0)
    if spec.chambers >= 6 and spec.cycle == "four_stroke":
        rpm -= 50.0
    if spec.cycle == "rotary":
        rpm += 100.0
    return rpm


def idle_target_rpm(spec: EngineSpec, coolant_c: float) -> float:
    """Return the idle target: warm speed plus a raise that ends at 60 °C.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    coolant_c : float
        Coolant temperature. [°C]

    Returns
    -------
    float
        Target. [1/min]
    """
    raise_rpm = min(_COLD_RAISE_MAX, _COLD_RAISE_PER_K * max(0.0, _TARGET_WARM_FROM_C - coolant_c))
    return warm_idle_rpm(spec) + raise_rpm


def oil_film_c(coolant_c: float) -> float:
    """Return how warm the oil in the films of a running engine is.

    Parameters
    ----------
    coolant_c : float
        Coolant temperature. [°C]

    Returns
    -------
    float
        Film temperature, never below that of the coolant (common practice; the share is assumed). [°C]
    """
    return coolant_c + _FILMS_WARMER * max(0.0, _FILMS_AS_WARM_C - coolant_c)


def idle_air_gps(spec: EngineSpec, rpm: float, coolant_c: float) -> float:
    """Return the air an engine needs to hold a speed without load.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    rpm : float
        Speed to hold. [1/min]
    coolant_c : float
        Coolant temperature. [°C]

    Returns
    -------
    float
        Air mass flow. [g/s]

    Notes
    -----
    Indicated work = friction + accessories + gas exchange: m = (fmep + amep + pmep)·V·n / (work per
    gram of air). Friction is that of the oil films. Overlap costs a wilder cam a further part (assumed).
    """
    pressure = (
        friction_pressure_kpa(rpm, oil_film_c(coolant_c)) + ACCESSORIES_KPA + IDLE_PUMPING_KPA
    )
    overlap = spec.by_cam(1.0, 1.08, 1.2)
    swept_lps = spec.displacement_l * rpm / 60.0 / spec.turns_per_cycle
    return overlap * pressure * swept_lps / (INDICATED_WORK_KJ_PER_G * 1000.0)


def warm_idle_air_gps(spec: EngineSpec) -> float:
    """Return the air that the warm engine needs at its idle speed. [g/s]"""
    return idle_air_gps(spec, warm_idle_rpm(spec), _WARM_C)


def valve_full_gps(spec: EngineSpec) -> float:
    """Return the air the idle valve passes fully open at sea level: as entered, or as a good choice. [g/s]"""
    if spec.idle_valve_full_gps is not None:
        return spec.idle_valve_full_gps
    return VALVE_SIZE * warm_idle_air_gps(spec)


def valve_size(spec: EngineSpec) -> float:
    """Return how many times the warm idle's air the open idle valve passes here. [–]"""
    return open_valve_gps(spec) / warm_idle_air_gps(spec)


def open_valve_gps(spec: EngineSpec) -> float:
    """Return what the open idle valve passes at the place of work: less in thin air. [g/s]"""
    return valve_full_gps(spec) * spec.barometric_kpa / STANDARD_PRESSURE_KPA


def expected_stop_gps(spec: EngineSpec) -> float:
    """Return the air past a closed throttle whose stop is right at sea level: less in thin air. [g/s]"""
    thinner = spec.barometric_kpa / STANDARD_PRESSURE_KPA
    return _STOP_SHARE * thinner * warm_idle_air_gps(spec)


def idle_gain(spec: EngineSpec, opening_pct: float) -> float:
    """Return by which power of the valve's opening the idle speed changes. [–]

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    opening_pct : float
        Of the valve. [%]

    Notes
    -----
    Speed follows the whole air; the valve has only its share of it.
    """
    valve = open_valve_gps(spec) * opening_pct / 100.0
    return max(0.25, SPEED_BY_AIR * valve / max(valve + expected_stop_gps(spec), 1e-6))


def idle_valve_pct(spec: EngineSpec, coolant_c: float) -> float:
    """Return the idle-valve opening that holds the idle target.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    coolant_c : float
        Coolant temperature. [°C]

    Returns
    -------
    float
        Opening, 2 to 95. [%]
    """
    stop_gps = expected_stop_gps(spec)
    needed = idle_air_gps(spec, idle_target_rpm(spec, coolant_c), coolant_c) - stop_gps
    return min(95.0, max(2.0, 100.0 * needed / open_valve_gps(spec)))


def idle_map_kpa(spec: EngineSpec, coolant_c: float = _WARM_C) -> float:
    """Return the manifold pressure expected at idle.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    coolant_c : float
        Coolant temperature. [°C]

    Returns
    -------
    float
        Where the engine draws just the air that friction needs: VE·p = s·p − y solved for p; at
        most barometric. [kPa]
    """
    rpm = idle_target_rpm(spec, coolant_c)
    chamber_g = idle_air_gps(spec, rpm, coolant_c) / (spec.firings_per_turn * rpm / 60.0)
    filled_kpa = chamber_g * DRY_AIR_GAS_CONSTANT * _IDLE_CHARGE_K / spec.chamber_l
    pressure = (filled_kpa + residual_pressure_kpa(spec, rpm)) / (ve_slope_pct(spec, rpm) / 100.0)
    return min(spec.barometric_kpa, pressure)

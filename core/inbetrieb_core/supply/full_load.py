"""What an engine draws at full load: air, fuel, pulse and duty."""

from __future__ import annotations

import functools
import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..air import REFERENCE_CHARGE_K, air_per_chamber_g
from ..charge import lambda_target, ve_pct
from ..engine import EngineSpec
from ..injectors import (
    differential_pressure_kpa,
    duty_pct,
    flow_at_pressure,
    flow_of_blend,
)

#: Battery voltage of a running engine, at which dead times are read. [V]
RUNNING_V = 14.0
#: How much thinner warm charge is than air at the reference state (common practice, no source).
_CHARGE_THINNER = 1.06
#: Isentropic efficiency of a charger, and what its cooler takes away of the rise (assumed). [–]
_CHARGER_EFFICIENCY = 0.70
_COOLED_SHARE = {"none": 0.0, "air": 0.65, "water": 0.75}


@dataclass(frozen=True)
class FullLoad:
    """Full load at one speed and boost.

    Attributes
    ----------
    rpm : float
        [1/min]
    map_kpa : float
        Manifold pressure, absolute. [kPa]
    air_gps, fuel_gps : float
        Of the whole engine. [g/s]
    fuel_l_h : float
        [l/h]
    mixture : float
        Lambda of the target. [–]
    pulse_ms, duty_pct : float
        Of each injector, dead time included; infinite where the rail cannot push against the
        manifold. [ms, %]
    """

    rpm: float
    map_kpa: float
    air_gps: float
    fuel_gps: float
    fuel_l_h: float
    mixture: float
    pulse_ms: float
    duty_pct: float


def full_load(spec: EngineSpec, rpm: float, boost_kpa: float | None = None) -> FullLoad:
    """Return what the engine draws at full load.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    rpm : float
        Shaft speed, above 0. [1/min]
    boost_kpa : float or None
        Above barometric; the engine's highest by default. [kPa]

    Notes
    -----
    Volumetric efficiency and mixture are those of the generated base maps; the charge is 6 %
    thinner than at the reference state, and warmed by the charger (:func:`charge_k`).
    """
    boost = spec.boost_kpa if boost_kpa is None else boost_kpa
    map_kpa = spec.barometric_kpa + boost
    mixture = lambda_target(spec, rpm, map_kpa)
    chamber_g = air_per_chamber_g(
        ve_pct(spec, rpm, map_kpa), map_kpa, spec.chamber_l, charge_k(spec, map_kpa)
    )
    air_gps = chamber_g * spec.firings_per_turn * rpm / 60.0
    fuel_gps = air_gps / spec.fuel.stoichiometric_afr / mixture
    open_ms = open_time_ms(spec, chamber_g / spec.fuel.stoichiometric_afr / mixture, map_kpa)
    pulse = open_ms + running_dead_time_ms(spec)
    return FullLoad(
        rpm,
        map_kpa,
        air_gps,
        fuel_gps,
        fuel_gps * 3600.0 / spec.fuel.density_kg_m3,
        mixture,
        pulse,
        duty_pct(pulse, rpm, spec.injections_per_cycle, spec.turns_per_cycle),
    )


def charge_k(spec: EngineSpec, map_kpa: float) -> float:
    """Return the charge temperature at full load.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    map_kpa : float
        Manifold pressure, absolute. [kPa]

    Returns
    -------
    float
        Warm engine air, plus what compression adds and the cooler leaves:
        T·((p/p₀)^0.286 − 1)/η·(1 − ε), isentropic (Heywood, eq. 6.42, memory). [K]
    """
    ratio = max(1.0, map_kpa / spec.barometric_kpa)
    rise = REFERENCE_CHARGE_K * (math.pow(ratio, 0.286) - 1.0) / _CHARGER_EFFICIENCY
    return REFERENCE_CHARGE_K * _CHARGE_THINNER + rise * (1.0 - _COOLED_SHARE[spec.charge_cooling])


def open_time_ms(spec: EngineSpec, chamber_fuel_g: float, map_kpa: float) -> float:
    """Return how long each injector must be open for a chamber's fuel, dead time not included.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    chamber_fuel_g : float
        Fuel of one combustion event. [g]
    map_kpa : float
        Manifold pressure, absolute; an injector above the throttle sees outside air. [kPa]

    Returns
    -------
    float
        Open time, infinite where the rail cannot push against the manifold. [ms]
    """
    tip = spec.barometric_kpa if spec.wet_manifold else map_kpa
    across = differential_pressure_kpa(
        spec.rail_pressure_kpa,
        tip,
        spec.barometric_kpa,
        manifold_referenced=spec.manifold_referenced,
    )
    entered = flow_of_blend(spec.injectors.flow_cm3_min, spec.fuel)
    flow = flow_at_pressure(entered, spec.injectors.rated_pressure_kpa, across)
    if flow <= 0.0:
        return math.inf
    cycle_cm3 = chamber_fuel_g * spec.chambers / spec.fuel.density_kg_m3 * 1000.0
    events = spec.injectors.count * spec.injections_per_cycle
    return cycle_cm3 / events / flow * 60_000.0


@functools.lru_cache(maxsize=256)
def running_dead_time_ms(spec: EngineSpec) -> float:
    """Return the injectors' dead time on a running engine's voltage. [ms]"""
    return spec.injectors.dead_time.on_axis((RUNNING_V,))[0][0]


def speeds(spec: EngineSpec, count: int = 25) -> tuple[float, ...]:
    """Return even speeds from a quarter of the rev limit up to it. [1/min]"""
    return tuple(
        float(n) for n in np.linspace(0.25 * spec.rev_limit_rpm, spec.rev_limit_rpm, count)
    )


def hardest(spec: EngineSpec) -> FullLoad:
    """Return the full-load point at which the injectors are open longest."""
    return max((full_load(spec, rpm) for rpm in speeds(spec)), key=lambda point: point.duty_pct)


def boost_steps(spec: EngineSpec) -> tuple[float, ...]:
    """Return the boosts worth drawing: none, half and all of the engine's own. [kPa]"""
    return (0.0,) if spec.boost_kpa <= 0 else (0.0, 0.5 * spec.boost_kpa, spec.boost_kpa)


def possible(duty_pct: float) -> float | None:
    """Return a duty [%], None where the rail cannot push against the manifold at all."""
    return duty_pct if math.isfinite(duty_pct) else None


@dataclass(frozen=True)
class DutyLine:
    """Duty over speed at one boost: boost [kPa], speeds [1/min], duties [%]; a duty is None where
    the rail cannot push against the manifold."""

    boost_kpa: float
    rpm: tuple[float, ...]
    duty_pct: tuple[float | None, ...]


def duty_lines(spec: EngineSpec, boosts: Sequence[float] | None = None) -> tuple[DutyLine, ...]:
    """Return duty over speed, one line for each boost [kPa]."""
    chosen = boost_steps(spec) if boosts is None else boosts
    rpm = speeds(spec)
    return tuple(
        DutyLine(boost, rpm, tuple(possible(full_load(spec, n, boost).duty_pct) for n in rpm))
        for boost in chosen
    )


#: Fuel per work at full load, petrol (common practice, no source; 0.5 and 0.6 lb per
#: horsepower-hour for piston engines, a tenth more for rotors). [g/kWh]
_SPECIFIC_FUEL = {
    ("four_stroke", "natural"): 304.0,
    ("four_stroke", "boosted"): 365.0,
    ("rotary", "natural"): 335.0,
    ("rotary", "boosted"): 400.0,
}


def specific_fuel_g_kwh(spec: EngineSpec) -> float:
    """Return fuel per work at full load; a blend needs more as its air–fuel ratio is lower. [g/kWh]"""
    petrol = _SPECIFIC_FUEL[spec.cycle, spec.induction]
    plain = replace(spec, ethanol_volume_share=0.0)
    return petrol * plain.fuel.stoichiometric_afr / spec.fuel.stoichiometric_afr


def power_kw(spec: EngineSpec, fuel_gps: float) -> float:
    """Return the power that a fuel flow [g/s] carries at full load, at the shaft. [kW]"""
    return fuel_gps * 3600.0 / specific_fuel_g_kwh(spec)


def injector_power_kw(spec: EngineSpec, duty_limit_pct: float) -> float:
    """Return the largest power the injectors carry.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    duty_limit_pct : float
        How long they may be open. [%]

    Returns
    -------
    float
        At the speed and boost of the hardest point; its dead time is taken off. [kW]
    """
    point = hardest(spec)
    if not math.isfinite(point.duty_pct):
        return 0.0
    lost = duty_pct(
        running_dead_time_ms(spec), point.rpm, spec.injections_per_cycle, spec.turns_per_cycle
    )
    reachable = max(0.0, duty_limit_pct - lost) / (point.duty_pct - lost)
    return power_kw(spec, point.fuel_gps * reachable)

"""Flow at the real pressure, reference pulse, duty, and flow in other units."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from ..air import REFERENCE_CHARGE_K, REFERENCE_PRESSURE_KPA, air_per_chamber_g
from ..errors import OutOfRangeError
from ..fuel import ETHANOL_KG_M3, PETROL_KG_M3, Fuel

DUTY_LIMIT_PCT = 85.0
POUND_G = 453.59237

FlowUnit = Literal["cm³/min", "lb/h", "g/s"]


@dataclass(frozen=True)
class Fluid:
    """A fluid in which injectors are rated: wording and density at about 20 °C [kg/m³]."""

    title: str
    density_kg_m3: float


#: Densities (memory); the hydrocarbon of test benches is n-heptane.
FLUIDS: dict[str, Fluid] = {
    "petrol": Fluid("petrol", PETROL_KG_M3),
    "test_fluid": Fluid("test fluid (n-heptane)", 684.0),
    "ethanol": Fluid("ethanol", ETHANOL_KG_M3),
}


def differential_pressure_kpa(
    rail_gauge_kpa: float, map_kpa: float, barometric_kpa: float, *, manifold_referenced: bool
) -> float:
    """Return the pressure across an injector.

    Parameters
    ----------
    rail_gauge_kpa : float
        Rail pressure above the air outside; with a manifold-referenced regulator, above the
        manifold. [kPa]
    map_kpa : float
        Manifold pressure, absolute. [kPa]
    barometric_kpa : float
        Air pressure outside, absolute. [kPa]
    manifold_referenced : bool
        Whether the regulator follows manifold pressure.

    Returns
    -------
    float
        Pressure difference, never below 0. [kPa]
    """
    if manifold_referenced:
        return max(rail_gauge_kpa, 0.0)
    return max(rail_gauge_kpa + barometric_kpa - map_kpa, 0.0)


def flow_at_pressure(rated_flow: float, rated_kpa: float, actual_kpa: float) -> float:
    """Return the static flow at another pressure: Q = Q_rated·√(Δp/Δp_rated).

    Parameters
    ----------
    rated_flow : float
        Static flow at the rated pressure. [cm³/min]
    rated_kpa : float
        Pressure difference of the rating, above 0. [kPa]
    actual_kpa : float
        Real pressure difference, 0 or more. [kPa]

    Returns
    -------
    float
        Static flow at the real pressure. [cm³/min]

    Raises
    ------
    OutOfRangeError
        If the rated pressure is not above 0, or the real one is negative.
    """
    if not rated_kpa > 0.0:
        raise OutOfRangeError("rated_kpa", rated_kpa, 0.0, math.inf, "kPa")
    if not actual_kpa >= 0.0:
        raise OutOfRangeError("actual_kpa", actual_kpa, 0.0, math.inf, "kPa")
    return rated_flow * math.sqrt(actual_kpa / rated_kpa)


def pounds_per_hour(flow_cm3_min: float, density_kg_m3: float) -> float:
    """Return a volume flow as mass flow.

    Parameters
    ----------
    flow_cm3_min : float
        Volume flow. [cm³/min]
    density_kg_m3 : float
        Density of the fluid. [kg/m³]

    Returns
    -------
    float
        Mass flow. [lb/h]
    """
    return flow_cm3_min * density_kg_m3 / 1000.0 * 60.0 / POUND_G


def cm3_per_minute(flow_lb_h: float, density_kg_m3: float) -> float:
    """Return a mass flow as volume flow; the inverse of :func:`pounds_per_hour`.

    Parameters
    ----------
    flow_lb_h : float
        Mass flow. [lb/h]
    density_kg_m3 : float
        Density of the fluid, above 0. [kg/m³]

    Returns
    -------
    float
        Volume flow. [cm³/min]
    """
    return flow_lb_h * POUND_G / 60.0 * 1000.0 / density_kg_m3


def reference_pulse_ms(
    *,
    displacement_l: float,
    injector_count: int,
    injections_per_cycle: int,
    flow_cm3_min: float,
    fuel: Fuel,
    pressure_kpa: float = REFERENCE_PRESSURE_KPA,
    charge_k: float = REFERENCE_CHARGE_K,
) -> float:
    """Return the fuel pulse for 100 % volumetric efficiency at lambda 1, without dead time.

    Parameters
    ----------
    displacement_l : float
        All chambers together: every cylinder, or one chamber per rotor. [l]
    injector_count : int
        Injectors that share the fuel. [–]
    injections_per_cycle : int
        Times each injector opens per engine cycle. [–]
    flow_cm3_min : float
        Static flow of one injector at the real pressure difference. [cm³/min]
    fuel : Fuel
        The blend in the tank.
    pressure_kpa, charge_k : float
        The reference state the controller declares. [kPa, K]

    Returns
    -------
    float
        Open time per injection, dead time not included. [ms]

    Raises
    ------
    OutOfRangeError
        If flow or a count is not above 0.
    """
    if not flow_cm3_min > 0.0:
        raise OutOfRangeError("flow_cm3_min", flow_cm3_min, 0.0, math.inf, "cm³/min")
    events = injector_count * injections_per_cycle
    if events < 1:
        raise OutOfRangeError("injections", events, 1, math.inf, "per cycle")
    air_g = air_per_chamber_g(100.0, pressure_kpa, displacement_l, charge_k)
    fuel_cm3 = air_g / fuel.stoichiometric_afr / fuel.density_kg_m3 * 1000.0
    return fuel_cm3 / events / flow_cm3_min * 60_000.0


def duty_pct(
    pulse_ms: float, rpm: float, injections_per_cycle: int, turns_per_cycle: int = 2
) -> float:
    """Return the share of time an injector is open.

    Parameters
    ----------
    pulse_ms : float
        Whole pulse with dead time. [ms]
    rpm : float
        Shaft speed. [1/min]
    injections_per_cycle : int
        Injections in one engine cycle. [–]
    turns_per_cycle : int
        Shaft turns of one cycle: 2 for a four-stroke, 1 for a rotary. [–]

    Returns
    -------
    float
        Duty; above 100 means the injector cannot deliver it. [%]
    """
    return pulse_ms * rpm * injections_per_cycle / (600.0 * turns_per_cycle)


def volume_flow_cm3_min(flow: float, unit: FlowUnit, density_kg_m3: float) -> float:
    """Return a flow in cm³/min, whatever unit it was given in.

    Parameters
    ----------
    flow : float
        As given. [unit]
    unit : {"cm³/min", "lb/h", "g/s"}
        Its unit.
    density_kg_m3 : float
        Density of the fluid it was measured with; needed for a mass flow. [kg/m³]
    """
    if unit == "lb/h":
        return cm3_per_minute(flow, density_kg_m3)
    if unit == "g/s":
        return flow * 60.0 * 1000.0 / density_kg_m3
    return flow


def flow_of_petrol(flow_cm3_min: float, density_kg_m3: float) -> float:
    """Return the volume flow of petrol through an injector rated with another fluid.

    Parameters
    ----------
    flow_cm3_min : float
        Volume flow of the fluid it was measured with. [cm³/min]
    density_kg_m3 : float
        Density of that fluid. [kg/m³]

    Notes
    -----
    An orifice passes Q ∝ √(2·Δp/ρ): the same pressure drives more of a lighter fluid.
    """
    return flow_cm3_min * math.sqrt(density_kg_m3 / PETROL_KG_M3)


def flow_of_blend(flow_cm3_min: float, fuel: Fuel) -> float:
    """Return what passes of a blend where so much petrol passes: Q·√(ρ_petrol/ρ).

    Parameters
    ----------
    flow_cm3_min : float
        Static flow of petrol. [cm³/min]
    fuel : Fuel
        What is in the tank.

    Returns
    -------
    float
        Static flow of the blend at the same pressure. [cm³/min]
    """
    return flow_cm3_min * math.sqrt(PETROL_KG_M3 / fuel.density_kg_m3)

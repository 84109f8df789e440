"""Injectors: flow at the real pressure, reference pulse, dead time, duty."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.interpolate import PchipInterpolator

from .air import REFERENCE_CHARGE_K, REFERENCE_PRESSURE_KPA, air_per_chamber_g
from .errors import CoreError, OutOfRangeError
from .fuel import Fuel

DUTY_LIMIT_PCT = 85.0
POUND_G = 453.59237


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


DeadTimeOrigin = Literal["data", "interpolated", "held", "extrapolated"]


@dataclass(frozen=True)
class DeadTimeCurve:
    """Dead time of an injector against battery voltage.

    Attributes
    ----------
    voltage_v : tuple of float
        Rising. [V]
    dead_time_ms : tuple of float
        Dead time at each voltage, above or equal 0. [ms]

    Raises
    ------
    CoreError
        If lengths differ, voltages do not rise, or a value is not finite or negative.
    """

    voltage_v: tuple[float, ...]
    dead_time_ms: tuple[float, ...]

    def __post_init__(self) -> None:
        if len(self.voltage_v) != len(self.dead_time_ms) or not self.voltage_v:
            raise CoreError("dead time needs one value for each voltage, at least one pair")
        values = np.array([self.voltage_v, self.dead_time_ms], dtype=float)
        if not np.isfinite(values).all() or (values[1] < 0).any():
            raise CoreError("dead time and voltage must be finite numbers, dead time not negative")
        if (np.diff(values[0]) <= 0).any():
            raise CoreError("the voltages of the dead-time curve must rise from point to point")

    def rising_points(self) -> tuple[float, ...]:
        """Return the voltages at which dead time rises with voltage, which no injector does. [V]"""
        return tuple(
            self.voltage_v[i + 1]
            for i in range(len(self.voltage_v) - 1)
            if self.dead_time_ms[i + 1] > self.dead_time_ms[i]
        )

    def on_axis(
        self, axis_v: tuple[float, ...]
    ) -> tuple[tuple[float, ...], tuple[DeadTimeOrigin, ...]]:
        """Return the dead time at other voltages, each with how it was obtained.

        Parameters
        ----------
        axis_v : tuple of float
            The controller's own axis. [V]

        Returns
        -------
        values : tuple of float
            Dead time. [ms]
        origins : tuple of str
            ``data``, ``interpolated`` (PCHIP: shape-preserving), ``extrapolated`` (a + b/V
            through the two nearest points, not below zero) or ``held`` (where that would
            rise with voltage, or only one point is known).
        """
        volts = np.array(self.voltage_v)
        times = np.array(self.dead_time_ms)
        inside = PchipInterpolator(volts, times) if len(volts) > 1 else None
        values: list[float] = []
        origins: list[DeadTimeOrigin] = []
        for volt in axis_v:
            match = np.flatnonzero(np.isclose(volts, volt))
            if match.size:
                values.append(float(times[match[0]]))
                origins.append("data")
            elif inside is not None and volts[0] < volt < volts[-1]:
                values.append(float(inside(volt)))
                origins.append("interpolated")
            else:
                value, origin = _outside(volts, times, volt)
                values.append(value)
                origins.append(origin)
        return tuple(values), tuple(origins)


def _outside(volts: np.ndarray, times: np.ndarray, volt: float) -> tuple[float, DeadTimeOrigin]:
    """Return dead time beyond the data by a + b/V through the two nearest points."""
    low = volt < volts[0]
    held = float(times[0] if low else times[-1])
    if len(volts) < 2:
        return held, "held"
    first, second = (0, 1) if low else (-2, -1)
    slope = (times[second] - times[first]) / (1.0 / volts[second] - 1.0 / volts[first])
    value = times[first] + slope * (1.0 / volt - 1.0 / volts[first])
    if slope < 0.0:
        return held, "held"
    return float(max(value, 0.0)), "extrapolated"


#: A middling saturated port injector (assumed, no published source): used where no data
#: sheet is at hand, and marked so.
ASSUMED_DEAD_TIME = DeadTimeCurve((8.0, 10.0, 12.0, 14.0, 16.0), (2.45, 1.66, 1.20, 0.92, 0.74))

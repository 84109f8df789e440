"""What the bench engine really is, hidden from the analysis that has to find it out."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

from ..charge.filling import Filling
from ..engine import EngineSpec


@dataclass(frozen=True)
class EngineTruth:
    """The physical engine, as distinct from what somebody entered about it.

    Attributes
    ----------
    hardware : EngineSpec
        The parts really fitted.
    ve_scale, ve_speed, ve_load : float
        True volumetric efficiency against the generator's: factor, slope over ln(rpm/2000)
        and slope over manifold pressure/100 kPa. [–]
    friction_scale, efficiency_scale : float
        Friction and work per gram of air against the middling engine. [–]
    flow_scale : float
        True injector flow over the fitted injector's data sheet. [–]
    dead_time_offset_ms : float
        True dead time minus data sheet. [ms]
    vapour_shift_k : float
        The fuel vaporises as if the walls were this much warmer. [K]
    film_share : float
        Share of injected fuel that hits a wall (X of the film model). [–]
    film_time_s : float
        Evaporation time of the warm film (τ of the film model). [s]
    valve_full_gps, stop_gps : float
        Air through the open idle valve, and past the closed throttle. [g/s]
    inertia_kgm2 : float
        Of shaft, flywheel and clutch. [kg·m²]
    starter_stall_nm, starter_free_rpm : float
        Starter torque at standstill and speed without load, at the crankshaft and 12 V.
    battery_rest_v, battery_ohm : float
        Open-circuit voltage, and resistance at 25 °C.
    rail_time_s : float
        Time constant of pressure build-up. [s]
    sync_delay_s : float
        From first turning to known position. [s]
    sensor_ready_s : float
        From key-on to a usable lambda reading in a mild climate. [s]
    idle_trim : bool
        Whether the controller trims the valve without limit towards the target.
    charging_v : float
        That the alternator holds. [V]
    rail_leak_s : float
        In which two thirds of the fuel pressure leak away at rest; matters to a live session only. [s]
    timing_offset_deg : float
        By which the spark comes earlier than it is commanded. [°]
    stuck_lambda : float or None
        What a broken wideband sends whatever burns; None for a sound one. [–]
    leak_gps, port_leak_gps : float
        Air past the throttle, and at the port of one cylinder, at standard conditions. [g/s]
    return_spread_pct : float
        How far the throttle comes to rest apart; matters to a live session only. [%]
    map_reads_low_kpa : float
        By which the manifold sensor reads too low. [kPa]
    oil_fills_turns, oil_relief_kpa : float
        Turns until the galleries hold oil, and the pressure of the relief valve. [–, kPa]
    """

    hardware: EngineSpec
    valve_full_gps: float
    stop_gps: float
    ve_scale: float = 1.0
    ve_speed: float = 0.0
    ve_load: float = 0.0
    friction_scale: float = 1.0
    efficiency_scale: float = 1.0
    flow_scale: float = 1.0
    dead_time_offset_ms: float = 0.0
    vapour_shift_k: float = 0.0
    film_share: float = 0.35
    film_time_s: float = 0.25
    inertia_kgm2: float = 0.18
    starter_stall_nm: float = 120.0
    starter_free_rpm: float = 330.0
    battery_rest_v: float = 12.6
    battery_ohm: float = 0.008
    rail_time_s: float = 0.35
    sync_delay_s: float = 0.25
    sensor_ready_s: float = 12.0
    idle_trim: bool = False
    charging_v: float = 14.1
    rail_leak_s: float = 1200.0
    timing_offset_deg: float = 0.0
    stuck_lambda: float | None = None
    leak_gps: float = 0.0
    port_leak_gps: float = 0.0
    return_spread_pct: float = 0.0
    map_reads_low_kpa: float = 0.0
    oil_fills_turns: float = 12.0
    oil_relief_kpa: float = 420.0


def true_ve_pct(truth: EngineTruth, rpm: float, map_kpa: float) -> float:
    """Return the volumetric efficiency that a bench engine really has.

    Parameters
    ----------
    truth : EngineTruth
        The engine.
    rpm : float
        Shaft speed, above 0. [1/min]
    map_kpa : float
        Manifold pressure, absolute, above 0. [kPa]
    """
    return true_filling(truth)(rpm, map_kpa)


def true_filling(truth: EngineTruth) -> Callable[[float, float], float]:
    """Return :func:`true_ve_pct` of one engine as a fast reader over speed and manifold pressure. [1/min, kPa → %]"""
    filling = Filling.of(truth.hardware)
    scale, speed, load = truth.ve_scale, truth.ve_speed, truth.ve_load

    def read(rpm: float, map_kpa: float) -> float:
        efficiency = filling.ve_pct(rpm, map_kpa) * scale
        efficiency *= 1.0 + speed * math.log(rpm / 2000.0)
        return efficiency * (1.0 + load * (map_kpa / 100.0 - 0.6))

    return read

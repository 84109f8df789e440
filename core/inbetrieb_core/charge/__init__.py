"""What goes into a chamber: filling, mixture, idle air, and fuel on cold walls. Numbers only."""

from .cold_fuel import WARM_C
from .filling import full_load_ve_pct, residual_pressure_kpa, ve_pct
from .idle_air import (
    expected_stop_gps,
    idle_air_gps,
    idle_map_kpa,
    idle_target_rpm,
    open_valve_gps,
    valve_full_gps,
    warm_idle_rpm,
)
from .mixture import lambda_target
from .speed_density import speed_density_gps
from .start_values import START_RULES, expected_start_value

__all__ = [
    "START_RULES",
    "WARM_C",
    "expected_start_value",
    "expected_stop_gps",
    "full_load_ve_pct",
    "idle_air_gps",
    "idle_map_kpa",
    "idle_target_rpm",
    "lambda_target",
    "residual_pressure_kpa",
    "speed_density_gps",
    "open_valve_gps",
    "valve_full_gps",
    "ve_pct",
    "warm_idle_rpm",
]

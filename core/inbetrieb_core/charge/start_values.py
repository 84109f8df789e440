"""What engine data alone suggest for each start table."""

from __future__ import annotations

from collections.abc import Callable

from ..engine import EngineSpec
from . import cold_fuel, idle_air

START_RULES: dict[str, Callable[[EngineSpec, float], float]] = {
    "prime_pulse": cold_fuel.prime_pulse_ms,
    "cranking_fuel": cold_fuel.cranking_fuel_pct,
    "after_start_enrichment": cold_fuel.after_start_pct,
    "after_start_fade": cold_fuel.after_start_fade_s,
    "warm_up_enrichment": cold_fuel.warm_up_pct,
    "cranking_air": cold_fuel.cranking_air_pct,
    "idle_valve": idle_air.idle_valve_pct,
    "idle_target": idle_air.idle_target_rpm,
}


def expected_start_value(spec: EngineSpec, key: str, coolant_c: float) -> float:
    """Return what engine data alone suggest for a start table at a temperature.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    key : str
        Key of a start table.
    coolant_c : float
        Coolant temperature. [°C]

    Returns
    -------
    float
        The generator's value: the expectation that evidence has to move. [unit of the table]
    """
    return START_RULES[key](spec, coolant_c)

"""The base calibration of an engine: every table, every cell with its reason."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

import numpy as np

from ..engine import EngineSpec
from ..fuel import vaporised_share
from ..tables import (
    DEFINITIONS,
    START_TABLES,
    Axis,
    Calibration,
    Provenance,
    ProvenanceKind,
    Table,
)
from ..tables.assumed_dwell import assumed_dwell
from . import combustion, efficiency, idle, starting
from .axes import choose_axes

_START_RULES: dict[str, Callable[[EngineSpec, float], float]] = {
    "prime_pulse": starting.prime_pulse_ms,
    "cranking_fuel": starting.cranking_fuel_pct,
    "after_start_enrichment": starting.after_start_pct,
    "after_start_fade": starting.after_start_fade_s,
    "warm_up_enrichment": starting.warm_up_pct,
    "cranking_air": starting.cranking_air_pct,
    "idle_valve": idle.idle_valve_pct,
    "idle_target": idle.idle_target_rpm,
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
    return _START_RULES[key](spec, coolant_c)


_MAP_RULES: dict[str, tuple[Callable[[EngineSpec, float, float], float], ProvenanceKind, str]] = {
    "ve": (
        efficiency.ve_pct,
        "calculated",
        "Mean-value charge model VE·p = s·p − y from cam, valves, compression and torque peak.",
    ),
    "lambda_target": (
        combustion.lambda_target,
        "assumed",
        "Idle by the chosen school, 1.0 at cruise, richer with load and boost.",
    ),
    "spark": (
        combustion.spark_deg,
        "assumed",
        "Conservative advance from compression, load, speed and fuel; no knock margin is known.",
    ),
}


def generate(spec: EngineSpec, axes: Mapping[str, Sequence[float]] | None = None) -> Calibration:
    """Return the base calibration computed from engine data alone.

    Parameters
    ----------
    spec : EngineSpec
        The engine; it is checked first.
    axes : mapping of axis name to breakpoints, optional
        The controller's own axes.

    Returns
    -------
    Calibration
        All tables; every cell marked assumed, calculated or data sheet, with its reason.

    Raises
    ------
    InputRefused
        If a field is not physically possible or breakpoints do not rise.
    """
    spec.check()
    chosen = choose_axes(spec, axes)
    tables = {key: _start_table(spec, key, chosen["coolant_c"]) for key in START_TABLES}
    for key in _MAP_RULES:
        tables[key] = _map_table(spec, key, chosen["rpm"], chosen["map_kpa"])
    tables["dead_time"] = dead_time_table(spec, chosen["battery_v"])
    tables["dwell"] = assumed_dwell(chosen["battery_v"])
    return Calibration(tables)


def _start_table(spec: EngineSpec, key: str, axis: Axis) -> Table:
    definition = DEFINITIONS[key]
    rule = _START_RULES[key]
    values = np.array([_held(definition.key, rule(spec, point)) for point in axis.points])
    marks = np.empty(len(axis.points), dtype=object)
    for i, point in enumerate(axis.points):
        marks[i] = Provenance("assumed", _start_reason(spec, key, point))
    return Table(key, (axis,), values, marks)


def _held(key: str, value: float) -> float:
    """Return a generated value on the table's resolution and within its bounds."""
    definition = DEFINITIONS[key]
    value = min(max(value, definition.lower), definition.upper)
    return round(round(value / definition.resolution) * definition.resolution, 6)


def _start_reason(spec: EngineSpec, key: str, coolant_c: float) -> str:
    """Return the formula of a start table with this engine's numbers."""
    share = vaporised_share(spec.fuel, coolant_c, spec.wet_manifold)
    vapour = f"about {100 * share:.0f} % of the fuel vaporises at {coolant_c:g} °C (assumed)"
    target = idle.idle_target_rpm(spec, coolant_c)
    air = idle.idle_air_gps(spec, target, coolant_c)
    school = "a real prime shot" if spec.schools.prime == "shot" else "almost no prime"
    return {
        "prime_pulse": f"{school.capitalize()}; reference pulse {spec.reference_pulse_ms:.2f} ms; "
        f"{vapour}.",
        "cranking_fuel": f"Cold air charge at 80 % filling, lambda {starting.CRANKING_LAMBDA:g}; "
        f"{vapour}.",
        "after_start_enrichment": f"Walls still fill after the first firing; {vapour}.",
        "after_start_fade": f"Longer the less vaporises; {vapour}.",
        "warm_up_enrichment": f"Fuel that a running cold engine never burns; {vapour}; "
        f"none from {starting.WARM_C:g} °C.",
        "cranking_air": "More air for thicker oil and a bigger cam; common practice, assumed.",
        "idle_valve": f"Friction at {coolant_c:g} °C oil and {target:.0f} rpm needs {air:.2f} g/s; "
        f"fully open valve taken as {idle.valve_full_gps(spec):.1f} g/s.",
        "idle_target": f"Warm {idle.warm_idle_rpm(spec):.0f} rpm "
        f"({spec.schools.idle_speed} school), raised below 60 °C.",
    }[key]


def _map_table(spec: EngineSpec, key: str, rpm: Axis, pressure: Axis) -> Table:
    rule, kind, reason = _MAP_RULES[key]
    values = np.array([[_held(key, rule(spec, n, p)) for p in pressure.points] for n in rpm.points])
    marks = np.empty(values.shape, dtype=object)
    marks[...] = Provenance(kind, reason)
    return Table(key, (rpm, pressure), values, marks)


def dead_time_table(spec: EngineSpec, axis: Axis) -> Table:
    """Return the injectors' dead time on the controller's own voltage axis, each cell explained."""
    times, origins = spec.injectors.dead_time.on_axis(axis.points)
    marks = np.empty(len(times), dtype=object)
    for i, origin in enumerate(origins):
        how = {
            "data": "a point of the curve",
            "interpolated": "between the curve's points, shape kept",
            "extrapolated": "outside the curve, by a + b/V",
            "held": "outside the curve, end value held",
        }[origin]
        if spec.injectors.dead_time_assumed:
            marks[i] = Provenance("assumed", f"A middling injector's curve, no data sheet: {how}.")
        elif origin == "data":
            marks[i] = Provenance("data_sheet", f"Entered with the injectors: {how}.")
        else:
            kind: ProvenanceKind = "calculated" if origin == "interpolated" else "assumed"
            marks[i] = Provenance(kind, f"From the entered curve: {how}.")
    values = np.array([_held("dead_time", time) for time in times])
    return Table("dead_time", (axis,), values, marks)

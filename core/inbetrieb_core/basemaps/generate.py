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
    filled,
)
from ..tables.assumed_dwell import assumed_dwell
from . import boost, combustion, efficiency, idle, limits, starting
from .axes import choose_axes
from .second_cam import second_profile, switch_over_rpm

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


MapRule = tuple[Callable[[EngineSpec, float, float], float], ProvenanceKind, str]

_MAP_RULES: dict[str, MapRule] = {
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
_SECOND_CAM = "For the second cam profile, taken as one class wilder with its torque higher up. "
_BOOST_RULES: dict[str, MapRule] = {
    "boost_target": (
        boost.boost_target_kpa,
        "assumed",
        "Highest boost, less where there is less ethanol, and never before the charger can make it.",
    ),
    "boost_duty": (boost.boost_duty_pct, "assumed", ""),
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
        All tables that such an engine has; every cell marked assumed, calculated or data sheet, with its reason.

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
    tables |= _limits(spec, chosen["coolant_c"])
    if spec.boost_kpa > 0.0:
        tables |= _boost(spec, chosen["rpm"], chosen["ethanol_pct"])
    if spec.cam_profiles == 2:
        tables |= _second_cam(spec, chosen["rpm"], chosen["map_kpa"])
    return Calibration(tables)


def _limits(spec: EngineSpec, coolant: Axis) -> dict[str, Table]:
    """Return rev limit and settings, low for an engine that nobody has heard run."""
    tables = {}
    values = np.array([_held("rev_limit", limits.rev_limit_rpm(spec, c)) for c in coolant.points])
    speed = spec.piston_speed_at_limit_m_s
    why = (
        f"At most {limits.first_limit_rpm(spec):.0f} rpm until the engine is proven (its own limit is "
        f"{spec.rev_limit_rpm:.0f}"
        + ("" if speed is None else f", {speed:.1f} m/s mean piston speed")
        + "); lower while it is cold or too hot."
    )
    marks = filled(values.shape, Provenance("assumed", why))
    tables["rev_limit"] = Table("rev_limit", (coolant,), values, marks)
    for key, rule in limits.SETTING_RULES.items():
        tables[key] = setting(key, *rule(spec))
    return tables


def setting(key: str, value: float, kind: ProvenanceKind, reason: str, source: str = "") -> Table:
    """Return a single number as a table without axes, on its resolution and within its bounds.

    Parameters
    ----------
    key : str
        Of a definition without axes.
    value : float
        [unit of the table]
    kind, reason, source : str
        Its provenance.
    """
    mark = filled((), Provenance(kind, reason, source))
    return Table(key, (), np.array(_held(key, value)), mark)


def _boost(spec: EngineSpec, rpm: Axis, ethanol: Axis) -> dict[str, Table]:
    """Return boost target, duty and cut; targets that waves of the charger cannot fill are left out."""
    tables = {}
    duty_why = (
        "0 % until wastegate pressure is measured: the boost staircase begins there."
        if spec.wastegate_kpa is None
        else f"15 % and 50 % more per share of boost above wastegate pressure, {spec.wastegate_kpa:g} "
        f"kPa; {spec.schools.boost_control.replace('_', ' ')} school."
    )
    for key, (rule, kind, reason) in _BOOST_RULES.items():
        full = f" Full boost from {boost.full_boost_rpm(spec):.0f} rpm."
        tables[key] = _grid(
            spec, key, rule, kind, reason + full if reason else duty_why, rpm, ethanol
        )
    known = (
        f"wastegate pressure is known, so the highest boost of {spec.boost_kpa:g} kPa counts"
        if spec.wastegate_kpa is not None
        else f"wastegate pressure is not known yet, {limits.expected_wastegate_kpa(spec):g} kPa is taken"
    )
    why = (
        f"Barometric {spec.barometric_kpa:.0f} kPa + boost + {limits.CUT_ABOVE_KPA:g} kPa; {known}."
    )
    tables["boost_cut"] = setting("boost_cut", limits.boost_cut_kpa(spec), "assumed", why)
    return tables


def _second_cam(spec: EngineSpec, rpm: Axis, pressure: Axis) -> dict[str, Table]:
    """Return the second pair of maps and the switch-over speed to try."""
    second = second_profile(spec)
    tables = {}
    for key in ("ve", "spark"):
        rule, _, reason = _MAP_RULES[key]
        name = f"{key}_second_cam"
        tables[name] = _grid(second, name, rule, "assumed", _SECOND_CAM + reason, rpm, pressure)
    why = (
        "Where the second profile fills better in this model: a first guess, to be found by trying."
    )
    tables["cam_switch_rpm"] = setting("cam_switch_rpm", switch_over_rpm(spec), "assumed", why)
    return tables


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
    return _grid(spec, key, rule, kind, reason, rpm, pressure)


def _grid(
    spec: EngineSpec, key: str, rule: Callable[[EngineSpec, float, float], float],
    kind: ProvenanceKind, reason: str, down: Axis, across: Axis,
) -> Table:  # fmt: skip
    values = np.array([[_held(key, rule(spec, n, p)) for p in across.points] for n in down.points])
    return Table(key, (down, across), values, filled(values.shape, Provenance(kind, reason)))


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

"""The base calibration of an engine: every table, every cell with its reason."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

import numpy as np

from ..charge.charge_temperature import COOLANT_SHARE, sensor_only_pct
from ..charge.cold_fuel import (
    LONGEST_PRIME_MS,
    MOST_CRANKING_PCT,
    SETTLED_C,
    cranking_lambda,
    cranking_need_pct,
    prime_need_ms,
    throttle_body_share,
)
from ..charge.filling import ve_pct
from ..charge.idle_air import idle_air_gps, idle_target_rpm, valve_full_gps, warm_idle_rpm
from ..charge.mixture import lambda_target
from ..charge.start_values import START_RULES
from ..charge.wall_temperature import cranking_wall_c, running_wall_c, said_of_walls
from ..engine import EngineSpec
from ..fuel import vaporised_share
from ..sentences import celsius, kilopascal, quantity
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
from . import boost, limits
from .axes import choose_axes
from .second_cam import second_profile, switch_over_rpm
from .spark import spark_deg

MapRule = tuple[Callable[[EngineSpec, float, float], float], ProvenanceKind, str]

_MAP_RULES: dict[str, MapRule] = {
    "ve": (
        ve_pct,
        "calculated",
        "Mean-value charge model VE·p = s·p − y from cam, valves, compression and torque peak.",
    ),
    "lambda_target": (
        lambda_target,
        "assumed",
        "Idle by the chosen school, 1.0 at cruise, richer with load and boost.",
    ),
    "spark": (
        spark_deg,
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
        All tables that such an engine has; every cell marked assumed, calculated or data sheet, with its reason.

    Raises
    ------
    InputRefused
        If a field is not physically possible or breakpoints do not rise.
    """
    spec.check()
    chosen = choose_axes(spec, axes)
    made = {key: generated_table(spec, key, chosen) for key in DEFINITIONS}
    return Calibration({key: table for key, table in made.items() if table is not None})


def generated_like(spec: EngineSpec, calibration: Calibration) -> Calibration:
    """Return what engine data suggest, each table on the axes it has in a calibration.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    calibration : Calibration
        Its tables need not share their axes. Tables it lacks come on axes chosen for the engine.
    """
    return generated_on(spec, {key: table.axes for key, table in calibration.tables.items()})


def generated_on(spec: EngineSpec, axes: Mapping[str, tuple[Axis, ...]]) -> Calibration:
    """Return what engine data suggest, each table on axes of its own.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    axes : mapping of str to tuple of Axis
        By key of the table; tables that are not in it come on axes chosen for the engine.
    """
    usual = choose_axes(spec)
    made = {}
    for key in DEFINITIONS:
        own = axes.get(key, ())
        made[key] = generated_table(spec, key, usual | {axis.name: axis for axis in own})
    return Calibration({key: table for key, table in made.items() if table is not None})


def generated_table(spec: EngineSpec, key: str, axes: Mapping[str, Axis]) -> Table | None:
    """Return one table of the base calibration.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    key : str
        Of the table.
    axes : mapping of str to Axis
        Those that the table runs over, at least.

    Returns
    -------
    Table or None
        None where such an engine has no such table.
    """
    if key in START_TABLES:
        return _start_table(spec, key, axes["coolant_c"])
    if key in _MAP_RULES:
        return _grid(spec, key, *_MAP_RULES[key], axes["rpm"], axes["map_kpa"])
    if key == "dead_time":
        return dead_time_table(spec, axes["battery_v"])
    if key == "dwell":
        return assumed_dwell(axes["battery_v"])
    if key == "rev_limit":
        return _rev_limit(spec, axes["coolant_c"])
    if key in limits.SETTING_RULES:
        return setting(key, *limits.SETTING_RULES[key](spec))
    if spec.boost_kpa > 0.0 and key in ("boost_target", "boost_duty", "boost_cut"):
        return _boost(spec, key, axes)
    if key == "charge_temperature_correction" and spec.schools.charge == "sensor":
        return _charge_temperature(axes["intake_c"])
    if spec.cam_profiles == 2 and (key.endswith("_second_cam") or key == "cam_switch_rpm"):
        return _second_cam(spec, key, axes)
    return None


def _charge_temperature(intake: Axis) -> Table:
    """Return the correction of a controller that takes the intake sensor for the charge."""
    key = "charge_temperature_correction"
    values = np.array([_held(key, sensor_only_pct(c)) for c in intake.points])
    why = (
        f"The charge of a warm, idling engine has come {100 * COOLANT_SHARE:.0f} % of the way to its coolant "
        "(common practice); less at speed."
    )
    return Table(key, (intake,), values, filled(values.shape, Provenance("assumed", why)))


def _rev_limit(spec: EngineSpec, coolant: Axis) -> Table:
    values = np.array([_held("rev_limit", limits.rev_limit_rpm(spec, c)) for c in coolant.points])
    speed = spec.piston_speed_at_limit_m_s
    why = (
        f"At most {limits.first_limit_rpm(spec):.0f} rpm until the engine is proven (its own limit is "
        f"{spec.rev_limit_rpm:.0f}"
        + ("" if speed is None else f", {speed:.1f} m/s mean piston speed")
        + "); lower while it is cold or too hot."
    )
    marks = filled(values.shape, Provenance("assumed", why))
    return Table("rev_limit", (coolant,), values, marks)


def _boost(spec: EngineSpec, key: str, axes: Mapping[str, Axis]) -> Table:
    """Return boost target, duty or cut of a boosted engine."""
    known = spec.wastegate_kpa is not None
    if key == "boost_cut":
        what = (
            f"wastegate pressure is known, so the highest boost of {quantity(spec.boost_kpa, 'kPa')} counts"
            if known
            else f"wastegate pressure is not known yet, {quantity(limits.expected_wastegate_kpa(spec), 'kPa')} is taken"
        )
        why = f"Barometric {kilopascal(spec.barometric_kpa)} + boost + {quantity(limits.CUT_ABOVE_KPA, 'kPa')}; {what}."
        return setting(key, limits.boost_cut_kpa(spec), "assumed", why)
    if key == "boost_target":
        rule = boost.boost_target_kpa
        why = (
            "Highest boost, less where there is less ethanol, and never before the charger can make it. "
            f"Full boost from {boost.full_boost_rpm(spec):.0f} rpm."
        )
    else:
        rule = boost.boost_duty_pct
        why = (
            f"15 % and 50 % more per share of boost above wastegate pressure, {quantity(known, 'kPa')}; "
            f"{spec.schools.boost_control.replace('_', ' ')} school."
            if known
            else "0 % until wastegate pressure is measured: the boost staircase begins there."
        )
    return _grid(spec, key, rule, "assumed", why, axes["rpm"], axes["ethanol_pct"])


def _second_cam(spec: EngineSpec, key: str, axes: Mapping[str, Axis]) -> Table:
    """Return a map of the second pair, or the switch-over speed to try."""
    if key == "cam_switch_rpm":
        why = "Where the second profile fills better in this model: a first guess, to be found by trying."
        return setting(key, switch_over_rpm(spec), "assumed", why)
    rule, _, reason = _MAP_RULES[key.removesuffix("_second_cam")]
    why = f"For the second cam profile, taken with its torque a third higher up. {reason}"
    return _grid(second_profile(spec), key, rule, "assumed", why, axes["rpm"], axes["map_kpa"])


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


def _start_table(spec: EngineSpec, key: str, axis: Axis) -> Table:
    definition = DEFINITIONS[key]
    rule = START_RULES[key]
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
    vapour, running = (
        f"about {100 * vaporised_share(spec.fuel, wall_c, spec.wet_manifold):.0f} % of the fuel vaporises at "
        f"{quantity(coolant_c, '°C')} (assumed){said_of_walls(spec, runs=runs)}"
        for wall_c, runs in (
            (cranking_wall_c(spec, coolant_c), False),
            (running_wall_c(spec, coolant_c), True),
        )
    )
    asked, needed = prime_need_ms(spec, coolant_c), cranking_need_pct(spec, coolant_c)
    shot_cut = (
        f" The walls would take {asked:.0f} ms: held at {LONGEST_PRIME_MS:.0f} ms, the rest is cranking fuel's."
        if asked > LONGEST_PRIME_MS
        else ""
    )
    fuel_cut = (
        f" Computed {needed:.0f} %: held at {MOST_CRANKING_PCT:.0f} %; so little vaporises that it will hardly start."
        if needed > MOST_CRANKING_PCT
        else ""
    )
    target = idle_target_rpm(spec, coolant_c)
    air = idle_air_gps(spec, target, coolant_c)
    school = "a real prime shot" if spec.schools.prime == "shot" else "almost no prime"
    return {
        "prime_pulse": f"{school.capitalize()}; reference pulse {spec.reference_pulse_ms:.2f} ms; "
        f"{vapour}.{shot_cut}",
        "cranking_fuel": f"Cold air charge at 80 % filling, {quantity(cranking_lambda(coolant_c), 'lambda', 2)}"
        + (
            f"; {throttle_body_share(coolant_c):.2f} of it for throttle bodies"
            if spec.wet_manifold
            else ""
        )
        + f"; {vapour}.{fuel_cut}",
        "after_start_enrichment": f"Walls still fill after the first firing; {running}.",
        "after_start_fade": f"Longer the less vaporises; {running}.",
        "warm_up_enrichment": f"Fuel that a running cold engine never burns; {running}; "
        f"the last few per cent end at {quantity(SETTLED_C, '°C')}.",
        "cranking_air": "More air for thicker oil and a bigger cam; common practice, assumed.",
        "idle_valve": f"Friction at {quantity(coolant_c, '°C')} oil and {target:.0f} rpm needs {air:.2f} g/s; "
        f"fully open valve taken as {valve_full_gps(spec):.1f} g/s at sea level.",
        "idle_target": f"Warm {warm_idle_rpm(spec):.0f} rpm "
        f"({spec.schools.idle_speed} school), raised below {celsius(60)}.",
    }[key]


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

"""Choices on which good installers differ, each with what it means for this engine."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

from ..charge.charge_temperature import COOLANT_SHARE, idle_charge_c, sensor_only_pct
from ..charge.filling import ve_pct
from ..charge.idle_air import idle_map_kpa, idle_valve_pct, warm_idle_rpm
from ..charge.mixture import lambda_target
from ..charge.start_values import expected_start_value
from ..engine import EngineSpec, Schools
from ..sentences import celsius, kilopascal, mixture
from ..supply.full_load import running_dead_time_ms
from .axes import THREE_POINTS_C
from .boost import boost_duty_pct, full_boost_rpm
from .limits import SETTING_RULES
from .throttle import throttle_map_kpa


@dataclass(frozen=True)
class SchoolOption:
    """One side of a choice.

    Attributes
    ----------
    value, title : str
        Key and wording.
    consequence : str
        What it means for this engine, with its numbers.
    """

    value: str
    title: str
    consequence: str


@dataclass(frozen=True)
class SchoolChoice:
    """A choice on which good installers differ.

    Attributes
    ----------
    key, title, why : str
        Field of the engine's schools, wording, and one sentence of why they differ.
    chosen : str
        Value in force.
    options : tuple of SchoolOption
        From the one end to the other.
    """

    key: str
    title: str
    why: str
    chosen: str
    options: tuple[SchoolOption, ...]


Consequence = Callable[[EngineSpec], str]


def _prime(spec: EngineSpec) -> str:
    prime, crank = (expected_start_value(spec, k, 0.0) for k in ("prime_pulse", "cranking_fuel"))
    return f"At {celsius(0)} a prime pulse of {prime:.1f} ms before {crank:.0f} % cranking fuel."


def _idle_speed(spec: EngineSpec) -> str:
    return (
        f"Warm idle {warm_idle_rpm(spec):.0f} rpm; about {kilopascal(idle_map_kpa(spec))} in the manifold, "
        f"idle valve {idle_valve_pct(spec, 85.0):.0f} % open."
    )


def _idle_mixture(spec: EngineSpec) -> str:
    idle = lambda_target(spec, warm_idle_rpm(spec), idle_map_kpa(spec))
    more = (1.0 / idle - 1.0) * 100.0
    return (
        f"Idle at {mixture(idle)}: steadier, {more:.0f} % more fuel."
        if idle < 0.985
        else f"Idle at {mixture(idle)}: thrifty, less steady, every transient is harder."
    )


def _step(spec: EngineSpec) -> str:
    percent = {"5": 5, "10": 10, "auto": 10 if spec.wet_manifold else 5}[spec.schools.step]
    return f"Advice begins with steps of {percent} %, halved where the direction flips."


def _curve(spec: EngineSpec) -> str:
    if spec.schools.curve == "full":
        return "Every start table has a rung for each few kelvin."
    low, middle, high = (celsius(c) for c in THREE_POINTS_C)
    return f"Three values at {low}, {middle} and {high}; a start between two of them teaches both."


def _boost_control(spec: EngineSpec) -> str:
    if spec.boost_kpa <= 0.0:
        return "No boost on this engine: nothing follows."
    at = full_boost_rpm(spec) + 500.0
    duty = boost_duty_pct(spec, at, 100.0 * spec.ethanol_volume_share)
    if spec.wastegate_kpa is None:
        return "Duty stays 0 % until wastegate pressure is measured; then it follows the staircase."
    what = (
        "the table alone holds it"
        if spec.schools.boost_control == "open_loop"
        else "the loop adds the rest"
    )
    return f"{duty:.0f} % duty from about {at:.0f} rpm; {what}."


def _target(spec: EngineSpec) -> str:
    rpm, load = spec.torque_peak_rpm, spec.top_map_kpa
    ve, target = ve_pct(spec, rpm, load), lambda_target(spec, rpm, load)
    if spec.schools.target == "inside":
        return (
            f"The fuel table holds {ve:.0f} % at full load; another target needs no new fuel table."
        )
    return (
        f"The sheet to type in holds {ve / target:.0f} % at full load: {ve:.0f} % filling divided by "
        f"{mixture(target)}. Change the target and the fuel table changes with it."
    )


def _load(spec: EngineSpec) -> str:
    if spec.schools.load == "volumetric_efficiency":
        return "Load is manifold pressure; the fuel table is volumetric efficiency."
    if spec.schools.load == "mass_flow":
        return "Load is measured air for each cycle; volumetric efficiency only checks the meter."
    rpm = 0.5 * spec.torque_peak_rpm
    return (
        f"Load is throttle angle: at {rpm:.0f} rpm, 20 % throttle makes about "
        f"{kilopascal(throttle_map_kpa(spec, rpm, 20.0))}. The sheet to type in is worked out from that."
    )


def _idle_spark(spec: EngineSpec) -> str:
    degrees = SETTING_RULES["idle_spark_authority"](spec)[0]
    how = (
        "speed is held, also by spark"
        if spec.schools.idle_spark == "smooth"
        else "it lopes, and spark catches it before it stalls"
    )
    return f"±{degrees:.0f}° around the table: {how}."


def _injections(spec: EngineSpec) -> str:
    share = running_dead_time_ms(spec) * spec.injections_per_cycle
    return (
        f"Reference pulse {spec.reference_pulse_ms:.2f} ms, {spec.injections_per_cycle} in each cycle; dead "
        f"time takes {share:.2f} ms of every cycle."
    )


def _charge(spec: EngineSpec) -> str:
    if spec.schools.charge == "blended":
        return (
            f"The fuel map believes {100 * COOLANT_SHARE:.0f} % of the way from intake to coolant at idle: "
            f"{celsius(idle_charge_c(20.0))} where the sensor says {celsius(20)}. A controller that takes the "
            f"sensor alone would give {10000.0 / sensor_only_pct(20.0) - 100.0:.0f} % too much there."
        )
    return (
        f"A correction over intake temperature goes with the maps: {sensor_only_pct(20.0):.0f} % at "
        f"{celsius(20)} for the warm engine; while it is cold, warm-up carries what is missing."
    )


def _changes(spec: EngineSpec) -> str:
    if spec.schools.changes == "together":
        return "After a start all that it measured is offered together with the one searched step."
    return "After a start only the earliest table changes; what else it measured waits."


@dataclass(frozen=True)
class _School:
    key: str
    title: str
    why: str
    options: tuple[tuple[str, str], ...]
    consequence: Consequence


_SCHOOLS: tuple[_School, ...] = (
    _School("prime", "Prime", "Walls can be wetted before the starter turns, or by the first cranking injections.",
            (("shot", "a real shot"), ("cranking_only", "cranking fuel alone")), _prime),
    _School("idle_speed", "Idle speed", "Slow is quiet and saves fuel; fast forgives a big cam and a weak alternator.",
            (("low", "low, 700–800"), ("high", "high, 950–1000")), _idle_speed),
    _School("idle_mixture", "Mixture at idle", "Rich is steady; lean is thrifty and clean.",
            (("rich", "slightly rich"), ("lean", "stoichiometric")), _idle_mixture),
    _School("injections_per_cycle", "Injections per cycle", "One halves the weight of dead time; two spread the fuel.",
            (("1", "one"), ("2", "two")), _injections),
    _School("curve", "Start tables", "Three values are set in an afternoon; a curve fits every temperature.",
            (("three_point", "three points"), ("full", "full curves")), _curve),
    _School("step", "Steps", "Small steps waste cold starts, large ones overshoot.",
            (("5", "5 %"), ("auto", "by manifold"), ("10", "10 %")), _step),
    _School("boost_control", "Boost", "A duty table is simple and drifts with weather; a loop holds it and can overshoot.",
            (("open_loop", "open loop"), ("closed_loop", "closed loop")), _boost_control),
    _School("target", "Mixture target", "Some controllers work the target into the fuel equation, others expect it in the table.",
            (("inside", "in the fuel equation"), ("outside", "in the fuel table")), _target),
    _School("load", "Load", "Pressure suits most engines; a meter forgives wear; angle suits wild cams and single throttles.",
            (("volumetric_efficiency", "manifold pressure"), ("mass_flow", "air-flow meter"), ("throttle_angle", "throttle angle")), _load),
    _School("charge", "Charge temperature", "The charge of a hot engine is warmer than the intake sensor says; not every controller knows.",
            (("blended", "controller blends in coolant"), ("sensor", "intake sensor alone")), _charge),
    _School("idle_spark", "Idle spark", "A big cam can be held steady, or left to lope.",
            (("smooth", "smooth"), ("lopey", "lopey")), _idle_spark),
    _School("changes", "Changes after a start", "Together saves cold starts; one at a time shows what each change does.",
            (("one_at_a_time", "one at a time"), ("together", "together")), _changes),
)  # fmt: skip


@dataclass(frozen=True)
class School:
    """A choice on which good installers differ, without what it means for an engine.

    Attributes
    ----------
    key, title, why : str
    options : tuple of pairs of str
        Value and wording.
    chosen : str
        What a new job begins with.
    """

    key: str
    title: str
    why: str
    options: tuple[tuple[str, str], ...]
    chosen: str


def schools() -> tuple[School, ...]:
    """Return every choice on which good installers differ."""
    usual = Schools()
    return tuple(
        School(s.key, s.title, s.why, s.options, str(getattr(usual, s.key, s.options[0][0])))
        for s in _SCHOOLS
    )


def with_school(spec: EngineSpec, key: str, value: str) -> EngineSpec:
    """Return the engine with one choice made otherwise.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    key, value : str
        Of :func:`school_choices`.
    """
    if key == "injections_per_cycle":
        return replace(spec, injections_per_cycle=int(value))
    changed: dict[str, Any] = {key: value}
    return replace(spec, schools=replace(spec.schools, **changed))


def school_choices(spec: EngineSpec) -> tuple[SchoolChoice, ...]:
    """Return every choice with the consequence of each side for this engine.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    """
    choices = []
    for school in _SCHOOLS:
        if school.key == "injections_per_cycle":
            chosen = str(spec.injections_per_cycle)
        else:
            chosen = str(getattr(spec.schools, school.key))
        options = tuple(
            SchoolOption(value, title, school.consequence(with_school(spec, school.key, value)))
            for value, title in school.options
        )
        choices.append(SchoolChoice(school.key, school.title, school.why, chosen, options))
    return tuple(choices)

"""Engine data over HTTP, and the core's engine made from them."""

from __future__ import annotations

from typing import Literal

from inbetrieb_core.engine import EngineSpec, InjectorSet, Schools
from inbetrieb_core.errors import CoreError, FieldProblem, InputRefused
from inbetrieb_core.injectors import ASSUMED_DEAD_TIME, DeadTimeCurve
from ninja import Field, Schema
from pydantic import ConfigDict

from .models import Job


class DeadTimeIn(Schema):
    """Dead time of an injector against battery voltage."""

    voltage_v: list[float] = Field(description="rising [V]", min_length=1, max_length=32)
    dead_time_ms: list[float] = Field(description="[ms]", min_length=1, max_length=32)


class InjectorsIn(Schema):
    """The injectors fitted."""

    model_config = ConfigDict(extra="forbid")

    count: int | None = Field(None, description="all of them; one per chamber if not given")
    flow_cm3_min: float = Field(description="static flow of one at the rated pressure [cm³/min]")
    rated_pressure_kpa: float = Field(300.0, description="pressure difference of the rating [kPa]")
    dead_time: DeadTimeIn | None = Field(
        None, description="data sheet; a middling curve if not given"
    )


class SchoolsIn(Schema):
    """Choices on which good installers differ."""

    model_config = ConfigDict(extra="forbid")

    prime: Literal["shot", "cranking_only"] = "shot"
    idle_speed: Literal["low", "high"] = "low"
    idle_mixture: Literal["rich", "lean"] = "rich"
    step: Literal["auto", "5", "10"] = "auto"
    curve: Literal["full", "three_point"] = "full"
    boost_control: Literal["open_loop", "closed_loop"] = "open_loop"
    target: Literal["inside", "outside"] = "inside"
    load: Literal["volumetric_efficiency", "mass_flow", "throttle_angle"] = "volumetric_efficiency"
    idle_spark: Literal["smooth", "lopey"] = "smooth"


class EngineIn(Schema):
    """What is known of an engine before it has run. Only the first three are needed."""

    model_config = ConfigDict(extra="forbid")

    displacement_l: float = Field(description="all cylinders, or one chamber of each rotor [l]")
    chambers: int = Field(description="cylinders, or rotors")
    injectors: InjectorsIn
    cycle: Literal["four_stroke", "rotary"] = "four_stroke"
    compression_ratio: float = 9.5
    valves_per_chamber: int = 4
    cam: Literal["mild", "moderate", "wild"] = "mild"
    fuelling: Literal["port", "throttle_body"] = "port"
    induction: Literal["natural", "boosted"] = "natural"
    boost_kpa: float = Field(0.0, description="highest boost above barometric [kPa]")
    rail_pressure_kpa: float = Field(300.0, description="gauge [kPa]")
    manifold_referenced: bool = True
    injections_per_cycle: int = 1
    ethanol_volume_share: float = Field(0.0, description="of the fuel in the tank, 0 to 1")
    rev_limit_rpm: float = Field(6500.0, description="[1/min]")
    torque_peak_rpm: float | None = Field(
        None, description="[1/min]; 64 % of the limit if not given"
    )
    crank_to_run_rpm: float = Field(450.0, description="[1/min]")
    altitude_m: float = Field(0.0, description="of the place of work [m]")
    idle_valve_full_gps: float | None = Field(None, description="air through the open valve [g/s]")
    bore_mm: float | None = Field(None, description="[mm]")
    stroke_mm: float | None = Field(None, description="[mm]")
    cam_duration_deg: float | None = Field(None, description="advertised, both cams alike [°]")
    cam_lift_mm: float | None = Field(None, description="valve lift [mm]")
    lobe_separation_deg: float | None = Field(None, description="in cam degrees [°]")
    cam_profiles: int = Field(1, description="2 where the engine changes to a second one")
    charge_cooling: Literal["none", "air", "water"] = "air"
    boost_full_rpm: float | None = Field(None, description="slowest speed of full boost [1/min]")
    wastegate_kpa: float | None = Field(None, description="measured, valve at rest; gauge [kPa]")
    use: Literal["road", "towing", "stationary", "competition"] = "road"
    schools: SchoolsIn = Field(default_factory=SchoolsIn)


#: Torque usually peaks at about this share of the rev limit (common practice, no source).
_TORQUE_PEAK_SHARE = 0.64


def engine_spec(data: EngineIn) -> EngineSpec:
    """Return the core's checked engine.

    Raises
    ------
    InputRefused
        With one sentence per field that is not possible.
    """
    injectors = data.injectors
    curve, assumed = ASSUMED_DEAD_TIME, True
    problems: list[FieldProblem] = []
    if injectors.dead_time is not None:
        assumed = False
        try:
            curve = DeadTimeCurve(
                tuple(injectors.dead_time.voltage_v), tuple(injectors.dead_time.dead_time_ms)
            )
        except CoreError as error:
            problems.append(FieldProblem("injectors.dead_time", f"{error}."))
        else:
            problems += [
                FieldProblem(
                    "injectors.dead_time",
                    f"Dead time rises at {volt:g} V; with more voltage an injector opens faster.",
                )
                for volt in curve.rising_points()
            ]
    if problems:
        raise InputRefused(problems)
    plain = data.model_dump(exclude={"injectors", "schools", "torque_peak_rpm"})
    return EngineSpec(
        injectors=InjectorSet(
            injectors.count if injectors.count is not None else data.chambers,
            injectors.flow_cm3_min,
            injectors.rated_pressure_kpa,
            curve,
            assumed,
        ),
        schools=Schools(**data.schools.model_dump()),
        torque_peak_rpm=(
            data.torque_peak_rpm
            if data.torque_peak_rpm is not None
            else round(_TORQUE_PEAK_SHARE * data.rev_limit_rpm, -2)
        ),
        **plain,
    ).check()


def spec_of(job: Job) -> EngineSpec:
    """Return the core's engine of a job."""
    return engine_spec(EngineIn.model_validate(job.engine))

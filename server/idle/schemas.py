"""What travels to and from the sheets of the hot idle."""

from __future__ import annotations

from typing import Literal

from inbetrieb_core.idle import (
    AirStepKey,
    Closing,
    Habit,
    Hunting,
    IdleAir,
    IdleReading,
    LoadKind,
    LoadResult,
    LoopGains,
    Point,
    ReturnTest,
    StopAdvice,
    StopReading,
    ValveFlow,
)
from ninja import Field, Schema

from server.config.bodies import Body
from server.config.body import RequestBody


class GateOut(Schema):
    """Whether the ladder stands on this warm idle."""

    is_open: bool
    sentence: str
    reason: str = Field(description="why the ladder goes on all the same; empty if none")


class SweptOpeningOut(Schema):
    """One opening of a sweep."""

    duty_pct: float
    rpm: float
    direction: int
    stalled: bool


class SweepOut(Schema):
    """The newest sweep, as the contract of sweeps says it."""

    number: int
    told: bool
    minimum_pct: float | None
    maximum_pct: float | None
    gain_rpm_per_pct: float | None
    hysteresis_pct: float | None
    inverted: bool | None
    errors: dict[str, float | None] = Field(description="half of each 90 % width")
    sentence: str
    sentences: list[str]
    steps: list[SweptOpeningOut] = Field(description="openings and the speed each settled at")
    log_id: int | None
    loop: LoopGains | None = Field(description="gains for the idle loop, from how speed followed")


class LoadOut(Schema):
    """A load that may be switched on at idle."""

    key: LoadKind
    title: str
    answers: str


class AirStepOut(Schema):
    """One step of idle air."""

    key: AirStepKey
    sentence: str


class IdleOut(Schema):
    """Everything that is known of the warm idle."""

    is_true: bool
    is_refused: bool
    sentence: str
    points: list[Point]
    gate: GateOut
    has_valve: bool
    stop: StopAdvice | None
    readings: list[StopReading]
    closing: ReturnTest | None
    sweep: SweepOut | None
    hunting: Hunting | None
    air: IdleAir | None
    loads: list[LoadResult]
    kinds_of_load: list[LoadOut]
    target_c: list[float] = Field(description="breakpoints of the target [°C]")
    target_rpm: list[float] = Field(description="proposed there [1/min]")
    target_offsets_rpm: dict[str, float]
    air_steps: list[AirStepOut] = Field(description="steps of idle air that can be taken")
    habits: list[Habit] = Field(description="mixture, loop, follower and fan, with what they cost")


class StopIn(Body):
    """Readings of the warm valve, oldest first."""

    readings: list[StopReading] = Field(max_length=60)
    keep: bool = Field(True, description="false looks only")


class StopOut(Schema):
    """Whether the stop is true, and which way to turn it."""

    true: bool
    turn: Literal["none", "open", "close", "unknown"]
    by: float | None = Field(description="about so many turns")
    why: str
    advice: StopAdvice


class ReturnIn(Body):
    """Closings of the throttle, typed or in a log."""

    closings: list[Closing] = Field(default_factory=list, max_length=60)
    log_id: int | None = None


class SweepIn(RequestBody):
    """A sweep in a log."""

    log_id: int
    start_s: float | None = Field(None, description="[s]")
    end_s: float | None = Field(None, description="[s]")


class TakeLimitsIn(RequestBody):
    """How the limits go into the tables."""

    rescale: bool = Field(
        False, description="stretch the openings into the limits instead of only clipping them"
    )


class TakenOut(Schema):
    """What became of the tables."""

    revision: int | None = Field(description="the new revision; none where nothing changed")


class HuntingOut(Schema):
    """Whether it hunts, and the one change to try."""

    hunting: bool
    period_s: float | None
    amplitude_rpm: float
    cause: str
    advice: str
    result: Hunting


class AirIn(Body):
    """Warm idle, typed or in a log; what is typed counts before what is logged."""

    log_id: int | None = None
    rpm: float | None = Field(None, description="[1/min]")
    map_kpa: float | None = Field(None, description="absolute [kPa]")
    intake_c: float | None = Field(None, description="[°C]")
    coolant_c: float | None = Field(None, description="[°C]")
    meter_gps: float | None = Field(None, description="by the air meter [g/s]")
    valve_gps: float | None = Field(None, description="through the idle valve [g/s]")
    stop_gps: float | None = Field(None, description="past the throttle stop [g/s]")

    def reading(self) -> IdleReading:
        """Return what was typed."""
        return IdleReading(**self.model_dump(exclude={"log_id"}))


class LoadIn(RequestBody):
    """What a load did, typed or in a log."""

    load: LoadKind
    idle_rpm: float | None = Field(None, description="before [1/min]")
    lowest_rpm: float | None = Field(None, description="[1/min]")
    recovers_s: float | None = Field(None, description="until it was back; none if never [s]")
    log_id: int | None = None
    at_s: float | None = Field(
        None, description="when it came; where speed shows it if not given [s]"
    )


class IdleCarryIn(Body):
    """A table of openings, and what two actuators pass."""

    openings: list[float] = Field(min_length=1, max_length=200)
    here: ValveFlow
    there: ValveFlow


class LoopIn(RequestBody):
    """What a step of the valve shows."""

    gain_rpm_per_pct: float
    lag_s: float
    delay_s: float = 0.3


class SparkIn(RequestBody):
    """Between a clean idle and one that lopes."""

    lopey: float = Field(ge=0.0, le=1.0)


class AirStepIn(RequestBody):
    """What the last try did, or a bigger cam."""

    outcome: AirStepKey
    coolant_c: float | None = Field(
        None, ge=-50.0, le=150.0, description="where it was tried; warm if not given [°C]"
    )

"""The hot idle over HTTP."""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from inbetrieb_core.errors import field_refused
from inbetrieb_core.idle import (
    IDLE_RULES,
    LOADS,
    TARGET_OFFSETS_RPM,
    CarriedAir,
    Closing,
    Hunting,
    IdleAir,
    IdleRule,
    IdleSpark,
    LoadKind,
    LoadResult,
    LoopGains,
    Point,
    ReturnTest,
    StopAdvice,
    StopReading,
    Sweep,
    ValveFlow,
    carried_air,
    idle_spark,
    judge_load,
    load_in_log,
    loop_gains,
    step_response,
    target_curve,
)
from ninja import Field, Query, Router, Schema, Status

from server.accounts.requests import SignedInRequest
from server.calibration.services import calibration_of, revision_of
from server.config.bodies import Body
from server.config.body import RequestBody
from server.config.problems import Problem
from server.entries.reasons import write_reason
from server.jobs.engine_data import spec_of
from server.jobs.models import Job
from server.jobs.services import job_of
from server.logbook.samples import read_trace
from server.logbook.services import log_of
from server.wiring.schemas import ReasonIn

from . import gates, services
from .kinds import STOP, SWEEP

router = Router(tags=["hot idle"])
_REFUSED = {404: Problem, 422: Problem}


class GateOut(Schema):
    """Whether the ladder stands on this warm idle."""

    is_open: bool
    sentence: str
    reason: str = Field(description="why the ladder goes on all the same; empty if none")


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


class SweptOpeningOut(Schema):
    """One opening of a sweep."""

    duty_pct: float
    rpm: float
    direction: int
    stalled: bool


SweepOut.model_rebuild()


class LoadOut(Schema):
    """A load that may be switched on at idle."""

    key: LoadKind
    title: str
    answers: str


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


class AirIn(RequestBody):
    """Warm idle, typed or in a log; and what is known of meter, valve and stop."""

    log_id: int | None = None
    rpm: float | None = Field(None, description="[1/min]")
    map_kpa: float | None = Field(None, description="absolute [kPa]")
    intake_c: float | None = Field(None, description="[°C]")
    coolant_c: float | None = Field(None, description="[°C]")
    meter_gps: float | None = Field(None, description="by the air meter [g/s]")
    valve_gps: float | None = Field(None, description="through the idle valve [g/s]")
    stop_gps: float | None = Field(None, description="past the throttle stop [g/s]")


class LoadIn(RequestBody):
    """What a load did, typed or in a log."""

    load: LoadKind
    idle_rpm: float | None = Field(None, description="before [1/min]")
    lowest_rpm: float | None = Field(None, description="[1/min]")
    recovers_s: float | None = Field(None, description="until it was back; none if never [s]")
    log_id: int | None = None
    at_s: float | None = Field(None, description="when it came [s]")


class CarryIn(Body):
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

    outcome: Literal["bigger_cam", "wants_to_die", "hangs_high", "surges"]
    coolant_c: float = Field(85.0, ge=-50.0, le=150.0, description="[°C]")


def _sweep_out(job: Job) -> SweepOut | None:
    row = SWEEP.newest(job)
    if row is None:
        return None
    saved = SWEEP.read(row.data)
    return _swept(job, saved.result, row.number, saved.stands.log_id)


def _swept(job: Job, sweep: Sweep, number: int, log_id: int | None) -> SweepOut:
    gains = None
    if log_id is not None and sweep.told:
        channels = read_trace(log_of(job, log_id)).channels
        response = step_response(channels["time_s"], channels["idle_valve_pct"], channels["rpm"])
        if response is not None:
            gains = loop_gains(response.gain_rpm_per_pct, response.lag_s, response.delay_s)
    return SweepOut(
        number=number, told=sweep.told, minimum_pct=sweep.minimum_pct, maximum_pct=sweep.maximum_pct,
        gain_rpm_per_pct=sweep.gain_rpm_per_pct, hysteresis_pct=sweep.hysteresis_pct,
        inverted=sweep.inverted, sentence=sweep.sentences[0], sentences=list(sweep.sentences),
        errors={
            "minimum_pct": sweep.minimum_error_pct, "maximum_pct": sweep.maximum_error_pct,
            "gain_rpm_per_pct": sweep.gain_error, "hysteresis_pct": sweep.hysteresis_error_pct,
        },
        steps=[
            SweptOpeningOut(duty_pct=s.duty_pct, rpm=s.rpm, direction=s.direction, stalled=s.stalled)
            for s in sweep.steps
        ],
        log_id=log_id, loop=gains,
    )  # fmt: skip


@router.get("/jobs/{job_id}/idle", response={200: IdleOut, 404: Problem}, operation_id="idle_get")
def get_idle(request: SignedInRequest, job_id: int) -> IdleOut:
    """Return the verdict on the warm idle, its gate, and the newest of everything that was read."""
    return _idle_out(job_of(request.user, job_id))


def _idle_out(job: Job) -> IdleOut:
    facts, verdict = services.facts_of(job), services.verdict_of(job)
    reason = gates.written_reason(job)
    spec, table = spec_of(job), calibration_of(revision_of(job))["idle_target"]
    places = table.axes[0].points
    saved = STOP.value(job)
    return IdleOut(
        is_true=verdict.is_true, is_refused=verdict.is_refused, sentence=verdict.sentence,
        points=list(verdict.points),
        gate=GateOut(is_open=verdict.is_true or bool(reason), sentence=verdict.sentence, reason=reason),
        has_valve=services.has_valve(job), stop=facts.stop,
        readings=[] if saved is None else list(saved[0].readings),
        closing=facts.closing, sweep=_sweep_out(job), hunting=facts.hunting, air=facts.air,
        loads=list(facts.loads),
        kinds_of_load=[LoadOut(key=k, title=t, answers=a) for k, (t, a) in LOADS.items()],
        target_c=list(places), target_rpm=target_curve(spec, np.array(places)).round(0).tolist(),
        target_offsets_rpm=TARGET_OFFSETS_RPM,
    )  # fmt: skip


@router.get("/idle/rules", response=list[IdleRule], operation_id="idle_rules")
def list_rules(request: SignedInRequest) -> list[IdleRule]:
    """Return the rules of the hot idle as they stand."""
    return list(IDLE_RULES)


@router.post(
    "/jobs/{job_id}/idle/stop", response={200: StopOut, **_REFUSED}, operation_id="idle_stop"
)
def judge_the_stop(request: SignedInRequest, job_id: int, payload: StopIn) -> StopOut:
    """Say whether the throttle stop is true, and which way to turn it."""
    job = job_of(request.user, job_id)
    if payload.keep:
        advice = services.save_stop(job, request.user, payload.readings)
    else:
        advice = services.stop_advice(job, payload.readings)
    return StopOut(
        true=advice.is_true,
        turn=advice.turn,
        by=advice.by_turns,
        why=advice.sentences[0],
        advice=advice,
    )


@router.post(
    "/jobs/{job_id}/idle/return", response={200: ReturnTest, **_REFUSED}, operation_id="idle_return"
)
def judge_the_return(request: SignedInRequest, job_id: int, payload: ReturnIn) -> ReturnTest:
    """Say whether the throttle comes back to the same place, from closings typed or in a log."""
    job = job_of(request.user, job_id)
    closings = payload.closings
    if payload.log_id is not None:
        closings = [*closings, *services.closings_in(job, payload.log_id)]
    return services.save_return(job, request.user, closings, payload.log_id)


@router.post(
    "/jobs/{job_id}/idle/sweeps", response={201: SweepOut, **_REFUSED}, operation_id="idle_sweep"
)
def read_a_sweep(request: SignedInRequest, job_id: int, payload: SweepIn) -> Status[SweepOut]:
    """Read the valve's real limits, gain and hysteresis from a log."""
    job = job_of(request.user, job_id)
    sweep, number = services.save_sweep(
        job, request.user, payload.log_id, payload.start_s, payload.end_s
    )
    return Status(201, _swept(job, sweep, number, payload.log_id))


@router.post(
    "/jobs/{job_id}/idle/sweeps/{number}/take",
    response={200: TakenOut, 409: Problem, **_REFUSED},
    operation_id="idle_sweep_take",
)
def take_limits(
    request: SignedInRequest, job_id: int, number: int, payload: TakeLimitsIn
) -> TakenOut:
    """Take the limits of a sweep into the idle tables as one revision."""
    job = job_of(request.user, job_id)
    row = services.take_limits(job, request.user, number, rescale=payload.rescale)
    return TakenOut(revision=None if row is None else row.number)


@router.post(
    "/jobs/{job_id}/idle/hunting",
    response={200: HuntingOut, **_REFUSED},
    operation_id="idle_hunting",
)
def judge_the_hunting(request: SignedInRequest, job_id: int, payload: SweepIn) -> HuntingOut:
    """Say whether an idle hunts, what makes it, and the one change to try."""
    job = job_of(request.user, job_id)
    found = services.save_hunting(job, request.user, payload.log_id, payload.start_s, payload.end_s)
    return HuntingOut(
        hunting=found.hunting, period_s=found.period_s, amplitude_rpm=found.amplitude_rpm,
        cause=found.cause, advice=" ".join(found.sentences[1:2]) or found.sentences[0], result=found,
    )  # fmt: skip


@router.post(
    "/jobs/{job_id}/idle/air", response={200: IdleAir, **_REFUSED}, operation_id="idle_air"
)
def judge_the_air(request: SignedInRequest, job_id: int, payload: AirIn) -> IdleAir:
    """Say how much an engine breathes at idle, and what of it nobody measures."""
    job = job_of(request.user, job_id)
    read = {} if payload.log_id is None else services.idle_in(job, payload.log_id)
    typed = {"rpm": payload.rpm, "map_kpa": payload.map_kpa, "intake_c": payload.intake_c, "coolant_c": payload.coolant_c}  # fmt: skip
    values = {
        "intake_c": 25.0,
        "coolant_c": 88.0,
        **read,
        **{k: v for k, v in typed.items() if v is not None},
    }
    if "rpm" not in values or "map_kpa" not in values:
        raise field_refused("rpm", "Speed and manifold pressure at warm idle are needed.")
    breathed = services.breathed_gps(
        job, values["rpm"], values["map_kpa"], values["intake_c"], values["coolant_c"]
    )
    meter = payload.meter_gps if payload.meter_gps is not None else read.get("flow_gps")
    return services.save_air(
        job, request.user, breathed, meter_gps=meter, valve_gps=payload.valve_gps,
        stop_gps=payload.stop_gps, log_id=payload.log_id,
    )  # fmt: skip


@router.post(
    "/jobs/{job_id}/idle/loads", response={200: LoadResult, **_REFUSED}, operation_id="idle_load"
)
def judge_a_load(request: SignedInRequest, job_id: int, payload: LoadIn) -> LoadResult:
    """Say what a load did to the idle, and which table answers."""
    job = job_of(request.user, job_id)
    if payload.log_id is not None and payload.at_s is not None:
        channels = read_trace(log_of(job, payload.log_id)).channels
        result = load_in_log(payload.load, channels, payload.at_s)
    elif payload.idle_rpm is not None and payload.lowest_rpm is not None:
        result = judge_load(payload.load, payload.idle_rpm, payload.lowest_rpm, payload.recovers_s)
    else:
        raise field_refused(
            "idle_rpm", "Speed before and at the lowest, or a log and when it came."
        )
    return services.save_load(job, request.user, result, payload.log_id)


@router.post("/idle/carry", response={200: CarriedAir, 422: Problem}, operation_id="idle_carry")
def carry_air(request: SignedInRequest, payload: CarryIn) -> CarriedAir:
    """Carry a table of openings to another actuator as the same mass flow."""
    return carried_air(payload.openings, payload.here, payload.there)


@router.post("/idle/loop", response={200: LoopGains, 422: Problem}, operation_id="idle_loop")
def propose_loop(request: SignedInRequest, payload: LoopIn) -> LoopGains:
    """Propose gains of the idle loop from gain and lag of the engine."""
    return loop_gains(payload.gain_rpm_per_pct, payload.lag_s, payload.delay_s)


@router.get(
    "/jobs/{job_id}/idle/spark",
    response={200: IdleSpark, **_REFUSED},
    operation_id="idle_spark_get",
)
def get_spark(
    request: SignedInRequest,
    job_id: int,
    lopey: Annotated[float, Query(ge=0.0, le=1.0)] = 0.0,
) -> IdleSpark:
    """Return spark and its correction for an idle between clean and lopey."""
    return idle_spark(spec_of(job_of(request.user, job_id)), lopey)


@router.post(
    "/jobs/{job_id}/idle/spark",
    response={200: TakenOut, **_REFUSED},
    operation_id="idle_spark_take",
)
def take_spark(request: SignedInRequest, job_id: int, payload: SparkIn) -> TakenOut:
    """Write the idle spark correction of a choice into the tables."""
    row = services.take_spark(job_of(request.user, job_id), request.user, payload.lopey)
    return TakenOut(revision=None if row is None else row.number)


@router.post(
    "/jobs/{job_id}/idle/step", response={200: TakenOut, **_REFUSED}, operation_id="idle_air_step"
)
def take_step(request: SignedInRequest, job_id: int, payload: AirStepIn) -> TakenOut:
    """Move the idle air by one step of the trade."""
    row = services.take_air_step(
        job_of(request.user, job_id), request.user, payload.coolant_c, payload.outcome
    )
    return TakenOut(revision=None if row is None else row.number)


@router.post(
    "/jobs/{job_id}/idle/reason", response={200: IdleOut, **_REFUSED}, operation_id="idle_reason"
)
def go_on_all_the_same(request: SignedInRequest, job_id: int, payload: ReasonIn) -> IdleOut:
    """Write down why the ladder goes on without a true warm idle."""
    job = job_of(request.user, job_id)
    write_reason(job, request.user, gates.STATION, payload.reason, services.newest_evidence(job))
    return _idle_out(job)

"""The hot idle over HTTP."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from inbetrieb_core.errors import field_refused
from inbetrieb_core.idle import (
    AIR_STEPS,
    IDLE_RULES,
    LOADS,
    TARGET_OFFSETS_RPM,
    CarriedAir,
    IdleAir,
    IdleRule,
    IdleSpark,
    LoadResult,
    LoopGains,
    ReturnTest,
    carried_air,
    idle_spark,
    loop_gains,
    target_curve,
)
from ninja import Query, Router, Status

from server.accounts.requests import SignedInRequest
from server.calibration.services import calibration_of, revision_of
from server.config.problems import Problem
from server.entries.models import Entry
from server.entries.reasons import write_reason
from server.jobs.engine_data import spec_of
from server.jobs.models import Job
from server.jobs.services import job_of
from server.wiring.schemas import ReasonIn

from . import gates, services
from .kinds import STOP, SWEEP
from .schemas import (
    AirIn,
    AirStepIn,
    AirStepOut,
    GateOut,
    HuntingOut,
    IdleCarryIn,
    IdleOut,
    LoadIn,
    LoadOut,
    LoopIn,
    ReturnIn,
    SparkIn,
    StopIn,
    StopOut,
    SweepIn,
    SweepOut,
    SweptOpeningOut,
    TakeLimitsIn,
    TakenOut,
)

router = Router(tags=["hot idle"])
_REFUSED = {404: Problem, 422: Problem}


def _sweep_out(row: Entry) -> SweepOut:
    saved = SWEEP.read(row.data)
    sweep = saved.result
    return SweepOut(
        number=row.number, told=sweep.told, minimum_pct=sweep.minimum_pct, maximum_pct=sweep.maximum_pct,
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
        log_id=saved.stands.log_id,
        loop=None if saved.followed is None else saved.followed.gains(),
    )  # fmt: skip


@router.get("/jobs/{job_id}/idle", response={200: IdleOut, 404: Problem}, operation_id="idle_get")
def get_idle(request: SignedInRequest, job_id: int) -> IdleOut:
    """Return the verdict on the warm idle, its gate, and the newest of everything that was read."""
    return _idle_out(job_of(request.user, job_id))


def _idle_out(job: Job) -> IdleOut:
    facts, swept = services.facts_of(job), SWEEP.newest(job)
    verdict = services.verdict_on(job, facts)
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
        closing=facts.closing, sweep=None if swept is None else _sweep_out(swept), hunting=facts.hunting, air=facts.air,
        loads=list(facts.loads),
        kinds_of_load=[LoadOut(key=k, title=t, answers=a) for k, (t, a) in LOADS.items()],
        target_c=list(places), target_rpm=target_curve(spec, np.array(places)).round(0).tolist(),
        target_offsets_rpm=TARGET_OFFSETS_RPM,
        air_steps=[AirStepOut(key=k, sentence=sentence) for k, (_, sentence) in AIR_STEPS.items()],
        habits=list(services.habits_of(job, None if swept is None else SWEEP.read(swept.data).followed)),
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
    row = services.save_sweep(job, request.user, payload.log_id, payload.start_s, payload.end_s)
    return Status(201, _sweep_out(row))


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
        cause=found.cause, advice=found.advice, result=found,
    )  # fmt: skip


@router.post(
    "/jobs/{job_id}/idle/air", response={200: IdleAir, **_REFUSED}, operation_id="idle_air"
)
def judge_the_air(request: SignedInRequest, job_id: int, payload: AirIn) -> IdleAir:
    """Say how much an engine breathes at idle, and what of it nobody measures."""
    job = job_of(request.user, job_id)
    return services.save_air(job, request.user, payload.reading(), payload.log_id)


@router.post(
    "/jobs/{job_id}/idle/loads", response={200: LoadResult, **_REFUSED}, operation_id="idle_load"
)
def judge_a_load(request: SignedInRequest, job_id: int, payload: LoadIn) -> LoadResult:
    """Say what a load did to the idle, and which table answers."""
    job = job_of(request.user, job_id)
    if payload.log_id is not None:
        return services.save_load_of_log(
            job, request.user, payload.load, payload.log_id, payload.at_s
        )
    if payload.idle_rpm is None or payload.lowest_rpm is None:
        raise field_refused("idle_rpm", "Speed before and at the lowest, or a log of it.")
    return services.save_load(
        job, request.user, payload.load, payload.idle_rpm, payload.lowest_rpm, payload.recovers_s
    )


@router.post("/idle/carry", response={200: CarriedAir, 422: Problem}, operation_id="idle_carry")
def carry_air(request: SignedInRequest, payload: IdleCarryIn) -> CarriedAir:
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

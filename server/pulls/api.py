"""Pulls, full load and boost over HTTP."""

from __future__ import annotations

import math

from inbetrieb_core.bench import PULL_FAULTS
from inbetrieb_core.logs import CHANNELS
from inbetrieb_core.pulls import (
    CHECKS,
    DRAWN,
    STANDARDS,
    BestSpark,
    CamSwitch,
    Difference,
    Dip,
    KnockCell,
    PullRecord,
    PullStretch,
    Staircase,
    boost_loop_told,
    fit_spark,
    gaps_told,
    load_points,
    order_of,
    proposed_limits,
    titles,
)
from ninja import File, Form, Router, Status
from ninja.files import UploadedFile

from server.accounts.requests import SignedInRequest
from server.config.problems import Problem
from server.fuelling.api import RevisionMadeOut
from server.jobs.engine_data import spec_of
from server.jobs.services import job_of
from server.tasks.api import TaskOut, accepted
from server.tasks.services import start

from . import bench, following, services
from .kinds import CHECK
from .schemas import (
    BenchPullIn,
    BeyondLimitsOut,
    BoostTakenOut,
    CamsIn,
    CheckOut,
    CompareIn,
    FromLogIn,
    KnockIn,
    LimitsIn,
    NoteIn,
    NumberOut,
    NumbersIn,
    PullPlanIn,
    PullPlanOut,
    PullReasonIn,
    PullRowOut,
    PullsOut,
    PullWholeOut,
    SparkSweepIn,
    TargetIn,
    TypedIn,
)
from .services import PullRow

router = Router(tags=["pulls"])
_REFUSED = {404: Problem, 409: Problem, 422: Problem}
_LARGEST_FILE = 4_000_000


def _row_out(row: PullRow) -> PullRowOut:
    pull: PullRecord = row.saved.pull
    torque, power, pressure = pull.peak("torque_nm"), pull.peak("power_kw"), pull.peak("map_kpa")
    is_real = pull.torque == "measured"
    return PullRowOut(
        number=row.number, at=row.at, by=row.by, conditions=row.saved.conditions, origin=pull.origin, torque=pull.torque,
        revision=row.saved.revision, from_rpm=pull.rpm[0], to_rpm=pull.rpm[-1],
        peak_torque=None if torque is None else round(torque[0], 1), peak_torque_rpm=None if torque is None else torque[1],
        peak_power_kw=None if power is None or not is_real else round(power[0], 1),
        peak_power_rpm=None if power is None or not is_real else power[1],
        most_kpa=None if pressure is None else round(pressure[0], 1), passed=list(row.saved.passed), stop=row.saved.stop,
        doubts=[*pull.doubts, *boost_loop_told(pull)], aside=row.aside, stand_in=row.saved.stand_in,
    )  # fmt: skip


@router.get(
    "/jobs/{job_id}/pulls", response={200: PullsOut, 404: Problem}, operation_id="pulls_get"
)
def get_pulls(request: SignedInRequest, job_id: int) -> PullsOut:
    """Return the pull board: pulls, limits, checks, and what closes the station."""
    job = job_of(request.user, job_id)
    rows = services.rows_of(job)
    ticked = {row.key: row for row in CHECK.newest_of_each(job)}
    bad = services.closed_by(job)
    checks = [
        CheckOut(
            check=check, done=check.key in ticked, note=CHECK.read(ticked[check.key].data).note if check.key in ticked else "",
            by=ticked[check.key].created_by.username if check.key in ticked else "",
            at=ticked[check.key].created_at if check.key in ticked else None,
        )
        for check in CHECKS
    ]  # fmt: skip
    return PullsOut(
        pulls=[_row_out(row) for row in reversed(rows)], limits=services.limits_of(job), proposed=proposed_limits(spec_of(job)),
        titles=titles(), checks=checks, open_checks=services.open_checks(job), closed_by=None if bad is None else bad.number,
        closed_sentence="" if bad is None else bad.saved.stop or bad.saved.passed[0].sentence, supply=following.supply_of(job),
        standards={str(key): words for key, words in STANDARDS.items()}, faults=PULL_FAULTS, is_boosted=services.is_boosted(job),
        channels={key: CHANNELS[key].title for key in DRAWN}, units=DRAWN,
    )  # fmt: skip


@router.post(
    "/jobs/{job_id}/pulls/limits",
    response={200: BeyondLimitsOut, **_REFUSED},
    operation_id="pulls_limits",
)
def save_limits(request: SignedInRequest, job_id: int, payload: LimitsIn) -> BeyondLimitsOut:
    """Enter the limits that every pull is checked against."""
    return BeyondLimitsOut(
        beyond=services.save_limits(job_of(request.user, job_id), request.user, payload.limits)
    )


@router.post(
    "/jobs/{job_id}/pulls/checks/{key}",
    response={200: NumberOut, **_REFUSED},
    operation_id="pulls_check",
)
def tick(request: SignedInRequest, job_id: int, key: str, payload: NoteIn) -> NumberOut:
    """Tick a check before or after the pulls."""
    services.tick(job_of(request.user, job_id), request.user, key, payload.note)
    return NumberOut(number=1)


@router.post(
    "/jobs/{job_id}/pulls/reason", response={200: NumberOut, **_REFUSED}, operation_id="pulls_open"
)
def open_again(request: SignedInRequest, job_id: int, payload: PullReasonIn) -> NumberOut:
    """Write why the next pull may follow one beyond a limit."""
    services.open_again(job_of(request.user, job_id), request.user, payload.reason)
    return NumberOut(number=1)


@router.get(
    "/jobs/{job_id}/pulls/in-log/{log_id}",
    response={200: list[PullStretch], 404: Problem},
    operation_id="pulls_in_log",
)
def in_log(request: SignedInRequest, job_id: int, log_id: int) -> list[PullStretch]:
    """Return the pulls that lie in a log."""
    return services.stretches_in(job_of(request.user, job_id), log_id)


@router.post(
    "/jobs/{job_id}/pulls/from-log",
    response={201: NumberOut, **_REFUSED},
    operation_id="pulls_from_log",
)
def from_log(request: SignedInRequest, job_id: int, payload: FromLogIn) -> Status[NumberOut]:
    """Keep a stretch of a log as a pull."""
    job = job_of(request.user, job_id)
    number = services.add_from_log(
        job, request.user, payload.log_id, payload.begin_s, payload.end_s, payload.conditions, payload.vehicle
    )  # fmt: skip
    return Status(201, NumberOut(number=number))


@router.post(
    "/jobs/{job_id}/pulls/from-file",
    response={201: NumberOut, 413: Problem, **_REFUSED},
    operation_id="pulls_from_file",
)
def from_file(
    request: SignedInRequest, job_id: int, file: File[UploadedFile], conditions: Form[str] = "{}", corrected_by: Form[str] = "none",
) -> Status[NumberOut]:  # fmt: skip
    """Keep the pull of a dynamometer's file."""
    job = job_of(request.user, job_id)
    services.refuse_large(file.size, _LARGEST_FILE)
    number = services.add_from_file(
        job, request.user, file.read(), services.conditions_of(conditions), services.standard_of(corrected_by)
    )  # fmt: skip
    return Status(201, NumberOut(number=number))


@router.post(
    "/jobs/{job_id}/pulls/typed", response={201: NumberOut, **_REFUSED}, operation_id="pulls_typed"
)
def typed(request: SignedInRequest, job_id: int, payload: TypedIn) -> Status[NumberOut]:
    """Keep a pull that is typed by points."""
    number = services.add_typed(
        job_of(request.user, job_id), request.user, payload.points, payload.conditions
    )
    return Status(201, NumberOut(number=number))


@router.post(
    "/jobs/{job_id}/pulls/bench", response={201: NumberOut, **_REFUSED}, operation_id="pulls_bench"
)
def bench_pull(request: SignedInRequest, job_id: int, payload: BenchPullIn) -> Status[NumberOut]:
    """Drive one pull of the simulated engine on a simulated brake, and keep it."""
    number = bench.add_bench_pull(
        job_of(request.user, job_id), request.user, payload.conditions, faults=payload.faults,
        change_pct=payload.change_pct, seed=abs(payload.seed) % 2**31,
    )  # fmt: skip
    return Status(201, NumberOut(number=number))


@router.post(
    "/jobs/{job_id}/pulls/plan", response={200: PullPlanOut, **_REFUSED}, operation_id="pulls_plan"
)
def plan(request: SignedInRequest, job_id: int, payload: PullPlanIn) -> PullPlanOut:
    """Return the order in which to drive A and B, and load points on a brake."""
    job = job_of(request.user, job_id)
    points = load_points(
        payload.from_rpm, payload.to_rpm, payload.step_rpm, tuple(payload.throttles)
    )
    held = services.held_of(job, points, payload.log_ids)
    return PullPlanOut(
        order=list(order_of(payload.each)),
        points=list(points),
        held=list(held),
        gaps=gaps_told(held),
    )


@router.post(
    "/jobs/{job_id}/pulls/compare",
    response={200: Difference, **_REFUSED},
    operation_id="pulls_compare",
)
def compare_pulls(request: SignedInRequest, job_id: int, payload: CompareIn) -> Difference:
    """Return what B does against A, with its band, and what it would take to tell."""
    job = job_of(request.user, job_id)
    return following.difference(job, payload.a, payload.b, payload.wanted_pct, payload.standard)


@router.post(
    "/jobs/{job_id}/pulls/dips", response={200: list[Dip], **_REFUSED}, operation_id="pulls_dips"
)
def dips(request: SignedInRequest, job_id: int, payload: NumbersIn) -> list[Dip]:
    """Return the holes in the torque of some pulls, with their cause and the test that tells."""
    return following.dips_of(services.chosen(job_of(request.user, job_id), payload.numbers))


@router.post(
    "/jobs/{job_id}/pulls/boost", response={200: Staircase, **_REFUSED}, operation_id="pulls_boost"
)
def boost(request: SignedInRequest, job_id: int, payload: NoteIn) -> Staircase:
    """Return where the boost staircase stands, and the next step."""
    return following.staircase_of(job_of(request.user, job_id))


@router.post(
    "/jobs/{job_id}/pulls/boost/take",
    response={200: BoostTakenOut, **_REFUSED},
    operation_id="pulls_boost_take",
)
def take_boost(request: SignedInRequest, job_id: int, payload: TargetIn) -> BoostTakenOut:
    """Write boost target and duty over speed into the tables."""
    revision, tables = following.take_boost(
        job_of(request.user, job_id), request.user, payload.target_kpa
    )
    return BoostTakenOut(revision=revision.number, tables=tables)


@router.post(
    "/jobs/{job_id}/pulls/cams", response={200: CamSwitch, **_REFUSED}, operation_id="pulls_cams"
)
def cams(request: SignedInRequest, job_id: int, payload: CamsIn) -> CamSwitch:
    """Return where to change the cam profile."""
    return following.switch_of(job_of(request.user, job_id), payload.low, payload.high)


@router.post(
    "/jobs/{job_id}/pulls/cams/take",
    response={200: RevisionMadeOut, **_REFUSED},
    operation_id="pulls_cams_take",
)
def take_cams(request: SignedInRequest, job_id: int, payload: CamsIn) -> RevisionMadeOut:
    """Write the change-over speed into the tables."""
    job = job_of(request.user, job_id)
    return RevisionMadeOut(
        revision=following.take_switch(job, request.user, payload.low, payload.high).number
    )


@router.post(
    "/jobs/{job_id}/pulls/knock",
    response={200: list[KnockCell], **_REFUSED},
    operation_id="pulls_knock",
)
def knock(request: SignedInRequest, job_id: int, payload: KnockIn) -> list[KnockCell]:
    """Return where it knocked and how much spark to take out."""
    return following.knock_of(job_of(request.user, job_id), payload.quiet, payload.heard)


@router.post(
    "/jobs/{job_id}/pulls/knock/take",
    response={200: RevisionMadeOut, **_REFUSED},
    operation_id="pulls_knock_take",
)
def take_knock(request: SignedInRequest, job_id: int, payload: KnockIn) -> RevisionMadeOut:
    """Take the degrees out of the spark table."""
    job = job_of(request.user, job_id)
    return RevisionMadeOut(
        revision=following.take_knock(job, request.user, payload.quiet, payload.heard).number
    )


@router.post(
    "/jobs/{job_id}/pulls/spark", response={200: BestSpark, **_REFUSED}, operation_id="pulls_spark"
)
def spark(request: SignedInRequest, job_id: int, payload: SparkSweepIn) -> BestSpark:
    """Return the best advance of a sweep at one load point, no nearer to knock than the margin."""
    job_of(request.user, job_id)
    return fit_spark(payload.points, payload.fuel, payload.knocks_from_deg)


@router.post(
    "/jobs/{job_id}/pulls/full-load",
    response={202: TaskOut, **_REFUSED},
    operation_id="pulls_full_load",
)
def full_load(request: SignedInRequest, job_id: int, payload: NumbersIn) -> Status[TaskOut]:
    """Correct the fuel map at full load from pulls; the task's result holds the number of the pass of station 11."""
    job, user, numbers = job_of(request.user, job_id), request.user, list(payload.numbers)
    services.chosen(job, numbers)
    task = start(
        job.workshop, user, "full load", lambda progress: {"number": following.solve_full_load(job, user, numbers, progress)}
    )  # fmt: skip
    return accepted(task)


@router.get(
    "/jobs/{job_id}/pulls/{number}",
    response={200: PullWholeOut, 404: Problem},
    operation_id="pulls_one",
)
def get_pull(request: SignedInRequest, job_id: int, number: int) -> PullWholeOut:
    """Return one pull with all its channels."""
    row = services.row_of(job_of(request.user, job_id), number)
    power = [None if not math.isfinite(v) else round(float(v), 2) for v in row.saved.pull.power_kw]
    return PullWholeOut(number=row.number, saved=row.saved, power_kw=power, aside=row.aside)


@router.post(
    "/jobs/{job_id}/pulls/{number}/aside",
    response={200: NumberOut, **_REFUSED},
    operation_id="pulls_aside",
)
def aside(request: SignedInRequest, job_id: int, number: int, payload: PullReasonIn) -> NumberOut:
    """Leave a pull out of everything, with a reason."""
    services.set_aside(job_of(request.user, job_id), request.user, number, payload.reason)
    return NumberOut(number=number)

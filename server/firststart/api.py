"""The run sheet of the first start over HTTP."""

from __future__ import annotations

from datetime import datetime

from inbetrieb_core.runsheet import (
    OUTCOMES,
    PARTS,
    Clock,
    Outcome,
    Reading,
    RunIn,
    Setup,
)
from ninja import Field, Router, Schema

from server.accounts.requests import SignedInRequest
from server.config.bodies import Body
from server.config.body import RequestBody
from server.config.problems import Problem
from server.jobs.models import Job
from server.jobs.services import job_of

from . import services
from .kinds import ReadingTaken, StepDone

router = Router(tags=["first start"])
_REFUSED = {404: Problem, 422: Problem}


class StepOut(Schema):
    """One step of the sheet, with what became of it."""

    key: str
    part: str
    part_title: str
    title: str
    text: str
    readings: list[Reading]
    clock: Clock | None
    caution: str
    serious: bool
    choice: bool
    done: StepDone | None
    closed: bool
    by: str
    at: datetime | None


class GateRiskOut(Schema):
    """A gate that is not open before the first start."""

    key: str
    sentence: str
    risk: str


class SheetOut(Schema):
    """The whole sheet: where it stands, and what is next."""

    setup: Setup
    steps: list[StepOut]
    current: str | None = Field(description="key of the step to do now; none where all are done")
    stop: str = Field(description="what holds the sheet, in large type; empty if nothing does")
    gates: list[GateRiskOut]
    outcomes: list[Outcome]


class SetupIn(Body):
    """How the engine stands there."""

    setup: Setup


class DoneIn(Body):
    """What was done and read at a step."""

    values: list[ReadingTaken] = Field(default_factory=list, max_length=12)
    choice: str = Field("", max_length=40, description="what the engine did, where the step asks")
    coolant_c: float | None = Field(
        None, description="with a choice: the trial is recorded at it [°C]"
    )
    seconds: float = Field(0.0, description="on its clock [s]")
    log_id: int | None = Field(None, description="with a choice: the log of the start, judged")


class SkipIn(RequestBody):
    """Why a step is skipped."""

    reason: str = Field("", max_length=2000)


class RunInIn(RequestBody):
    """A log of the run-in."""

    log_id: int
    before_s: float = Field(0.0, ge=0.0, le=7200.0, description="counted before it [s]")


def _sheet_out(job: Job) -> SheetOut:
    sheet = services.sheet_of(job)
    steps = [
        StepOut(
            key=s.step.key, part=s.step.part, part_title=PARTS[s.step.part], title=s.step.title,
            text=s.step.text, readings=list(s.step.readings), clock=s.step.clock, caution=s.step.caution,
            serious=s.step.serious, choice=s.step.choice, done=s.done, closed=s.is_closed, by=s.by, at=s.at,
        )
        for s in sheet
    ]  # fmt: skip
    current = next((s for s in sheet if not s.is_closed), None)
    held = current is not None and current.done is not None and current.done.stopped
    return SheetOut(
        setup=services.setup_of(job), steps=steps,
        current=None if current is None else current.step.key,
        stop=" ".join(held) if held else "",
        gates=[GateRiskOut(key=g.key, sentence=g.sentence, risk=g.risk) for g in services.open_gates(job)],
        outcomes=list(OUTCOMES.values()),
    )  # fmt: skip


@router.get(
    "/jobs/{job_id}/first-start",
    response={200: SheetOut, 404: Problem},
    operation_id="first_start_get",
)
def get_sheet(request: SignedInRequest, job_id: int) -> SheetOut:
    """Return the run sheet of the first start and where it stands."""
    return _sheet_out(job_of(request.user, job_id))


@router.post(
    "/jobs/{job_id}/first-start/setup",
    response={200: SheetOut, **_REFUSED},
    operation_id="first_start_setup",
)
def set_up(request: SignedInRequest, job_id: int, payload: SetupIn) -> SheetOut:
    """Say how the engine stands there: the steps follow from it."""
    job = job_of(request.user, job_id)
    services.save_setup(job, request.user, payload.setup)
    return _sheet_out(job)


@router.post(
    "/jobs/{job_id}/first-start/steps/{key}",
    response={200: SheetOut, **_REFUSED},
    operation_id="first_start_step",
)
def do_step(request: SignedInRequest, job_id: int, key: str, payload: DoneIn) -> SheetOut:
    """Write a step down as done, with its readings; what says stop holds the sheet."""
    job = job_of(request.user, job_id)
    services.do_step(
        job, request.user, key, values=payload.values, choice=payload.choice,
        coolant_c=payload.coolant_c, seconds=payload.seconds, log_id=payload.log_id,
    )  # fmt: skip
    return _sheet_out(job)


@router.post(
    "/jobs/{job_id}/first-start/steps/{key}/skip",
    response={200: SheetOut, **_REFUSED},
    operation_id="first_start_skip",
)
def skip_step(request: SignedInRequest, job_id: int, key: str, payload: SkipIn) -> SheetOut:
    """Skip a step; a serious one asks why."""
    job = job_of(request.user, job_id)
    services.skip_step(job, request.user, key, payload.reason)
    return _sheet_out(job)


@router.post(
    "/jobs/{job_id}/first-start/run-in",
    response={200: RunIn, **_REFUSED},
    operation_id="first_start_run_in",
)
def count_run_in(request: SignedInRequest, job_id: int, payload: RunInIn) -> RunIn:
    """Return how much of the run-in a log holds: time outside the band does not count."""
    return services.run_in(job_of(request.user, job_id), payload.log_id, payload.before_s)

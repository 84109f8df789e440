"""Jobs over HTTP: the board, and one job with its next action."""

from __future__ import annotations

from dataclasses import asdict
from datetime import datetime

from inbetrieb_core.commissioning import Gate, NextAction
from inbetrieb_core.engine import EngineEntry, engine_of
from inbetrieb_core.supply import InjectorJudgement, judge_injectors
from ninja import Field, Router, Schema, Status

from server.accounts.requests import SignedInRequest
from server.config.bodies import Body
from server.config.body import RequestBody
from server.config.problems import Problem
from server.jobs.engine_data import entry_of_job, spec_of
from server.jobs.models import Job
from server.jobs.services import job_of, jobs_of
from server.jobs.services import set_units as write_units

from . import services

router = Router(tags=["jobs"])


class JobIn(Body):
    """A new job."""

    name: str
    engine: EngineEntry
    note: str = ""
    units: dict[str, str] = Field(default_factory=dict, description="display unit per dimension")
    axes: dict[str, list[float]] | None = Field(
        None, description="the controller's own breakpoints: coolant_c, rpm, map_kpa, battery_v"
    )
    override_reason: str = Field("", description="why implausible injectors are right all the same")


class EnginePreviewIn(Body):
    """Engine data that are still being typed."""

    engine: EngineEntry


class UnitsIn(RequestBody):
    """Display units to change."""

    units: dict[str, str]


class JobOut(Schema):
    """A job with its next action."""

    id: int
    name: str
    note: str
    engine: EngineEntry
    units: dict[str, str]
    created_at: datetime
    revision: int = Field(description="number of the newest revision")
    firings_per_turn: float = Field(description="combustion events per shaft turn")
    trials: int = Field(description="how many trials there are")
    next_action: NextAction
    gates: list[Gate] = Field(description="what the first start waits for")
    judgement: InjectorJudgement


def job_out(job: Job) -> JobOut:
    """Return a job as it travels."""
    standing = services.standing_of(job)
    return JobOut(
        id=job.pk,
        name=job.name,
        note=job.note,
        engine=entry_of_job(job),
        units=job.units,
        created_at=job.created_at,
        revision=standing.revision,
        firings_per_turn=spec_of(job).firings_per_turn,
        trials=standing.trials,
        next_action=standing.action,
        gates=list(standing.gates),
        judgement=standing.judgement,
    )


@router.get("/jobs", response=list[JobOut], operation_id="jobs_list")
def list_jobs(request: SignedInRequest) -> list[JobOut]:
    """Return the jobs of the workshop, newest first."""
    return [job_out(job) for job in jobs_of(request.user)]


@router.post("/jobs", response={201: JobOut, 422: Problem}, operation_id="jobs_create")
def create_job(request: SignedInRequest, payload: JobIn) -> Status[JobOut]:
    """Create a job; revision 1 is generated from the engine data."""
    job = services.create_job(
        request.user,
        name=payload.name,
        note=payload.note,
        engine=payload.engine,
        display_units=payload.units,
        axes=payload.axes,
        override_reason=payload.override_reason,
    )
    return Status(201, job_out(job))


@router.post(
    "/jobs/preview", response={200: InjectorJudgement, 422: Problem}, operation_id="jobs_preview"
)
def preview_job(request: SignedInRequest, payload: EnginePreviewIn) -> InjectorJudgement:
    """Judge the injectors of engine data that are still being typed; saves nothing."""
    return InjectorJudgement(**asdict(judge_injectors(engine_of(payload.engine))))


@router.get("/jobs/{job_id}", response={200: JobOut, 404: Problem}, operation_id="jobs_get")
def get_job(request: SignedInRequest, job_id: int) -> JobOut:
    """Return one job."""
    return job_out(job_of(request.user, job_id))


@router.post(
    "/jobs/{job_id}/units",
    response={200: JobOut, 404: Problem, 422: Problem},
    operation_id="jobs_set_units",
)
def set_units(request: SignedInRequest, job_id: int, payload: UnitsIn) -> JobOut:
    """Change the display units."""
    return job_out(write_units(job_of(request.user, job_id), payload.units))

"""Jobs over HTTP: the board, and one job with its next action."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated

from django.http import HttpResponse
from inbetrieb_core.commissioning import CarState
from inbetrieb_core.engine import EngineEntry, engine_of
from inbetrieb_core.supply import InjectorJudgement, judge_injectors
from ninja import Field, Query, Router, Status

from server.accounts.requests import SignedInRequest
from server.config.bodies import Body
from server.config.body import RequestBody
from server.config.problems import Problem
from server.jobs.services import job_of, jobs_of
from server.jobs.services import set_units as write_units

from . import services, summaries
from .aside import put_aside as set_aside
from .job_out import JobOut, job_out

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
    car: CarState = Field(
        "bare",
        description="where the car stands: opens the gates behind it, with that in the record",
    )


class EnginePreviewIn(Body):
    """Engine data that are still being typed."""

    engine: EngineEntry


class AsideIn(RequestBody):
    """Whether a job is put aside, and why."""

    aside: bool
    reason: str = ""


class UnitsIn(RequestBody):
    """Display units to change."""

    units: dict[str, str]


@router.get("/jobs", response=list[JobOut], operation_id="jobs_list")
def list_jobs(
    request: SignedInRequest,
    search: Annotated[str, Query(max_length=120, description="part of the name")] = "",
    needs: Annotated[str, Query(max_length=12, description="station of the next action")] = "",
    aside: Annotated[
        bool, Query(description="those put aside instead of those on the board")
    ] = False,
    limit: Annotated[int, Query(ge=1, le=200)] = 50,
    offset: Annotated[int, Query(ge=0, le=1_000_000)] = 0,
) -> HttpResponse:
    """Return jobs of the workshop, newest first; the header X-Total-Count says how many there are."""
    rows = jobs_of(request.user).select_related("summary")
    if search.strip():
        rows = rows.filter(name__icontains=search.strip())
    if needs:
        rows = rows.filter(summary__needs=needs)
    rows = rows.filter(summary__aside=True) if aside else rows.exclude(summary__aside=True)
    total = rows.count()
    bodies = ",".join(summaries.body_of(job) for job in rows[offset : offset + limit])
    answer = _json(f"[{bodies}]")
    answer["X-Total-Count"] = str(total)
    return answer


def _json(body: str) -> HttpResponse:
    """Return an answer that is JSON already."""
    return HttpResponse(body, content_type="application/json; charset=utf-8")


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
        car=payload.car,
    )
    return Status(201, job_out(job))


@router.post(
    "/jobs/preview", response={200: InjectorJudgement, 422: Problem}, operation_id="jobs_preview"
)
def preview_job(request: SignedInRequest, payload: EnginePreviewIn) -> InjectorJudgement:
    """Judge the injectors of engine data that are still being typed; saves nothing."""
    return InjectorJudgement(**asdict(judge_injectors(engine_of(payload.engine))))


@router.get("/jobs/{job_id}", response={200: JobOut, 404: Problem}, operation_id="jobs_get")
def get_job(request: SignedInRequest, job_id: int) -> HttpResponse:
    """Return one job."""
    return _json(summaries.body_of(job_of(request.user, job_id, "summary")))


@router.post(
    "/jobs/{job_id}/aside",
    response={200: JobOut, 404: Problem, 422: Problem},
    operation_id="jobs_aside",
)
def put_aside(request: SignedInRequest, job_id: int, payload: AsideIn) -> JobOut:
    """Put a job aside with a reason, or bring it back; nothing of it is deleted."""
    job = job_of(request.user, job_id)
    set_aside(job, request.user, aside=payload.aside, reason=payload.reason)
    return job_out(job)


@router.post(
    "/jobs/{job_id}/units",
    response={200: JobOut, 404: Problem, 422: Problem},
    operation_id="jobs_set_units",
)
def set_units(request: SignedInRequest, job_id: int, payload: UnitsIn) -> JobOut:
    """Change the display units."""
    return job_out(write_units(job_of(request.user, job_id), payload.units))

"""The fuel map over HTTP."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from inbetrieb_core.fuelling import AUTHORITY, MAPS, REST_TELLS, MapKey, Mended, layer_titles
from ninja import Field, Router, Schema, Status

from server.accounts.requests import SignedInRequest
from server.calibration.services import calibration_of, revision_of
from server.config.bodies import Body
from server.config.body import RequestBody
from server.config.problems import Problem
from server.jobs.models import Job
from server.jobs.services import job_of
from server.tasks.api import TaskOut, accepted
from server.tasks.services import start

from . import passes, services, transients
from .asked import Asked
from .kinds import PASS, FuelPass, PassTaken, TransientRead
from .services import Region

router = Router(tags=["fuel map"])
_MOST_CELLS = 4096
Place = Annotated[tuple[int, int], Field(description="row and column")]


class FuelMapIn(RequestBody):
    """What a pass is computed from."""

    log_ids: list[int] = Field(max_length=services.MOST_LOGS)
    filters: list[Annotated[str, Field(max_length=40)]] = Field(
        default_factory=list, max_length=20, description="layers that are switched off"
    )
    authority: float = Field(AUTHORITY, description="most that a cell changes by in this pass [–]")
    locked: list[Place] = Field(default_factory=list, max_length=_MOST_CELLS)
    revision: int | None = Field(None, description="in the controller, for logs that do not say")
    table: MapKey = "ve"
    mended: list[Mended] = Field(
        default_factory=list,
        max_length=8,
        description="causes put right since the logs were driven",
    )
    learned: bool = Field(False, description="read the controller's learned trims beside the logs")


class RegionIn(Body):
    """Rows and columns, both ends included."""

    first_row: int = 0
    last_row: int = 0
    first_column: int = 0
    last_column: int = 0


class TakeIn(Body):
    """What is taken of a pass."""

    region: RegionIn | None = None
    reason: str = Field("", max_length=2000, description="where a cause speaks against it")


class MapTakenOut(Schema):
    """What was taken."""

    revision: int
    cells: int


class FuelMapOut(Schema):
    """A pass over the map."""

    number: int
    at: datetime
    by: str
    result: FuelPass
    trims: bool = Field(description="whether a cylinder stands out by as much as a trim is for")
    taken: list[PassTaken]
    rest_tells: dict[str, str] = Field(
        description="what readings drawn against a quantity show, by its key"
    )


class PassRowOut(Schema):
    """A pass in a list."""

    number: int
    at: datetime
    sentence: str
    done_share: float = Field(description="of the visited cells [–]")
    blocks: bool
    taken: bool


class FuelMapsOut(Schema):
    """The passes of a job, newest first."""

    passes: list[PassRowOut]
    layers: dict[str, str] = Field(description="key to title, in their order")
    tables: dict[str, str] = Field(description="tables of this job that logs correct: key to words")
    has_trims: bool = Field(description="whether the calibration holds learned trims")


@router.get(
    "/jobs/{job_id}/fuel-map", response={200: FuelMapsOut, 404: Problem}, operation_id="fuel_map_list"
)  # fmt: skip
def list_passes(request: SignedInRequest, job_id: int) -> FuelMapsOut:
    """Return the passes over the map: progress from one to the next."""
    job = job_of(request.user, job_id)
    taken = passes.takings_of(job)
    tables = calibration_of(revision_of(job)).tables
    rows = list(PASS.rows(job).order_by("-number")[:50])
    found = [(row, PASS.read(row.data)) for row in rows]
    return FuelMapsOut(
        passes=[
            PassRowOut(
                number=row.number, at=row.created_at, sentence=read.sentence, done_share=read.done_share,
                blocks=read.blocks, taken=row.number in taken,
            )
            for row, read in found
        ],
        layers=layer_titles(), tables={key: words for key, words in MAPS.items() if key in tables},
        has_trims="learned_trim" in tables,
    )  # fmt: skip


@router.post(
    "/jobs/{job_id}/fuel-map",
    response={202: TaskOut, 404: Problem, 422: Problem},
    operation_id="fuel_map_solve",
)
def solve(request: SignedInRequest, job_id: int, payload: FuelMapIn) -> Status[TaskOut]:
    """Compute one correction of the map from logs; the task's result holds its number."""
    job: Job = job_of(request.user, job_id)
    user = request.user
    asked = Asked(tuple(payload.log_ids), tuple(payload.filters), payload.authority, tuple(payload.locked), payload.revision, payload.table, tuple(payload.mended), payload.learned)  # fmt: skip
    services.checked(job, asked)
    task = start(
        job.workshop, user, "fuel map", lambda progress: {"number": services.solve(job, user, asked, progress)}
    )  # fmt: skip
    return accepted(task)


class TransientsIn(RequestBody):
    """Which logs are read for transients."""

    log_ids: list[int] = Field(max_length=services.MOST_LOGS)


class TransientsOut(Schema):
    """The newest reading of transients; none yet."""

    number: int | None
    read: TransientRead | None


class RevisionMadeOut(Schema):
    """The revision that was written."""

    revision: int


@router.get(
    "/jobs/{job_id}/fuel-map/transients", response={200: TransientsOut, 404: Problem}, operation_id="transients_get"
)  # fmt: skip
def get_transients(request: SignedInRequest, job_id: int) -> TransientsOut:
    """Return what logs told of transients, newest."""
    found = transients.newest_read(job_of(request.user, job_id))
    return TransientsOut(number=found[0] if found else None, read=found[1] if found else None)


@router.post(
    "/jobs/{job_id}/fuel-map/transients",
    response={202: TaskOut, 404: Problem, 422: Problem},
    operation_id="transients_read",
)
def read_transients(
    request: SignedInRequest, job_id: int, payload: TransientsIn
) -> Status[TaskOut]:
    """Read throttle steps, film, enrichment and overrun from logs; the task's result holds the number."""
    job, user, chosen = job_of(request.user, job_id), request.user, tuple(payload.log_ids)
    transients.chosen_logs(job, chosen)
    task = start(
        job.workshop, user, "transients", lambda progress: {"number": transients.read(job, user, chosen, progress)}
    )  # fmt: skip
    return accepted(task)


@router.post(
    "/jobs/{job_id}/fuel-map/transients/{number}/accept",
    response={200: RevisionMadeOut, 404: Problem, 422: Problem},
    operation_id="transients_accept",
)
def accept_enrichment(request: SignedInRequest, job_id: int, number: int) -> RevisionMadeOut:
    """Take the acceleration enrichment of a reading into the tables."""
    job = job_of(request.user, job_id)
    return RevisionMadeOut(revision=transients.take_enrichment(job, request.user, number).number)


@router.post(
    "/jobs/{job_id}/fuel-map/{number}/corrections/{key}",
    response={200: RevisionMadeOut, 404: Problem, 409: Problem, 422: Problem},
    operation_id="fuel_map_correction",
)
def accept_correction(
    request: SignedInRequest, job_id: int, number: int, key: str
) -> RevisionMadeOut:
    """Take a correction over intake air, air pressure or coolant that a pass told, or its trims by cylinder."""
    job = job_of(request.user, job_id)
    return RevisionMadeOut(revision=services.take_correction(job, request.user, number, key).number)


@router.get(
    "/jobs/{job_id}/fuel-map/{number}", response={200: FuelMapOut, 404: Problem}, operation_id="fuel_map_get"
)  # fmt: skip
def get_pass(request: SignedInRequest, job_id: int, number: int) -> FuelMapOut:
    """Return a pass: factors with their band, layers, causes, and what to drive."""
    job = job_of(request.user, job_id)
    row = passes.pass_of(job, number)
    result = PASS.read(row.data)
    return FuelMapOut(
        number=row.number, at=row.created_at, by=row.created_by.username, result=result,
        trims=services.trims_wanted(job, result) is not None, taken=passes.takings_of(job).get(number, []),
        rest_tells=REST_TELLS,
    )  # fmt: skip


@router.post(
    "/jobs/{job_id}/fuel-map/{number}/accept",
    response={200: MapTakenOut, 404: Problem, 409: Problem, 422: Problem},
    operation_id="fuel_map_accept",
)
def accept(request: SignedInRequest, job_id: int, number: int, payload: TakeIn) -> MapTakenOut:
    """Take a pass into the map, whole or by region, as one revision."""
    region = None if payload.region is None else Region(**payload.region.model_dump())
    taken = services.take(
        job_of(request.user, job_id), request.user, number, region=region, reason=payload.reason
    )
    return MapTakenOut(revision=taken.revision, cells=len(taken.cells))

"""Intake over HTTP: what is fitted, photographs, and the review of an inherited calibration."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from django.http import FileResponse
from inbetrieb_core.commissioning import (
    CONFIGURABLE_INPUTS,
    INTAKE_ITEMS,
    IntakeDifference,
    IntakeEntry,
    intake_differences,
)
from inbetrieb_core.tables import DEFINITIONS
from ninja import Field, File, Form, Router, Schema, Status, UploadedFile

from server.accounts.requests import SignedInRequest
from server.calibration.api import RevisionOut, revision_out
from server.calibration.services import revision_of
from server.config.bodies import Body
from server.config.body import RequestBody
from server.config.problems import Problem, Refusal
from server.jobs.models import Job
from server.jobs.services import job_of

from . import inherited, photographs, review, services
from .findings import TableFindingOut, findings_out
from .models import Photograph

router = Router(tags=["intake"])


class PhotographOut(Schema):
    """A photograph."""

    number: int
    caption: str
    width: int
    height: int
    aside: bool
    author: str
    created_at: datetime


class SourceReadOut(Schema):
    """What a file or a paste held."""

    name: str
    understood: list[str]
    passed_over: list[str]


class InheritedOut(Schema):
    """A calibration as it was found."""

    revision: int
    tables: list[str]
    sources: list[SourceReadOut]
    author: str
    created_at: datetime
    decision: Literal["", "repair", "start_afresh"]
    decision_note: str


class IntakeItemOut(Schema):
    """Something that is looked at on every job."""

    key: str
    title: str
    station: str


class IntakeOut(Schema):
    """What was written down at intake."""

    number: int = Field(description="version; 0 where nothing is written yet")
    entry: IntakeEntry
    differences: list[IntakeDifference]
    items: list[IntakeItemOut]
    inputs: dict[str, str] = Field(description="inputs that may be switched on in a controller")
    photographs: list[PhotographOut]
    inherited: InheritedOut | None


class IntakeIn(Body):
    """The intake to write down."""

    entry: IntakeEntry
    based_on: int = 0


class PhotographAsideIn(RequestBody):
    """Whether a photograph is put aside."""

    aside: bool


class TableFoundOut(Schema):
    """A table that was found."""

    key: str
    title: str
    shape: list[int]


class FoundOut(Schema):
    """What a file or a paste holds; nothing is saved as a revision yet."""

    upload_id: str = Field(description="empty for a paste")
    name: str
    tables: list[TableFoundOut]
    understood: list[str]
    passed_over: list[str]


class InheritedPasteIn(RequestBody):
    """A table pasted from a spreadsheet, with its axes."""

    text: str = Field(max_length=500_000)
    table: str = Field("", description="its key; empty where the first cell says it")


class InheritedSourceIn(RequestBody):
    """A kept upload or a paste."""

    upload_id: str = ""
    name: str = ""
    text: str = Field("", max_length=500_000)
    table: str = ""


class InheritedKeepIn(RequestBody):
    """What to keep as the inherited calibration."""

    sources: list[InheritedSourceIn] = Field(min_length=1)
    note: str = ""


class CalibrationReviewOut(Schema):
    """What stands out in a revision."""

    revision: int
    verdict: Literal["sound", "repair", "start_afresh"]
    sentence: str
    affected_share: float
    findings: list[TableFindingOut]
    looked_at: list[str] = Field(description="tables that were found; the others are generated")


class InheritedDecisionIn(RequestBody):
    """Whether to repair or to start afresh."""

    decision: Literal["repair", "start_afresh"]
    note: str = ""


class InheritedDecisionOut(Schema):
    """What was decided."""

    decision: Literal["repair", "start_afresh"]
    revision: RevisionOut | None = Field(description="the generated one, if there is one")


def _photograph_out(row: Photograph) -> PhotographOut:
    return PhotographOut(
        number=row.number,
        caption=row.caption,
        width=row.width,
        height=row.height,
        aside=photographs.is_aside(row),
        author=row.created_by.get_username(),
        created_at=row.created_at,
    )


def _inherited_out(job: Job) -> InheritedOut | None:
    found = services.newest_inherited(job)
    if found is None:
        return None
    decision = services.decision_on(found)
    return InheritedOut(
        revision=found.revision.number,
        tables=found.tables,
        sources=[SourceReadOut(**source) for source in found.sources],
        author=found.created_by.get_username(),
        created_at=found.created_at,
        decision="" if decision is None else decision.decision,
        decision_note="" if decision is None else decision.note,
    )


def _intake_out(job: Job) -> IntakeOut:
    entry, number = services.intake_of(job)
    rows = Photograph.objects.filter(job=job).select_related("created_by").order_by("number")
    return IntakeOut(
        number=number,
        entry=entry,
        differences=list(intake_differences(entry)),
        items=[
            IntakeItemOut(key=key, title=title, station=station)
            for key, (title, station) in INTAKE_ITEMS.items()
        ],
        inputs=CONFIGURABLE_INPUTS,
        photographs=[_photograph_out(row) for row in rows],
        inherited=_inherited_out(job),
    )


@router.get(
    "/jobs/{job_id}/intake", response={200: IntakeOut, 404: Problem}, operation_id="intake_get"
)
def get_intake(request: SignedInRequest, job_id: int) -> IntakeOut:
    """Return what was written down at intake."""
    return _intake_out(job_of(request.user, job_id))


@router.post(
    "/jobs/{job_id}/intake",
    response={201: IntakeOut, 404: Problem, 409: Problem, 422: Problem},
    operation_id="intake_save",
)
def save_intake(request: SignedInRequest, job_id: int, payload: IntakeIn) -> Status[IntakeOut]:
    """Write the intake down as its next version."""
    job = job_of(request.user, job_id)
    services.save_intake(job, request.user, payload.entry, payload.based_on)
    return Status(201, _intake_out(job))


@router.post(
    "/jobs/{job_id}/photographs",
    response={201: PhotographOut, 404: Problem, 422: Problem},
    operation_id="photographs_add",
)
def add_photograph(
    request: SignedInRequest, job_id: int, file: File[UploadedFile], caption: Form[str] = ""
) -> Status[PhotographOut]:
    """Keep a photograph."""
    job = job_of(request.user, job_id)
    if (file.size or 0) > photographs.LARGEST_BYTES:
        raise Refusal(422, "Photograph refused", "The picture is larger than 24 MB.")
    row = photographs.add_photograph(job, request.user, file.read(), caption)
    return Status(201, _photograph_out(row))


@router.get(
    "/jobs/{job_id}/photographs/{number}",
    response={200: None, 404: Problem},
    operation_id="photographs_get",
)
def get_photograph(request: SignedInRequest, job_id: int, number: int) -> FileResponse:
    """Return a photograph as a JPEG picture."""
    row = photographs.photograph_of(job_of(request.user, job_id), number)
    path = photographs.path_of(row)
    if not path.exists():
        raise Refusal(404, "Not found", "The picture's file is gone from this machine.")
    response = FileResponse(path.open("rb"), content_type="image/jpeg")
    response["Cache-Control"] = "private, max-age=86400"
    return response


@router.post(
    "/jobs/{job_id}/photographs/{number}/aside",
    response={200: PhotographOut, 404: Problem},
    operation_id="photographs_aside",
)
def put_aside(
    request: SignedInRequest, job_id: int, number: int, payload: PhotographAsideIn
) -> PhotographOut:
    """Put a photograph aside, or bring it back."""
    row = photographs.photograph_of(job_of(request.user, job_id), number)
    photographs.put_aside(row, request.user, payload.aside)
    return _photograph_out(row)


def _found_out(upload_id: str, read: inherited.SourceRead) -> FoundOut:
    return FoundOut(
        upload_id=upload_id,
        name=read.name,
        tables=[
            TableFoundOut(
                key=table.key, title=DEFINITIONS[table.key].title, shape=list(table.values.shape)
            )
            for table in read.tables
        ],
        understood=list(read.understood),
        passed_over=list(read.passed_over),
    )


@router.post(
    "/jobs/{job_id}/inherited/file",
    response={200: FoundOut, 404: Problem, 422: Problem},
    operation_id="inherited_file",
)
def read_file(request: SignedInRequest, job_id: int, file: File[UploadedFile]) -> FoundOut:
    """Say what a calibration file holds; the file is kept."""
    job = job_of(request.user, job_id)
    return _found_out(*inherited.read_file(job, file.read(), (file.name or "")[:200]))


@router.post(
    "/jobs/{job_id}/inherited/paste",
    response={200: FoundOut, 404: Problem, 422: Problem},
    operation_id="inherited_paste",
)
def read_paste(request: SignedInRequest, job_id: int, payload: InheritedPasteIn) -> FoundOut:
    """Say what table was pasted, with its axes."""
    job_of(request.user, job_id)
    return _found_out("", inherited.read_paste(payload.text, payload.table))


@router.post(
    "/jobs/{job_id}/inherited",
    response={201: InheritedOut, 404: Problem, 422: Problem},
    operation_id="inherited_keep",
)
def keep(request: SignedInRequest, job_id: int, payload: InheritedKeepIn) -> Status[InheritedOut]:
    """Keep what was found as an untouched revision."""
    job = job_of(request.user, job_id)
    sources = [source.dict() for source in payload.sources]
    inherited.keep_inherited(job, request.user, sources, payload.note)
    out = _inherited_out(job)
    assert out is not None  # just written
    return Status(201, out)


@router.get(
    "/jobs/{job_id}/review",
    response={200: CalibrationReviewOut, 404: Problem},
    operation_id="review_get",
)
def get_review(
    request: SignedInRequest, job_id: int, revision: int | None = None
) -> CalibrationReviewOut:
    """Return what stands out in a revision: the newest by default."""
    job = job_of(request.user, job_id)
    saved = revision_of(job, revision)
    looked = review.looked_over(job, saved)
    found = getattr(saved, "inherited", None)
    return CalibrationReviewOut(
        revision=saved.number,
        verdict=looked.review.verdict,
        sentence=looked.review.sentence,
        affected_share=looked.review.affected_share,
        findings=findings_out(looked),
        looked_at=[] if found is None else found.tables,
    )


@router.post(
    "/jobs/{job_id}/inherited/decision",
    response={201: InheritedDecisionOut, 404: Problem, 422: Problem},
    operation_id="inherited_decide",
    by_alias=True,
)
def decide(
    request: SignedInRequest, job_id: int, payload: InheritedDecisionIn
) -> Status[InheritedDecisionOut]:
    """Decide to repair the inherited calibration or to start afresh."""
    job = job_of(request.user, job_id)
    found = services.newest_inherited(job)
    if found is None:
        raise Refusal(422, "Nothing to decide", "There is no inherited calibration in this job.")
    made = services.decide(job, request.user, found, payload.decision, payload.note)
    revision = None if made is None else revision_out(made)
    return Status(201, InheritedDecisionOut(decision=payload.decision, revision=revision))

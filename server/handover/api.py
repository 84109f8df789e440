"""The handover over HTTP."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Literal

from django.http import FileResponse
from inbetrieb_core.handover import CLOSING, PAPERS, PARTS, ClosingCheck, Paper, PaperKey, Reopening
from ninja import Field, Router, Schema, Status

from server.accounts.requests import SignedInRequest
from server.config.body import RequestBody
from server.config.problems import Problem
from server.jobs.services import job_of
from server.tasks.api import TaskOut, accepted
from server.tasks.services import start

from . import services
from .facts import reopening_of
from .kinds import CLOSED
from .pdf import SIZES

router = Router(tags=["handover"])


class ClosingOut(Schema):
    """A closing check with what was found."""

    check: ClosingCheck
    done: bool
    note: str
    by: str
    at: datetime | None


class HandoverOut(Schema):
    """A paper, the closing checks, and what papers there are."""

    paper: Paper
    closing: list[ClosingOut]
    parts: dict[str, str] = Field(description="what may be another when a job comes back")
    reopening: Reopening | None
    papers: dict[str, str]
    sizes: dict[str, str]


class ClosingIn(RequestBody):
    """What a closing check found."""

    note: str = Field("", max_length=1000)


class ReopenIn(RequestBody):
    """Which parts are others, and why the job came back."""

    parts: list[Annotated[str, Field(max_length=40)]] = Field(max_length=20)
    reason: str = Field(max_length=2000)


class PdfIn(RequestBody):
    """Which paper, and on which size."""

    paper: PaperKey = "customer"
    size: Literal["a4", "letter"] = "a4"


@router.get(
    "/jobs/{job_id}/handover",
    response={200: HandoverOut, 404: Problem},
    operation_id="handover_get",
)
def get_handover(
    request: SignedInRequest, job_id: int, paper: PaperKey = "customer"
) -> HandoverOut:
    """Return a paper of a job as it stands now, and the closing checks."""
    job = job_of(request.user, job_id)
    done = {row.key: row for row in CLOSED.newest_of_each(job)}
    closing = [
        ClosingOut(
            check=check, done=check.key in done, note=CLOSED.read(done[check.key].data).note if check.key in done else "",
            by=done[check.key].created_by.username if check.key in done else "",
            at=done[check.key].created_at if check.key in done else None,
        )
        for check in CLOSING
    ]  # fmt: skip
    return HandoverOut(
        paper=services.paper_of(job, paper), closing=closing,
        parts={str(k): v for k, v in PARTS.items()}, reopening=reopening_of(job),
        papers={str(k): v for k, v in PAPERS.items()}, sizes={str(k): v for k, v in SIZES.items()},
    )  # fmt: skip


@router.post(
    "/jobs/{job_id}/handover/closing/{key}",
    response={200: ClosingCheck, 404: Problem},
    operation_id="handover_close",
)
def close_check(
    request: SignedInRequest, job_id: int, key: str, payload: ClosingIn
) -> ClosingCheck:
    """Write down what a closing check found."""
    services.close_check(job_of(request.user, job_id), request.user, key, payload.note)
    return next(check for check in CLOSING if check.key == key)


@router.post(
    "/jobs/{job_id}/handover/reopen",
    response={200: Reopening, 404: Problem, 422: Problem},
    operation_id="handover_reopen",
)
def reopen(request: SignedInRequest, job_id: int, payload: ReopenIn) -> Reopening:
    """Write down that a job came back with other parts; return what is kept of its record, and what fell."""
    job = job_of(request.user, job_id)
    services.reopen(job, request.user, payload.parts, payload.reason)
    found = reopening_of(job)
    assert found is not None  # it was just written
    return found


@router.post(
    "/jobs/{job_id}/handover/pdf",
    response={202: TaskOut, 404: Problem},
    operation_id="handover_pdf",
)
def make_pdf(request: SignedInRequest, job_id: int, payload: PdfIn) -> Status[TaskOut]:
    """Make a paper as PDF in the background; the task's result holds its digest."""
    job, key, size = job_of(request.user, job_id), payload.paper, payload.size
    task = start(
        job.workshop,
        request.user,
        "paper",
        lambda progress: {"digest": services.make_pdf(job, key, size, progress)},
    )
    return accepted(task)


@router.get(
    "/jobs/{job_id}/handover/pdf/{digest}",
    response={200: None, 404: Problem},
    operation_id="handover_pdf_get",
)
def get_pdf(request: SignedInRequest, job_id: int, digest: str) -> FileResponse:
    """Return a paper that was made."""
    job = job_of(request.user, job_id)
    path = services.pdf_of(job, digest)
    return FileResponse(
        path.open("rb"), content_type="application/pdf", filename=f"handover-{job.pk}.pdf"
    )

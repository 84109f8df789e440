"""Archives of jobs over HTTP."""

from __future__ import annotations

from django.http import FileResponse
from ninja import File, Router, Schema, Status
from ninja.files import UploadedFile

from server.accounts.requests import SignedInRequest
from server.accounts.services import workshop_of
from server.config.problems import Problem
from server.jobs.services import job_of
from server.tasks.api import TaskOut, accepted
from server.tasks.services import start

from . import services
from .services import ArchiveHolds

router = Router(tags=["archives"])
_REFUSED = {413: Problem, 422: Problem}


def _unheard(share: float, sentence: str) -> None:
    """Hear nothing: what is written in one transaction can be told of only when it is through."""


class JobTakenOut(Schema):
    """The job that was added."""

    job_id: int


@router.post(
    "/jobs/{job_id}/archive", response={202: TaskOut, 404: Problem}, operation_id="archive_make"
)
def make_archive(request: SignedInRequest, job_id: int) -> Status[TaskOut]:
    """Write a whole job into one archive; the task's result holds its key."""
    job = job_of(request.user, job_id)
    task = start(
        job.workshop,
        request.user,
        "archive",
        lambda progress: {"key": services.make(job, progress.tell)},
    )
    return accepted(task)


@router.get(
    "/jobs/{job_id}/archive/{key}", response={200: None, 404: Problem}, operation_id="archive_get"
)
def get_archive(request: SignedInRequest, job_id: int, key: str) -> FileResponse:
    """Return an archive that was made."""
    job = job_of(request.user, job_id)
    path = services.made(job, key)
    return FileResponse(
        path.open("rb"), content_type="application/zip", filename=f"job-{job.pk}.zip"
    )


@router.post(
    "/archives/look", response={200: ArchiveHolds, **_REFUSED}, operation_id="archive_look"
)
def look(request: SignedInRequest, file: File[UploadedFile]) -> ArchiveHolds:
    """Return what an archive holds and what taking it would do; nothing is written."""
    with services.brought(file) as path:
        return services.look(path)


@router.post("/archives", response={201: JobTakenOut, **_REFUSED}, operation_id="archive_take")
def take(request: SignedInRequest, file: File[UploadedFile]) -> Status[JobTakenOut]:
    """Take the job of an archive into one's workshop, all of it or nothing."""
    workshop = workshop_of(request.user)
    with services.brought(file) as path:
        number = services.take(path, workshop, request.user, _unheard)
    return Status(201, JobTakenOut(job_id=number))

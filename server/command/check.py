"""Looking an installation over: database, samples, tables, and the sums of its files."""

from __future__ import annotations

import hashlib
import zlib
from collections.abc import Iterator
from pathlib import Path

from django.conf import settings
from django.db import connection

from server.calibration.models import Revision
from server.calibration.services import calibration_of
from server.config.append_only import AppendOnly
from server.intake.models import Photograph
from server.intake.photographs import path_of as path_of_photograph
from server.jobs.models import Job
from server.logbook.models import Log
from server.logbook.samples import read_trace

from .backup import problems_of


def problems() -> Iterator[str]:
    """Yield what is wrong, in sentences; nothing where all is well."""
    connection.ensure_connection()
    yield from problems_of(connection.connection)
    yield from _guards()
    yield from _logs()
    yield from _revisions()
    yield from _photographs()
    yield from _uploads()


def _guards() -> Iterator[str]:
    from django.apps import apps

    with connection.cursor() as cursor:
        cursor.execute("SELECT name FROM sqlite_master WHERE type = 'trigger'")
        there = {name for (name,) in cursor.fetchall()}
    for model in apps.get_models():
        table = model._meta.db_table
        if issubclass(model, AppendOnly) and f"{table}_kept" not in there:
            yield f"{table} is not guarded: run ./inbetrieb upgrade."


def _logs() -> Iterator[str]:
    for log in Log.objects.all().iterator():
        try:
            count = len(read_trace(log).time_s)
        except (zlib.error, ValueError) as error:
            yield f"Log {log.pk} of job {log.job_id} cannot be read: {error}"
            continue
        if count != log.sample_count:
            yield f"Log {log.pk} of job {log.job_id} has {count} samples, not {log.sample_count}."


def _revisions() -> Iterator[str]:
    for job in Job.objects.all():
        numbers = list(Revision.objects.filter(job=job).order_by("number").values_list("number", flat=True))  # fmt: skip
        if numbers != list(range(1, len(numbers) + 1)):
            yield f"Job {job.pk} lacks a revision."
    for revision in Revision.objects.all().iterator():
        try:
            calibration_of(revision)
        except Exception as error:  # whatever is wrong with it, it is the one to name
            yield f"Revision {revision.number} of job {revision.job_id} cannot be read: {error}"


def _photographs() -> Iterator[str]:
    for row in Photograph.objects.select_related("job").iterator():
        path = path_of_photograph(row)
        if not path.exists() or _sum_of(path) != row.digest:
            yield f"Photograph {row.number} of job {row.job_id} is missing or damaged."


def _uploads() -> Iterator[str]:
    folder: Path = settings.UPLOADS
    for path in sorted(folder.rglob("*")):
        if path.is_file() and len(path.name) == 64 and _sum_of(path) != path.name:
            yield f"The upload {path.name} is damaged."


def _sum_of(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()

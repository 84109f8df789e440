"""The summary of every job: what the board shows, kept up to date by whoever writes.

A board of any length is one read. A summary that another version of the program wrote is not trusted:
it is worked out for the answer, and written anew when the database is brought up to date.
"""

from __future__ import annotations

import hashlib
import logging
from collections.abc import Iterable
from pathlib import Path
from typing import Any

import inbetrieb_core
from django.db import transaction

import server
from server.config.said import rendered
from server.jobs.models import Job

from .job_out import job_out
from .models import JobSummary

logger = logging.getLogger(__name__)


def _version() -> str:
    """Return a mark of the program's own text: the same rows may be told otherwise by another."""
    digest = hashlib.sha256()
    for package in (inbetrieb_core, server):
        folder = Path(str(package.__file__)).parent
        for path in sorted(folder.rglob("*.py")):
            digest.update(path.read_bytes())
    return digest.hexdigest()[:40]


VERSION = _version()


def jobs_touched_by(row: Any) -> Iterable[int]:
    """Return the jobs whose summary may follow from a row that was saved."""
    if isinstance(row, Job):
        return (row.pk,)
    if isinstance(row, JobSummary):
        return ()
    if isinstance(getattr(row, "job_id", None), int):
        return (row.job_id,)
    # What hangs on a trial, a check, a revision: it belongs to the job of that.
    above = [
        getattr(row, field.name)
        for field in row._meta.concrete_fields
        if field.is_relation and _has_job(field.related_model)
    ]
    return tuple(one.job_id for one in above if one is not None)


def _has_job(model: Any) -> bool:
    return any(field.name == "job" for field in model._meta.concrete_fields)


def keep(job_ids: set[int]) -> None:
    """Write the summaries of jobs as they stand. Callers hold the transaction."""
    for job in Job.objects.filter(pk__in=job_ids):
        told = job_out(job)
        JobSummary.objects.update_or_create(
            job=job,
            defaults={
                "version": VERSION,
                "body": rendered(told.model_dump_json(by_alias=True)),
                "needs": told.next_action.station,
                "aside": told.aside,
            },
        )


def body_of(job: Job) -> str:
    """Return a job as it travels, in JSON."""
    kept = getattr(job, "summary", None)
    if kept is not None and kept.version == VERSION:
        return str(kept.body)
    try:
        return rendered(job_out(job).model_dump_json(by_alias=True))
    except Exception:
        if kept is None:
            raise
        # One job that cannot be told does not take the others off the board.
        logger.exception(
            "Job %s cannot be told; what an earlier version said of it is shown", job.pk
        )
        return str(kept.body)


def renew(using: str) -> None:
    """Write the summaries that are missing, or that another version wrote.

    Each by itself: an upgrade does not fail for a job that cannot be told, which keeps its old one.
    """
    stale = Job.objects.using(using).exclude(summary__version=VERSION).values_list("pk", flat=True)
    for key in list(stale):
        try:
            with transaction.atomic(using=using):
                keep({key})
        except Exception:
            logger.exception("The summary of job %s could not be written anew", key)

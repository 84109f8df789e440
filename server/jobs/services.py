"""Which jobs a person may see, and what of a job can be changed without its tables."""

from __future__ import annotations

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import QuerySet
from django.shortcuts import get_object_or_404

from server.accounts.services import workshop_of

from . import units
from .models import Job


def jobs_of(user: User) -> QuerySet[Job]:
    """Return the jobs of the user's workshop, newest first."""
    return Job.objects.filter(workshop=workshop_of(user)).order_by("-created_at", "-pk")


def job_of(user: User, job_id: int) -> Job:
    """Return one job of the user's workshop.

    Raises
    ------
    Http404
        If there is none, or it is another workshop's.
    """
    return get_object_or_404(Job, pk=job_id, workshop=workshop_of(user))


@transaction.atomic
def set_units(job: Job, display_units: dict[str, str]) -> Job:
    """Change the display units of a job."""
    job.units = units.checked({**job.units, **display_units})
    job.save(update_fields=["units"])
    return job

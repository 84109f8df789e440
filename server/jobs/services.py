"""Which jobs a person may see, and what of a job can be changed without its tables."""

from __future__ import annotations

from django.contrib.auth.models import User
from django.db.models import Q, QuerySet
from django.shortcuts import get_object_or_404

from server.accounts.models import Membership
from server.config.writes import writing

from . import units
from .guests import holding
from .models import Job


def jobs_of(user: User) -> QuerySet[Job]:
    """Return the jobs of the user's workshop, newest first."""
    return visible_to(user).order_by("-created_at", "-pk")


def visible_to(user: User) -> QuerySet[Job]:
    """Return the jobs that a user may look at: their workshop's, or that of their guest link."""
    places = Membership.objects.filter(user=user).values("workshop")
    by_link = holding().filter(user=user).values("job")
    return Job.objects.filter(Q(workshop__in=places) | Q(pk__in=by_link))


def job_of(user: User, job_id: int, *beside: str) -> Job:
    """Return one job of the user's workshop, with rows that stand `beside` it in the same read.

    Raises
    ------
    Http404
        If there is none, or it is another workshop's.
    """
    jobs = visible_to(user)
    return get_object_or_404(jobs.select_related(*beside) if beside else jobs, pk=job_id)


@writing()
def set_units(job: Job, display_units: dict[str, str]) -> Job:
    """Change the display units of a job."""
    job.units = units.checked({**job.units, **display_units})
    job.save(update_fields=["units"])
    return job

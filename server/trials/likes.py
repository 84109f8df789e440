"""What other engines of the workshop teach of this one: their proven tables, as departures."""

from __future__ import annotations

from django.db.models import Max, Q, QuerySet
from inbetrieb_core.estimate import Evidence, LikeEngine, known_from
from inbetrieb_core.starts import twice_good

from server.calibration.models import Revision
from server.calibration.services import calibration_of, revision_of
from server.jobs.engine_data import spec_of
from server.jobs.models import Job

from .models import Trial
from .proofs import proofs_of

#: So many of the newest other jobs are looked at.
_MOST_JOBS = 12


def real_starts_beside(job: Job) -> QuerySet[Trial]:
    """Return the good starts of the workshop's other jobs on real engines.

    A simulated engine teaches nothing of a real one.
    """
    others = Trial.objects.filter(job__workshop=job.workshop_id, kind="start", good=True)
    return others.exclude(job=job).exclude(Q(log__isnull=False) & Q(log__origin="bench"))


def state_beside(job: Job) -> tuple[int, int]:
    """Return what names all that :func:`known_of` reads: the newest trial and revision of those jobs.

    Both are append-only.
    """
    jobs = real_starts_beside(job).values("job")
    trial = Trial.objects.filter(job__in=jobs).aggregate(n=Max("pk"))["n"]
    revision = Revision.objects.filter(job__in=jobs).aggregate(n=Max("pk"))["n"]
    return trial or 0, revision or 0


def known_of(job: Job) -> tuple[Evidence, ...]:
    """Return what proven starts of like engines teach of this job's tables."""
    keys = real_starts_beside(job).values_list("job", flat=True).distinct().order_by("-job")
    likes = []
    for other in Job.objects.filter(pk__in=list(keys[:_MOST_JOBS])):
        tried = proofs_of(other)
        proven = tuple(place for place, _ in tried if twice_good(place, tried))
        if proven:
            likes.append(LikeEngine(spec_of(other), calibration_of(revision_of(other)), proven))
    return known_from(spec_of(job), likes)

"""What other engines of the workshop teach of this one: their proven tables, as departures."""

from __future__ import annotations

from inbetrieb_core.estimate import Evidence, LikeEngine, known_from
from inbetrieb_core.starts import NEAR_PROOF_K

from server.calibration.services import calibration_of, revision_of
from server.jobs.engine_data import spec_of
from server.jobs.models import Job

from .models import Trial

#: So many of the newest other jobs are looked at.
_MOST_JOBS = 12


def known_of(job: Job) -> tuple[Evidence, ...]:
    """Return what proven starts of like engines teach of this job's tables."""
    others = (
        Job.objects.filter(workshop=job.workshop, trials__good=True)
        .exclude(pk=job.pk)
        .distinct()
        .order_by("-pk")[:_MOST_JOBS]
    )
    likes = []
    for other in others:
        rows = Trial.objects.filter(job=other, kind="start").order_by("number")
        starts = list(rows.values_list("coolant_c", "good"))
        proven = tuple(
            place
            for place, good in starts
            if good
            and [g for c, g in starts if abs(c - place) <= NEAR_PROOF_K][-2:] == [True, True]
        )
        if proven:
            likes.append(LikeEngine(spec_of(other), calibration_of(revision_of(other)), proven))
    return known_from(spec_of(job), likes)

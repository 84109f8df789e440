"""Trials as the order of work sees them."""

from __future__ import annotations

from collections.abc import Sequence

from django.db.models import Count
from inbetrieb_core.commissioning import TrialFact

from server.jobs.models import Job

from .analysis import analysis_of
from .models import Trial


def trial_facts(job: Job) -> list[TrialFact]:
    """Return the trials of a job as the order of work sees them, oldest first."""
    rows = Trial.objects.filter(job=job)
    facts = []
    for trial in rows.select_related("decision", "revision").order_by("number"):
        advice = analysis_of(trial).advice
        decision = getattr(trial, "decision", None)
        facts.append(
            TrialFact(
                trial.number,
                trial.coolant_c,
                trial.good,
                None if advice is None else advice.table,
                "" if advice is None else advice.reason,
                "" if decision is None else decision.kind,
                trial.revision.number,
            )
        )
    return facts


def good_starts(jobs: Sequence[Job]) -> dict[int, int]:
    """Return how many good starts jobs have, by their key."""
    rows = Trial.objects.filter(job__in=jobs, good=True).values("job_id")
    return {row["job_id"]: row["n"] for row in rows.annotate(n=Count("pk"))}

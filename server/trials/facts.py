"""Trials as the order of work sees them."""

from __future__ import annotations

from typing import Any

from inbetrieb_core.commissioning import TrialFact

from server.jobs.models import Job

from .models import Trial


def trial_facts(job: Job) -> list[TrialFact]:
    """Return the trials of a job as the order of work sees them, oldest first."""
    rows = Trial.objects.filter(job=job)
    facts = []
    for trial in rows.select_related("decision", "revision").order_by("number"):
        advice: list[dict[str, Any]] = trial.analysis["advice"]
        decision = getattr(trial, "decision", None)
        facts.append(
            TrialFact(
                trial.number,
                trial.coolant_c,
                trial.good,
                advice[0]["table"] if advice else None,
                advice[0]["reason"] if advice else "",
                "" if decision is None else decision.kind,
                trial.revision.number,
            )
        )
    return facts

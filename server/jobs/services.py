"""What can be done to jobs."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

from django.contrib.auth.models import User
from django.db import transaction
from django.db.models import QuerySet
from django.shortcuts import get_object_or_404
from inbetrieb_core.basemaps import generate
from inbetrieb_core.commissioning import NextAction, TrialFact, next_action
from inbetrieb_core.errors import FieldProblem, InputRefused
from inbetrieb_core.supply import judge_injectors

from server.accounts.services import workshop_of
from server.calibration.services import add_first_revision, newest_number

from . import units
from .engine_data import EngineIn, engine_spec
from .gates import gates_of
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
def create_job(
    user: User,
    *,
    name: str,
    note: str,
    engine: EngineIn,
    display_units: dict[str, str],
    axes: Mapping[str, Sequence[float]] | None,
    override_reason: str,
) -> Job:
    """Return a new job with its generated revision 1.

    Raises
    ------
    InputRefused
        If data are impossible, or implausible without a written reason.
    """
    if not name.strip():
        raise InputRefused([FieldProblem("name", "Give the job a name.")])
    spec = engine_spec(engine)
    judgement = judge_injectors(spec)
    if judgement.level == "implausible" and not override_reason.strip():
        sentence = (
            " ".join(judgement.sentences) + " If it is really so, say why in override_reason."
        )
        raise InputRefused([FieldProblem("engine.injectors.flow_cm3_min", sentence)])
    calibration = generate(spec, axes)
    job = Job.objects.create(
        workshop=workshop_of(user),
        name=name.strip()[:120],
        note=note.strip(),
        engine=engine.model_dump(mode="json"),
        units=units.checked(display_units),
        override_reason=override_reason.strip(),
        created_by=user,
    )
    add_first_revision(job, user, calibration)
    return job


@transaction.atomic
def set_units(job: Job, display_units: dict[str, str]) -> Job:
    """Change the display units of a job."""
    job.units = units.checked({**job.units, **display_units})
    job.save(update_fields=["units"])
    return job


def trial_facts(job: Job) -> list[TrialFact]:
    """Return the trials of a job as the order of work sees them, oldest first."""
    facts = []
    for trial in job.trials.select_related("decision", "revision").order_by("number"):
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


def action_of(job: Job) -> NextAction:
    """Return the next action of a job."""
    return next_action(trial_facts(job), newest_number(job), gates_of(job))

"""What is written down at intake, and what was decided on an inherited calibration."""

from __future__ import annotations

from django.contrib.auth.models import User
from inbetrieb_core.commissioning import IntakeEntry

from server.basemaps.services import generate_revision
from server.calibration.models import Inherited, Revision
from server.calibration.services import newest_number
from server.config.problems import Refusal
from server.config.writes import writing
from server.jobs.engine_data import entry_of_job
from server.jobs.models import Job

from .kinds import INTAKE, VERDICT, Decision, Verdict, verdict_key


def intake_of(job: Job) -> tuple[IntakeEntry, int]:
    """Return what was written down and its version; 0 where nothing was yet."""
    return INTAKE.value(job) or (IntakeEntry(), 0)


@writing()
def save_intake(job: Job, user: User, entry: IntakeEntry, based_on: int) -> int:
    """Write the intake down as its next version.

    Raises
    ------
    InputRefused
        If something in it cannot be.
    Refusal
        409 if somebody else wrote meanwhile.
    """
    entry.check()
    _, number = intake_of(job)
    if number != based_on:
        raise Refusal(
            409,
            "Somebody wrote meanwhile",
            "The intake was changed in another window. What you typed is not lost: look at both, then save again.",
            newest=number,
        )
    return INTAKE.add(job, user, entry).number


def newest_inherited(job: Job) -> Inherited | None:
    """Return the calibration that was found last; None if none was."""
    rows = Inherited.objects.filter(job=job).select_related("revision", "created_by")
    return rows.order_by("pk").last()


def decision_on(inherited: Inherited) -> Verdict | None:
    """Return what was decided on an inherited calibration; None where nothing was."""
    found = VERDICT.value(inherited.job, verdict_key(inherited.revision.number))
    return None if found is None else found[0]


@writing()
def decide(
    job: Job, user: User, inherited: Inherited, decision: Decision, note: str
) -> Revision | None:
    """Write a decision down; to start afresh generates all tables as a new revision.

    Returns
    -------
    Revision or None
        The generated one; None where the inherited one is repaired.
    """
    number = inherited.revision.number
    verdict = Verdict(decision, note.strip()[:2000], user.get_username())
    VERDICT.add(job, user, verdict, verdict_key(number))
    if decision == "repair":
        return None
    return generate_revision(
        job,
        user,
        engine=entry_of_job(job),
        axes=None,
        tables=None,
        based_on=newest_number(job),
        note=f"Started afresh instead of repairing revision {number}. {note.strip()}".strip(),
    )

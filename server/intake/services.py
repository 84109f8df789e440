"""What is written down at intake, and what was decided on an inherited calibration."""

from __future__ import annotations

from typing import Literal

from django.contrib.auth.models import User
from django.db import transaction
from inbetrieb_core.commissioning import IntakeEntry

from server.basemaps.services import generate_revision
from server.calibration.models import Inherited, Revision
from server.calibration.services import newest_number
from server.config.problems import Refusal
from server.hardware import entries
from server.jobs.engine_data import EngineIn
from server.jobs.models import Job

Decision = Literal["repair", "start_afresh"]


def intake_of(job: Job) -> tuple[IntakeEntry, int]:
    """Return what was written down and its version; 0 where nothing was yet."""
    row = entries.newest(job, "intake")
    if row is None or row.data is None:
        return IntakeEntry(), 0
    return entries.INTAKE.validate_python(row.data), row.number


@transaction.atomic
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
    return entries.add(
        job, user, "intake", "", entries.INTAKE.dump_python(entry, mode="json")
    ).number


def newest_inherited(job: Job) -> Inherited | None:
    """Return the calibration that was found last; None if none was."""
    rows = Inherited.objects.filter(job=job).select_related("revision", "created_by")
    return rows.order_by("pk").last()


def decision_on(inherited: Inherited) -> dict[str, str] | None:
    """Return what was decided on an inherited calibration; None where nothing was."""
    row = entries.newest(inherited.job, "intake", f"verdict {inherited.revision.number}")
    return None if row is None else row.data


@transaction.atomic
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
    data = {"decision": decision, "note": note.strip()[:2000], "author": user.get_username()}
    entries.add(job, user, "intake", f"verdict {number}", data)
    if decision == "repair":
        return None
    return generate_revision(
        job,
        user,
        engine=EngineIn.model_validate(job.engine),
        axes=None,
        tables=None,
        based_on=newest_number(job),
        note=f"Started afresh instead of repairing revision {number}. {note.strip()}".strip(),
    )

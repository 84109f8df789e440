"""Why a gate is passed without what it asks for: written down, and kept in the record."""

from __future__ import annotations

from typing import Literal

from django.contrib.auth.models import User
from django.db import transaction

from server.jobs.models import Job

from . import entries

Passed = Literal["wiring", "trigger", "outputs"]
LEAST_REASON = 8


@transaction.atomic
def write_reason(job: Job, user: User, gate: Passed, reason: str, evidence: int = 0) -> str:
    """Write down why a gate is passed without what it asks for, and return the reason kept.

    Parameters
    ----------
    gate : {"wiring", "trigger", "outputs"}
    reason : str
    evidence : int
        Newest evidence at that moment; later evidence counts again.

    Raises
    ------
    InputRefused
        If there is no reason worth reading.
    """
    if len(reason.strip()) < LEAST_REASON:
        raise entries.refuse("reason", "Write down why this is safe; it stays in the record.")
    kept = reason.strip()[:2000]
    entries.add(job, user, "reason", gate, {"reason": kept, "evidence": evidence})
    return kept


def reason_of(job: Job, gate: Passed) -> tuple[str, int]:
    """Return the written reason of a gate and the evidence it was written on; empty without one."""
    row = entries.newest(job, "reason", gate)
    if row is None or row.data is None:
        return "", 0
    return row.data["reason"], int(row.data["evidence"])

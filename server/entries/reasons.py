"""Why a gate is passed without what it asks for: written down, and kept in the record."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from django.contrib.auth.models import User
from inbetrieb_core.errors import field_refused

from server.config.writes import writing
from server.jobs.models import Job

from .kinds import Kind

Passed = Literal["wiring", "trigger", "outputs", "hot-idle"]
_LEAST = 8
_MOST = 2000


@dataclass(frozen=True)
class Reason:
    """A written reason.

    Attributes
    ----------
    reason : str
        Empty where none was written.
    evidence : int
        Newest evidence at that moment; later evidence counts again.
    """

    reason: str = ""
    evidence: int = 0


REASON: Kind[Reason] = Kind("reason", Reason)


def worth_reading(reason: str, why: str) -> str:
    """Return a reason as it is kept in the record.

    Parameters
    ----------
    reason : str
        As typed.
    why : str
        What it must say; the sentence of the refusal.

    Raises
    ------
    InputRefused
        If there is no reason worth reading.
    """
    if len(reason.strip()) < _LEAST:
        raise field_refused("reason", f"{why}; it stays in the record.")
    return reason.strip()[:_MOST]


@writing()
def write_reason(job: Job, user: User, gate: Passed, reason: str, evidence: int = 0) -> str:
    """Write down why a gate is passed without what it asks for, and return the reason kept.

    Raises
    ------
    InputRefused
        If there is no reason worth reading.
    """
    kept = worth_reading(reason, "Write down why this is safe")
    REASON.add(job, user, Reason(kept, evidence), gate)
    return kept


def reason_of(job: Job, gate: Passed) -> Reason:
    """Return the written reason of a gate; empty without one."""
    found = REASON.value(job, gate)
    return Reason() if found is None else found[0]

"""A job put aside: off the board, with a reason, and back again; nothing of it is deleted."""

from __future__ import annotations

from dataclasses import dataclass

from django.contrib.auth.models import User

from server.config.writes import writing
from server.entries.kinds import Kind
from server.entries.reasons import worth_reading
from server.jobs.models import Job


@dataclass(frozen=True)
class Aside:
    """Whether a job is put aside, and why."""

    aside: bool = False
    reason: str = ""


ASIDE: Kind[Aside] = Kind("aside", Aside)


def is_aside(job: Job) -> bool:
    """Say whether a job is put aside."""
    found = ASIDE.value(job)
    return found is not None and found[0].aside


@writing()
def put_aside(job: Job, user: User, *, aside: bool, reason: str) -> None:
    """Put a job aside, or bring it back.

    Raises
    ------
    InputRefused
        If it is put aside without a reason worth reading.
    """
    kept = worth_reading(reason, "Say why it is put aside") if aside else reason.strip()[:2000]
    ASIDE.add(job, user, Aside(aside, kept))

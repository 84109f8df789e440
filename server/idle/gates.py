"""The gate of station 8: what was read of the warm idle must not speak against it."""

from __future__ import annotations

from typing import Final

from inbetrieb_core.idle import WarmIdle

from server.config.problems import Refusal
from server.entries.reasons import reason_of
from server.jobs.models import Job

from . import services

STATION: Final = "hot-idle"


def written_reason(job: Job) -> str:
    """Return why the ladder goes on without a true warm idle; empty where nothing holds any more."""
    written = reason_of(job, STATION)
    # What is read later counts again.
    return written.reason if services.newest_evidence(job) <= written.evidence else ""


def refuse_if_untrue(job: Job) -> None:
    """Refuse to change start tables while what was read speaks against the warm idle.

    Raises
    ------
    Refusal
        409 with what to mend.
    """
    if not services.was_begun(job):
        return
    verdict: WarmIdle = services.verdict_of(job)
    if verdict.is_refused and not written_reason(job):
        raise Refusal(
            409, "Gate closed",
            f"Nothing in the cold tables means anything until the warm idle is true. {verdict.sentence}",
            station=STATION,
        )  # fmt: skip

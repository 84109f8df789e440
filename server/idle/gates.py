"""The gate of station 8: what was read of the warm idle must not speak against it."""

from __future__ import annotations

from typing import Final

from inbetrieb_core.commissioning import Gate, hot_idle_gate

from server.entries.reasons import reason_of
from server.jobs.models import Job

from . import services

STATION: Final = "hot-idle"


def written_reason(job: Job) -> str:
    """Return why the ladder goes on without a true warm idle; empty where nothing holds any more."""
    written = reason_of(job, STATION)
    # What is read later counts again.
    return written.reason if services.newest_evidence(job) <= written.evidence else ""


def gate_of_hot_idle(job: Job) -> Gate:
    """Return the gate of the warm idle."""
    if not services.was_begun(job):
        return hot_idle_gate(None, "")
    return hot_idle_gate(services.verdict_on(job, services.facts_of(job)), written_reason(job))

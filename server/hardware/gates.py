"""The gates of stations 3 and 4: sensors and injectors."""

from __future__ import annotations

from inbetrieb_core.commissioning import Gate, KeyOnFact, injector_gate, sensor_gate
from inbetrieb_core.supply import judge_injectors

from server.jobs.engine_data import spec_of
from server.jobs.models import Job

from .kinds import versions_of
from .models import KeyOnCheck


def newest_fact(job: Job, versions: dict[str, int]) -> KeyOnFact | None:
    """Return the newest key-on check as the gate sees it."""
    check = KeyOnCheck.objects.filter(job=job).select_related("override").order_by("number").last()
    if check is None:
        return None
    return KeyOnFact(
        check.state,
        check.result["sentence"],
        hasattr(check, "override"),
        check.versions != versions,
    )


def gate_of_sensors(job: Job) -> Gate:
    """Return the gate of the sensors."""
    versions = versions_of(job)
    return sensor_gate(len(versions), newest_fact(job, versions))


def gate_of_injectors(job: Job) -> Gate:
    """Return the gate of the injectors."""
    judgement = judge_injectors(spec_of(job))
    return injector_gate(judgement.level, judgement.sentences, job.override_reason)

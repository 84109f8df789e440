"""The gates of a job: what must be trusted before the engine is started on it."""

from __future__ import annotations

from inbetrieb_core.commissioning import Gate, KeyOnFact, injector_gate, sensor_gate
from inbetrieb_core.supply import judge_injectors

from server.config.problems import Refusal
from server.jobs.engine_data import spec_of
from server.jobs.models import Job
from server.trigger import facts

from .entries import versions_of
from .models import KeyOnCheck


def newest_fact(job: Job) -> KeyOnFact | None:
    """Return the newest key-on check as the gate sees it."""
    check = KeyOnCheck.objects.filter(job=job).select_related("override").order_by("number").last()
    if check is None:
        return None
    return KeyOnFact(
        check.state,  # type: ignore[arg-type]
        check.result["sentence"],
        hasattr(check, "override"),
        check.versions != versions_of(job),
    )


def gates_of(job: Job) -> tuple[Gate, ...]:
    """Return the gates of a job in the order of the stations."""
    judgement = judge_injectors(spec_of(job))
    return (
        facts.gate_of_wiring(job),
        sensor_gate(len(versions_of(job)), newest_fact(job)),
        injector_gate(judgement.level, judgement.sentences, job.override_reason),
        facts.gate_of_trigger(job),
        facts.gate_of_outputs(job),
    )


def refuse_if_closed(job: Job) -> None:
    """Refuse to go on where evidence has closed a gate.

    Raises
    ------
    Refusal
        409 with what to mend.
    """
    for gate in gates_of(job):
        if gate.is_refused:
            raise Refusal(
                409,
                "Gate closed",
                f"No table is changed on readings that cannot be trusted. {gate.sentence}",
                station=gate.key,
            )

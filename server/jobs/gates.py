"""The gates of a job: what must be trusted before the engine is started on it."""

from __future__ import annotations

from inbetrieb_core.commissioning import (
    CaptureFact,
    Gate,
    KeyOnFact,
    base_map_gate,
    injector_gate,
    intake_gate,
    output_gate,
    sensor_gate,
    trigger_gate,
    wiring_gate,
)
from inbetrieb_core.supply import judge_injectors

from server.calibration import review
from server.calibration.models import Inherited
from server.calibration.services import revision_of
from server.config.problems import Refusal
from server.hardware import entries
from server.hardware.entries import versions_of
from server.hardware.models import KeyOnCheck
from server.hardware.reasons import reason_of
from server.trigger import captures
from server.trigger import services as trigger
from server.trigger.models import EdgeCapture, OutputTest
from server.wiring import services as wiring

from .engine_data import spec_of
from .models import Job


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


def gate_of_wiring(job: Job) -> Gate:
    """Return the gate of the wiring."""
    reason, _ = reason_of(job, "wiring")
    saved = wiring.saved_plan(job)
    if reason or saved is None:
        return wiring_gate(False, False, 0, reason)
    signed = wiring.sign_off_of(job)
    plan = wiring.computed(job, saved.profile, saved.entry)
    changed = len(wiring.changes_since(signed, plan))
    whole = plan.allocation.is_whole
    return wiring_gate(True, signed is not None, changed, "", whole=whole)


def gate_of_trigger(job: Job) -> Gate:
    """Return the gate of the trigger: wheel, capture and timing light."""
    newest = EdgeCapture.objects.filter(job=job).defer("edges").order_by("number").last()
    fact = None
    if newest is not None:
        fact = CaptureFact(
            newest.verdict == "agrees", newest.result["sentence"], captures.is_stale(job, newest)
        )
    session = trigger.newest_session(job)
    stop = session.fit.sentences[0] if session is not None and session.fit.level == "stop" else ""
    reason, evidence = reason_of(job, "trigger")
    if newest is not None and newest.number > evidence:
        reason = ""  # seen later than it was written
    return trigger_gate(trigger.trigger_of(job)[1] > 0, fact, stop, reason)


def gate_of_outputs(job: Job) -> Gate:
    """Return the gate of the outputs."""
    reason, evidence = reason_of(job, "outputs")
    failed_later = OutputTest.objects.filter(job=job, passed=False, pk__gt=evidence).exists()
    return output_gate(trigger.output_facts(job), "" if failed_later else reason)


def gate_of_intake(job: Job) -> Gate:
    """Return the gate of the intake."""
    found = Inherited.objects.filter(job=job).select_related("revision").order_by("pk").last()
    if found is None or entries.newest(job, "intake", f"verdict {found.revision.number}"):
        return intake_gate(None, "")
    looked = review.looked_over(job, found.revision)
    return intake_gate(found.revision.number, looked.review.sentence)


def gate_of_base_maps(job: Job) -> Gate:
    """Return the gate of the base maps."""
    return base_map_gate(review.stops_of(job, revision_of(job)))


def gates_of(job: Job) -> tuple[Gate, ...]:
    """Return the gates of a job in the order of the stations."""
    judgement = judge_injectors(spec_of(job))
    return (
        gate_of_intake(job),
        gate_of_wiring(job),
        sensor_gate(len(versions_of(job)), newest_fact(job)),
        injector_gate(judgement.level, judgement.sentences, job.override_reason),
        gate_of_trigger(job),
        gate_of_outputs(job),
        gate_of_base_maps(job),
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

"""What the gates of a job need to know of stations 2 and 5."""

from __future__ import annotations

from inbetrieb_core.commissioning import (
    CaptureFact,
    Gate,
    output_gate,
    trigger_gate,
    wiring_gate,
)

from server.hardware import entries
from server.jobs.models import Job
from server.wiring import services as wiring

from . import captures, services
from .models import EdgeCapture, OutputTest


def reason_of(job: Job, gate: str) -> tuple[str, int]:
    """Return the written reason of a gate and the evidence it was written on; empty without one."""
    row = entries.newest(job, "reason", gate)
    if row is None or row.data is None:
        return "", 0
    return row.data["reason"], int(row.data["evidence"])


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
    session = services.newest_session(job)
    stop = session.fit.sentences[0] if session is not None and session.fit.level == "stop" else ""
    reason, evidence = reason_of(job, "trigger")
    if newest is not None and newest.number > evidence:
        reason = ""  # seen later than it was written
    return trigger_gate(services.trigger_of(job)[1] > 0, fact, stop, reason)


def gate_of_outputs(job: Job) -> Gate:
    """Return the gate of the outputs."""
    reason, evidence = reason_of(job, "outputs")
    failed_later = OutputTest.objects.filter(job=job, passed=False, pk__gt=evidence).exists()
    return output_gate(services.output_facts(job), "" if failed_later else reason)

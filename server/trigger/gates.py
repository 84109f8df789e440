"""The gates of station 5: trigger and outputs."""

from __future__ import annotations

from inbetrieb_core.commissioning import CaptureFact, Gate, output_gate, trigger_gate

from server.entries.reasons import reason_of
from server.jobs.models import Job

from . import captures, services
from .models import EdgeCapture, OutputTest


def gate_of_trigger(job: Job) -> Gate:
    """Return the gate of the trigger: wheel, capture and timing light."""
    newest = EdgeCapture.objects.filter(job=job).defer("edges").order_by("number").last()
    fact = None
    if newest is not None:
        fact = CaptureFact(
            newest.verdict == "agrees",
            newest.result["sentence"],
            captures.is_stale(services.trigger_of(job)[0], newest),
        )
    session = services.newest_session(job)
    stop = session.fit.sentences[0] if session is not None and session.fit.level == "stop" else ""
    written = reason_of(job, "trigger")
    # a capture seen later than the reason was written counts again
    holds = newest is None or newest.number <= written.evidence
    return trigger_gate(
        services.trigger_of(job)[1] > 0, fact, stop, written.reason if holds else ""
    )


def gate_of_outputs(job: Job) -> Gate:
    """Return the gate of the outputs."""
    written = reason_of(job, "outputs")
    failed_later = OutputTest.objects.filter(job=job, passed=False, pk__gt=written.evidence)
    reason = "" if failed_later.exists() else written.reason
    return output_gate(services.output_facts(job), reason)

"""The gate of station 2: the wiring."""

from __future__ import annotations

from inbetrieb_core.commissioning import Gate, wiring_gate

from server.entries.reasons import reason_of
from server.jobs.models import Job

from . import services


def gate_of_wiring(job: Job) -> Gate:
    """Return the gate of the wiring."""
    reason = reason_of(job, "wiring").reason
    saved = services.saved_plan(job)
    if reason or saved is None:
        return wiring_gate(False, False, 0, reason)
    signed = services.sign_off_of(job)
    plan = services.computed(job, saved.profile, saved.entry)
    changed = len(services.changes_since(signed, plan))
    whole = plan.allocation.is_whole
    return wiring_gate(True, signed is not None, changed, "", whole=whole)

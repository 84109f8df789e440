"""The gates that a review closes: the intake's, and that of the base maps."""

from __future__ import annotations

from inbetrieb_core.commissioning import Gate, base_map_gate, intake_gate

from server.calibration.services import revision_of
from server.jobs.models import Job

from . import review, services


def gate_of_intake(job: Job) -> Gate:
    """Return the gate of the intake."""
    found = services.newest_inherited(job)
    if found is None or services.decision_on(found) is not None:
        return intake_gate(None, "")
    looked = review.looked_over(job, found.revision)
    return intake_gate(found.revision.number, looked.review.sentence)


def gate_of_base_maps(job: Job) -> Gate:
    """Return the gate of the base maps."""
    return base_map_gate(review.stops_of(job, revision_of(job)))

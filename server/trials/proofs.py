"""Which starts of a job can prove a temperature."""

from __future__ import annotations

from inbetrieb_core.starts import stood_long_enough

from server.jobs.models import Job

from .models import Trial


def proofs_of(job: Job) -> tuple[tuple[float, bool], ...]:
    """Return coolant temperature and outcome of the starts that can prove one, oldest first. [°C]

    A later attempt of a morning, and a start with heat left in the engine, teach but prove nothing;
    whatever comes later in a log comes right after another start.
    """
    rows = Trial.objects.filter(job=job, kind="start", attempt=1).order_by("number")
    return tuple(
        (coolant_c, good)
        for coolant_c, good, soak_h, place in rows.values_list(
            "coolant_c", "good", "soak_h", "start_number"
        )
        if stood_long_enough(coolant_c, 0.0 if place > 1 else soak_h)
    )

"""All gates of a job, in the order of the stations: each app tells its own."""

from __future__ import annotations

from inbetrieb_core.commissioning import Gate

from server.config.problems import Refusal
from server.hardware.gates import gate_of_injectors, gate_of_sensors
from server.idle.gates import gate_of_hot_idle
from server.intake.gates import gate_of_base_maps, gate_of_intake
from server.jobs.models import Job
from server.trigger.gates import gate_of_outputs, gate_of_trigger
from server.wiring.gates import gate_of_wiring

_IN_ORDER = (
    gate_of_intake,
    gate_of_wiring,
    gate_of_sensors,
    gate_of_injectors,
    gate_of_trigger,
    gate_of_outputs,
    gate_of_base_maps,
    gate_of_hot_idle,
)


def gates_of(job: Job) -> tuple[Gate, ...]:
    """Return the gates of a job in the order of the stations."""
    return tuple(gate_of(job) for gate_of in _IN_ORDER)


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

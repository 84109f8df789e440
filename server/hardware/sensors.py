"""What can be done to the sensors of a job."""

from __future__ import annotations

from collections.abc import Sequence

from django.contrib.auth.models import User
from inbetrieb_core.sensors import FUNCTIONS, Agreement, SensorEntry, fit_agreement
from inbetrieb_core.sensors.transfers import Linear

from server.config.problems import Refusal
from server.config.writes import writing
from server.entries.models import Entry
from server.jobs.models import Job

from .kinds import AGREEMENT, SENSOR, GaugePairs


@writing()
def save_sensor(job: Job, user: User, sensor: SensorEntry) -> Entry:
    """Write a checked sensor as the next version of its function.

    Raises
    ------
    InputRefused
        If its data cannot be.
    """
    sensor.made()
    return SENSOR.add(job, user, sensor, sensor.function)


@writing()
def remove_sensor(job: Job, user: User, function: str) -> None:
    """Take a sensor off the job; its versions stay in the record."""
    sensor_of(job, function)
    SENSOR.remove(job, user, function)


def sensor_of(job: Job, function: str) -> SensorEntry:
    """Return the sensor a job has for a function now.

    Raises
    ------
    Refusal
        404 if there is none.
    """
    found = SENSOR.value(job, function) if function in FUNCTIONS else None
    if found is None:
        raise Refusal(404, "Not found", "This job has no sensor entered for that.")
    return found[0]


def wideband_transfer(job: Job) -> Linear | None:
    """Return the entered transfer of the wideband where it is a line."""
    found = SENSOR.value(job, "wideband")
    if found is None:
        return None
    made = found[0].made()
    return made if isinstance(made, Linear) else None


def agreement_of(job: Job, pairs: Sequence[Sequence[float]]) -> Agreement:
    """Return how gauge and log agree, with the proposal for the entered transfer."""
    return fit_agreement(pairs, wideband_transfer(job))


@writing()
def save_agreement(job: Job, user: User, pairs: Sequence[Sequence[float]]) -> Entry:
    """Write pairs of readings down after judging them."""
    agreement_of(job, pairs)
    return AGREEMENT.add(job, user, GaugePairs(tuple((a, b) for a, b in pairs)))

"""What can be done to the sensors of a job."""

from __future__ import annotations

from collections.abc import Sequence

from django.contrib.auth.models import User
from django.db import transaction
from inbetrieb_core.sensors import FUNCTIONS, Agreement, SensorEntry, fit_agreement
from inbetrieb_core.sensors.transfers import Linear

from server.config.problems import Refusal
from server.jobs.models import Job

from . import entries
from .models import HardwareEntry


@transaction.atomic
def save_sensor(job: Job, user: User, sensor: SensorEntry) -> HardwareEntry:
    """Write a checked sensor as the next version of its function.

    Raises
    ------
    InputRefused
        If its data cannot be.
    """
    sensor.made()
    return entries.add(
        job, user, "sensor", sensor.function, entries.SENSOR.dump_python(sensor, mode="json")
    )


@transaction.atomic
def remove_sensor(job: Job, user: User, function: str) -> None:
    """Take a sensor off the job; its versions stay in the record."""
    sensor_of(job, function)
    entries.add(job, user, "sensor", function, None)


def sensor_of(job: Job, function: str) -> SensorEntry:
    """Return the sensor a job has for a function now.

    Raises
    ------
    Refusal
        404 if there is none.
    """
    row = entries.newest(job, "sensor", function) if function in FUNCTIONS else None
    if row is None or row.data is None:
        raise Refusal(404, "Not found", "This job has no sensor entered for that.")
    return entries.SENSOR.validate_python(row.data)


def wideband_transfer(job: Job) -> Linear | None:
    """Return the entered transfer of the wideband where it is a line."""
    row = entries.newest(job, "sensor", "wideband")
    if row is None or row.data is None:
        return None
    made = entries.SENSOR.validate_python(row.data).made()
    return made if isinstance(made, Linear) else None


def agreement_of(job: Job, pairs: Sequence[Sequence[float]]) -> Agreement:
    """Return how gauge and log agree, with the proposal for the entered transfer."""
    return fit_agreement(pairs, wideband_transfer(job))


@transaction.atomic
def save_agreement(job: Job, user: User, pairs: Sequence[Sequence[float]]) -> HardwareEntry:
    """Write pairs of readings down after judging them."""
    agreement_of(job, pairs)
    return entries.add(job, user, "agreement", "", {"pairs": [list(pair) for pair in pairs]})

"""Key-on checks: judging readings, writing the check down, overriding it in writing."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict

from django.contrib.auth.models import User
from django.db.models import Max
from django.shortcuts import get_object_or_404
from inbetrieb_core.errors import field_refused
from inbetrieb_core.sensors import (
    Circumstances,
    KeyOnReading,
    check_key_on,
    key_on_readings,
)

from server.config.problems import Refusal
from server.config.writes import writing
from server.entries.reasons import worth_reading
from server.jobs.engine_data import spec_of
from server.jobs.models import Job
from server.logbook.models import Log
from server.logbook.samples import read_trace

from .kinds import sensors_of, versions_of
from .models import KeyOnCheck, KeyOnOverride


def checks_of(job: Job) -> list[KeyOnCheck]:
    """Return the key-on checks of a job, newest first."""
    rows = KeyOnCheck.objects.filter(job=job).select_related("override", "created_by", "log")
    return list(rows.order_by("-number"))


def check_of(job: Job, number: int) -> KeyOnCheck:
    """Return one check of a job, 404 if there is none."""
    return get_object_or_404(KeyOnCheck, job=job, number=number)


def known_circumstances(job: Job) -> Circumstances:
    """Return what the job itself says of the circumstances: altitude, rail pressure, fuel."""
    spec = spec_of(job)
    return Circumstances(
        altitude_m=spec.altitude_m,
        rail_kpa=spec.rail_pressure_kpa,
        ethanol_pct=100.0 * spec.ethanol_volume_share,
    )


@writing()
def add_check(
    job: Job,
    user: User,
    *,
    log: Log | None,
    typed: Mapping[str, KeyOnReading],
    circumstances: Circumstances,
) -> KeyOnCheck:
    """Judge the readings of a log, of typed figures or of both, and write the check down.

    Typed readings count before those of the log.

    Raises
    ------
    LogRefused
        If the log holds no readings of an engine at rest.
    InputRefused
        If there is nothing to judge, or a reading is no number.
    """
    readings = {**(key_on_readings(read_trace(log)) if log else {}), **typed}
    if not any(reading.value is not None for reading in readings.values()):
        raise field_refused("readings", "Type at least one reading, or bring a key-on log.")
    result = check_key_on(sensors_of(job), readings, circumstances)
    last = KeyOnCheck.objects.filter(job=job).aggregate(n=Max("number"))["n"] or 0
    return KeyOnCheck.objects.create(
        job=job,
        number=last + 1,
        log=log,
        readings={key: asdict(reading) for key, reading in readings.items()},
        circumstances=asdict(circumstances),
        versions=versions_of(job),
        state=result.state,
        result=asdict(result),
        created_by=user,
    )


@writing()
def override(job: Job, user: User, number: int, reason: str) -> KeyOnCheck:
    """Open the gate that a check closed, with a written reason that stays in the record.

    Raises
    ------
    Refusal
        409 if it is not the newest check, did not fail, or was overridden before.
    InputRefused
        If there is no reason worth reading.
    """
    check = check_of(job, number)
    kept = worth_reading(reason, "Write down why it is safe to go on")
    if check.state != "fail":
        raise Refusal(409, "Nothing to override", f"Check {number} did not close the gate.")
    if KeyOnCheck.objects.filter(job=job, number__gt=number).exists():
        raise Refusal(409, "Not the newest", f"Check {number} is not the newest any more.")
    if KeyOnOverride.objects.filter(check_made=check).exists():
        raise Refusal(409, "Overridden already", f"Check {number} was overridden before.")
    KeyOnOverride.objects.create(check_made=check, reason=kept, created_by=user)
    return check_of(job, number)

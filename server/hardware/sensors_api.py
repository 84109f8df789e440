"""Sensors of a job over HTTP."""

from __future__ import annotations

import csv
import io

from django.http import HttpResponse
from inbetrieb_core.errors import field_refused
from inbetrieb_core.sensors import (
    FUNCTIONS,
    Agreement,
    FuelLevelSheet,
    SensorEntry,
    fuel_level_sheet,
    sensor_sheet,
    value_table,
)
from ninja import Field, Router, Schema, Status

from server.accounts.requests import SignedInRequest
from server.config.body import RequestBody
from server.config.problems import Problem
from server.entries.models import Entry
from server.jobs.services import job_of
from server.jobs.units import shown

from . import sensors
from .kinds import AGREEMENT, SENSOR, sensor_rows
from .schemas import SensorIn, SensorOut, SensorPreviewIn, SensorPreviewOut, VersionOut

router = Router(tags=["sensors"])


def _out(row: Entry) -> SensorOut:
    return SensorOut(
        function=row.key,
        number=row.number,
        sensor=SENSOR.read(row.data),
        created_at=row.created_at,
        created_by=row.created_by.get_username(),
    )


def _fuel_level(sensor: SensorEntry) -> FuelLevelSheet | None:
    return fuel_level_sheet(sensor) if sensor.function == "fuel_level" else None


@router.get(
    "/jobs/{job_id}/sensors",
    response={200: list[SensorOut], 404: Problem},
    operation_id="sensors_list",
)
def list_sensors(request: SignedInRequest, job_id: int) -> list[SensorOut]:
    """Return the sensors of a job, in the order of the functions."""
    return [_out(row) for row in sensor_rows(job_of(request.user, job_id))]


@router.post(
    "/jobs/{job_id}/sensors",
    response={201: SensorOut, 404: Problem, 422: Problem},
    operation_id="sensors_save",
)
def save_sensor(request: SignedInRequest, job_id: int, payload: SensorIn) -> Status[SensorOut]:
    """Save a sensor as a new version; the one before stays in the record."""
    job = job_of(request.user, job_id)
    return Status(201, _out(sensors.save_sensor(job, request.user, payload.sensor)))


@router.post(
    "/sensors/preview",
    response={200: SensorPreviewOut, 422: Problem},
    operation_id="sensors_preview",
)
def preview_sensor(request: SignedInRequest, payload: SensorPreviewIn) -> SensorPreviewOut:
    """Return what follows from a sensor that is still being typed; saves nothing."""
    sheet = sensor_sheet(payload.sensor)
    return SensorPreviewOut(
        sheet=sheet,
        table=list(value_table(payload.sensor, payload.of, payload.axis)),
        fuel_level=_fuel_level(payload.sensor),
    )


@router.delete(
    "/jobs/{job_id}/sensors/{function}",
    response={204: None, 404: Problem},
    operation_id="sensors_remove",
)
def remove_sensor(request: SignedInRequest, job_id: int, function: str) -> Status[None]:
    """Take a sensor off the job; its versions stay in the record."""
    sensors.remove_sensor(job_of(request.user, job_id), request.user, function)
    return Status(204, None)


@router.get(
    "/jobs/{job_id}/sensors/{function}/versions",
    response={200: list[VersionOut], 404: Problem},
    operation_id="sensors_versions",
)
def sensor_versions(request: SignedInRequest, job_id: int, function: str) -> list[VersionOut]:
    """Return all versions of a sensor, newest first."""
    rows = SENSOR.history(job_of(request.user, job_id), function)
    return [
        VersionOut(
            number=row.number,
            sensor=None if row.data is None else SENSOR.read(row.data),
            created_at=row.created_at,
            created_by=row.created_by.get_username(),
        )
        for row in rows
    ]


@router.get(
    "/jobs/{job_id}/sensors/{function}/table.csv",
    response={200: None, 404: Problem, 422: Problem},
    operation_id="sensors_table_csv",
)
def sensor_table(
    request: SignedInRequest, job_id: int, function: str, of: str = "signal", axis: str = ""
) -> HttpResponse:
    """Return the value table of a saved sensor as CSV, readings in the job's display unit."""
    job = job_of(request.user, job_id)
    sensor = sensors.sensor_of(job, function)
    if of not in ("signal", "resistance"):
        raise field_refused("of", "A value table runs over signal or resistance.")
    rows = value_table(sensor, of, _axis(axis))  # type: ignore[arg-type]
    definition = FUNCTIONS[function]
    unit, _ = shown(0.0, definition.unit, job.units)
    signal = "Resistance [Ω]" if of == "resistance" else f"Signal [{sensor.made().signal_unit}]"
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\r\n")
    writer.writerow([signal, f"{definition.title} [{unit}]", "extrapolated"])
    for row in rows:
        value = shown(row.value, definition.unit, job.units)[1]
        writer.writerow(
            [
                f"{row.at:g}",
                f"{value:.{definition.decimals + 1}f}",
                "yes" if row.extrapolated else "no",
            ]
        )
    response = HttpResponse(text.getvalue(), content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = f'attachment; filename="{function}.csv"'
    return response


def _axis(text: str) -> list[float] | None:
    if not text.strip():
        return None
    try:
        return [float(part) for part in text.replace(";", " ").replace(",", " ").split()]
    except ValueError:
        raise field_refused("axis", "The axis must be numbers, parted by blanks.") from None


class AgreementIn(RequestBody):
    """Pairs of readings taken at the same moments."""

    pairs: list[tuple[float, float]] = Field(
        description="(gauge, logged) [lambda]", min_length=1, max_length=200
    )


class AgreementOut(Schema):
    """The pairs and what they say."""

    pairs: list[tuple[float, float]]
    number: int = Field(description="version; 0 where nothing is saved")
    result: Agreement | None


@router.get(
    "/jobs/{job_id}/agreement",
    response={200: AgreementOut, 404: Problem},
    operation_id="agreement_get",
)
def get_agreement(request: SignedInRequest, job_id: int) -> AgreementOut:
    """Return the newest pairs of gauge and log, judged against the transfer entered now."""
    job = job_of(request.user, job_id)
    found = AGREEMENT.value(job)
    if found is None:
        return AgreementOut(pairs=[], number=0, result=None)
    pairs = list(found[0].pairs)
    return AgreementOut(pairs=pairs, number=found[1], result=sensors.agreement_of(job, pairs))


@router.post(
    "/jobs/{job_id}/agreement/preview",
    response={200: AgreementOut, 404: Problem, 422: Problem},
    operation_id="agreement_preview",
)
def preview_agreement(request: SignedInRequest, job_id: int, payload: AgreementIn) -> AgreementOut:
    """Judge pairs that are still being typed; saves nothing."""
    job = job_of(request.user, job_id)
    result = sensors.agreement_of(job, payload.pairs)
    return AgreementOut(pairs=payload.pairs, number=0, result=result)


@router.post(
    "/jobs/{job_id}/agreement",
    response={201: AgreementOut, 404: Problem, 422: Problem},
    operation_id="agreement_save",
)
def save_agreement(
    request: SignedInRequest, job_id: int, payload: AgreementIn
) -> Status[AgreementOut]:
    """Write pairs of gauge and log down."""
    job = job_of(request.user, job_id)
    row = sensors.save_agreement(job, request.user, payload.pairs)
    result = sensors.agreement_of(job, payload.pairs)
    return Status(201, AgreementOut(pairs=payload.pairs, number=row.number, result=result))

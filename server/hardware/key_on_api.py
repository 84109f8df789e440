"""Key-on checks over HTTP."""

from __future__ import annotations

from dataclasses import replace
from datetime import datetime
from typing import Any, Literal

from inbetrieb_core.commissioning import Gate
from inbetrieb_core.sensors import Circumstances, KeyOnReading, KeyOnResult
from ninja import Field, Router, Schema, Status
from pydantic import TypeAdapter

from server.accounts.requests import SignedInRequest
from server.config.body import RequestBody
from server.config.problems import Problem
from server.jobs.models import Job
from server.jobs.services import job_of
from server.logbook.services import log_of

from . import key_on
from .gates import gate_of_sensors
from .models import KeyOnCheck

router = Router(tags=["key-on check"])
_RESULT = TypeAdapter(KeyOnResult)


class CircumstancesIn(RequestBody):
    """What is known without the sensors; what is not given comes from the job."""

    ambient_c: float | None = Field(None, description="where the engine stands [°C]")
    barometric_kpa: float | None = Field(None, description="not reduced to sea level [kPa]")
    altitude_m: float | None = Field(None, description="used where no air pressure is given [m]")
    soak_h: float | None = Field(None, description="since the engine last ran [h]")
    meter_v: float | None = Field(None, description="battery on a meter [V]")
    ethanol_pct: float | None = Field(None, description="in the tank [%]")


class KeyOnIn(RequestBody):
    """Readings to judge: typed, of a log, or both (typed ones count first)."""

    readings: dict[str, KeyOnReading] = Field(default_factory=dict, description="by function")
    log_id: int | None = None
    circumstances: CircumstancesIn = CircumstancesIn.model_validate({})


class KeyOnCheckOut(Schema):
    """One check."""

    number: int
    state: Literal["pass", "suspicious", "fail"]
    result: KeyOnResult
    circumstances: dict[str, Any]
    log_id: int | None
    override_reason: str = Field(description="empty where it was not overridden")
    override_by: str
    created_at: datetime
    created_by: str


class KeyOnOut(Schema):
    """The gate of the sensors and all checks, newest first."""

    gate: Gate
    known: Circumstances = Field(description="what the job itself says")
    checks: list[KeyOnCheckOut]


class OverrideIn(RequestBody):
    """Why work goes on although the check failed."""

    reason: str


def _check_out(check: KeyOnCheck) -> KeyOnCheckOut:
    override = getattr(check, "override", None)
    return KeyOnCheckOut(
        number=check.number,
        state=check.state,  # type: ignore[arg-type]
        result=_RESULT.validate_python(check.result),
        circumstances=check.circumstances,
        log_id=check.log_id,
        override_reason="" if override is None else override.reason,
        override_by="" if override is None else override.created_by.get_username(),
        created_at=check.created_at,
        created_by=check.created_by.get_username(),
    )


def circumstances_of(job: Job, given: CircumstancesIn) -> Circumstances:
    """Return the circumstances, completed by what the job says."""
    known = key_on.known_circumstances(job)
    return replace(known, **given.model_dump(exclude_none=True))


@router.get(
    "/jobs/{job_id}/key-on", response={200: KeyOnOut, 404: Problem}, operation_id="key_on_get"
)
def get_key_on(request: SignedInRequest, job_id: int) -> KeyOnOut:
    """Return the gate of the sensors and all key-on checks."""
    job = job_of(request.user, job_id)
    return KeyOnOut(
        gate=gate_of_sensors(job),
        known=key_on.known_circumstances(job),
        checks=[_check_out(check) for check in key_on.checks_of(job)],
    )


@router.post(
    "/jobs/{job_id}/key-on",
    response={201: KeyOnCheckOut, 404: Problem, 422: Problem},
    operation_id="key_on_check",
)
def check(request: SignedInRequest, job_id: int, payload: KeyOnIn) -> Status[KeyOnCheckOut]:
    """Judge every sensor at key-on and write the check down."""
    job = job_of(request.user, job_id)
    made = key_on.add_check(
        job,
        request.user,
        log=None if payload.log_id is None else log_of(job, payload.log_id),
        typed=payload.readings,
        circumstances=circumstances_of(job, payload.circumstances),
    )
    return Status(201, _check_out(made))


@router.post(
    "/jobs/{job_id}/key-on/{number}/override",
    response={200: KeyOnCheckOut, 404: Problem, 409: Problem, 422: Problem},
    operation_id="key_on_override",
)
def override(
    request: SignedInRequest, job_id: int, number: int, payload: OverrideIn
) -> KeyOnCheckOut:
    """Open the gate that a failed check closed, with a written reason."""
    job = job_of(request.user, job_id)
    return _check_out(key_on.override(job, request.user, number, payload.reason))

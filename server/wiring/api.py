"""Wiring of a job over HTTP."""

from __future__ import annotations

from django.http import HttpResponse
from inbetrieb_core.wiring import (
    OutputSettings,
    WireReading,
    fan_picture,
    identify_three_wires,
    output_sheets,
)
from ninja import Router, Status

from server.accounts.requests import SignedInRequest
from server.config.problems import Problem
from server.entries.models import Entry
from server.entries.reasons import reason_of, write_reason
from server.jobs.engine_data import spec_of
from server.jobs.models import Job
from server.jobs.services import job_of

from . import services
from .models import WireCheck, WiringSignOff
from .schemas import (
    OutputsIn,
    OutputsOut,
    ReasonIn,
    ReasonOut,
    SignOffIn,
    SignOffOut,
    ThreeWireIn,
    ThreeWireOut,
    WireCheckIn,
    WireCheckOut,
    WiringIn,
    WiringOut,
    WiringPreviewOut,
)

router = Router(tags=["wiring"])


def _sign_off_out(row: WiringSignOff) -> SignOffOut:
    return SignOffOut(
        plan=row.plan,
        note=row.note,
        created_at=row.created_at,
        created_by=row.created_by.get_username(),
    )


def _check_out(row: WireCheck, *, stale: bool) -> WireCheckOut:
    return WireCheckOut(
        line=row.line,
        pin=row.pin,
        reading=row.reading,
        unit=row.unit,
        good=row.good,
        sentence=row.sentence,
        stale=stale,
        created_at=row.created_at,
        created_by=row.created_by.get_username(),
    )


def _wiring_out(job: Job) -> WiringOut:
    saved = services.saved_plan(job) or services.proposed_plan(job)
    plan = services.computed(job, saved.profile, saved.entry)
    signed = services.sign_off_of(job)
    pins = {line.key: line.pin for line in plan.lines}
    return WiringOut(
        number=saved.number,
        controller=saved.controller,
        profile=saved.profile,
        entry=saved.entry,
        plan=plan,
        changes=list(services.changes_since(signed, plan)),
        checks=[
            _check_out(row, stale=pins.get(row.line) != row.pin)
            for row in services.newest_checks(job).values()
        ],
        signed=None if signed is None else _sign_off_out(signed),
        reason=reason_of(job, "wiring").reason,
    )


@router.get(
    "/jobs/{job_id}/wiring", response={200: WiringOut, 404: Problem}, operation_id="wiring_get"
)
def get_wiring(request: SignedInRequest, job_id: int) -> WiringOut:
    """Return the wiring plan of a job; a proposed one where none is saved."""
    return _wiring_out(job_of(request.user, job_id))


@router.post(
    "/jobs/{job_id}/wiring/preview",
    response={200: WiringPreviewOut, 404: Problem, 422: Problem},
    operation_id="wiring_preview",
)
def preview_wiring(request: SignedInRequest, job_id: int, payload: WiringIn) -> WiringPreviewOut:
    """Return what follows from a plan that is still being changed; saves nothing."""
    job = job_of(request.user, job_id)
    _, profile = services.chosen_controller(job, request.user, payload.controller)
    plan = services.computed(job, profile, payload.entry)
    changes = services.changes_since(services.sign_off_of(job), plan)
    return WiringPreviewOut(plan=plan, changes=list(changes))


@router.post(
    "/jobs/{job_id}/wiring",
    response={201: WiringOut, 404: Problem, 422: Problem},
    operation_id="wiring_save",
)
def save_wiring(request: SignedInRequest, job_id: int, payload: WiringIn) -> Status[WiringOut]:
    """Save a plan as a new version; the one before stays in the record."""
    job = job_of(request.user, job_id)
    services.save_plan(job, request.user, payload.controller, payload.entry)
    return Status(201, _wiring_out(job))


@router.post(
    "/jobs/{job_id}/wiring/sign-off",
    response={201: WiringOut, 404: Problem, 409: Problem, 422: Problem},
    operation_id="wiring_sign_off",
)
def sign_off(request: SignedInRequest, job_id: int, payload: SignOffIn) -> Status[WiringOut]:
    """Sign the newest wiring list off; what changes later is marked as a change."""
    job = job_of(request.user, job_id)
    services.sign_off(job, request.user, payload.number, payload.note)
    return Status(201, _wiring_out(job))


@router.post(
    "/jobs/{job_id}/wiring/checks",
    response={201: WireCheckOut, 404: Problem, 409: Problem, 422: Problem},
    operation_id="wiring_check",
)
def check_wire(request: SignedInRequest, job_id: int, payload: WireCheckIn) -> Status[WireCheckOut]:
    """Write down that a wire was looked at, with what the meter read."""
    job = job_of(request.user, job_id)
    row = services.check_wire(
        job, request.user, payload.line, payload.reading, payload.unit, payload.good
    )
    return Status(201, _check_out(row, stale=False))


@router.post(
    "/jobs/{job_id}/wiring/reason",
    response={201: ReasonOut, 404: Problem, 422: Problem},
    operation_id="wiring_reason",
)
def wiring_reason(request: SignedInRequest, job_id: int, payload: ReasonIn) -> Status[ReasonOut]:
    """Write down why no wiring plan is needed."""
    job = job_of(request.user, job_id)
    kept = write_reason(job, request.user, "wiring", payload.reason)
    return Status(201, ReasonOut(gate="wiring", reason=kept))


@router.get(
    "/jobs/{job_id}/wiring/list.csv",
    response={200: None, 404: Problem},
    operation_id="wiring_list_csv",
)
def wiring_list(request: SignedInRequest, job_id: int) -> HttpResponse:
    """Return the wiring list as CSV."""
    job = job_of(request.user, job_id)
    saved = services.saved_plan(job) or services.proposed_plan(job)
    response = HttpResponse(
        services.list_csv(job, saved).encode("utf-8-sig"), content_type="text/csv; charset=utf-8"
    )
    response["Content-Disposition"] = 'attachment; filename="wiring-list.csv"'
    return response


def _outputs_out(job: Job, settings: OutputSettings, number: int) -> OutputsOut:
    fitting = (services.saved_plan(job) or services.proposed_plan(job)).entry.fitting
    return OutputsOut(
        settings=settings,
        number=number,
        sheets=list(output_sheets(spec_of(job), fitting, settings)),
        fan=fan_picture(settings.fan_on_c, settings.fan_off_c),
        fan_2=fan_picture(settings.fan_2_on_c, settings.fan_2_off_c),
    )


@router.get(
    "/jobs/{job_id}/outputs", response={200: OutputsOut, 404: Problem}, operation_id="outputs_get"
)
def get_outputs(request: SignedInRequest, job_id: int) -> OutputsOut:
    """Return the conditions of the outputs and how each is tried."""
    job = job_of(request.user, job_id)
    return _outputs_out(job, *services.outputs_of(job))


@router.post(
    "/jobs/{job_id}/outputs/preview",
    response={200: OutputsOut, 404: Problem, 422: Problem},
    operation_id="outputs_preview",
)
def preview_outputs(request: SignedInRequest, job_id: int, payload: OutputsIn) -> OutputsOut:
    """Return what follows from conditions that are still being typed; saves nothing."""
    return _outputs_out(job_of(request.user, job_id), payload.settings.check(), 0)


@router.post(
    "/jobs/{job_id}/outputs",
    response={201: OutputsOut, 404: Problem, 422: Problem},
    operation_id="outputs_save",
)
def save_outputs(request: SignedInRequest, job_id: int, payload: OutputsIn) -> Status[OutputsOut]:
    """Save the conditions of the outputs as a new version."""
    job = job_of(request.user, job_id)
    number = services.save_outputs(job, request.user, payload.settings)
    return Status(201, _outputs_out(job, payload.settings, number))


def _three_wire_out(row: Entry, wires: tuple[WireReading, ...]) -> ThreeWireOut:
    return ThreeWireOut(
        name=row.key,
        number=row.number,
        wires=list(wires),
        result=identify_three_wires(wires),
        created_at=row.created_at,
        created_by=row.created_by.get_username(),
    )


@router.get(
    "/jobs/{job_id}/three-wire",
    response={200: list[ThreeWireOut], 404: Problem},
    operation_id="three_wire_list",
)
def list_three_wire(request: SignedInRequest, job_id: int) -> list[ThreeWireOut]:
    """Return the unknown sensors that were identified, newest first."""
    return [
        _three_wire_out(row, wires)
        for row, wires in services.three_wires_of(job_of(request.user, job_id))
    ]


@router.post(
    "/three-wire/identify",
    response={200: ThreeWireOut, 422: Problem},
    operation_id="three_wire_identify",
)
def identify(request: SignedInRequest, payload: ThreeWireIn) -> ThreeWireOut:
    """Say which of three wires is which; saves nothing."""
    return ThreeWireOut(
        name=payload.name,
        number=0,
        wires=payload.wires,
        result=identify_three_wires(payload.wires),
        created_at=None,
        created_by="",
    )


@router.post(
    "/jobs/{job_id}/three-wire",
    response={201: ThreeWireOut, 404: Problem, 422: Problem},
    operation_id="three_wire_save",
)
def save_three_wire(
    request: SignedInRequest, job_id: int, payload: ThreeWireIn
) -> Status[ThreeWireOut]:
    """Write the readings of an unknown three-wire sensor down."""
    job = job_of(request.user, job_id)
    wires = tuple(payload.wires)
    row = services.save_three_wire(job, request.user, payload.name, wires)
    return Status(201, _three_wire_out(row, wires))

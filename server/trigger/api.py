"""Wheel, timing light, dwell and output tests over HTTP."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from inbetrieb_core.commissioning import SAFE_FIRST, Gate, TestedOutput
from inbetrieb_core.triggers import (
    PATTERNS,
    DwellEntry,
    DwellSheet,
    LightReading,
    TimingFit,
    TriggerEntry,
    WheelPicture,
    wheel_picture,
)
from inbetrieb_core.triggers.dwell import MIDDLING_COIL
from inbetrieb_core.wiring import sparks_per_turn
from ninja import Field, Router, Schema, Status

from server.accounts.requests import SignedInRequest
from server.config.bodies import Body
from server.config.body import RequestBody
from server.config.problems import Problem
from server.entries.reasons import reason_of, write_reason
from server.jobs.engine_data import spec_of
from server.jobs.models import Job
from server.jobs.services import job_of
from server.wiring import services as wiring
from server.wiring.schemas import ReasonIn, ReasonOut
from server.wiring.services import fitting_of

from . import services
from .gates import gate_of_outputs, gate_of_trigger
from .models import EdgeCapture, OutputTest

router = Router(tags=["trigger and timing"])


class TriggerIn(Body):
    """A trigger as entered."""

    trigger: TriggerEntry


class TriggerOut(Schema):
    """The trigger of a job and its picture."""

    trigger: TriggerEntry
    number: int = Field(description="version; 0 where a usual one is proposed")
    picture: WheelPicture
    patterns: list[str] = Field(description="plain names of the common ones")
    gate: Gate
    reason: str = Field(description="why work goes on without a capture; empty if none")


def _trigger_out(job: Job, entry: TriggerEntry, number: int) -> TriggerOut:
    return TriggerOut(
        trigger=entry,
        number=number,
        picture=wheel_picture(entry, spec_of(job)),
        patterns=list(PATTERNS),
        gate=gate_of_trigger(job),
        reason=reason_of(job, "trigger").reason,
    )


@router.get(
    "/jobs/{job_id}/trigger", response={200: TriggerOut, 404: Problem}, operation_id="trigger_get"
)
def get_trigger(request: SignedInRequest, job_id: int) -> TriggerOut:
    """Return the trigger of a job; a usual one where none is entered."""
    job = job_of(request.user, job_id)
    return _trigger_out(job, *services.trigger_of(job))


@router.post(
    "/jobs/{job_id}/trigger/preview",
    response={200: TriggerOut, 404: Problem, 422: Problem},
    operation_id="trigger_preview",
)
def preview_trigger(request: SignedInRequest, job_id: int, payload: TriggerIn) -> TriggerOut:
    """Return the picture of a trigger that is still being typed; saves nothing."""
    job = job_of(request.user, job_id)
    return _trigger_out(job, payload.trigger.check(spec_of(job)), 0)


@router.post(
    "/jobs/{job_id}/trigger",
    response={201: TriggerOut, 404: Problem, 422: Problem},
    operation_id="trigger_save",
)
def save_trigger(request: SignedInRequest, job_id: int, payload: TriggerIn) -> Status[TriggerOut]:
    """Save a trigger as a new version."""
    job = job_of(request.user, job_id)
    number = services.save_trigger(job, request.user, payload.trigger)
    return Status(201, _trigger_out(job, payload.trigger, number))


@router.post(
    "/jobs/{job_id}/trigger/reason",
    response={201: ReasonOut, 404: Problem, 422: Problem},
    operation_id="trigger_reason",
)
def trigger_reason(request: SignedInRequest, job_id: int, payload: ReasonIn) -> Status[ReasonOut]:
    """Write down why work goes on without a capture that agrees; a later capture counts again."""
    job = job_of(request.user, job_id)
    newest = EdgeCapture.objects.filter(job=job).order_by("number").only("number").last()
    evidence = 0 if newest is None else newest.number
    kept = write_reason(job, request.user, "trigger", payload.reason, evidence)
    return Status(201, ReasonOut(gate="trigger", reason=kept))


class LightIn(Body):
    """Readings of the timing light."""

    readings: list[LightReading] = Field(max_length=200)
    raising_advances: bool | None = Field(
        None, description="whether a larger offset makes the spark earlier; as entered if not given"
    )


class LightOut(Schema):
    """What readings say."""

    fit: TimingFit
    offset_deg: float = Field(description="in force when they were read [°]")
    raising_advances: bool


class LightSessionOut(LightOut):
    """One use of the timing light."""

    number: int
    readings: list[LightReading]
    taken: bool = Field(description="whether the offset was changed after it")
    created_at: datetime
    created_by: str


def _session_out(now: TriggerEntry, session: services.LightSession) -> LightSessionOut:
    return LightSessionOut(
        number=session.row.number,
        readings=list(session.readings),
        fit=session.fit,
        offset_deg=session.offset_deg,
        raising_advances=session.raising_advances,
        taken=abs(now.offset_deg - session.offset_deg) > 1e-9,
        created_at=session.row.created_at,
        created_by=session.row.created_by.get_username(),
    )


@router.get(
    "/jobs/{job_id}/timing",
    response={200: list[LightSessionOut], 404: Problem},
    operation_id="timing_list",
)
def list_timing(request: SignedInRequest, job_id: int) -> list[LightSessionOut]:
    """Return every use of the timing light, newest first."""
    job = job_of(request.user, job_id)
    now, _ = services.trigger_of(job)
    return [_session_out(now, session) for session in services.sessions_of(job)]


@router.post(
    "/jobs/{job_id}/timing/preview",
    response={200: LightOut, 404: Problem, 422: Problem},
    operation_id="timing_preview",
)
def preview_timing(request: SignedInRequest, job_id: int, payload: LightIn) -> LightOut:
    """Return what readings say that are still being typed; saves nothing."""
    job = job_of(request.user, job_id)
    now, _ = services.trigger_of(job)
    raising = now.raising_advances if payload.raising_advances is None else payload.raising_advances
    return LightOut(
        fit=services.fit_of(job, payload.readings, payload.raising_advances),
        offset_deg=now.offset_deg,
        raising_advances=raising,
    )


@router.post(
    "/jobs/{job_id}/timing",
    response={201: LightSessionOut, 404: Problem, 422: Problem},
    operation_id="timing_save",
)
def save_timing(request: SignedInRequest, job_id: int, payload: LightIn) -> Status[LightSessionOut]:
    """Write one use of the timing light down."""
    job = job_of(request.user, job_id)
    session = services.save_session(job, request.user, payload.readings, payload.raising_advances)
    return Status(201, _session_out(services.trigger_of(job)[0], session))


@router.post(
    "/jobs/{job_id}/timing/{number}/take",
    response={200: TriggerOut, 404: Problem, 409: Problem},
    operation_id="timing_take",
)
def take_timing(request: SignedInRequest, job_id: int, number: int) -> TriggerOut:
    """Put the offset that the newest readings ask for in force."""
    job = job_of(request.user, job_id)
    services.take_offset(job, request.user, number)
    return _trigger_out(job, *services.trigger_of(job))


class DwellIn(Body):
    """A coil as entered."""

    dwell: DwellEntry


class DwellOut(Schema):
    """The coil of a job and its dwell."""

    dwell: DwellEntry
    number: int = Field(description="version; 0 where a middling coil is assumed")
    sheet: DwellSheet
    sparks_per_turn: float = Field(description="of one coil")
    rev_limit_rpm: float = Field(description="[1/min]")
    revision: int | None = Field(None, description="written because the table followed")


def _dwell_out(job: Job, entry: DwellEntry, number: int, revision: int | None = None) -> DwellOut:
    spec = spec_of(job)
    return DwellOut(
        dwell=entry,
        number=number,
        sheet=services.dwell_sheet_of(job, entry),
        sparks_per_turn=sparks_per_turn(spec, fitting_of(job)),
        rev_limit_rpm=spec.rev_limit_rpm,
        revision=revision,
    )


@router.get(
    "/jobs/{job_id}/dwell", response={200: DwellOut, 404: Problem}, operation_id="dwell_get"
)
def get_dwell(request: SignedInRequest, job_id: int) -> DwellOut:
    """Return the coil of a job and its dwell; a middling coil where none is entered."""
    job = job_of(request.user, job_id)
    entry, number = services.dwell_of(job)
    return _dwell_out(job, entry or DwellEntry("A middling coil", MIDDLING_COIL), number)


@router.post(
    "/jobs/{job_id}/dwell/preview",
    response={200: DwellOut, 404: Problem, 422: Problem},
    operation_id="dwell_preview",
)
def preview_dwell(request: SignedInRequest, job_id: int, payload: DwellIn) -> DwellOut:
    """Return the dwell of a coil that is still being typed; saves nothing."""
    return _dwell_out(job_of(request.user, job_id), payload.dwell, 0)


@router.post(
    "/jobs/{job_id}/dwell",
    response={201: DwellOut, 404: Problem, 422: Problem},
    operation_id="dwell_save",
)
def save_dwell(request: SignedInRequest, job_id: int, payload: DwellIn) -> Status[DwellOut]:
    """Save a coil and put its dwell in the table, in a new revision."""
    job = job_of(request.user, job_id)
    revision = services.save_dwell(job, request.user, payload.dwell)
    number = services.dwell_of(job)[1]
    return Status(201, _dwell_out(job, payload.dwell, number, revision))


class OutputTestOut(Schema):
    """The newest test of an output."""

    heard: Literal["works", "nothing", "other"]
    dip_v: float | None = Field(description="of the battery [V]")
    passed: bool
    sentence: str
    note: str
    created_at: datetime
    created_by: str


class TestedOutputOut(Schema):
    """An output that must answer before the first start."""

    output: TestedOutput
    pin: str = Field(description="of the plan; empty without one")
    test: OutputTestOut | None


class OutputTestsOut(Schema):
    """All outputs, what is made safe first, and the gate."""

    outputs: list[TestedOutputOut]
    safe_first: dict[str, list[str]] = Field(description="by kind: coil, injector")
    gate: Gate
    reason: str


class OutputTestIn(RequestBody):
    """One output commanded."""

    output: str
    heard: Literal["works", "nothing", "other"]
    dip_v: float | None = Field(None, description="of the battery [V]")
    made_safe: bool = Field(False, description="whether ignition and fuel were made safe first")
    note: str = ""


def _test_out(row: OutputTest) -> OutputTestOut:
    return OutputTestOut(
        heard=row.heard,  # type: ignore[arg-type]
        dip_v=row.dip_v,
        passed=row.passed,
        sentence=row.sentence,
        note=row.note,
        created_at=row.created_at,
        created_by=row.created_by.get_username(),
    )


def _tests_out(job: Job) -> OutputTestsOut:
    tests = services.newest_tests(job)
    saved = wiring.saved_plan(job)
    pins: dict[str, str] = {}
    if saved is not None:
        plan = wiring.computed(job, saved.profile, saved.entry)
        pins = {placed.function: placed.pin for placed in plan.allocation.placed}
    return OutputTestsOut(
        outputs=[
            TestedOutputOut(
                output=output,
                pin=pins.get(output.key, ""),
                test=_test_out(tests[output.key]) if output.key in tests else None,
            )
            for output in services.outputs_of(job)
        ],
        safe_first={kind: list(steps) for kind, steps in SAFE_FIRST.items()},
        gate=gate_of_outputs(job),
        reason=reason_of(job, "outputs").reason,
    )


@router.get(
    "/jobs/{job_id}/output-tests",
    response={200: OutputTestsOut, 404: Problem},
    operation_id="output_tests_get",
)
def get_output_tests(request: SignedInRequest, job_id: int) -> OutputTestsOut:
    """Return every coil and injector with its newest test."""
    return _tests_out(job_of(request.user, job_id))


@router.post(
    "/jobs/{job_id}/output-tests",
    response={201: OutputTestsOut, 404: Problem, 422: Problem},
    operation_id="output_tests_add",
)
def add_output_test(
    request: SignedInRequest, job_id: int, payload: OutputTestIn
) -> Status[OutputTestsOut]:
    """Write down that an output was commanded, and what happened."""
    job = job_of(request.user, job_id)
    services.add_output_test(
        job, request.user, output=payload.output, heard=payload.heard, dip_v=payload.dip_v,
        made_safe=payload.made_safe, note=payload.note,
    )  # fmt: skip
    return Status(201, _tests_out(job))


@router.post(
    "/jobs/{job_id}/output-tests/reason",
    response={201: ReasonOut, 404: Problem, 422: Problem},
    operation_id="output_tests_reason",
)
def outputs_reason(request: SignedInRequest, job_id: int, payload: ReasonIn) -> Status[ReasonOut]:
    """Write down why work goes on without every test; a later failure counts again."""
    job = job_of(request.user, job_id)
    newest = OutputTest.objects.filter(job=job).order_by("pk").last()
    evidence = 0 if newest is None else newest.pk
    kept = write_reason(job, request.user, "outputs", payload.reason, evidence)
    return Status(201, ReasonOut(gate="outputs", reason=kept))

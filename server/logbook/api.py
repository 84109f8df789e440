"""Logs and trials over HTTP."""

from __future__ import annotations

import json
import math
from datetime import datetime
from typing import Annotated, Any, Literal

from inbetrieb_core.logs import CHANNELS, LARGEST_BYTES, LogPreview
from inbetrieb_core.quantities import FloatArray, offered_units, written_unit
from inbetrieb_core.starts import VERDICTS, Observation
from ninja import Field, File, Form, Query, Router, Schema, Status, UploadedFile

from server.accounts.requests import SignedInRequest
from server.calibration.api import CellChangeOut
from server.config.problems import Problem, Refusal
from server.jobs.services import job_of

from . import services, uploads
from .models import Log, Trial
from .samples import read_window

router = Router(tags=["logbook"])

Verdict = Literal[
    "no crank",
    "slow crank",
    "no sync",
    "no fire",
    "fired and died",
    "started and died",
    "started on the pedal",
    "started",
]


class ColumnUseOut(Schema):
    """What becomes of a column of a file."""

    column: str
    unit: str
    channel: str | None
    read_unit: str = Field("", description="unit in which the cells are read")
    reason: str


class ChannelOut(Schema):
    """A channel of a log."""

    name: str
    title: str
    unit: str
    offered_units: list[str] = Field(description="units in which a file may hold it")


class LogOut(Schema):
    """A log without its samples."""

    id: int
    name: str
    origin: Literal["upload", "bench"]
    channels: list[ChannelOut]
    ignored: list[ColumnUseOut] = Field(description="columns that were not read, with the reason")
    uses: list[ColumnUseOut] = Field(description="every column of the file")
    problems: list[str]
    duration_s: float
    rate_hz: float
    samples: int
    about: dict[str, Any] = Field(
        description="conditions of a bench start; the bench is a stand-in"
    )
    created_at: datetime


class PreviewOut(Schema):
    """How a file would be read; nothing is saved as a log yet."""

    upload_id: str = Field(description="send it instead of the file to save the log")
    uses: list[ColumnUseOut]
    problems: list[str]
    remembered: bool = Field(description="whether a mapping confirmed earlier was used")
    known_channels: list[ChannelOut]
    missing: list[str] = Field(description="channels without which a log cannot be read")


class SamplesOut(Schema):
    """A stretch of a log, no finer than asked for; null is missing."""

    time_s: list[float]
    channels: dict[str, list[float | None]]
    bucket: int = Field(description="samples per drawn pair of extremes; 1 is every sample")


class ObservationIn(Schema):
    """A start as seen and heard."""

    outcome: Verdict
    coolant_c: float = Field(description="before the start [°C]")
    cranking_s: float | None = Field(None, description="until it fired or was given up [s]")
    flare_rpm: float | None = Field(None, description="highest speed right after the start [1/min]")
    dip_rpm: float | None = Field(None, description="lowest speed after the flare [1/min]")
    settled_rpm: float | None = Field(None, description="speed it settled at [1/min]")
    lambda_later: float | None = Field(None, description="gauge once the sensor is warm [–]")
    ran_s: float | None = Field(None, description="how long it ran before it died [s]")


class TrialIn(Schema):
    """A start to judge: a log or an observation."""

    kind: Literal["start"] = "start"
    log_id: int | None = None
    observation: ObservationIn | None = None
    revision: int | None = Field(
        None, description="revision in the controller; the newest if not given"
    )
    ambient_c: float | None = Field(None, description="[°C]")
    soak_h: float | None = Field(None, description="hours since the engine last ran [h]")
    coolant_c: float | None = Field(None, description="where the log has no coolant channel [°C]")
    start_number: int = Field(
        1, description="which start of the log; restarts are trials of their own"
    )
    note: str = ""


class PhaseOut(Schema):
    """A named part of the start, in the log's time."""

    name: str
    start_s: float
    end_s: float


class FindingOut(Schema):
    """Something noticed."""

    key: str
    level: Literal["note", "attention", "blocking"]
    sentence: str


class AdviceOut(Schema):
    """One proposed change; a check on the engine has no table and no changes."""

    table: str | None
    rule: str
    reason: str
    confidence: float = Field(description="0 to 1")
    disproof: str = Field(description="what at the next start would prove it wrong")
    changes: list[CellChangeOut]


class WaitOut(Schema):
    """A later phase that has to wait."""

    rule: str
    table: str
    reason: str


class DecisionOut(Schema):
    """What was decided on the advice."""

    kind: Literal["accepted", "declined"]
    changes: list[CellChangeOut]
    note: str
    revision: int | None
    created_at: datetime


class TrialOut(Schema):
    """A judged start."""

    id: int
    number: int
    kind: Literal["start"]
    log_id: int | None
    start_number: int
    observation: ObservationIn | None
    revision: int
    ambient_c: float | None
    soak_h: float | None
    coolant_c: float
    note: str
    verdict: Verdict
    sentence: str
    good: bool
    evidence: Literal["log", "observation"]
    phases: list[PhaseOut]
    figures: dict[str, float | None] = Field(description="units are in the names")
    findings: list[FindingOut]
    advice: list[AdviceOut] = Field(description="at most one")
    waits: list[WaitOut]
    decision: DecisionOut | None
    created_at: datetime
    author: str


class AcceptedChange(Schema):
    """Another value for a cell of the advice."""

    index: list[int]
    to: float


class AcceptIn(Schema):
    """How the advice is accepted: as given, or with other values."""

    changes: list[AcceptedChange] | None = None
    note: str = ""


class DeclineIn(Schema):
    """Why the advice is declined."""

    note: str = ""


class AcceptOut(Schema):
    """The trial after its decision, and the new revision."""

    revision: int
    trial: TrialOut


def _channel_out(name: str) -> ChannelOut:
    channel = CHANNELS[name]
    return ChannelOut(
        name=name,
        title=channel.title,
        unit=written_unit(channel.unit),
        offered_units=list(offered_units(channel.dimension)),
    )


def log_out(log: Log) -> LogOut:
    """Return a log as it travels."""
    uses = [ColumnUseOut(**use) for use in log.uses]
    return LogOut(
        id=log.pk,
        name=log.name,
        origin=log.origin,  # type: ignore[arg-type]
        channels=[_channel_out(name) for name in log.channels],
        ignored=[use for use in uses if use.channel is None],
        uses=uses,
        problems=log.problems,
        duration_s=round(log.duration_s, 3),
        rate_hz=round(log.rate_hz, 3),
        samples=log.sample_count,
        about=log.about,
        created_at=log.created_at,
    )


def _preview_out(upload_id: str, preview: LogPreview, remembered: bool) -> PreviewOut:
    read = {use.channel for use in preview.uses}
    return PreviewOut(
        upload_id=upload_id,
        problems=list(preview.layout.problems),
        remembered=remembered,
        uses=[
            ColumnUseOut(
                column=use.column.header,
                unit=use.column.unit,
                channel=use.channel,
                read_unit=use.unit,
                reason=use.reason,
            )
            for use in preview.uses
        ],
        known_channels=[_channel_out(name) for name in CHANNELS],
        missing=[name for name in ("time_s", "rpm") if name not in read],
    )


def trial_out(trial: Trial) -> TrialOut:
    """Return a trial as it travels."""
    analysis = trial.analysis
    decision = getattr(trial, "decision", None)
    return TrialOut(
        id=trial.pk,
        number=trial.number,
        kind="start",
        log_id=trial.log_id,
        start_number=trial.start_number,
        observation=None if trial.observation is None else ObservationIn(**trial.observation),
        revision=trial.revision.number,
        ambient_c=trial.ambient_c,
        soak_h=trial.soak_h,
        coolant_c=trial.coolant_c,
        note=trial.note,
        verdict=trial.verdict,  # type: ignore[arg-type]
        sentence=analysis["sentence"],
        good=trial.good,
        evidence=analysis["evidence"],
        phases=analysis["phases"],
        figures=analysis["figures"],
        findings=analysis["findings"],
        advice=analysis["advice"],
        waits=analysis["waits"],
        decision=None
        if decision is None
        else DecisionOut(
            kind=decision.kind,
            changes=decision.changes,
            note=decision.note,
            revision=None if decision.revision is None else decision.revision.number,
            created_at=decision.created_at,
        ),
        created_at=trial.created_at,
        author=trial.created_by.get_username(),
    )


def _mapping(text: str) -> dict[str, Any] | None:
    if not text.strip():
        return None
    try:
        mapping = json.loads(text)
    except (json.JSONDecodeError, RecursionError) as error:
        raise Refusal(
            422, "Input refused", 'The mapping must be JSON: {"column": "channel"}.'
        ) from error
    if not isinstance(mapping, dict):
        raise Refusal(422, "Input refused", 'The mapping must be JSON: {"column": "channel"}.')
    return mapping


def _bytes_of(
    request: SignedInRequest, job: Any, file: UploadedFile | None, upload_id: str
) -> tuple[str, bytes]:
    if file is not None:
        if file.size is not None and file.size > LARGEST_BYTES:
            raise Refusal(
                413,
                "File too large",
                f"The file has {file.size / 1e6:.0f} MB; up to {LARGEST_BYTES / 1e6:.0f} MB can be read. "
                "Cut the log to the part around the start.",
            )
        return file.name or "log", file.read()
    if upload_id:
        return "log", uploads.fetch(job.workshop, upload_id)
    raise Refusal(422, "Input refused", "Send the log as the multipart field 'file'.")


@router.get(
    "/jobs/{job_id}/logs", response={200: list[LogOut], 404: Problem}, operation_id="logs_list"
)
def list_logs(request: SignedInRequest, job_id: int) -> list[LogOut]:
    """Return the logs of a job, newest first."""
    job = job_of(request.user, job_id)
    return [log_out(log) for log in Log.objects.filter(job=job).order_by("-pk")]


@router.post(
    "/jobs/{job_id}/logs/preview",
    response={200: PreviewOut, 404: Problem, 413: Problem, 422: Problem},
    operation_id="logs_preview",
)
def preview_log(
    request: SignedInRequest,
    job_id: int,
    file: File[UploadedFile | None] = None,
    upload_id: Form[str] = "",
    mapping: Form[str] = "",
) -> PreviewOut:
    """Say how a file would be read; it is kept, but nothing is saved as a log."""
    job = job_of(request.user, job_id)
    _, data = _bytes_of(request, job, file, upload_id)
    return _preview_out(*services.preview_upload(job, data, _mapping(mapping)))


@router.post(
    "/jobs/{job_id}/logs",
    response={201: LogOut, 404: Problem, 413: Problem, 422: Problem},
    operation_id="logs_create",
)
def create_log(
    request: SignedInRequest,
    job_id: int,
    file: File[UploadedFile | None] = None,
    upload_id: Form[str] = "",
    mapping: Form[str] = "",
    name: Form[str] = "",
) -> Status[LogOut]:
    """Save a log from a file, or from an upload that was kept; mapping is JSON."""
    job = job_of(request.user, job_id)
    file_name, data = _bytes_of(request, job, file, upload_id)
    log = services.add_upload(
        job, request.user, name=name or file_name, data=data, mapping=_mapping(mapping)
    )
    return Status(201, log_out(log))


@router.get(
    "/jobs/{job_id}/logs/{log_id}", response={200: LogOut, 404: Problem}, operation_id="logs_get"
)
def get_log(request: SignedInRequest, job_id: int, log_id: int) -> LogOut:
    """Return a log without its samples."""
    return log_out(services.log_of(job_of(request.user, job_id), log_id))


@router.get(
    "/jobs/{job_id}/logs/{log_id}/samples",
    response={200: SamplesOut, 404: Problem},
    operation_id="logs_samples",
)
def get_samples(
    request: SignedInRequest,
    job_id: int,
    log_id: int,
    channels: str = "",
    start_s: float = 0.0,
    end_s: float = 1e9,
    points: Annotated[int, Query(ge=10, le=8000)] = 3000,
) -> SamplesOut:
    """Return a stretch of a log; any zoom of any length is a bounded read."""
    log = services.log_of(job_of(request.user, job_id), log_id)
    asked = [name for name in channels.split(",") if name] or log.channels
    wanted = [name for name in asked if name in log.channels and name != "time_s"]
    window = read_window(log, wanted, start_s, end_s, points)
    return SamplesOut(
        time_s=[round(float(value), 5) for value in window.time_s],
        channels={name: _with_gaps(values) for name, values in window.channels.items()},
        bucket=window.bucket,
    )


def _with_gaps(values: FloatArray) -> list[float | None]:
    """Return values for JSON, which knows no NaN."""
    return [round(v, 4) if math.isfinite(v) else None for v in values.tolist()]


@router.get(
    "/jobs/{job_id}/trials",
    response={200: list[TrialOut], 404: Problem},
    operation_id="trials_list",
    by_alias=True,
)
def list_trials(request: SignedInRequest, job_id: int) -> list[TrialOut]:
    """Return the trials of a job, newest first."""
    rows = Trial.objects.filter(job=job_of(request.user, job_id)).select_related(
        "revision", "created_by", "decision", "decision__revision"
    )
    return [trial_out(trial) for trial in rows.order_by("-number")]


@router.post(
    "/jobs/{job_id}/trials",
    response={201: TrialOut, 404: Problem, 422: Problem},
    operation_id="trials_create",
    by_alias=True,
)
def create_trial(request: SignedInRequest, job_id: int, payload: TrialIn) -> Status[TrialOut]:
    """Judge a start from a log or an observation."""
    job = job_of(request.user, job_id)
    log = None if payload.log_id is None else services.log_of(job, payload.log_id)
    seen = payload.observation
    trial = services.add_trial(
        job,
        request.user,
        log=log,
        observation=None if seen is None else Observation(**seen.model_dump()),
        revision=payload.revision,
        ambient_c=payload.ambient_c,
        soak_h=payload.soak_h,
        coolant_c=payload.coolant_c,
        start_number=payload.start_number,
        note=payload.note,
    )
    return Status(201, trial_out(trial))


@router.get(
    "/jobs/{job_id}/trials/{trial_id}",
    response={200: TrialOut, 404: Problem},
    operation_id="trials_get",
    by_alias=True,
)
def get_trial(request: SignedInRequest, job_id: int, trial_id: int) -> TrialOut:
    """Return one trial."""
    return trial_out(services.trial_of(job_of(request.user, job_id), trial_id))


@router.post(
    "/jobs/{job_id}/trials/{trial_id}/accept",
    response={201: AcceptOut, 404: Problem, 409: Problem, 422: Problem},
    operation_id="trials_accept",
    by_alias=True,
)
def accept(
    request: SignedInRequest, job_id: int, trial_id: int, payload: AcceptIn | None = None
) -> Status[AcceptOut]:
    """Accept the advice, as given or with other values: a new revision."""
    job = job_of(request.user, job_id)
    payload = payload or AcceptIn()
    decision = services.accept(
        services.trial_of(job, trial_id),
        request.user,
        changes=None if payload.changes is None else [c.model_dump() for c in payload.changes],
        note=payload.note,
    )
    assert decision.revision is not None
    trial = trial_out(services.trial_of(job, trial_id))
    return Status(201, AcceptOut(revision=decision.revision.number, trial=trial))


@router.post(
    "/jobs/{job_id}/trials/{trial_id}/decline",
    response={201: TrialOut, 404: Problem, 409: Problem, 422: Problem},
    operation_id="trials_decline",
    by_alias=True,
)
def decline(
    request: SignedInRequest, job_id: int, trial_id: int, payload: DeclineIn
) -> Status[TrialOut]:
    """Decline the advice; the reason is kept."""
    job = job_of(request.user, job_id)
    services.decline(services.trial_of(job, trial_id), request.user, note=payload.note)
    return Status(201, trial_out(services.trial_of(job, trial_id)))


assert set(VERDICTS) == set(Verdict.__args__)  # type: ignore[attr-defined]

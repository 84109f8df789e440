"""Logs over HTTP."""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping
from datetime import datetime
from typing import Annotated, Any, Literal

from django.http import HttpResponse
from inbetrieb_core.errors import CoreError
from inbetrieb_core.logs import (
    CHANNELS,
    LARGEST_BYTES,
    LARGEST_TRACK_BYTES,
    Alignment,
    Holds,
    LogPreview,
    bus_table,
    is_bus_log,
    is_mdf,
    log_csv,
    log_mdf,
    mdf_table,
)
from inbetrieb_core.quantities import FloatArray, offered_units, written_unit
from ninja import Field, File, Form, Query, Router, Schema, Status, UploadedFile

from server.accounts.requests import SignedInRequest
from server.config.body import RequestBody
from server.config.bounded import bounded
from server.config.problems import Problem, Refusal
from server.jobs.models import Job
from server.jobs.services import job_of
from server.tasks.api import TaskOut, accepted
from server.tasks.services import Progress, start

from . import services, uploads
from .aside import asides_of, put_aside
from .models import Log
from .samples import read_trace, read_window

router = Router(tags=["logbook"])


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
    origin: Literal["upload", "bench", "live"]
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
    holds: Holds | None = Field(None, description="what is in it; none of logs of earlier versions")
    set_aside: str | None = Field(None, description="why it does not count; none where it does")


class ReadingOut(Schema):
    """One reading of columns that can be read in several ways."""

    label: str
    mapping: dict[str, str | None] = Field(description="column: channel, or null to leave it out")


class QuestionOut(Schema):
    """What has to be decided before the log is read."""

    text: str
    choices: list[ReadingOut]


class PreviewOut(Schema):
    """How a file would be read; nothing is saved as a log yet."""

    upload_id: str = Field(description="send it instead of the file to save the log")
    uses: list[ColumnUseOut]
    problems: list[str]
    remembered: bool = Field(description="whether a mapping confirmed earlier was used")
    known_channels: list[ChannelOut]
    missing: list[str] = Field(description="channels without which a log cannot be read")
    questions: list[QuestionOut] = Field(description="where two readings are possible")


class SamplesOut(Schema):
    """A stretch of a log, no finer than asked for; null is missing."""

    time_s: list[float]
    channels: dict[str, list[float | None]]
    bucket: int = Field(description="samples per drawn pair of extremes; 1 is every sample")


def _channel_out(name: str) -> ChannelOut:
    channel = CHANNELS[name]
    return ChannelOut(
        name=name,
        title=channel.title,
        unit=written_unit(channel.unit),
        offered_units=list(offered_units(channel.dimension)),
    )


def log_out(log: Log, asides: Mapping[int, str]) -> LogOut:
    """Return a log as it travels; of a job in which these are set aside."""
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
        holds=Holds(**log.about["holds"]) if "holds" in log.about else None,
        set_aside=asides.get(log.pk),
    )


def _preview_out(upload_id: str, preview: LogPreview, remembered: bool) -> PreviewOut:
    read = {use.channel for use in preview.uses}
    return PreviewOut(
        upload_id=upload_id,
        problems=list(preview.problems),
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
        questions=[
            QuestionOut(
                text=question.text,
                choices=[
                    ReadingOut(label=choice.label, mapping=dict(choice.mapping))
                    for choice in question.choices
                ],
            )
            for question in preview.questions
        ],
    )


def _kept(
    request: SignedInRequest, job: Job, file: UploadedFile | None, upload_id: str, dbc: UploadedFile | None = None
) -> tuple[str, str]:  # fmt: skip
    """Return the name of a file and where it is kept; one that comes along is kept first, in blocks."""
    if file is not None:
        if file.size is not None and file.size > LARGEST_BYTES:
            raise Refusal(
                413,
                "File too large",
                f"The file has {file.size / 1e6:.0f} MB; up to {LARGEST_BYTES / 1e6:.0f} MB can be read. "
                "Cut the log to the part around the start.",
            )
        return file.name or "log", uploads.keep_stream(job.workshop, _as_text(file, dbc))
    if upload_id:
        uploads.path_of(job.workshop, upload_id)
        return "log", upload_id
    raise Refusal(422, "Input refused", "Send the log as the multipart field 'file'.")


def _as_text(file: UploadedFile, dbc: UploadedFile | None) -> Iterator[bytes]:
    """Return a file as the text of a table; measurement files and bus logs are opened in a process of their own.

    Raises
    ------
    Refusal
        422 if it cannot be opened, or a bus log came without what names its signals.
    """
    head = next(iter(file.chunks(400)), b"")
    file.seek(0)
    if dbc is None and not is_mdf(head):
        if is_bus_log(head):
            raise Refusal(422, "Log refused", "This is a bus log: bring the DBC file that names its signals along.")  # fmt: skip
        yield from file.chunks()
        return
    try:
        yield bounded(mdf_table, file.read()) if dbc is None else bounded(bus_table, file.read(), dbc.read())  # fmt: skip
    except CoreError as error:
        raise Refusal(422, "Log refused", str(error)) from error


@router.get(
    "/jobs/{job_id}/logs", response={200: list[LogOut], 404: Problem}, operation_id="logs_list"
)
def list_logs(request: SignedInRequest, job_id: int) -> list[LogOut]:
    """Return the logs of a job, newest first."""
    job = job_of(request.user, job_id)
    asides = asides_of(job)
    return [log_out(log, asides) for log in Log.objects.filter(job=job).order_by("-pk")]


@router.post(
    "/jobs/{job_id}/logs/preview",
    response={200: PreviewOut, 404: Problem, 413: Problem, 422: Problem},
    operation_id="logs_preview",
)
def preview_log(
    request: SignedInRequest,
    job_id: int,
    file: File[UploadedFile | None] = None,
    dbc: File[UploadedFile | None] = None,
    upload_id: Form[str] = "",
    mapping: Form[str] = "",
) -> PreviewOut:
    """Say how a file – a bus log with its DBC – would be read; it is kept, but nothing is saved as a log."""
    job = job_of(request.user, job_id)
    _, kept = _kept(request, job, file, upload_id, dbc)
    return _preview_out(kept, *services.preview_upload(job, kept, services.mapping_of(mapping)))


@router.post(
    "/jobs/{job_id}/logs",
    response={201: LogOut, 404: Problem, 413: Problem, 422: Problem},
    operation_id="logs_create",
)
def create_log(
    request: SignedInRequest,
    job_id: int,
    file: File[UploadedFile | None] = None,
    dbc: File[UploadedFile | None] = None,
    upload_id: Form[str] = "",
    mapping: Form[str] = "",
    name: Form[str] = "",
) -> Status[LogOut]:
    """Save a log from a file – text, MDF, or a bus log with its DBC – or from an upload that was kept; mapping is JSON."""
    job = job_of(request.user, job_id)
    file_name, kept = _kept(request, job, file, upload_id, dbc)
    log = services.add_upload(
        job,
        request.user,
        name=name or file_name,
        upload_id=kept,
        mapping=services.mapping_of(mapping),
    )
    return Status(201, log_out(log, {}))


@router.get(
    "/jobs/{job_id}/logs/{log_id}/export",
    response={200: None, 404: Problem},
    operation_id="logs_export",
)
def export_log(
    request: SignedInRequest, job_id: int, log_id: int, format: Literal["csv", "mdf"] = "csv"
) -> HttpResponse:
    """Return a whole log as CSV, or as an MDF measurement file of version 4."""
    log = services.log_of(job_of(request.user, job_id), log_id)
    trace = read_trace(log)
    kind, end = ("text/csv", "csv") if format == "csv" else ("application/octet-stream", "mf4")
    data = log_csv(trace) if format == "csv" else log_mdf(trace, log.name)
    answer = HttpResponse(data, content_type=kind)
    answer["Content-Disposition"] = f'attachment; filename="log-{log.pk}.{end}"'
    return answer


class ReadLogIn(RequestBody):
    """A kept upload to be read as a log."""

    upload_id: str = Field(max_length=64)
    name: str = Field("", max_length=200)
    mapping: dict[str, Any] | None = Field(
        None, description="decisions on its columns; without them those remembered or proposed"
    )


class TrackOut(Schema):
    """A log with a track laid on it."""

    log: LogOut
    lies: Alignment = Field(description="by how much the track was moved, and how well both agree")


@router.post(
    "/jobs/{job_id}/logs/{log_id}/track",
    response={201: TrackOut, 404: Problem, 413: Problem, 422: Problem},
    operation_id="logs_track",
)
def add_track(
    request: SignedInRequest,
    job_id: int,
    log_id: int,
    file: File[UploadedFile],
    begins_at_s: Form[str] = "",
) -> Status[TrackOut]:
    """Lay a satellite track, NMEA or GPX, on a log: a new log with its speed and altitude; the time shift is found."""
    job = job_of(request.user, job_id)
    if (file.size or 0) > LARGEST_TRACK_BYTES:
        raise Refusal(
            413, "File too large", f"A track has up to {LARGEST_TRACK_BYTES / 1e6:.0f} MB."
        )
    made, lies = services.add_track(
        job, request.user, log_id, name=file.name or "track", data=file.read(), shift_s=services.seconds_of(begins_at_s),
    )  # fmt: skip
    return Status(201, TrackOut(log=log_out(made, {}), lies=lies))


@router.post(
    "/jobs/{job_id}/logs/read",
    response={202: TaskOut, 404: Problem, 422: Problem},
    operation_id="logs_read",
)
def read_log(request: SignedInRequest, job_id: int, payload: ReadLogIn) -> Status[TaskOut]:
    """Read a kept upload as a task; its result is the identifier of the log."""
    job, user = job_of(request.user, job_id), request.user
    uploads.path_of(job.workshop, payload.upload_id)

    def work(progress: Progress) -> dict[str, int]:
        def told(share: float) -> None:
            progress.tell(0.9 * share, f"Reading: {100.0 * share:.0f} % of the file.")

        log = services.add_upload(
            job,
            user,
            name=payload.name or "log",
            upload_id=payload.upload_id,
            mapping=payload.mapping,
            told=told,
        )
        return {"log": log.pk}

    return accepted(start(job.workshop, user, "log", work))


@router.get(
    "/jobs/{job_id}/logs/{log_id}", response={200: LogOut, 404: Problem}, operation_id="logs_get"
)
def get_log(request: SignedInRequest, job_id: int, log_id: int) -> LogOut:
    """Return a log without its samples."""
    job = job_of(request.user, job_id)
    return log_out(services.log_of(job, log_id), asides_of(job))


class LogAsideIn(RequestBody):
    """Whether a log counts, and why not."""

    aside: bool
    reason: str = Field("", max_length=2000, description="why it is set aside")


@router.post(
    "/jobs/{job_id}/logs/{log_id}/aside",
    response={200: LogOut, 404: Problem, 422: Problem},
    operation_id="logs_aside",
)
def set_aside(request: SignedInRequest, job_id: int, log_id: int, payload: LogAsideIn) -> LogOut:
    """Set a log aside with a reason, or let it count again: no map is corrected from it, and it stays as it is."""
    job = job_of(request.user, job_id)
    put_aside(job, request.user, log_id, aside=payload.aside, reason=payload.reason)
    return log_out(services.log_of(job, log_id), asides_of(job))


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
    start_s: Annotated[float, Query(allow_inf_nan=False)] = 0.0,
    end_s: Annotated[float, Query(allow_inf_nan=False)] = 1e9,
    points: Annotated[int, Query(ge=10, le=8000)] = 3000,
) -> SamplesOut:
    """Return a stretch of a log; any zoom of any length is a bounded read."""
    log = services.log_for(request.user, job_id, log_id)
    asked = [name for name in channels.split(",") if name] or log.channels
    wanted = [name for name in asked if name in log.channels and name != "time_s"]
    window = read_window(log, wanted, start_s, end_s, points)
    return SamplesOut(
        time_s=[round(float(value), 5) for value in window.time_s],
        channels={name: _with_gaps(values) for name, values in window.channels.items()},
        bucket=window.bucket,
    )


@router.get(
    "/jobs/{job_id}/logs/{log_id}/beside/{other_id}",
    response={200: Alignment, 404: Problem, 422: Problem},
    operation_id="logs_beside",
)
def beside(
    request: SignedInRequest, job_id: int, log_id: int, other_id: int, channel: str = "rpm"
) -> Alignment:
    """Return by how much the clock of another log is ahead, from a channel that both have."""
    return services.beside(job_of(request.user, job_id), log_id, other_id, channel)


def _with_gaps(values: FloatArray) -> list[float | None]:
    """Return values for JSON, which knows no NaN."""
    return [round(v, 4) if math.isfinite(v) else None for v in values.tolist()]

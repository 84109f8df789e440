"""Edge captures over HTTP: uploading, reading with progress, drawing."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime
from typing import Annotated, Any, Literal

from django.core.files.uploadedfile import UploadedFile as DjangoFile
from inbetrieb_core.triggers import (
    LARGEST_CAPTURE_BYTES,
    LEVELS,
    CamPlace,
    CaptureChoice,
    CaptureReader,
    Compression,
    Ribbon,
    TriggerEntry,
)
from ninja import Field, File, Form, Query, Router, Schema, Status, UploadedFile
from pydantic import TypeAdapter

from server.accounts.requests import SignedInRequest
from server.config.bodies import Body
from server.config.problems import Problem, Refusal
from server.jobs.services import job_of
from server.logbook import uploads
from server.tasks.api import TaskOut, accepted
from server.tasks.services import Progress, start

from . import captures
from .kinds import TRIGGER
from .models import EdgeCapture
from .services import trigger_of

router = Router(tags=["edge captures"])
_CAM = TypeAdapter(CamPlace)
_COMPRESSION = TypeAdapter(Compression)


class CaptureOut(Schema):
    """A capture and what it says."""

    number: int
    name: str
    origin: Literal["upload", "bench"]
    about: dict[str, Any] = Field(description="conditions of the bench engine; a stand-in")
    verdict: Literal["agrees", "other", "polarity", "noise", "weak", "cam", "unknown"]
    level: Literal["good", "attention", "stop"]
    sentence: str
    wheel: str = Field(description="that explains the edges best")
    believed: str = Field(description="that was entered")
    speed_rpm: float = Field(description="[1/min]")
    teeth: int
    lost: int
    extra: int
    cam: CamPlace | None
    compression: Compression
    reading: list[str] = Field(description="how the file was read")
    channels: dict[str, int] = Field(description="edges of each channel")
    crank: str
    cam_channel: str
    stale: bool = Field(description="whether the wheel was changed after it")
    created_at: datetime
    created_by: str


class UploadOut(Schema):
    """A kept upload."""

    upload_id: str
    bytes: int


class ReadIn(Body):
    """A kept upload, and how it is to be read."""

    upload_id: str
    name: str = ""
    choice: CaptureChoice = Field(default_factory=CaptureChoice)


def capture_out(now: TriggerEntry, row: EdgeCapture) -> CaptureOut:
    """Return a capture as it travels, beside the wheel that is entered now."""
    result = row.result
    return CaptureOut(
        number=row.number,
        name=row.name,
        origin=row.origin,  # type: ignore[arg-type]
        about=row.about,
        verdict=row.verdict,  # type: ignore[arg-type]
        level=LEVELS[row.verdict],  # type: ignore[index]
        sentence=result["sentence"],
        wheel=result["wheel"]["name"],
        believed=TRIGGER.read(row.trigger).wheel().name,
        speed_rpm=result["speed_rpm"],
        teeth=result["teeth"],
        lost=result["lost"],
        extra=result["extra"],
        cam=None if result["cam"] is None else _CAM.validate_python(result["cam"]),
        compression=_COMPRESSION.validate_python(result["compression"]),
        reading=row.reading["sentences"],
        channels=row.reading["channels"],
        crank=row.reading["crank"],
        cam_channel=row.reading["cam"],
        stale=captures.is_stale(now, row),
        created_at=row.created_at,
        created_by=row.created_by.get_username(),
    )


@router.get(
    "/jobs/{job_id}/captures",
    response={200: list[CaptureOut], 404: Problem},
    operation_id="captures_list",
)
def list_captures(request: SignedInRequest, job_id: int) -> list[CaptureOut]:
    """Return the captures of a job, newest first."""
    job = job_of(request.user, job_id)
    now, _ = trigger_of(job)
    return [capture_out(now, row) for row in captures.captures_of(job)]


def _blocks(file: DjangoFile[bytes]) -> Iterator[bytes]:
    if (file.size or 0) > LARGEST_CAPTURE_BYTES:
        raise Refusal(
            413, "File too large", f"Up to {LARGEST_CAPTURE_BYTES / 1e6:.0f} MB can be read. Capture a shorter stretch."
        )  # fmt: skip
    yield from file.chunks(captures.BLOCK_BYTES)


@router.post(
    "/jobs/{job_id}/captures",
    response={201: CaptureOut, 404: Problem, 413: Problem, 422: Problem},
    operation_id="captures_create",
)
def create_capture(
    request: SignedInRequest,
    job_id: int,
    file: File[UploadedFile],
    name: Form[str] = "",
    crank: Form[str] = "",
    cam: Form[str] = "",
    unit: Form[Literal["auto", "s", "ms", "us", "ns", "ticks"]] = "auto",
    from_s: Form[float] = 0.0,
    tick_us: Form[float] = 1.0,
) -> Status[CaptureOut]:
    """Read a capture and write it down, without word of progress."""
    job = job_of(request.user, job_id)
    trigger, _ = trigger_of(job)
    choice = CaptureChoice(crank, cam, unit, trigger.edge, trigger.cam_edge, from_s, tick_us)
    reader = CaptureReader(choice)
    for block in _blocks(file):
        reader.feed(block)
    row = captures.add_capture(
        job, request.user, name=name or file.name or "", origin="upload", read=reader.finish()
    )
    return Status(201, capture_out(trigger_of(job)[0], row))


@router.post(
    "/jobs/{job_id}/captures/upload",
    response={201: UploadOut, 404: Problem, 413: Problem},
    operation_id="captures_upload",
)
def upload_capture(
    request: SignedInRequest, job_id: int, file: File[UploadedFile]
) -> Status[UploadOut]:
    """Keep a file, to be read with progress afterwards."""
    job = job_of(request.user, job_id)
    kept = uploads.keep_stream(job.workshop, _blocks(file))
    return Status(201, UploadOut(upload_id=kept, bytes=file.size or 0))


@router.post(
    "/jobs/{job_id}/captures/read",
    response={202: TaskOut, 404: Problem, 422: Problem},
    operation_id="captures_read",
)
def read_capture(request: SignedInRequest, job_id: int, payload: ReadIn) -> Status[TaskOut]:
    """Read a kept upload as a task; its result is the number of the capture."""
    job = job_of(request.user, job_id)
    path = uploads.path_of(job.workshop, payload.upload_id)
    user = request.user

    def work(progress: Progress) -> dict[str, int]:
        read = captures.read_file(path, payload.choice, progress)
        row = captures.add_capture(job, user, name=payload.name, origin="upload", read=read)
        uploads.forget(job.workshop, payload.upload_id)
        return {"capture": row.number}

    return accepted(start(job.workshop, user, "capture", work))


@router.get(
    "/jobs/{job_id}/captures/{number}",
    response={200: CaptureOut, 404: Problem},
    operation_id="captures_get",
)
def get_capture(request: SignedInRequest, job_id: int, number: int) -> CaptureOut:
    """Return one capture."""
    job = job_of(request.user, job_id)
    return capture_out(trigger_of(job)[0], captures.capture_of(job, number))


@router.get(
    "/jobs/{job_id}/captures/{number}/ribbon",
    response={200: Ribbon, 404: Problem, 422: Problem},
    operation_id="captures_ribbon",
)
def get_ribbon(
    request: SignedInRequest,
    job_id: int,
    number: int,
    start_s: Annotated[float, Query(ge=0.0, le=1e7)] = 0.0,
    span_s: Annotated[float, Query(gt=0.0, le=60.0)] = 0.6,
) -> Ribbon:
    """Return a stretch of a capture, every edge with what it was taken for."""
    row = captures.capture_of(job_of(request.user, job_id), number)
    return captures.ribbon(row, start_s, span_s)

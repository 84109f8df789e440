"""Edge captures: reading a file with progress, decoding it, drawing a stretch of it."""

from __future__ import annotations

import io
import zlib
from dataclasses import asdict
from pathlib import Path
from typing import Any

import numpy as np
from django.contrib.auth.models import User
from django.db.models import Max
from django.shortcuts import get_object_or_404
from inbetrieb_core.engine import EngineSpec
from inbetrieb_core.triggers import (
    Capture,
    CaptureChoice,
    CaptureFile,
    CaptureReader,
    Decoded,
    Followed,
    Ribbon,
    TriggerEntry,
    Wheel,
    decode,
    relative_compression,
    ribbon_of,
)

from server.config.writes import writing
from server.jobs.engine_data import spec_of
from server.jobs.models import Job
from server.tasks.services import Progress

from .kinds import TRIGGER
from .models import EdgeCapture
from .services import trigger_of, wheel_facts

BLOCK_BYTES = 2 * 1024 * 1024


def read_file(path: Path, choice: CaptureChoice, progress: Progress) -> CaptureFile:
    """Return the capture of a file, telling how far the reading is.

    Raises
    ------
    LogRefused
        If there is no capture in it.
    Cancelled
        If somebody wants the reading to end.
    """
    reader = CaptureReader(choice)
    size = max(1, path.stat().st_size)
    done = 0
    with path.open("rb") as file:
        while block := file.read(BLOCK_BYTES):
            reader.feed(block)
            done += len(block)
            rows = f"{reader.rows:,}".replace(",", " ")
            progress.tell(0.9 * done / size, f"Reading: {rows} rows.")
    read = reader.finish()
    progress.tell(0.95, "Decoding.")
    return read


def add_capture(
    job: Job,
    user: User,
    *,
    name: str,
    origin: str,
    read: CaptureFile,
    about: dict[str, Any] | None = None,
) -> EdgeCapture:
    """Decode a capture against the trigger in force and write it down."""
    trigger, _ = trigger_of(job)
    decoded = decode(read.capture, trigger.wheel())
    result = _result(spec_of(job), trigger, read.capture, decoded)
    edges = _packed(read.capture, decoded)
    reading = {
        "crank": read.crank, "cam": read.cam, "channels": dict(read.channels), "rows": read.rows,
        "unit": read.unit, "sentences": list(read.sentences),
    }  # fmt: skip
    with writing():  # nobody waits for the decoding
        last = EdgeCapture.objects.filter(job=job).aggregate(n=Max("number"))["n"] or 0
        return EdgeCapture.objects.create(
            job=job,
            number=last + 1,
            name=name.strip()[:200] or "Capture",
            origin=origin,
            about=about or {},
            trigger=TRIGGER.plain(trigger),
            reading=reading,
            verdict=decoded.verdict,
            result=result,
            edges=edges,
            created_by=user,
        )


def _result(
    spec: EngineSpec, trigger: TriggerEntry, capture: Capture, decoded: Decoded
) -> dict[str, Any]:
    followed = decoded.followed
    compression = relative_compression(
        capture,
        followed,
        round(spec.firings_per_turn * 2.0),
        cam=decoded.cam,
        offset_deg=trigger.offset_deg,
        firing_order=trigger.firing_order,
    )
    return {
        "sentence": decoded.sentence,
        "speed_rpm": round(decoded.speed_rpm, 1),
        "wheel": asdict(followed.wheel),
        "teeth": int(followed.kept.size),
        "lost": int(followed.lost_at_s.size),
        "extra": int(followed.extra_at_s.size),
        "cam": None if decoded.cam is None else asdict(decoded.cam),
        "compression": asdict(compression),
    }


def _packed(capture: Capture, decoded: Decoded) -> bytes:
    out = io.BytesIO()
    followed = decoded.followed
    np.savez(
        out, crank_s=capture.crank_s, cam_s=capture.cam_s, kept=followed.kept,
        angle_deg=followed.angle_deg, lost_at_s=followed.lost_at_s, extra_at_s=followed.extra_at_s,
    )  # fmt: skip
    return zlib.compress(out.getvalue(), 3)


def captures_of(job: Job) -> list[EdgeCapture]:
    """Return the captures of a job without their edges, newest first."""
    rows = EdgeCapture.objects.filter(job=job).defer("edges").select_related("created_by")
    return list(rows.order_by("-number"))


def capture_of(job: Job, number: int) -> EdgeCapture:
    """Return one capture of a job, 404 if there is none."""
    row: EdgeCapture = get_object_or_404(
        EdgeCapture.objects.select_related("created_by"), job=job, number=number
    )
    return row


def is_stale(now: TriggerEntry, capture: EdgeCapture) -> bool:
    """Say whether the wheel that is entered now is another than that of a capture."""
    return wheel_facts(TRIGGER.plain(now)) != wheel_facts(capture.trigger)


def ribbon(row: EdgeCapture, start_s: float, span_s: float) -> Ribbon:
    """Return a stretch of a capture as it is drawn."""
    with np.load(io.BytesIO(zlib.decompress(bytes(row.edges))), allow_pickle=False) as arrays:
        capture = Capture(arrays["crank_s"], arrays["cam_s"])
        plain = row.result["wheel"]
        wheel = Wheel(
            plain["name"],
            tuple(plain["edges_deg"]),
            plain["turn_deg"],
            tuple(plain["cam_edges_deg"]),
        )
        followed = Followed(
            wheel,
            arrays["kept"],
            arrays["angle_deg"],
            arrays["lost_at_s"],
            arrays["extra_at_s"],
            0.0,
        )
    return ribbon_of(capture, followed, start_s, span_s)

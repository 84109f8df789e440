"""Samples of a session in the database: chunks of all channels, read back by row or by time."""

from __future__ import annotations

import zlib
from datetime import datetime

import numpy as np
from django.db.models import Max, Sum
from inbetrieb_core.quantities import FloatArray

from server.config.writes import writing

from .models import LiveChunk, LiveSession


def packed(rows: FloatArray) -> bytes:
    """Return rows as bytes: time as it is, the other channels as precise as a sensor."""
    time = np.ascontiguousarray(rows[:, 0], dtype=np.float64).tobytes()
    return zlib.compress(time + np.ascontiguousarray(rows[:, 1:], dtype=np.float32).tobytes(), 1)


def unpacked(data: bytes, count: int, width: int) -> FloatArray:
    """Return the rows in some bytes, shape (count, width)."""
    raw = zlib.decompress(data)
    rows = np.empty((count, width))
    rows[:, 0] = np.frombuffer(raw, np.float64, count)
    rows[:, 1:] = np.frombuffer(raw, np.float32, offset=8 * count).reshape(count, width - 1)
    return rows


@writing()
def write_chunk(session_id: int, first_row: int, rows: FloatArray) -> None:
    """Keep some rows of a session."""
    LiveChunk.objects.create(
        session_id=session_id, first_row=first_row, rows=len(rows), first_s=float(rows[0, 0]),
        last_s=float(rows[-1, 0]), data=packed(rows),
    )  # fmt: skip


def rows_of(
    session: LiveSession, *, from_row: int = 0, most: int | None = None, start_s: float | None = None, end_s: float | None = None
) -> FloatArray:  # fmt: skip
    """Return kept rows of a session in order, from a row on or between two times, shape (rows, channels)."""
    width = len(session.channels)
    chunks = session.chunks.order_by("first_row")
    if from_row:
        last = chunks.filter(first_row__lte=from_row).last()
        chunks = chunks.filter(first_row__gte=from_row if last is None else last.first_row)
    if start_s is not None:
        chunks = chunks.filter(last_s__gte=start_s)
    if end_s is not None:
        chunks = chunks.filter(first_s__lte=end_s)
    found, count = [], 0
    for chunk in chunks.iterator(chunk_size=200):
        rows = unpacked(chunk.data, chunk.rows, width)
        rows = rows[max(0, from_row - chunk.first_row) :]
        found.append(rows)
        count += len(rows)
        if most is not None and count >= most:
            break
    rows = np.concatenate(found) if found else np.empty((0, width))
    if start_s is not None:
        rows = rows[rows[:, 0] >= start_s]
    if end_s is not None:
        rows = rows[rows[:, 0] <= end_s]
    return rows if most is None else rows[:most]


def kept_rows(session: LiveSession) -> int:
    """Return how many rows of a session are kept."""
    return int(session.chunks.aggregate(n=Sum("rows"))["n"] or 0)


def last_sign(session: LiveSession) -> datetime:
    """Return when a session was last written to; as it was opened where it never was."""
    written: datetime | None = session.chunks.aggregate(at=Max("created_at"))["at"]
    return written or session.created_at

"""Server-sent events of a session: samples by row, state, and its end.

Every event of samples carries the number of the row after it, so that a browser that was away goes on where
it stood: from the buffer, or from the database where it was away for long. The HTML standard, "Server-sent
events", says how events are written and how a browser comes back (Last-Event-ID).
"""

from __future__ import annotations

import asyncio
import json
import math
import time
from collections.abc import AsyncIterator, Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from django.db import connection
from inbetrieb_core.quantities import FloatArray

from . import hosts
from .chunks import kept_rows, rows_of
from .models import LiveEnd, LiveSession
from .out import state_told

#: Samples come in parcels; a state comes as often as anything in it may be read. [s]
PARCEL_S, _STATE_S = 0.2, 0.5
#: A parcel holds no more rows than this: who is far behind catches up in many.
_MOST_ROWS = 400
#: Who comes without a number sees so much of what was before. [s]
_LOOKS_BACK_S = 30.0
#: The same of a session that runs elsewhere or is over, at the usual rate.
_LOOKS_BACK_ROWS = 750
#: Other processes are asked no more often than this. [s]
_ASKS_DATABASE_S = 0.5
_NOTHING = ": \n\n"


def event(name: str, data: Any, number: int | None = None) -> str:
    """Return one server-sent event."""
    head = f"id: {number}\n" if number is not None else ""
    return f"event: {name}\n{head}data: {json.dumps(data, separators=(',', ':'))}\n\n"


def parcel(channels: list[str], rows: FloatArray, first: int) -> str:
    """Return some rows as an event of samples; its number is that of the row after them."""
    columns = {
        name: [None if math.isnan(v) else v for v in np.round(rows[:, i], 3).tolist()]
        for i, name in enumerate(channels)
    }
    told = {"t0": float(rows[0, 0]), "first": first, "channels": columns}
    return event("samples", told, first + len(rows))


@dataclass
class Feed:
    """What one browser has been sent of a session.

    Attributes
    ----------
    session : LiveSession
    row : int or None
        Number of the next row to send; None begins a little before now.
    """

    session: LiveSession
    row: int | None
    ended: bool = False
    _state_at: float = 0.0
    _asked_at: float = 0.0

    @property
    def is_at_hand(self) -> bool:
        """Whether the next events come from memory alone."""
        host = hosts.host_of(self.session.pk)
        return host is not None and self.row is not None and host.since(self.row) is not None

    def next(self) -> str:
        """Return the events that are due; empty where nothing is new."""
        host = hosts.host_of(self.session.pk)
        if host is None:
            return self._from_database()
        host.attend()
        if self.row is None:
            self.row = host.row_before(_LOOKS_BACK_S)
        told = ""
        rows = host.since(self.row)
        if rows is None:
            rows = rows_of(self.session, from_row=self.row, most=_MOST_ROWS)
        rows = rows[:_MOST_ROWS]
        if len(rows):
            told += self._parcel(rows)
        now = time.monotonic()
        if now - self._state_at >= _STATE_S:
            self._state_at = now
            told += event("state", state_told(host))
        return told

    def _parcel(self, rows: FloatArray) -> str:
        told = parcel(self.session.channels, rows, self.row or 0)
        self.row = (self.row or 0) + len(rows)
        return told

    def _from_database(self) -> str:
        """Return what another process or an earlier one wrote."""
        now = time.monotonic()
        if now - self._asked_at < _ASKS_DATABASE_S:
            return ""
        if self.row is None:
            self.row = max(0, kept_rows(self.session) - _LOOKS_BACK_ROWS)
        rows = rows_of(self.session, from_row=self.row, most=_MOST_ROWS)
        if len(rows):
            return self._parcel(rows)
        self._asked_at = now
        end = LiveEnd.objects.filter(session=self.session).select_related("log").first()
        if end is None:
            return ""
        self.ended = True
        return event("end", {"log_id": end.log_id, "sentence": end.reason})


def parcels(feed: Feed) -> Iterator[str]:
    """Yield the events of a session until its end, in a thread of the request."""
    yield "retry: 1000\n\n"
    while not feed.ended:
        # Whoever has gone away is noticed by writing, if only a comment.
        yield feed.next() or _NOTHING
        if not feed.ended:
            time.sleep(PARCEL_S)


async def parcels_async(feed: Feed) -> AsyncIterator[str]:
    """Yield the events of a session until its end, on the event loop: what must be read is read in a thread."""
    yield "retry: 1000\n\n"
    while not feed.ended:
        told = feed.next() if feed.is_at_hand else await asyncio.to_thread(_apart, feed)
        yield told or _NOTHING
        if not feed.ended:
            await asyncio.sleep(PARCEL_S)


def _apart(feed: Feed) -> str:
    try:
        return feed.next()
    finally:
        connection.close()

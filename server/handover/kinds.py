"""Closing checks that were done."""

from __future__ import annotations

from dataclasses import dataclass

from inbetrieb_core.handover import Part

from server.entries.kinds import Kind
from server.jobs.begun import keeps_records


@dataclass(frozen=True)
class ClosingDone:
    """What was found at a closing check, in words."""

    note: str


@dataclass(frozen=True)
class CameBack:
    """That a job came back: which parts are others, and why."""

    parts: tuple[Part, ...]
    reason: str


REOPENED: Kind[CameBack] = Kind("reopened", CameBack)
CLOSED: Kind[ClosingDone] = Kind("closing-check", ClosingDone)
keeps_records("handover", CLOSED.rows_of_all)

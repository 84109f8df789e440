"""Closing checks that were done."""

from __future__ import annotations

from dataclasses import dataclass

from server.entries.kinds import Kind


@dataclass(frozen=True)
class ClosingDone:
    """What was found at a closing check, in words."""

    note: str


CLOSED: Kind[ClosingDone] = Kind("closing-check", ClosingDone)

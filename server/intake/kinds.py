"""What is entered at intake, and what is decided on an inherited calibration."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from inbetrieb_core.commissioning import IntakeEntry

from server.entries.kinds import Kind

Decision = Literal["repair", "start_afresh"]


@dataclass(frozen=True)
class Verdict:
    """What was decided on an inherited calibration."""

    decision: Decision
    note: str
    author: str


INTAKE: Kind[IntakeEntry] = Kind("intake", IntakeEntry)
VERDICT: Kind[Verdict] = Kind("intake", Verdict, keys="verdict ")


def verdict_key(revision: int) -> str:
    """Return the key under which the verdict on a revision is kept."""
    return f"verdict {revision}"

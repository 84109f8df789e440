"""What is entered of trigger and timing."""

from __future__ import annotations

from dataclasses import dataclass

from inbetrieb_core.triggers import DwellEntry, LightReading, TriggerEntry

from server.entries.kinds import Kind


@dataclass(frozen=True)
class LightSaved:
    """Readings of the timing light, with the offset in force when they were taken.

    Attributes
    ----------
    offset_deg : float
        [°]
    raising_advances : bool
        Whether a larger offset makes the spark earlier.
    """

    readings: tuple[LightReading, ...]
    offset_deg: float
    raising_advances: bool


TRIGGER: Kind[TriggerEntry] = Kind("trigger", TriggerEntry)
TIMING: Kind[LightSaved] = Kind("timing", LightSaved)
COIL: Kind[DwellEntry] = Kind("coil", DwellEntry)

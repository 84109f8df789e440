"""What is entered of the mornings: how the engine stood, the minima, and the climate."""

from __future__ import annotations

import math
from dataclasses import dataclass
from datetime import datetime

from ..errors import FieldProblem, InputRefused
from .soak import SWITCHED_OFF_C, ParkedReading
from .weather import refuse_bad_day

_MONTHS = 12
_MOST_READINGS = 200


@dataclass(frozen=True)
class MorningsEntry:
    """What an installer knows of cold mornings.

    Attributes
    ----------
    parked : tuple of ParkedReading
        Coolant of the parked engine.
    minima : tuple of (str, float)
        Day and expected minimum. [°C]
    monthly_c : tuple of float
        Mean minimum of each month from January; empty where it is not known. [°C]
    stopped_at : str or None
        When the engine was switched off last, ISO with its offset.
    stopped_c : float
        Coolant then. [°C]
    ambient_c : float or None
        Air that it stands in. [°C]
    """

    parked: tuple[ParkedReading, ...] = ()
    minima: tuple[tuple[str, float], ...] = ()
    monthly_c: tuple[float, ...] = ()
    stopped_at: str | None = None
    stopped_c: float = SWITCHED_OFF_C
    ambient_c: float | None = None


def checked_mornings(entry: MorningsEntry) -> MorningsEntry:
    """Return the entry if it can be.

    Raises
    ------
    InputRefused
        With a sentence for each number that cannot be.
    """
    problems = []

    def within(field: str, value: float, low: float, high: float, what: str) -> None:
        if not (math.isfinite(value) and low <= value <= high):
            problems.append(FieldProblem(field, f"{what} must be between {low:g} and {high:g}."))

    if len(entry.parked) > _MOST_READINGS:
        problems.append(FieldProblem("parked", f"At most {_MOST_READINGS} parked readings."))
    for number, reading in enumerate(entry.parked, 1):
        within("parked", reading.stood_h, 0.0, 200.0, f"Hours of parked reading {number}")
        within("parked", reading.coolant_c, -60.0, 130.0, f"Coolant of parked reading {number}")
        within("parked", reading.ambient_c, -60.0, 60.0, f"Air of parked reading {number}")
        if reading.coolant_c < reading.ambient_c - 5.0:
            problems.append(
                FieldProblem(
                    "parked",
                    f"Parked reading {number}: coolant lies below the air around it. Is it an old "
                    "air temperature, or do the sensors disagree? Compare them with the key on.",
                )
            )
    if len(entry.monthly_c) not in (0, _MONTHS):
        problems.append(FieldProblem("monthly_c", "The climate needs all twelve months, or none."))
    for value in entry.monthly_c:
        within("monthly_c", value, -60.0, 35.0, "A mean minimum of a month")
    within("stopped_c", entry.stopped_c, -40.0, 130.0, "Coolant when switched off")
    if entry.ambient_c is not None:
        within("ambient_c", entry.ambient_c, -60.0, 60.0, "Air around the engine")
    if entry.stopped_at is not None and not _is_moment(entry.stopped_at):
        problems.append(FieldProblem("stopped_at", "When it was switched off is no date and time."))
    if problems:
        raise InputRefused(problems)
    for day, minimum_c in entry.minima:
        refuse_bad_day(day, minimum_c)
    return entry


def _is_moment(text: str) -> bool:
    try:
        return datetime.fromisoformat(text).tzinfo is not None
    except ValueError:
        return False

"""What a step of a run sheet is."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Part = Literal["before", "oil", "key_on", "start", "first_minute", "run_in", "after"]

PARTS: dict[Part, str] = {
    "before": "Before anything turns",
    "oil": "Oil pressure without fuel and spark",
    "key_on": "Key on",
    "start": "The start",
    "first_minute": "First minute",
    "run_in": "Run-in",
    "after": "Before and after key-off",
}


@dataclass(frozen=True)
class Reading:
    """A figure that a step asks for, and what stops the work.

    Attributes
    ----------
    key, title, unit : str
    lower, upper : float
        What is believed at all. [unit]
    stop_below, stop_above : float or None
        Beyond these: stop. [unit]
    stop : str
        What to do then, in large type.
    """

    key: str
    title: str
    unit: str
    lower: float
    upper: float
    stop_below: float | None = None
    stop_above: float | None = None
    stop: str = ""


@dataclass(frozen=True)
class Clock:
    """A time that has to pass: counts up to `seconds` [s]; `rest_s` is how long the starter rests after it. [s]"""

    seconds: float
    rest_s: float = 0.0


@dataclass(frozen=True)
class Step:
    """One step.

    Attributes
    ----------
    key : str
    part : str
        Key of :data:`PARTS`.
    title, text : str
        What to do, and how.
    readings : tuple of Reading
    clock : Clock or None
    caution : str
        What can hurt somebody at this step; empty for nothing beyond the usual.
    serious : bool
        Whether skipping it asks for a reason.
    choice : bool
        Whether it asks what the engine did.
    """

    key: str
    part: Part
    title: str
    text: str
    readings: tuple[Reading, ...] = ()
    clock: Clock | None = None
    caution: str = ""
    serious: bool = True
    choice: bool = False

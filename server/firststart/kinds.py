"""What is ticked, read and skipped on the run sheet of a first start."""

from __future__ import annotations

from dataclasses import dataclass

from inbetrieb_core.runsheet import Setup

from server.entries.kinds import Kind


@dataclass(frozen=True)
class ReadingTaken:
    """A reading as it was taken. [unit of the reading]"""

    key: str
    value: float


@dataclass(frozen=True)
class StepDone:
    """A step that was done, skipped or stopped at.

    Attributes
    ----------
    values : tuple of ReadingTaken
    skipped : str
        Why it was skipped; empty where it was done.
    choice : str
        What the engine did, where the step asks.
    trial : int or None
        Number of the trial that was recorded with it.
    stopped : tuple of str
        What said stop.
    seconds : float
        On its clock. [s]
    log_id : int or None
        Of the start, where it was logged.
    told : tuple of str
        What the readings say beyond going on or stopping, or what a log says otherwise.
    """

    values: tuple[ReadingTaken, ...] = ()
    skipped: str = ""
    choice: str = ""
    trial: int | None = None
    stopped: tuple[str, ...] = ()
    seconds: float = 0.0
    log_id: int | None = None
    told: tuple[str, ...] = ()


SETUP: Kind[Setup] = Kind("start-setup", Setup)
DONE: Kind[StepDone] = Kind("start-step", StepDone)

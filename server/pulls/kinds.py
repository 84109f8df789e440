"""What is kept of pulls: limits, ticks, the pulls themselves, and reasons."""

from __future__ import annotations

from dataclasses import dataclass

from inbetrieb_core.pulls import Ambient, Exceeded, PullLimits, PullRecord

from server.entries.kinds import Kind
from server.jobs.begun import keeps_records


@dataclass(frozen=True)
class Conditions:
    """What a pull was driven with.

    Attributes
    ----------
    gear, fuel, part, water, note : str
        Gear, fuel, the part or setting that is tried, water injection (on, off, mixture), and what else.
    duty_pct : float or None
        Of the boost valve, where a staircase is climbed. [%]
    ambient : Ambient or None
    profile : str
        Cam profile it was driven on alone; empty for as it is.
    """

    gear: str = ""
    fuel: str = ""
    part: str = ""
    water: str = ""
    note: str = ""
    duty_pct: float | None = None
    ambient: Ambient | None = None
    profile: str = ""


@dataclass(frozen=True)
class PullSaved:
    """A pull as it was kept.

    Attributes
    ----------
    pull : PullRecord
    conditions : Conditions
    revision : int or None
        In the controller, as far as anybody knows.
    log_id : int or None
        That it lies in.
    begin_s : float or None
        Where. [s]
    passed : tuple of Exceeded
        Limits that it passed.
    stop : str
        What says that no pull may follow; empty where nothing does.
    said : tuple of str
        How a file was understood.
    stand_in : bool
        Whether it is simulated.
    """

    pull: PullRecord
    conditions: Conditions
    revision: int | None
    log_id: int | None
    begin_s: float | None
    passed: tuple[Exceeded, ...]
    stop: str
    said: tuple[str, ...] = ()
    stand_in: bool = False


@dataclass(frozen=True)
class Reason:
    """A written reason: the pull that it is about, and why."""

    pull: int
    reason: str


@dataclass(frozen=True)
class Ticked:
    """A check that was done, or was none, in words."""

    note: str


LIMITS: Kind[PullLimits] = Kind("pull-limits", PullLimits)
PULL: Kind[PullSaved] = Kind("pull", PullSaved)
keeps_records("pulls", PULL.rows_of_all)
OPENED: Kind[Reason] = Kind("pulls-opened", Reason)
ASIDE: Kind[Reason] = Kind("pull-aside", Reason)
CHECK: Kind[Ticked] = Kind("pull-check", Ticked)

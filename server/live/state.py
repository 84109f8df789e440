"""Where a session under way stands, and what it is compared with."""

from __future__ import annotations

from dataclasses import dataclass

from inbetrieb_core.live import Controls
from inbetrieb_core.runsheet import RunIn, Watched


@dataclass(frozen=True)
class Limits:
    """What the watch list compares with: fuel pressure that is wanted, limit of the engine. [kPa, 1/min]"""

    rail_kpa: float
    rev_limit_rpm: float


@dataclass(frozen=True)
class SweepState:
    """A sweep under way or ended."""

    state: str
    share: float
    sentence: str
    start_s: float
    end_s: float | None


@dataclass(frozen=True)
class HostState:
    """Where a session stands.

    Attributes
    ----------
    time_s : float
        Of its newest sample. [s]
    rows, kept : int
        That came, and of them in the database.
    lag_s : float
        Age of its newest sample. [s]
    silent_s : float
        How long nothing came with the key on; 0 where it does. [s]
    controls : Controls
    held_by, tablet : str
        Who holds the key, and on which of their tablets; empty for nobody.
    problems : tuple of str
    watch : tuple of Watched
    readings : dict of str to float or None
        What the steps of the run sheet ask for, by its key; None as long as it cannot be read.
    run_in : RunIn or None
    sweep : SweepState or None
    """

    time_s: float
    rows: int
    kept: int
    lag_s: float
    silent_s: float
    controls: Controls
    held_by: str
    tablet: str
    problems: tuple[str, ...]
    watch: tuple[Watched, ...]
    readings: dict[str, float | None]
    run_in: RunIn | None
    sweep: SweepState | None

"""What became of a season, what the engine was, and how hands stand against each other."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from ..bench import FAULTS, BenchEngine, Fault
from ..sentences import celsius, quantity
from ..starts import Verdict


@dataclass(frozen=True)
class StartRecord:
    """One start of a season.

    Attributes
    ----------
    day : int
        From 1.
    coolant_c : float
        [°C]
    verdict : Verdict
    good : bool
    """

    day: int
    coolant_c: float
    verdict: Verdict
    good: bool


@dataclass(frozen=True)
class SeasonRecord:
    """What became of a season.

    Attributes
    ----------
    starts : tuple of StartRecord
    days : int or None
        Until every check temperature was good and every fault mended; None if that never came.
    open_c : tuple of float
        Check temperatures that were not good at the end. [°C]
    faults : tuple of Fault
        Not mended.
    """

    starts: tuple[StartRecord, ...]
    days: int | None
    open_c: tuple[float, ...]
    faults: tuple[Fault, ...] = ()

    @property
    def mornings(self) -> tuple[StartRecord, ...]:
        """The true cold start of every day: the first of it."""
        first: dict[int, StartRecord] = {}
        for start in self.starts:
            first.setdefault(start.day, start)
        return tuple(first.values())

    @property
    def good(self) -> int:
        """How many starts were good."""
        return sum(start.good for start in self.starts)

    @property
    def sentence(self) -> str:
        """What became of it."""
        if self.days is not None:
            mornings = "one morning" if self.days == 1 else f"{self.days} mornings"
            return f"Commissioned after {mornings}; {self.good} of {len(self.starts)} starts good."
        left = ", ".join(celsius(c) for c in self.open_c) or "nothing"
        faults = ", ".join(FAULTS[fault.kind].title.lower() for fault in self.faults)
        text = f"Not commissioned: open at {left}; {self.good} of {len(self.starts)} starts good."
        return text + (f" Not found under the bonnet: {faults}." if faults else "")


@dataclass(frozen=True)
class Report:
    """The end of a season.

    Attributes
    ----------
    truth : tuple of str
        What the engine was.
    hands : tuple of (str, SeasonRecord)
        The trainee first.
    """

    truth: tuple[str, ...]
    hands: tuple[tuple[str, SeasonRecord], ...]


def report_on(
    engine: BenchEngine,
    faults: tuple[Fault, ...],
    own: SeasonRecord,
    others: Mapping[str, SeasonRecord],
) -> Report:
    """Return the end of a season.

    Parameters
    ----------
    engine : BenchEngine
        As it truly was.
    faults : tuple of Fault
        That were hidden.
    own : SeasonRecord
        The trainee's.
    others : mapping
        Records of other hands on the same season, by name.
    """
    return Report(what_it_was(engine, faults), (("you", own), *others.items()))


def what_it_was(engine: BenchEngine, faults: tuple[Fault, ...]) -> tuple[str, ...]:
    """Return what was hidden, in plain sentences."""
    t = engine.truth
    found = [
        f"Its fuel evaporated as in an engine {quantity(abs(t.vapour_shift_k), 'K', 0)} "
        f"{'colder' if t.vapour_shift_k < 0 else 'warmer'} than usual.",
        f"Its friction was {_percent(t.friction_scale)} of what the engine data say, its filling "
        f"{_percent(t.ve_scale)}.",
        f"Of the fuel {quantity(100.0 * t.film_share, '%', 0)} went to the walls, and left them within "
        f"about {quantity(t.film_time_s, 's', 1)}.",
        "Its controller trimmed the idle valve towards the target."
        if t.idle_trim
        else "Its controller did not trim the idle valve: the table alone held idle.",
    ]
    for fault in faults:
        kind = FAULTS[fault.kind]
        size = kind.default if fault.size is None else fault.size
        found.append(f"Hidden fault: {kind.title.lower()} ({size:g} {kind.unit}).")
    return tuple(found)


def _percent(scale: float) -> str:
    return quantity(100.0 * scale, "%", 0)

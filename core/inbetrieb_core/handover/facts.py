"""What a job holds, as plain facts from which the papers are written; nothing in them is typed for the record."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

from .figures import MapSheet, Picture
from .reopening import Reopening

Coverage = Literal["proven", "likely", "open", "extrapolated"]


@dataclass(frozen=True)
class StartFact:
    """A start: number, day, coolant [°C], verdict in words, whether it was good, and what was said of it."""

    number: int
    day: str
    coolant_c: float
    verdict: str
    good: bool
    sentence: str


@dataclass(frozen=True)
class RevisionFact:
    """A revision: number, day, by whom, how it came, and its note."""

    number: int
    day: str
    by: str
    origin: str
    note: str
    changed: str = ""


@dataclass(frozen=True)
class DecisionFact:
    """A decision or override: where, what, by whom, on which day, with the written reason."""

    where: str
    what: str
    by: str
    day: str
    reason: str


@dataclass(frozen=True)
class GateFact:
    """A gate: its title, whether it is open, and its sentence."""

    title: str
    is_open: bool
    sentence: str


@dataclass(frozen=True)
class ChanceFact:
    """The chance of a good start at a temperature, and what may be said of it. [°C, –]"""

    coolant_c: float
    good: float
    coverage: Coverage


@dataclass(frozen=True)
class PullFact:
    """A pull: number, day, words for its conditions, peak power [kW] or None, and what stopped it.

    Its channels stand over `rpm` [1/min], each in its own unit; None where nothing is known.
    """

    number: int
    day: str
    words: str
    power_kw: float | None
    stop: str
    rpm: tuple[float, ...] = ()
    values: dict[str, tuple[float | None, ...]] = field(default_factory=dict)


@dataclass(frozen=True)
class TraceFact:
    """How speed rose at a start: trial, day, coolant [°C], verdict, time [s] and speed [1/min]."""

    number: int
    day: str
    coolant_c: float
    verdict: str
    time_s: tuple[float, ...]
    rpm: tuple[float | None, ...]


@dataclass(frozen=True)
class LadderFact:
    """A start table in force over coolant [°C], and the ends of the 90 % band of what is needed. [unit]"""

    title: str
    unit: str
    at_c: tuple[float, ...]
    now: tuple[float, ...]
    low: tuple[float, ...]
    high: tuple[float, ...]


@dataclass(frozen=True)
class TableFact:
    """A table: title, unit, cells by the kind of their origin, and where the assumed ones stand."""

    title: str
    unit: str
    cells: dict[str, int]
    assumed: str


@dataclass(frozen=True)
class ClosingFact:
    """A closing check that was done: its key, what was found, by whom and on which day."""

    key: str
    note: str
    by: str
    day: str


@dataclass(frozen=True)
class JobFacts:
    """Everything of a job that its record is written from.

    Attributes
    ----------
    name, workshop, engine, fuel, controller, note : str
        In words.
    altitude_m : float
        Where it was calibrated. [m]
    revision : int
        The newest.
    in_car : int or None
        Revision that was stamped as in the car.
    tables : tuple of TableFact
    gates : tuple of GateFact
    starts : tuple of StartFact
        Oldest first.
    revisions : tuple of RevisionFact
    decisions : tuple of DecisionFact
    skipped : tuple of DecisionFact
        Steps of run sheets that were left out, each with its reason.
    faults : tuple of str
        Faults found, in sentences.
    chances : tuple of ChanceFact
        At the check temperatures.
    monthly_c : tuple of float
        Mean minima of the twelve months; empty where nobody typed them. [°C]
    idle : str
        The verdict of the warm idle; empty where it was not looked at.
    is_idle_true : bool
    passes, passes_taken : int
        Over the fuel map.
    map_done : float or None
        Share of visited cells that were done in the newest pass. [–]
    has_transients : bool
    cold_driven : bool
        Whether a pass over the map told of driving while cold.
    pulls : tuple of PullFact
    is_boosted : bool
    limits : tuple of str
        Of full load, in words.
    wiring : tuple of tuple of str
        Lines as built: function, pin, wire.
    maps : tuple of MapSheet
        Tables with their values and origins.
    ladder : tuple of LadderFact
    traces : tuple of TraceFact
        Starts that are drawn.
    pictures : tuple of Picture
        Photographs that were not put aside.
    closing : tuple of ClosingFact
    reopened : tuple of DecisionFact
        Each time the job came back: parts, and why.
    reopening : Reopening or None
        What stands since; None where it never came back.
    """

    name: str
    workshop: str
    engine: str
    fuel: str
    controller: str
    altitude_m: float
    revision: int
    in_car: int | None
    note: str = ""
    tables: tuple[TableFact, ...] = ()
    gates: tuple[GateFact, ...] = ()
    starts: tuple[StartFact, ...] = ()
    revisions: tuple[RevisionFact, ...] = ()
    decisions: tuple[DecisionFact, ...] = ()
    skipped: tuple[DecisionFact, ...] = ()
    faults: tuple[str, ...] = ()
    chances: tuple[ChanceFact, ...] = ()
    monthly_c: tuple[float, ...] = ()
    idle: str = ""
    is_idle_true: bool = False
    passes: int = 0
    passes_taken: int = 0
    map_done: float | None = None
    has_transients: bool = False
    cold_driven: bool = False
    pulls: tuple[PullFact, ...] = ()
    is_boosted: bool = False
    limits: tuple[str, ...] = ()
    wiring: tuple[tuple[str, str, str], ...] = ()
    maps: tuple[MapSheet, ...] = ()
    ladder: tuple[LadderFact, ...] = ()
    traces: tuple[TraceFact, ...] = ()
    pictures: tuple[Picture, ...] = ()
    closing: tuple[ClosingFact, ...] = field(default=())
    reopened: tuple[DecisionFact, ...] = ()
    reopening: Reopening | None = None

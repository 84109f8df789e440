"""What a start trial is made of: setting, observation, phases, figures, findings, advice."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Literal

from ..causes import Diagnosis, Observed
from ..charge.fading import STRAIGHT, StartFading
from ..engine import EngineSpec
from ..estimate import Evidence
from ..tables import CellChange
from .acceptance import Acceptance
from .outcomes import Verdict

PhaseName = Literal[
    "key-on",
    "prime",
    "cranking",
    "first fire",
    "run-up",
    "flare",
    "dip",
    "settled",
    "after-start",
    "warm-up",
    "idle",
    "stall",
]
Level = Literal["note", "attention", "blocking"]


@dataclass(frozen=True)
class StartSetting:
    """What is known about a start besides the log.

    Attributes
    ----------
    spec : EngineSpec
        The engine as entered.
    ambient_c : float or None
        Outside temperature. [°C]
    soak_h : float or None
        Hours since the engine last ran. [h]
    coolant_c : float or None
        Stands in where the log has no coolant channel. [°C]
    attempt : int
        Which attempt of the same morning it is; each before it left fuel on the walls.
    black_smoke, fuel_smell : bool
        Whether the installer saw black smoke, or smelled fuel at the exhaust.
    known : tuple of Evidence
        What other engines of the workshop teach of this one.
    fading : StartFading
        How the controller runs its start fuel down.
    """

    spec: EngineSpec
    ambient_c: float | None = None
    soak_h: float | None = None
    coolant_c: float | None = None
    attempt: int = 1
    black_smoke: bool = False
    fuel_smell: bool = False
    known: tuple[Evidence, ...] = ()
    fading: StartFading = STRAIGHT

    @property
    def step(self) -> float:
        """First step of a correction as a share: 0.10 for a wet manifold, else 0.05. [–]"""
        school = self.spec.schools.step
        if school == "auto":
            return 0.10 if self.spec.wet_manifold else 0.05
        return float(school) / 100.0


@dataclass(frozen=True)
class Observation:
    """A start as the installer saw and heard it, without a log.

    Attributes
    ----------
    outcome : str
        One of :data:`VERDICTS`.
    coolant_c : float
        Coolant temperature before the start. [°C]
    cranking_s : float or None
        Cranking until it fired, or until given up. [s]
    flare_rpm, dip_rpm, settled_rpm : float or None
        Highest speed right after the start, lowest after that, speed it settled at. None of the
        first and last where it did not run: below 200 the starter turned it. [1/min]
    lambda_later : float or None
        Gauge reading once the sensor is warm. [–]
    ran_s : float or None
        How long it ran before it died. [s]
    """

    outcome: Verdict
    coolant_c: float
    cranking_s: float | None = None
    flare_rpm: float | None = None
    dip_rpm: float | None = None
    settled_rpm: float | None = None
    lambda_later: float | None = None
    ran_s: float | None = None


@dataclass(frozen=True)
class Phase:
    """A named part of a start. Times are those of the log. [s]"""

    name: PhaseName
    start_s: float
    end_s: float


@dataclass(frozen=True)
class StartFigures:
    """The figures of one start; None is unknown, never zero.

    Attributes
    ----------
    coolant_c, target_rpm : float
        Coolant at the start, and idle target there. [°C, 1/min]
    cranking_rpm : float or None
        Median cranking speed before the first fire. [1/min]
    fire_after_s, run_after_s : float or None
        From the start of cranking to first fire and to running. [s]
    cranked_s : float or None
        Whole cranking time where it never ran. [s]
    flare_rpm, dip_rpm : float or None
        Highest speed within 4 s of running; lowest after it before it settled. [1/min]
    peak_rpm : float or None
        Highest speed of the whole start, also where it never ran. [1/min]
    settled_after_s : float or None
        From running until it stays in the band around the target. [s]
    steady_rpm : float or None
        Speed about 12 s after it ran, or at the end of a shorter log. [1/min]
    steady_target_rpm : float or None
        Idle target at that moment. [1/min]
    ran_s : float or None
        Time until a stall. [s]
    battery_rest_v, battery_low_v : float or None
        Before and at its lowest while cranking. [V]
    pressure_share : float or None
        Fuel pressure over the first second of cranking against its later level. [–]
    pressure_late_s : float or None
        Cranking before pressure reached 85 % of its later level. [s]
    sync_late_s : float or None
        Cranking before the position of the crankshaft was known. [s]
    pedal_pct : float or None
        Throttle opened by the driver during the start. [%]
    need_after_start, need_settled : float or None
        Fuel needed over fuel given, from usable lambda, early and once settled. [–]
    lambda_usable_from_s : float or None
        Time of the log from which lambda counts. [s]
    idle_valve_pct : float or None
        Commanded opening when steady. [%]
    hunting_rpm, hunting_period_s : float or None
        Amplitude and period of a periodic speed oscillation. [1/min, s]
    steady_map_kpa : float or None
        Manifold pressure when steady. [kPa]
    steady_coolant_c : float or None
        Coolant when steady; it has warmed since the start. [°C]
    stirred_early, stirred_late : float or None
        Highest speed in the first and in the last third of cranking over its median: above about
        1.25 a charge burned. [–]
    left_after_s : float or None
        Cranking until speed first crossed the crank-to-run speed, though it may have hung there. [s]
    flare_valve_pct, dip_valve_pct : float or None
        Commanded opening while speed rose to its flare, and while it fell into its dip. [%]
    idle_off_rpm : float or None
        Worst departure of idle from its target from 12 s after running on. [1/min]
    mixture_off : float or None
        Worst departure of the mixture from its target from 25 s on, without the loop's help, as
        ln(fuel needed / fuel given): above 0 lean. [–]
    idle_off_c, mixture_off_c : float or None
        Coolant where that was. [°C]
    intake_c : float or None
        Intake air as cranking began. [°C]
    """

    coolant_c: float
    target_rpm: float
    cranking_rpm: float | None = None
    fire_after_s: float | None = None
    run_after_s: float | None = None
    cranked_s: float | None = None
    flare_rpm: float | None = None
    dip_rpm: float | None = None
    peak_rpm: float | None = None
    settled_after_s: float | None = None
    steady_rpm: float | None = None
    steady_target_rpm: float | None = None
    ran_s: float | None = None
    battery_rest_v: float | None = None
    battery_low_v: float | None = None
    pressure_share: float | None = None
    pressure_late_s: float | None = None
    sync_late_s: float | None = None
    pedal_pct: float | None = None
    need_after_start: float | None = None
    need_settled: float | None = None
    lambda_usable_from_s: float | None = None
    idle_valve_pct: float | None = None
    hunting_rpm: float | None = None
    hunting_period_s: float | None = None
    steady_map_kpa: float | None = None
    steady_coolant_c: float | None = None
    stirred_early: float | None = None
    stirred_late: float | None = None
    left_after_s: float | None = None
    flare_valve_pct: float | None = None
    dip_valve_pct: float | None = None
    idle_off_rpm: float | None = None
    mixture_off: float | None = None
    idle_off_c: float | None = None
    mixture_off_c: float | None = None
    intake_c: float | None = None


@dataclass(frozen=True)
class Finding:
    """Something noticed.

    Attributes
    ----------
    key : str
        Stable identifier.
    level : {"note", "attention", "blocking"}
        ``blocking``: no table is changed before this is mended.
    sentence : str
        What was seen, with its numbers.
    """

    key: str
    level: Level
    sentence: str


@dataclass(frozen=True)
class MeasuredPart:
    """Changes of one table that a log measured by the way.

    Attributes
    ----------
    table : str
        Its key.
    changes : tuple of CellChange
        Its cells.
    because : str
        What was measured, in a sentence.
    bands : tuple of (float, float)
        Where the need of each cell lies with 90 %. [unit of the table]
    seen : tuple of bool
        Whether the need of each cell was read near it, or follows from elsewhere.
    trials : tuple of int
        Earlier trials that taught of it.
    searched : bool
        Whether only outcomes speak for it: then it is the one searched step.
    """

    table: str
    changes: tuple[CellChange, ...]
    because: str
    bands: tuple[tuple[float, float], ...] = ()
    seen: tuple[bool, ...] = ()
    trials: tuple[int, ...] = ()
    searched: bool = False


#: Rules of advice that asks for a measurement, that only takes what was measured, and that makes a
#: doubtful temperature likelier though this start was good.
MEASURE, MEASURED, SEARCHED = "measure", "measured", "searched"
AdviceKind = Literal["change", "measured", "measure", "mend"]


@dataclass(frozen=True)
class Advice:
    """One proposed change, or one thing to mend before any table.

    Attributes
    ----------
    rule : str
        Identifier in the rulebook.
    table : str or None
        Table to change; None for a check on the engine.
    changes : tuple of CellChange
        Empty for a check.
    reason : str
        One sentence: what happened, what to change, why.
    confidence : float
        How sure, 0 to 1. [–]
    disproof : str
        What at the next start would prove the advice wrong.
    measured : tuple of MeasuredPart
        What the same log measured of other tables; each was observed by itself, so that it may be
        taken together with the change.
    bands : tuple of (float, float)
        Where the need of each changed cell lies with 90 %; empty where a rule alone chose it. [unit
        of the table]
    seen : tuple of bool
        Whether the need of each changed cell was measured near it; empty where none was.
    """

    rule: str
    table: str | None
    changes: tuple[CellChange, ...]
    reason: str
    confidence: float
    disproof: str
    measured: tuple[MeasuredPart, ...] = ()
    bands: tuple[tuple[float, float], ...] = ()
    seen: tuple[bool, ...] = ()

    @property
    def kind(self) -> AdviceKind:
        """What it asks for: a change, taking what was measured, a measurement, or mending a cause."""
        if self.table is None:
            return "measure" if self.rule == MEASURE else "mend"
        return "measured" if self.rule == MEASURED else "change"


#: From which confidence on advice is called so. [–]
_SURENESS = ((0.75, "quite sure"), (0.5, "fairly sure"), (0.0, "a try"))


def sureness(confidence: float) -> str:
    """Return how sure advice is, in words.

    Parameters
    ----------
    confidence : float
        0 to 1. [–]
    """
    return next(words for least, words in _SURENESS if confidence >= least)


@dataclass(frozen=True)
class Wait:
    """A later phase that also failed and has to wait.

    Attributes
    ----------
    rule, table : str
        What the rulebook would change.
    reason : str
        Why not now.
    """

    rule: str
    table: str
    reason: str


@dataclass(frozen=True)
class StartAnalysis:
    """Everything said about one start; starts judged by earlier versions lack the last three."""

    verdict: Verdict
    sentence: str
    phases: tuple[Phase, ...]
    figures: StartFigures
    findings: tuple[Finding, ...]
    advice: tuple[Advice, ...]
    waits: tuple[Wait, ...]
    good: bool
    evidence: Literal["log", "observation"]
    acceptance: Acceptance = Acceptance()
    causes: Diagnosis | None = None
    observed: Observed | None = None
    taught: tuple[Evidence, ...] = ()

    @property
    def asks_to_measure(self) -> bool:
        """Whether it asks for a measurement instead of a change."""
        return bool(self.advice) and self.advice[0].kind == "measure"

    @property
    def asked(self) -> str:
        """Cause under the bonnet that it asks to look for; empty where it does not."""
        first = self.advice[0] if self.advice else None
        return first.rule if first is not None and first.kind == "mend" else ""


@dataclass(frozen=True)
class PastTry:
    """An earlier start of the same job, as far as the next step depends on it.

    Attributes
    ----------
    figures : StartFigures
        Its figures.
    verdict : str
        Its verdict.
    start_values : dict of str to float
        Interpolated start tables in force at its coolant temperature. [unit of each table]
    observed : Observed or None
        What its record shows of the causes.
    mended : bool
        Whether something under the bonnet was mended since: then its record says nothing of it.
    asked : str
        Cause under the bonnet that it was advised to look for; empty where it was not.
    in_same_log : bool
        Whether it stands earlier in the same log as the start in question.
    asked_to_measure : bool
        Whether it asked for a measurement instead of a change.
    """

    figures: StartFigures
    verdict: Verdict
    start_values: dict[str, float] = field(default_factory=dict)
    observed: Observed | None = None
    mended: bool = False
    taught: tuple[Evidence, ...] = ()
    asked: str = ""
    in_same_log: bool = False
    asked_to_measure: bool = False

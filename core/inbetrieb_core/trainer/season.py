"""Playing a season: one true cold start a day, then a hot and a half-warm restart."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from ..bench import BenchEngine, BenchRun, Fault, StartConditions, simulate_start
from ..engine import EngineSpec
from ..logs import Trace
from ..starts import CHECKS_C, PastTry, StartSetting, judge_log, past_try
from ..tables import Calibration
from .hands import Hand, mends
from .report import SeasonRecord, StartRecord
from .scenario import Scenario
from .truths import climate, found_tables, hidden_engine

#: Restarts that cost no morning. [°C]
HOT_C, HALF_WARM_C = 80.0, 40.0
#: Logged after it runs. [s]
_RUN_S = 60.0
#: So many starts are looked back on.
_LOOKED_BACK = 40
_CHECK_SEED = 991


def simulated_start(
    engine: BenchEngine,
    calibration: Calibration,
    coolant_c: float,
    seed: int,
    faults: tuple[Fault, ...] = (),
) -> BenchRun:
    """Return one start of a hidden engine.

    Parameters
    ----------
    engine : BenchEngine
        As it truly is.
    calibration : Calibration
        In the controller.
    coolant_c : float
        [°C]
    seed : int
        Of noise and misfires.
    faults : tuple of Fault
        Not mended yet.
    """
    conditions = StartConditions(coolant_c, seed=seed, run_s=_RUN_S)
    return simulate_start(engine, engine.spec, calibration, conditions, faults)


def noise_of(day: int, coolant_c: float, again: int = 0) -> int:
    """Return the seed of a start's noise: every hand meets the same on the same day.

    Parameters
    ----------
    day : int
        Of the season.
    coolant_c : float
        [°C]
    again : int
        How often the same was tried before on that day.
    """
    return 1000 * again + 10 * day + int(coolant_c) % 7


def open_temperatures(engine: BenchEngine, calibration: Calibration) -> tuple[float, ...]:
    """Return the check temperatures at which a start is not good yet, the faults mended. [°C]"""
    return tuple(place for place in CHECKS_C if _is_open(engine, calibration, place))


def _is_open(engine: BenchEngine, calibration: Calibration, place_c: float) -> bool:
    run = simulated_start(engine, calibration, place_c, _CHECK_SEED)
    analysis = judge_log(Trace(run.channels), calibration, StartSetting(engine.spec), [])
    return not analysis.acceptance.nothing_against


def play(
    scenario: Scenario,
    hand: Hand,
    told: Callable[[int, int], None] = lambda day, days: None,
    spec: EngineSpec | None = None,
) -> SeasonRecord:
    """Return what becomes of a season in one hand.

    Parameters
    ----------
    scenario : Scenario
        The season.
    hand : callable
        What is done after each start.
    told : callable
        Is given day and days, and may raise to end it.
    spec : EngineSpec, optional
        The engine as entered, where it differs from the scenario's.
    """
    engine = hidden_engine(scenario)
    calibration = found_tables(scenario, spec)
    setting = StartSetting(engine.spec)
    faults = scenario.faults
    history: list[PastTry] = []
    starts: list[StartRecord] = []
    doubtful = list(CHECKS_C)  # what was open last is looked at first: one is enough to go on
    for day, morning in enumerate(climate(scenario), 1):
        told(day, scenario.days)
        for place in (morning, HOT_C, HALF_WARM_C):
            run = simulated_start(engine, calibration, place, noise_of(day, place), faults)
            analysis = judge_log(Trace(run.channels), calibration, setting, history[-_LOOKED_BACK:])
            starts.append(StartRecord(day, place, analysis.verdict, analysis.good))
            past = past_try(analysis, calibration)
            number = len(history) + 1
            done = hand(analysis, calibration, history)
            mended = tuple(fault for fault in faults if not mends(done.checked, fault))
            taught = tuple(e.of_trial(number) for e in past.taught)
            history.append(replace(past, taught=taught, mended=len(mended) < len(faults)))
            if len(mended) < len(faults):
                # What was learnt before stood on something broken.
                history = [replace(entry, taught=(), mended=True) for entry in history]
            faults, calibration = mended, done.calibration
        first = next((c for c in doubtful if _is_open(engine, calibration, c)), None)
        if first is None and not faults:
            return SeasonRecord(tuple(starts), day, (), ())
        if first is not None:
            doubtful.sort(key=lambda place: place != first)
    return SeasonRecord(tuple(starts), None, open_temperatures(engine, calibration), faults)

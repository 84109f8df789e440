"""What is stated of starts that nobody made yet, against simulated ones that the advice never sees."""

from __future__ import annotations

import numpy as np
from inbetrieb_core.engine import engine_of
from inbetrieb_core.estimate import estimate
from inbetrieb_core.logs import Trace
from inbetrieb_core.quantities import FloatArray
from inbetrieb_core.starts import CHECKS_C, Chance, StartSetting, chances, judge_log, past_try
from inbetrieb_core.trainer import HANDS, hidden_engine, play, simulated_start

_PROBE_SEED = 77_000
_DRAWS = 400


def probed(seed: int, days: int) -> list[tuple[int, Chance, bool]]:
    """Return (build, what was stated, whether a start was good) at all check temperatures.

    After every start of a season of `days` mornings on build `seed` the tables then in force are
    tried at each of them; the advice is told nothing of that.
    """
    from tests.core.seasons import drawn_scenario

    scenario = drawn_scenario(seed, days)
    engine, spec = hidden_engine(scenario), engine_of(scenario.engine)
    decide = HANDS["the estimate's advice"]
    tried: list[tuple[float, bool]] = []
    found: list[tuple[int, Chance, bool]] = []

    def looking(analysis, calibration, history):  # type: ignore[no-untyped-def]
        tried.append((analysis.figures.coolant_c, analysis.good))
        done = decide(analysis, calibration, history)
        evidence = [e for past in history for e in past.taught]
        evidence += [e.of_trial(len(history) + 1) for e in past_try(analysis, calibration).taught]
        believed = estimate(spec, done.calibration, evidence)
        for chance in chances(believed, done.calibration, np.array(CHECKS_C), tried):
            noise = _PROBE_SEED + 10 * len(tried) + int(chance.coolant_c) % 7
            run = simulated_start(engine, done.calibration, chance.coolant_c, noise)
            judged = judge_log(Trace(run.channels), done.calibration, StartSetting(engine.spec))
            found.append((seed, chance, judged.good))
        return done

    play(scenario, looking)
    return found


def calibration_error(
    stated: FloatArray, good: FloatArray, build: FloatArray
) -> tuple[float, float, float]:
    """Return the expected calibration error over tenths, and where it lies in 90 % of draws of whole builds.

    All arrays of shape (n,); the error in points of a hundred. A draw has fewer builds that differ, so that the
    interval lies rather high.
    """
    rng = np.random.default_rng(1)
    places = [np.flatnonzero(build == one) for one in np.unique(build)]
    drawn = []
    for _ in range(_DRAWS):
        picked = np.concatenate([places[i] for i in rng.integers(len(places), size=len(places))])
        drawn.append(_error(stated[picked], good[picked]))
    low, high = np.quantile(drawn, (0.05, 0.95))
    return _error(stated, good), float(low), float(high)


def _error(stated: FloatArray, good: FloatArray) -> float:
    tenth = np.minimum((10.0 * stated).astype(int), 9)
    inside = [tenth == number for number in np.unique(tenth)]
    return sum(100.0 * abs(stated[i].mean() - good[i].mean()) * i.mean() for i in inside)

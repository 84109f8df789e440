"""One start of the bench engine: from key-on until it runs, dies or the driver gives up.

The bench engine is a stand-in for practice, demonstration and tests. It is deterministic
for a seed, and nothing of its truth reaches the analysis but the log.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..charge.fading import STRAIGHT, StartFading
from ..engine import EngineSpec
from ..tables import Calibration
from .conditions import BenchRun, StartConditions
from .engines import BenchEngine
from .faults import Fault
from .plant import KEY_TO_CRANK_S, LOGGED, Plant

_KEY_HELD_S = 0.4


def simulate_start(
    engine: BenchEngine,
    spec: EngineSpec,
    calibration: Calibration,
    conditions: StartConditions,
    faults: Sequence[Fault] = (),
    fading: StartFading = STRAIGHT,
) -> BenchRun:
    """Return the log of one start, from key-on until it runs, dies or the driver gives up.

    Parameters
    ----------
    engine : BenchEngine
        The simulated engine.
    spec : EngineSpec
        The engine as entered in the job; the controller computes with it.
    calibration : Calibration
        The job's tables.
    conditions : StartConditions
        Temperature, seed, logging rate.
    faults : sequence of Fault
        Built into the engine before the start.
    fading : StartFading
        How the controller runs its start fuel down.

    Raises
    ------
    InputRefused
        If a fault is unknown or out of bounds.
    """
    state = Plant(engine, spec, calibration, conditions, faults, fading)
    rows: list[tuple[float, ...]] = []
    step = 1.0 / conditions.rate_hz
    next_sample = 0.0
    primed = False
    ran_at: float | None = None
    end_s = KEY_TO_CRANK_S + conditions.crank_limit_s + 2.0
    while state.time_s < end_s:
        if not primed and state.time_s >= 0.4:
            state.prime()
            primed = True
        running = state.controller.state.running_since_s
        # The driver lets go of the key once the engine has run by itself for a moment.
        if running is not None and ran_at is None and state.time_s > running + _KEY_HELD_S:
            ran_at = running
            end_s = running + conditions.run_s
        giving_up = state.time_s > KEY_TO_CRANK_S + conditions.crank_limit_s
        state.starter_on = state.time_s >= KEY_TO_CRANK_S and not giving_up and ran_at is None
        if ran_at is not None and state.time_s > ran_at + 0.5 and state.rpm <= 0.0:
            end_s = min(end_s, state.time_s + 2.0)
        state.event()
        while next_sample <= state.time_s and next_sample < end_s:
            rows.append(state.sample(next_sample))
            next_sample += step
    columns = np.array(rows, dtype=float).T
    channels = {name: columns[i].round(4) for i, name in enumerate(LOGGED)}
    return BenchRun(channels, state.time_s, state.events)

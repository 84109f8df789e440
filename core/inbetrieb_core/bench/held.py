"""A warm bench engine held at steady operating points, as on a dynamometer."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..engine import EngineSpec
from ..errors import field_refused
from ..logs import Trace
from ..tables import Calibration
from .conditions import StartConditions
from .corrected import CorrectedPlant
from .engines import BenchEngine
from .faults import Fault
from .plant import LOGGED

MOST_POINTS = 12
_WARM_C = 88.0
_SETTLE_S, _LOGGED_S = 6.0, 8.0
_RATE_HZ = 20.0
#: Most correction of the closed loop. [%]
AUTHORITY_PCT = 30.0


@dataclass(frozen=True)
class HeldPoint:
    """One point: speed [1/min] held by a brake, and pedal [%]."""

    rpm: float
    pedal_pct: float


#: From a bare idle to heavy load.
USUAL_POINTS = (
    HeldPoint(900.0, 0.0),
    HeldPoint(1500.0, 3.0),
    HeldPoint(2000.0, 8.0),
    HeldPoint(2500.0, 18.0),
    HeldPoint(3000.0, 40.0),
    HeldPoint(3000.0, 100.0),
)
IDLE_ONLY = (USUAL_POINTS[0],)


class _HeldPlant(CorrectedPlant):
    """The engine on a brake, its pedal where it is put."""

    held = HeldPoint(900.0, 0.0)

    def pedal_pct(self, time_s: float) -> float:
        """Return the held pedal. [%] (`time_s` [s] does not matter)"""
        return self.held.pedal_pct


def simulate_held(
    engine: BenchEngine,
    spec: EngineSpec,
    calibration: Calibration,
    points: Sequence[HeldPoint] = USUAL_POINTS,
    faults: Sequence[Fault] = (),
    seed: int = 0,
    authority_pct: float = AUTHORITY_PCT,
) -> Trace:
    """Return the log of a warm engine taken through held points, with the noise of real sensors.

    Parameters
    ----------
    engine : BenchEngine
        The simulated engine.
    spec : EngineSpec
        As entered in the job; the controller computes with it.
    calibration : Calibration
        The job's tables.
    points : sequence of HeldPoint
        In order.
    faults : sequence of Fault
        Built into the engine.
    seed : int
        Of noise. [–]
    authority_pct : float
        Largest correction of the closed loop; 0 for none. [%]

    Raises
    ------
    InputRefused
        If there are no points or too many, or one cannot be.
    """
    if not 1 <= len(points) <= MOST_POINTS:
        raise field_refused("points", f"1 to {MOST_POINTS} points can be held, not {len(points)}.")
    for point in points:
        if not (300.0 <= point.rpm <= spec.rev_limit_rpm and 0.0 <= point.pedal_pct <= 100.0):
            raise field_refused(
                "points",
                f"{point.rpm:g} rpm with the pedal at {point.pedal_pct:g} % cannot be held.",
            )
    plant = _HeldPlant(engine, spec, calibration, StartConditions(_WARM_C, 25.0, seed), faults)
    plant.authority_pct = authority_pct
    plant.controller.state.running_since_s = -1000.0  # every start enrichment has faded
    plant.rail_kpa = plant.hardware.rail_pressure_kpa
    plant.battery_v = 14.1
    rows: list[tuple[float, ...]] = []
    for point in points:
        plant.held = point
        begin = plant.time_s
        next_sample = begin + _SETTLE_S
        while plant.time_s < begin + _SETTLE_S + _LOGGED_S:
            plant.rpm = point.rpm
            plant.coolant_c = _WARM_C  # the brake's cooling tower
            before_s = plant.time_s
            plant.event()
            plant.correct(plant.time_s - before_s)
            while next_sample <= plant.time_s:
                plant.rpm = plant.timed_rpm = point.rpm
                rows.append(plant.sample(next_sample))
                next_sample += 1.0 / _RATE_HZ
    columns = np.array(rows, dtype=float).T
    return Trace({name: columns[i].round(4) for i, name in enumerate(LOGGED)})

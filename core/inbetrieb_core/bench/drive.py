"""A drive of the warm bench engine: on a brake that holds its speed, the pedal moved and held."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..engine import EngineSpec
from ..errors import field_refused
from ..logs import Trace
from ..tables import Calibration
from .conditions import StartConditions
from .corrected import CorrectedPlant
from .engines import BenchEngine
from .faults import Fault, FaultKind, apply_faults
from .live_faults import LIVE_FAULTS
from .plant import LOGGED

MOST_LEGS = 400
_WARM_C = 88.0
_SETTLE_S = 65.0
#: From one speed or pedal to the next. [s]
_MOVES_S = 1.2
_CUT_ABOVE_RPM = 1500.0
#: What shows in a warm drive, each as large as the loop of a drive can still follow.
DRIVE_FAULTS: dict[str, FaultKind] = {
    key: replace(LIVE_FAULTS[key], default=size)
    for key, size in {"injector_flow": 1.2, "dead_time": 0.3, "port_leak": 1.2, "map_sensor": 5.0, "bogus_wideband": 1.0}.items()
}  # fmt: skip
#: Slow enough not to swing about the delay of the sensor. [%/s for one lambda]
_LOOP_PCT_S = 15.0


@dataclass(frozen=True)
class Leg:
    """A part of a drive: speed [1/min] and pedal [%] that are gone to within a time and held until so long. [s]"""

    rpm: float
    pedal_pct: float
    seconds: float = 8.0
    moves_s: float = _MOVES_S


class _DrivenPlant(CorrectedPlant):
    """The engine in a car on rollers, its loop closed."""

    pedal = 0.0

    def pedal_pct(self, time_s: float) -> float:
        """Return where the pedal is. [%] (`time_s` [s] does not matter)"""
        return self.pedal

    def injected_g(self, pulse_ms: float) -> float:
        """Return the fuel of one event, none on overrun. [ms → g]"""
        if self.pedal < 0.5 and self.rpm > _CUT_ABOVE_RPM:
            self.pulse_ms = 0.0
            return 0.0
        return super().injected_g(pulse_ms)


def simulate_drive(
    engine: BenchEngine,
    spec: EngineSpec,
    calibration: Calibration,
    legs: Sequence[Leg],
    *,
    faults: Sequence[Fault] = (),
    seed: int = 0,
    rate_hz: float = 20.0,
    authority_pct: float = 10.0,
    outside_c: float = 25.0,
) -> Trace:
    """Return the log of a drive.

    Parameters
    ----------
    engine : BenchEngine
        The simulated engine.
    spec : EngineSpec
        As entered; the controller computes with it.
    calibration : Calibration
        The job's tables.
    legs : sequence of Leg
        In order.
    faults : sequence of Fault
        Of :data:`LIVE_FAULTS`, built into the engine; one of :data:`DRIVE_FAULTS` without a size has that of a drive.
    seed : int
        Of noise.
    rate_hz : float
        Of the log. [1/s]
    authority_pct : float
        Most of the closed loop; 0 for none. [%]
    outside_c : float
        Air outside. [°C]

    Raises
    ------
    InputRefused
        If there are no legs or too many, or a fault cannot be.
    """
    if not 1 <= len(legs) <= MOST_LEGS:
        raise field_refused("legs", f"1 to {MOST_LEGS} legs can be driven, not {len(legs)}.")
    built = replace(engine, truth=apply_faults(engine.truth, faults, LIVE_FAULTS | DRIVE_FAULTS))
    plant = _DrivenPlant(built, spec, calibration, StartConditions(_WARM_C, outside_c, seed), ())
    plant.authority_pct, plant.correction_gain_pct_s = authority_pct, _LOOP_PCT_S
    plant.controller.state.running_since_s = -1000.0
    plant.rail_kpa, plant.battery_v = plant.hardware.rail_pressure_kpa, plant.truth.charging_v
    rows: list[tuple[float, ...]] = []
    before = Leg(legs[0].rpm, legs[0].pedal_pct, _SETTLE_S)
    next_sample = 0.0
    for leg in (before, *legs):
        begin = plant.time_s
        while plant.time_s < begin + leg.seconds:
            share = min(1.0, (plant.time_s - begin) / leg.moves_s)
            plant.rpm = before.rpm + share * (leg.rpm - before.rpm)
            plant.pedal = before.pedal_pct + share * (leg.pedal_pct - before.pedal_pct)
            plant.coolant_c = _WARM_C
            was_s = plant.time_s
            held = plant.rpm
            plant.event()
            plant.rpm = plant.timed_rpm = held
            plant.correct(plant.time_s - was_s)
            while next_sample <= plant.time_s:
                rows.append(plant.sample(next_sample))
                next_sample += 1.0 / rate_hz
        before = leg
    columns = np.array(rows, dtype=float).T
    return Trace({name: columns[i].round(4) for i, name in enumerate(LOGGED)})


def drawn_legs(spec: EngineSpec, minutes: float, seed: int) -> tuple[Leg, ...]:
    """Return a drive through drawn speeds and pedals, overruns among them.

    Parameters
    ----------
    spec : EngineSpec
    minutes : float
        How long. [min]
    seed : int
    """
    draw = np.random.default_rng([seed, 0x5D])
    fastest = min(0.85 * spec.rev_limit_rpm, 1.15 * spec.torque_peak_rpm)
    legs: list[Leg] = []
    left_s = 60.0 * minutes
    while left_s > 0.0 and len(legs) < MOST_LEGS:
        speed = float(draw.uniform(1250.0, max(1500.0, fastest)))
        pedal = float(draw.choice([0.0, 1.0, 2.0, 3.0, 5.0, 8.0, 12.0, 18.0, 30.0, 60.0, 100.0]))
        seconds = float(draw.uniform(4.0, 9.0))
        legs.append(Leg(round(speed), pedal, round(seconds, 1)))
        left_s -= seconds
    return tuple(legs)


def stepped_legs(spec: EngineSpec, minutes: float, seed: int) -> tuple[Leg, ...]:
    """Return a drive of pedal steps at held speeds, as transients are read from, overruns among them.

    Parameters
    ----------
    spec : EngineSpec
    minutes : float
        How long. [min]
    seed : int
    """
    draw = np.random.default_rng([seed, 0x5E])
    speeds = [share * spec.torque_peak_rpm for share in (0.45, 0.6, 0.75)]
    legs: list[Leg] = []
    left_s = 60.0 * minutes
    while left_s > 0.0 and len(legs) < MOST_LEGS - 4:
        speed, low = float(draw.choice(speeds)), float(draw.choice([3.0, 5.0, 8.0]))
        opens, quick = float(draw.choice([6.0, 12.0, 25.0])), float(draw.choice([0.15, 0.3, 0.8]))
        legs += [Leg(round(speed), low, 5.0), Leg(round(speed), low + opens, 5.5, quick)]
        if draw.random() < 0.2:
            # Let go: an overrun down to a lower speed.
            legs += [Leg(round(speed), 0.0, 2.0, 0.3), Leg(round(0.6 * speed), 0.0, 4.0, 3.5)]
        left_s -= 10.5
    return tuple(legs)

"""A warm bench engine that idles: valves of every kind, loops that may be too quick, and troubles.

What the judgement of the hot idle is tried on. A valve is its own hardware here: where it opens, where it
is wide open, how far it sticks, which way round it is wired.
"""

from __future__ import annotations

import math
from collections import deque
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from ..bounds import out_of_bounds
from ..charge.fading import StartFading
from ..engine import EngineSpec
from ..errors import InputRefused
from ..idle import SweepPlan
from ..logs import Trace
from ..tables import Calibration
from .conditions import StartConditions
from .controller import Controller
from .corrected import CorrectedPlant
from .engines import BenchEngine
from .faults import Fault
from .plant import LOGGED
from .valves import SeatedValve, ValveHardware

_WARM_C, _OUTSIDE_C = 88.0, 22.0
_SETTLES_S = 8.0
#: A blip of the pedal lasts so long, and comes so often. [s]
_BLIP_S, _BLIP_EVERY_S = 0.8, 9.0
_SPARK_AUTHORITY_DEG = 20.0
_CORRECTION_PCT = 25.0


@dataclass(frozen=True)
class IdleLoops:
    """How the controller holds the idle.

    Attributes
    ----------
    valve_integral, valve_direct : float
        [% per 1/min and s], [% per 1/min]
    spark_gain : float
        [° per 1/min]
    spark_delay_s : float
        Between speed and the spark that answers it. [s]
    mixture_gain : float
        [% of fuel per lambda and s]
    """

    valve_integral: float = 0.004
    valve_direct: float = 0.004
    spark_gain: float = 0.03
    spark_delay_s: float = 0.0
    mixture_gain: float = 20.0


@dataclass(frozen=True)
class IdleTrouble:
    """What is wrong with the engine itself.

    Attributes
    ----------
    leak_gps : float
        Air past throttle and valve at standard conditions. [g/s]
    fuel : float
        Fuel that it gets of what it should. [–]
    missing : float
        Share of the firings of one cylinder that do not burn. [–]
    load_kpa, load_every_s : float
        Mean pressure that a load takes for half of its period; 0 for none. [kPa, s]
    stop : float
        Air past the throttle stop, of what the engine has. [–]
    """

    leak_gps: float = 0.0
    fuel: float = 1.0
    missing: float = 0.0
    load_kpa: float = 0.0
    load_every_s: float = 8.0
    stop: float = 1.0


class _LoopedController(Controller):
    """A controller whose idle valve and timing follow loops of the plant's."""

    plant: _IdlingPlant

    def valve_pct(self, rpm: float, coolant_c: float, time_s: float, dt_s: float) -> float:
        """Return the commanded opening of the idle valve. [%]"""
        return self.plant.valve_command(rpm, time_s, dt_s)

    def spark_deg(self, rpm: float, map_kpa: float, coolant_c: float) -> float:
        """Return the ignition advance. [°]"""
        return self.plant.spark_command(rpm)


class _IdlingPlant(CorrectedPlant):
    """The warm engine at idle with hardware and loops of its own."""

    valve = ValveHardware()
    loops = IdleLoops()
    trouble = IdleTrouble()
    commanded: Callable[[float], float] | None = None
    #: Where the throttle comes to after each blip; none without blips. [%]
    rests_pct: tuple[float, ...] = ()

    def pedal_pct(self, time_s: float) -> float:
        """Return where the throttle stands at a time: blipped, then at rest. [s → %]"""
        if not self.rests_pct:
            return 0.0
        number, within = divmod(time_s - _SETTLES_S, _BLIP_EVERY_S)
        if number < 0.0:
            return self.rests_pct[0]
        return 12.0 if within < _BLIP_S else self.rests_pct[int(number) % len(self.rests_pct)]

    def controller_of(
        self, spec: EngineSpec, calibration: Calibration, fading: StartFading
    ) -> Controller:
        """Return a controller that follows the loops of this plant. (`spec`, `calibration`, `fading`: see the class)"""
        controller = _LoopedController(spec, calibration, idle_trim=False, fading=fading)
        controller.plant = self
        return controller

    def begin(self) -> None:
        """Let it run, everything warm and every start enrichment gone."""
        self.controller.state.running_since_s = -1000.0
        self.rail_kpa, self.battery_v = self.hardware.rail_pressure_kpa, 14.1
        self.target = self.controller.start_value("idle_target", _WARM_C)
        self.rpm = self.timed_rpm = self.target
        self.map_kpa, self.sensed_lambda = 40.0, 1.0
        self.correction_gain_pct_s, self.authority_pct = self.loops.mixture_gain, _CORRECTION_PCT
        self.integral = self._opening_for_idle()
        self.seated = SeatedValve(self.valve, self.integral)
        self.speeds: deque[tuple[float, float]] = deque()

    def _opening_for_idle(self) -> float:
        """Return a duty near the one that idles: its loop finds the rest. [%]"""
        wide = self.valve.full_pct - self.valve.opens_pct
        return self.valve.opens_pct + wide * (0.75 if self.valve.inverted else 0.25)

    def valve_command(self, rpm: float, time_s: float, dt_s: float) -> float:
        """Return the opening that the loop of the idle speed commands. [1/min, s, s → %]"""
        if self.commanded is not None and time_s >= _SETTLES_S:
            return self.commanded(time_s - _SETTLES_S)
        error = self.target - rpm
        way = -1.0 if self.valve.inverted else 1.0
        self.integral += way * self.loops.valve_integral * min(150.0, max(-150.0, error)) * dt_s
        self.integral = min(100.0, max(0.0, self.integral))
        return min(100.0, max(0.0, self.integral + way * self.loops.valve_direct * error))

    def spark_command(self, rpm: float) -> float:
        """Return the ignition advance that the loop of the spark commands. [1/min → °]"""
        self.speeds.append((self.time_s, rpm))
        while len(self.speeds) > 1 and self.speeds[0][0] < self.time_s - self.loops.spark_delay_s:
            self.speeds.popleft()
        error = self.target - self.speeds[0][1]
        step = self.loops.spark_gain * error
        return 16.0 + min(_SPARK_AUTHORITY_DEG, max(-_SPARK_AUTHORITY_DEG, step))

    def air_supplied_gps(self, time_s: float) -> float:
        """Return the air past stop, valve and leak at a time, when choked, at standard conditions. [s → g/s]"""
        full = self.truth.stop_gps * self.trouble.stop + self.trouble.leak_gps
        return full + self.truth.valve_full_gps * self.seated.travel(self.valve_pct, time_s)

    def injected_g(self, pulse_ms: float) -> float:
        """Return the fuel of one event, `pulse_ms` long, of which it gets only a share. [ms → g]"""
        return super().injected_g(pulse_ms) * self.trouble.fuel

    def combust(self, air_g: float, vapour_g: float, synced: bool) -> float:
        """Return the work of an event; one cylinder may miss. [J]"""
        work = super().combust(air_g, vapour_g, synced)
        mine = self.events % max(1, self.hardware.chambers) == 0
        if mine and self.trouble.missing > 0.0 and self.random.random() < self.trouble.missing:
            return 0.0
        return work

    def turn(self, dt_s: float) -> float:
        """Turn the shaft for a time, a load on it if there is one. [s → rad]"""
        angle = super().turn(dt_s)
        if self.trouble.load_kpa and self._loaded():
            pressure = self.trouble.load_kpa * self.hardware.chamber_l / self.turn_per_event
            slower = pressure / self.truth.inertia_kgm2 * dt_s * 30.0 / math.pi
            self.rpm = max(0.0, self.rpm - slower)
        return angle

    def _loaded(self) -> bool:
        return self.time_s % self.trouble.load_every_s < 0.5 * self.trouble.load_every_s

    def event(self) -> None:
        """Advance by one combustion event, the coolant held, the mixture loop at work."""
        before = self.time_s
        super().event()
        dt_s = self.time_s - before
        self.coolant_c = _WARM_C
        if self.time_s < 0.75 * _SETTLES_S:
            # Brought there, not started: walls and loops fill before it idles by itself.
            self.rpm = max(self.rpm, 0.9 * self.target)
        self.correct(dt_s)
        if self.trouble.load_kpa and self._loaded():
            self.battery_v -= 0.35 * min(1.0, dt_s / 0.15)


def check_idle(valve: ValveHardware, loops: IdleLoops, trouble: IdleTrouble) -> None:
    """Refuse hardware, loops or troubles that no simulated engine has.

    Parameters
    ----------
    valve, loops, trouble
        As chosen.

    Raises
    ------
    InputRefused
        With one sentence for each figure that cannot be.
    """
    problems = valve.problems()
    problems += [
        problem
        for field, value, lower, upper, unit, title in (
            (
                "loops.valve_integral",
                loops.valve_integral,
                0.0,
                2.0,
                "",
                "The integral of the idle loop",
            ),
            (
                "loops.valve_direct",
                loops.valve_direct,
                0.0,
                1.0,
                "",
                "The direct part of the idle loop",
            ),
            ("loops.spark_gain", loops.spark_gain, 0.0, 1.0, "°/rpm", "The gain of the spark"),
            ("loops.spark_delay_s", loops.spark_delay_s, 0.0, 2.0, "s", "The delay of the spark"),
            (
                "loops.mixture_gain",
                loops.mixture_gain,
                0.0,
                1000.0,
                "%/s",
                "The gain of the mixture loop",
            ),
            ("trouble.leak_gps", trouble.leak_gps, 0.0, 20.0, "g/s", "The leak"),
            ("trouble.fuel", trouble.fuel, 0.5, 1.6, "", "The share of its fuel"),
            ("trouble.missing", trouble.missing, 0.0, 1.0, "", "The share of firings that miss"),
            ("trouble.load_kpa", trouble.load_kpa, 0.0, 120.0, "kPa", "The load"),
            (
                "trouble.load_every_s",
                trouble.load_every_s,
                2.0,
                60.0,
                "s",
                "The period of the load",
            ),
            ("trouble.stop", trouble.stop, 0.0, 4.0, "", "The share of air past the stop"),
        )
        if (problem := out_of_bounds(field, value, lower, upper, unit, title)) is not None
    ]
    if problems:
        raise InputRefused(problems)


def simulate_idle(
    engine: BenchEngine,
    spec: EngineSpec,
    calibration: Calibration,
    *,
    valve: ValveHardware | None = None,
    loops: IdleLoops | None = None,
    trouble: IdleTrouble | None = None,
    faults: Sequence[Fault] = (),
    seconds: float = 40.0,
    rate_hz: float = 20.0,
    seed: int = 0,
    commanded: Callable[[float], float] | None = None,
    rests_pct: Sequence[float] = (),
) -> Trace:
    """Return the log of a warm engine at idle.

    Parameters
    ----------
    engine : BenchEngine
        The simulated engine.
    spec : EngineSpec
        As entered; the controller computes with it.
    calibration : Calibration
        The job's tables.
    valve, loops, trouble : optional
        Hardware, loops, and what is wrong.
    faults : sequence of Fault
        Built into the engine.
    seconds, rate_hz : float
        Logged, and how often. [s, Hz]
    seed : int
        Of noise.
    commanded : callable, optional
        Duty over time where it is driven by hand. [s → %]
    rests_pct : sequence of float
        Where the throttle comes to after each blip of the pedal; none without blips. [%]

    Raises
    ------
    InputRefused
        If hardware, loops or troubles cannot be.
    """
    valve, loops, trouble = valve or ValveHardware(), loops or IdleLoops(), trouble or IdleTrouble()
    check_idle(valve, loops, trouble)
    plant = _IdlingPlant(
        engine, spec, calibration, StartConditions(_WARM_C, _OUTSIDE_C, seed), tuple(faults)
    )
    plant.valve, plant.loops, plant.trouble, plant.commanded = valve, loops, trouble, commanded
    plant.rests_pct = tuple(rests_pct)
    plant.begin()
    rows: list[tuple[float, ...]] = []
    begins = plant.time_s + _SETTLES_S
    next_sample = begins
    while plant.time_s < begins + seconds:
        plant.event()
        while next_sample <= plant.time_s and next_sample < begins + seconds:
            rows.append(plant.sample(next_sample))
            next_sample += 1.0 / rate_hz
    columns = np.array(rows, dtype=float).T
    channels = {name: columns[i].round(4) for i, name in enumerate(LOGGED)}
    channels["time_s"] = (channels["time_s"] - begins).round(4)
    return Trace(channels)


def sweep_duty(
    low_pct: float = 0.0,
    high_pct: float = 100.0,
    step_pct: float = 5.0,
    dwell_s: float = 5.0,
    *,
    begin_pct: float = 30.0,
) -> tuple[Callable[[float], float], float]:
    """Return the duty of a sweep over time, up, down and back, and how long it lasts. [s → %, s]

    Parameters
    ----------
    low_pct, high_pct, step_pct : float
        Range and height of its steps. [%]
    dwell_s : float
        On each. [s]
    begin_pct : float
        At which it is brought to idle first. [%]
    """
    places = SweepPlan(low_pct, high_pct, step_pct, dwell_s).places(begin_pct)

    def duty(time_s: float) -> float:
        return places[min(len(places) - 1, int(time_s // dwell_s))]

    return duty, dwell_s * len(places)

"""The bench engine as somebody stands beside it: key, starter, pedal, valve and loads in their hands."""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace

import numpy as np

from ..bounds import out_of_bounds
from ..charge.fading import STRAIGHT, StartFading
from ..engine import EngineSpec
from ..errors import InputRefused, field_refused
from ..live import Controls, Opened
from ..quantities import FloatArray
from ..tables import Calibration
from .conditions import StartConditions
from .controller import Controller, ControllerState
from .corrected import CorrectedPlant
from .engines import BenchEngine
from .faults import Fault, apply_faults
from .live_faults import LIVE_FAULTS, NEVER_FILLS
from .oil import oil_pressure_step
from .plant import LOGGED
from .valves import STRAIGHT_VALVE, SeatedValve, ValveHardware

RATE_HZ = 25.0
CHANNELS = (*LOGGED, "oil_pressure_kpa", "idle_target_rpm")
STAND_IN = "Simulated engine, not a real one."

#: No more engine time than this is computed at once: who was away too long finds it where it stood. [s]
_MOST_AT_ONCE_S = 20.0
_PUMP_PRIME_S = 2.0
_PRIME_AFTER_S = 0.4
#: A controller sends nothing before it has booted.
_WAKES_S = 0.35
#: Above this pedal a cranking engine gets no fuel: it is cleared. [%]
_FLOOD_CLEAR_PCT = 75.0
#: Mean pressure that a load takes [kPa], and the voltage it pulls down. [V]
_LOADS = {"gear": (22.0, 0.0), "lamps": (7.0, 0.35), "air_conditioning": (16.0, 0.1), "steering": (12.0, 0.0)}  # fmt: skip
#: The mixture loop begins so long after the start, in a coolant so warm. [s, °C]
_LOOP_AFTER_S, _LOOP_FROM_C = 30.0, 60.0
_THERMOSTAT_C, _COOLS_S, _STANDS_COOLS_S = 86.0, 18.0, 9000.0
#: A film on the walls of a standing engine dries. [s]
_DRIES_S = 90.0
#: A warm wideband stays warm so long without current. [s]
_SENSOR_COOLS_S = 60.0
_LIGHT_NOISE_DEG = 0.2
#: The idle loop is closed so far above its target at most, and below this pedal. [1/min, %]
_NEAR_IDLE_RPM, _PEDAL_AT_REST_PCT = 250.0, 2.0


@dataclass(frozen=True)
class LiveSetup:
    """What a live session of the bench engine begins with.

    Attributes
    ----------
    coolant_c : float
        Of the engine. [°C]
    ambient_c : float or None
        Outside; None as :class:`StartConditions` takes it. [°C]
    faults : tuple of Fault
        Of :data:`LIVE_FAULTS`.
    valve : ValveHardware
        Its idle actuator.
    fresh : bool
        Whether pump and galleries are still dry.
    stop : float
        Air past the throttle stop, of what the engine has. [–]
    seed : int
        Of noise.
    """

    coolant_c: float
    ambient_c: float | None = None
    faults: tuple[Fault, ...] = ()
    valve: ValveHardware = field(default_factory=lambda: STRAIGHT_VALVE)
    fresh: bool = False
    stop: float = 1.0
    seed: int = 0


class HeldController(Controller):
    """A controller whose valve and timing somebody can hold."""

    held_pct: float | None = None
    locked_deg: float | None = None

    def valve_pct(self, rpm: float, coolant_c: float, time_s: float, dt_s: float) -> float:
        """Return the commanded opening of the idle valve. [%]"""
        # Off the pedal and near its target the loop is closed; elsewhere it would wind up.
        near_rpm = self.start_value("idle_target", coolant_c) + _NEAR_IDLE_RPM
        self.idle_trim = self.throttle_pct < _PEDAL_AT_REST_PCT and rpm < near_rpm
        own = super().valve_pct(rpm, coolant_c, time_s, dt_s)
        return own if self.held_pct is None else self.held_pct

    def spark_deg(self, rpm: float, map_kpa: float, coolant_c: float) -> float:
        """Return the ignition advance. [°]"""
        own = super().spark_deg(rpm, map_kpa, coolant_c)
        return own if self.locked_deg is None else self.locked_deg


class LivePlant(CorrectedPlant):
    """A plant that does what is commanded, for as long as somebody likes.

    Parameters
    ----------
    engine, spec, calibration, fading
        As those of :func:`.simulate.simulate_start`.
    setup : LiveSetup
    """

    controller: HeldController

    def __init__(
        self,
        engine: BenchEngine,
        spec: EngineSpec,
        calibration: Calibration,
        setup: LiveSetup,
        fading: StartFading = STRAIGHT,
    ) -> None:
        truth = apply_faults(engine.truth, setup.faults, LIVE_FAULTS)
        truth = replace(truth, stop_gps=truth.stop_gps * setup.stop)
        conditions = StartConditions(setup.coolant_c, setup.ambient_c, setup.seed)
        super().__init__(replace(engine, truth=truth), spec, calibration, conditions, (), fading)
        self.controls = Controls()
        self.valve = SeatedValve(setup.valve, 50.0)
        self.rev_limit_rpm = spec.rev_limit_rpm
        limits = calibration.tables.get("rev_limit")
        if limits is not None:
            self.rev_limit_rpm = min(self.rev_limit_rpm, limits.at(setup.coolant_c))
        self.rail_kpa = 0.0
        self.oil_kpa = 0.0
        # An engine that has run keeps its galleries full.
        self.oil_filled = not setup.fresh and truth.oil_fills_turns < NEVER_FILLS
        self.turned = 0.0
        self.rests_pct = 0.0
        self.key_since_s: float | None = None
        self.sensor_off_s = -1e9
        self.sensor_warm = False
        self.primed = False
        self.hands = np.random.default_rng([setup.seed, 0x5C])

    # --- what is commanded ------------------------------------------------------------

    def controller_of(
        self, spec: EngineSpec, calibration: Calibration, fading: StartFading
    ) -> HeldController:
        """Return what reads the tables and can be held. (`spec`, `calibration`, `fading`: see the class)"""
        return HeldController(spec, calibration, idle_trim=self.truth.idle_trim, fading=fading)

    def set(self, controls: Controls) -> None:
        """Take a command: it holds from now on."""
        before, self.controls = self.controls, controls
        self.controller.held_pct = controls.idle_valve_pct
        self.controller.locked_deg = controls.lock_timing_deg
        if (
            controls.throttle_pct <= 0.0 < before.throttle_pct
            and self.truth.return_spread_pct > 0.0
        ):
            self.rests_pct = abs(float(self.hands.normal())) * self.truth.return_spread_pct
        if controls.key and not before.key:
            self.key_since_s, self.primed = self.time_s, False
            if self.time_s - self.sensor_off_s > _SENSOR_COOLS_S:
                self.sensor_warm = False
        if before.key and not controls.key:
            self.key_since_s = None
            self.sensor_off_s = self.time_s
            self.controller.state = ControllerState()
            self.correction_pct = 0.0
        self.starter_on = controls.key and controls.starter

    def pedal_pct(self, time_s: float) -> float:
        """Return where the throttle stands, whatever the time. [s → %]"""
        return max(self.controls.throttle_pct, self.rests_pct)

    def sensor_ready(self) -> bool:
        """Say whether the wideband is warm enough to read."""
        if self.key_since_s is None:
            return False
        cold_extra = max(0.0, 10.0 - self.conditions.outside_c) * 0.2
        if self.time_s - self.key_since_s >= self.truth.sensor_ready_s + cold_extra:
            self.sensor_warm = True
        return self.sensor_warm

    @property
    def is_awake(self) -> bool:
        """Whether the controller sends: it takes a moment after key-on."""
        since = self.key_since_s
        return since is not None and self.time_s - since >= _WAKES_S

    @property
    def fires(self) -> bool:
        """Whether a spark reaches the mixture."""
        return self.controls.key and self.controls.ignition and not self.controls.plugs_out

    # --- what follows from it -----------------------------------------------------------

    def supply(self, dt_s: float) -> None:
        """Move the fuel pressure for a time: primed, running, or leaking down. [s]"""
        since = self.key_since_s
        primes = since is not None and self.time_s - since < _PUMP_PRIME_S
        if since is not None and (primes or self.rpm > 0.0):
            strength = min(1.0, max(0.0, (self.battery_v - 3.0) / 5.5))
            target, time_s = self.hardware.rail_pressure_kpa * strength, self.truth.rail_time_s
        else:
            target, time_s = 0.0, self.truth.rail_leak_s
        self.rail_kpa += (target - self.rail_kpa) * (1.0 - math.exp(-dt_s / time_s))

    def injected_g(self, pulse_ms: float) -> float:
        """Return the fuel of one event, none where it is cut. [ms → g]"""
        cranking = self.controller.state.running_since_s is None
        clears = cranking and self.pedal_pct(self.time_s) >= _FLOOD_CLEAR_PCT
        if (
            not self.controls.key
            or not self.controls.injection
            or clears
            or self.rpm > self.rev_limit_rpm
        ):
            self.pulse_ms = 0.0
            return 0.0
        return super().injected_g(pulse_ms)

    def combust(self, air_g: float, vapour_g: float, synced: bool) -> float:
        """Return the work of an event; none without a spark. [J]"""
        return super().combust(air_g, vapour_g, synced and self.fires)

    def air_supplied_gps(self, time_s: float) -> float:
        """Return the air past stop, valve, pedal and leak at a time, when choked, at standard conditions. [s → g/s]"""
        truth = self.truth
        full = truth.stop_gps + truth.valve_full_gps * self.valve.travel(self.valve_pct, time_s)
        return full + self.past_pedal_gps(time_s)

    def resisting_kpa(self) -> float:
        """Return what resists the shaft, its loads with it, as mean pressure. [kPa]"""
        loads = sum(_LOADS[load][0] for load in self.controls.loads)
        if self.controls.plugs_out:
            # Nothing is compressed, nothing is drawn through a throttle.
            return self.friction_kpa() + loads
        return super().resisting_kpa() + loads

    def event(self) -> None:
        """Advance by one combustion event, or by a short step while the shaft stands."""
        before_s = self.time_s
        if (
            self.key_since_s is not None
            and not self.primed
            and self.time_s - self.key_since_s >= _PRIME_AFTER_S
        ):
            self.primed = True
            if self.controls.injection:
                self.prime()
        super().event()
        dt_s = self.time_s - before_s
        self._oil(dt_s)
        self._cool(dt_s)
        pulled = sum(_LOADS[load][1] for load in self.controls.loads)
        if pulled:
            self.battery_v -= pulled * min(1.0, dt_s / 0.15)
        since = self.controller.state.running_since_s
        has_run = since is not None and self.time_s - since > _LOOP_AFTER_S
        if has_run and self.coolant_c > _LOOP_FROM_C:
            self.correct(dt_s)
        if self.rpm <= 0.0:
            self.film_g *= math.exp(-dt_s / _DRIES_S)

    def _oil(self, dt_s: float) -> None:
        self.turned += self.rpm / 60.0 * dt_s
        filled = self.oil_filled or self.turned > self.truth.oil_fills_turns
        self.oil_kpa = oil_pressure_step(
            self.oil_kpa, self.rpm, self.coolant_c, dt_s, filled=filled, relief_kpa=self.truth.oil_relief_kpa
        )  # fmt: skip

    def _cool(self, dt_s: float) -> None:
        """Let thermostat and radiator, or the air around a standing engine, take heat away."""
        if self.coolant_c > _THERMOSTAT_C:
            self.coolant_c -= (self.coolant_c - _THERMOSTAT_C) * min(1.0, dt_s / _COOLS_S)
        elif self.rpm <= 0.0:
            away = self.coolant_c - self.conditions.outside_c
            self.coolant_c -= away * min(1.0, dt_s / _STANDS_COOLS_S)

    def sample(self, time_s: float) -> tuple[float, ...]:
        """Return one row of :data:`CHANNELS` at a time. [s]"""
        noise = float(self.sensor_random.standard_normal())
        oil = max(0.0, self.oil_kpa + 1.5 * noise)
        return (
            *super().sample(time_s),
            oil,
            self.controller.start_value("idle_target", self.coolant_c),
        )


class BenchSource:
    """The bench engine as a source of a live session.

    Parameters
    ----------
    engine, spec, calibration, setup, fading
        As those of :class:`LivePlant`.
    revision : int
        Of the tables.
    tables : str
        How it came by them.
    """

    def __init__(
        self,
        engine: BenchEngine,
        spec: EngineSpec,
        calibration: Calibration,
        setup: LiveSetup,
        fading: StartFading = STRAIGHT,
        *,
        revision: int,
        tables: str,
    ) -> None:
        problems = setup.valve.problems()
        stop = out_of_bounds("stop", setup.stop, 0.0, 4.0, "", "The share of air past the stop")
        if stop is not None:
            problems.append(stop)
        if problems:
            raise InputRefused(problems)
        self._plant = LivePlant(engine, spec, calibration, setup, fading)
        self._opened = Opened(f"Bench: {engine.title}", STAND_IN, CHANNELS, revision, tables)
        self._until_s = self._next_s = 0.0

    def open(self) -> Opened:
        """Begin, the key off."""
        return self._opened

    def samples(self, passed_s: float) -> FloatArray:
        """Return the samples of so much time on the wall; none while the key is off. [s]"""
        plant = self._plant
        self._until_s += min(_MOST_AT_ONCE_S, max(0.0, passed_s) * plant.controls.speed)
        rows: list[tuple[float, ...]] = []
        while plant.time_s < self._until_s:
            plant.event()
            while self._next_s <= plant.time_s:
                if plant.is_awake:
                    rows.append(plant.sample(self._next_s))
                self._next_s += 1.0 / RATE_HZ
        # What was overshot by the last event counts for the next call.
        return np.round(np.array(rows, dtype=float).reshape(len(rows), len(CHANNELS)), 4)

    def command(self, controls: Controls) -> None:
        """Set what is commanded."""
        self._plant.set(controls)

    def light(self) -> tuple[float, float]:
        """Return what a timing light shows and what is commanded. [°, °]

        Raises
        ------
        InputRefused
            If it does not run, or the timing is not locked.
        """
        plant = self._plant
        locked = plant.controls.lock_timing_deg
        if locked is None:
            raise field_refused(
                "lock_timing_deg", "Lock the timing first: a mark that moves cannot be read."
            )
        if plant.rpm < 100.0:
            raise field_refused("key", "The light flashes on a running engine only.")
        noise = _LIGHT_NOISE_DEG * float(plant.hands.normal())
        return round(locked + plant.truth.timing_offset_deg + noise, 1), locked

    def close(self) -> None:
        """End: the key is off."""
        self._plant.set(Controls())

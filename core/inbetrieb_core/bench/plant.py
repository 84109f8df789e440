"""The simulated engine: its state, and one step per combustion event."""

from __future__ import annotations

import math
from collections import deque
from collections.abc import Sequence

import numpy as np
from mypy_extensions import mypyc_attr

from ..air import DRY_AIR_GAS_CONSTANT, flow_function
from ..charge.fading import STRAIGHT, StartFading
from ..charge.idle_air import INDICATED_WORK_KJ_PER_G
from ..engine import EngineSpec
from ..friction import ACCESSORIES_KPA, friction_at_thickness_kpa, oil_thickness
from ..fuel import vaporised_share
from ..injectors import differential_pressure_kpa, flow_of_blend
from ..quantities import kelvin
from ..tables import Calibration
from .conditions import StartConditions
from .controller import Controller, charge_temperature_k
from .engines import BenchEngine
from .faults import Fault, apply_faults
from .lookup import points_curve
from .manifold import LEAST_KPA, filled_kpa
from .physics import (
    film_step,
    mixture_work,
    spark_efficiency,
    starter_torque_nm,
)
from .truth import true_filling

KEY_TO_CRANK_S = 2.0
_STEP_AT_REST_S = 0.02
_TURNING_RPM = 15.0
_COMPRESSION_LOSS_KPA = 25.0  # compression without combustion leaks and cools
_PRIME_USE = 0.6  # the rest of a prime shot runs into pools
#: From here on alternator and pumps take their part. [1/min]
_ACCESSORIES_FROM_RPM = 450.0
#: Share of liquid fuel that hot residue vaporises: most, gain per firing, left per misfire.
_HEAT_MOST, _HEAT_GAIN, _HEAT_LEFT = 0.2, 0.12, 0.85
_PARKED_LAMBDA = 1.36
#: What a per cent of pedal passes, of the open idle valve; from about the second a butterfly opens ever more. [1/%, %]
_PEDAL_FLOW, _OPENS_PCT = 0.12, 60.0
_LEANEST_READING = 1.36
_RICHEST_READING = 0.65
_HEAT_KJ_PER_K_L = 9.0  # coolant and block, per litre of displacement (assumed)

#: Channels of a sample, in its order.
LOGGED = (
    "time_s",
    "rpm",
    "map_kpa",
    "coolant_c",
    "intake_c",
    "throttle_pct",
    "lambda",
    "lambda_target",
    "pulse_ms",
    "battery_v",
    "idle_valve_pct",
    "spark_deg",
    "fuel_pressure_kpa",
    "lambda_correction_pct",
    "sync",
)


@mypyc_attr(allow_interpreted_subclasses=True)
class Plant:
    """State of the simulated engine; every method advances or reads one part of it.

    Parameters are those of :func:`.simulate.simulate_start`.
    """

    def __init__(
        self,
        engine: BenchEngine,
        spec: EngineSpec,
        calibration: Calibration,
        conditions: StartConditions,
        faults: Sequence[Fault],
        fading: StartFading = STRAIGHT,
    ) -> None:
        self.truth = truth = apply_faults(engine.truth, faults)
        self.hardware = hardware = truth.hardware
        self.conditions = conditions
        self.controller = self.controller_of(spec, calibration, fading)
        self.random = np.random.default_rng([conditions.seed, 0x5A])
        # Sensors have noise of their own: the engine runs the same whatever the logging rate.
        self.sensor_random = np.random.default_rng([conditions.seed, 0x5B])
        self.fuel = hardware.fuel
        self.afr = self.fuel.stoichiometric_afr
        self.wet_manifold, self.chamber_l = hardware.wet_manifold, hardware.chamber_l
        self.ambient_kpa = hardware.barometric_kpa
        # In the cold it takes longer to warm.
        self.sensor_ready_s = truth.sensor_ready_s + 0.2 * max(0.0, 10.0 - conditions.outside_c)
        self.intake_c = conditions.outside_c + 0.15 * max(
            0.0, conditions.coolant_c - conditions.outside_c
        )
        #: Of the air outside, against 101.3 kPa and 20 °C. [–]
        self.density_share = self.ambient_kpa / 101.325 * math.sqrt(293.15 / kelvin(self.intake_c))
        self.coolant_c = conditions.coolant_c
        self.map_kpa = self.ambient_kpa
        curve = hardware.injectors.dead_time
        self.data_sheet_ms = points_curve(curve.voltage_v, curve.dead_time_ms)
        self.true_ve_pct = true_filling(truth)
        self.grams_per_open_ms = self._grams_per_open_ms()
        self.film_g = 0.0
        self.residual_heat = 0.0
        self.rail_kpa = 0.2 * hardware.rail_pressure_kpa
        self.battery_v = truth.battery_rest_v
        self.rpm = 0.0
        self.timed_rpm = 0.0
        self.time_s = 0.0
        self.events = 0
        self.spark_deg = 8.0
        self.pulse_ms = 0.0
        self.valve_pct = 0.0
        self.starter_on = False
        self.turning_since_s: float | None = None
        self.exhaust: deque[tuple[float, float]] = deque()
        self.sensed_lambda = 2.0
        self.turn_per_event = 2.0 * math.pi / hardware.firings_per_turn
        self.cold = min(1.2, max(0.0, (60.0 - self.coolant_c) / 80.0))
        self._refresh_temperature()

    def controller_of(
        self, spec: EngineSpec, calibration: Calibration, fading: StartFading
    ) -> Controller:
        """Return what reads the tables; a plant may have one of its own. (`spec`, `calibration`, `fading`: see the class)"""
        return Controller(spec, calibration, idle_trim=self.truth.idle_trim, fading=fading)

    def _refresh_temperature(self) -> None:
        """Recompute what depends on the slowly changing temperature."""
        truth = self.truth
        # What a manifold keeps is the film's, here; the generator takes it off the vapour.
        self.vapour_share = vaporised_share(
            self.fuel, self.coolant_c + truth.vapour_shift_k, wet_manifold=False
        )
        self.film_time_s = truth.film_time_s * (1.0 + 25.0 * (1.0 - self.vapour_share) ** 2)
        self.charge_k = charge_temperature_k(self.intake_c, self.coolant_c)
        self.gas_kpa_l_per_g = DRY_AIR_GAS_CONSTANT * self.charge_k
        self.kpa_per_g = self.gas_kpa_l_per_g / (1.1 * self.hardware.displacement_l)
        self.thickness = oil_thickness(self.coolant_c)
        self.refreshed_c = self.coolant_c

    # --- electrical and fuel supply -------------------------------------------------

    def electrical(self, dt_s: float) -> None:
        """Move battery voltage for a time: starter current, rest, or charging. [s]"""
        truth = self.truth
        resistance = truth.battery_ohm * (1.0 + max(0.0, 25.0 - self.coolant_c) / 60.0)
        if self.starter_on:
            ratio = self.rpm / truth.starter_free_rpm
            current = 270.0 * (truth.starter_stall_nm / 100.0) ** 0.8 * max(0.0, 1.25 - ratio)
            target = truth.battery_rest_v - current * resistance
            self.battery_v += (target - self.battery_v) * min(1.0, dt_s / 0.04)
        else:
            charging = self.rpm > 500.0
            target = truth.charging_v if charging else truth.battery_rest_v - 0.2
            self.battery_v += (target - self.battery_v) * min(
                1.0, dt_s / (1.2 if charging else 0.3)
            )

    def supply(self, dt_s: float) -> None:
        """Move rail pressure for a time: the pump primes, stands, or runs on. [s]"""
        pump_on = self.time_s < KEY_TO_CRANK_S or self.rpm > 0.0
        strength = min(1.0, max(0.0, (self.battery_v - 3.0) / 5.5))
        target = self.hardware.rail_pressure_kpa * (strength if pump_on else 0.9)
        time_s = self.truth.rail_time_s if pump_on else 60.0
        self.rail_kpa += (target - self.rail_kpa) * (1.0 - math.exp(-dt_s / time_s))

    def injected_g(self, pulse_ms: float) -> float:
        """Return the fuel that one combustion event gets from a pulse. [g]"""
        hardware = self.hardware
        tip_kpa = self.ambient_kpa if self.wet_manifold else self.map_kpa
        across = differential_pressure_kpa(
            self.rail_kpa,
            tip_kpa,
            self.ambient_kpa,
            manifold_referenced=hardware.manifold_referenced,
        )
        dead_time = self.true_dead_time_ms() if pulse_ms > 0.0 else 0.0
        open_ms = max(0.0, pulse_ms - dead_time)
        rated_kpa = hardware.injectors.rated_pressure_kpa
        return self.grams_per_open_ms * open_ms * math.sqrt(across / rated_kpa)

    def _grams_per_open_ms(self) -> float:
        """Return what one event gets for each millisecond that the injectors stand open at rated pressure. [g/ms]"""
        hardware, injectors = self.hardware, self.hardware.injectors
        flow = self.truth.flow_scale * flow_of_blend(injectors.flow_cm3_min, self.fuel)
        per_cycle = flow / 60_000.0 * injectors.count * hardware.injections_per_cycle
        return per_cycle * self.fuel.density_kg_m3 / 1000.0 / hardware.chambers

    def true_dead_time_ms(self) -> float:
        """Return the injector's real dead time at this voltage. [ms]"""
        curve = self.hardware.injectors.dead_time
        value = self.data_sheet_ms(self.battery_v)
        if self.battery_v < curve.voltage_v[0]:
            value *= curve.voltage_v[0] / max(self.battery_v, 3.0)
        return max(0.05, value + self.truth.dead_time_offset_ms)

    # --- air ------------------------------------------------------------------------

    def air_inflow_gps(self, time_s: float) -> float:
        """Return the air that flows in at a time. [s → g/s]"""
        return self.air_supplied_gps(time_s) * self.past_throttle(self.map_kpa)

    def air_supplied_gps(self, time_s: float) -> float:
        """Return the air past stop, valve and pedal at a time, when choked, at standard conditions. [s → g/s]"""
        truth = self.truth
        full = truth.stop_gps + truth.valve_full_gps * self.valve_pct / 100.0
        return full + self.past_pedal_gps(time_s)

    def past_pedal_gps(self, time_s: float) -> float:
        """Return what the pedal lets past at a time, and what leaks in behind it, when choked. [s → g/s]"""
        truth = self.truth
        pedal = self.pedal_pct(time_s)
        opened = pedal * (1.0 + (pedal / _OPENS_PCT) ** 2)
        return opened * _PEDAL_FLOW * truth.valve_full_gps + truth.leak_gps

    def past_throttle(self, map_kpa: float) -> float:
        """Return the flow into the manifold, at a pressure, of one that is 1 when choked, at 101.3 kPa and 20 °C. [kPa → –]"""
        return self.density_share * flow_function(map_kpa / self.ambient_kpa)

    def pedal_pct(self, time_s: float) -> float:
        """Return the throttle that the driver holds at a time. [%]"""
        held = time_s < KEY_TO_CRANK_S + self.conditions.crank_limit_s and (
            self.controller.state.running_since_s is None
            or time_s - self.controller.state.running_since_s < 2.0
        )
        return self.conditions.pedal_pct if held else 0.0

    def breathe(self, dt_s: float) -> float:
        """Fill the manifold and draw one chamber; return the trapped air. [g]"""
        hardware, truth = self.hardware, self.truth
        speed = max(self.rpm, 60.0)
        efficiency = self.true_ve_pct(speed, max(self.map_kpa, LEAST_KPA))
        air = efficiency / 100.0 * self.map_kpa * self.chamber_l / self.gas_kpa_l_per_g
        kpa_per_g = self.kpa_per_g
        supplied = self.air_supplied_gps(self.time_s) * dt_s
        self.map_kpa = filled_kpa(
            self.map_kpa, lambda kpa: (supplied * self.past_throttle(kpa) - air) * kpa_per_g,
            ambient_kpa=self.ambient_kpa, pedal_pct=self.pedal_pct(self.time_s),
        )  # fmt: skip
        if truth.port_leak_gps and self.events % hardware.chambers == 0:
            # It runs in all the time, and one cylinder gets it all.
            air += truth.port_leak_gps * self.past_throttle(self.map_kpa) * dt_s * hardware.chambers
        return air

    # --- combustion and shaft -------------------------------------------------------

    def combust(self, air_g: float, vapour_g: float, synced: bool) -> float:
        """Return the indicated work of the event and note its exhaust. [J]"""
        mixture = min(3.0, air_g / max(vapour_g * self.afr, 1e-9))
        quality = mixture_work(mixture, self.cold, self.rpm) if synced else 0.0
        burns = quality > 0.0 and self.random.random() < quality / 0.45
        reading = mixture if burns else min(3.0, mixture + 0.6)  # a misfire reads lean
        if synced:
            self.exhaust.append((self.time_s, reading))
        if not burns:
            self.residual_heat *= _HEAT_LEFT
            return 0.0
        self.residual_heat += _HEAT_GAIN * (_HEAT_MOST - self.residual_heat)
        best = 24.0 + 10.0 * (1.0 - self.map_kpa / self.ambient_kpa)
        work = INDICATED_WORK_KJ_PER_G * 1000.0 * self.truth.efficiency_scale * air_g * quality
        scatter = 1.0 + 0.03 * self.random.standard_normal()
        # 90 % is the usual ignition loss at idle, already part of the work per gram.
        return (
            work
            * scatter
            * spark_efficiency(self.spark_deg + self.truth.timing_offset_deg, best)
            / 0.9
        )

    def turn(self, dt_s: float) -> float:
        """Turn the shaft for a time without combustion; return the angle covered. [rad]"""
        truth = self.truth
        resisting = self.resisting_kpa() * self.chamber_l / self.turn_per_event
        driving = 0.0
        if self.starter_on:
            driving = starter_torque_nm(
                truth.starter_stall_nm, truth.starter_free_rpm, self.battery_v, self.rpm
            )
        before = self.rpm * math.pi / 30.0
        after = max(0.0, before + (driving - resisting) / truth.inertia_kgm2 * dt_s)
        self.rpm = after * 30.0 / math.pi
        return 0.5 * (before + after) * dt_s

    def resisting_kpa(self) -> float:
        """Return what resists the shaft, as mean pressure: friction, and the work of breathing. [kPa]"""
        pressure = self.friction_kpa() + self.ambient_kpa - self.map_kpa
        return pressure + _COMPRESSION_LOSS_KPA if self.starter_on else pressure

    def friction_kpa(self) -> float:
        """Return friction with what hangs on the belts, as mean pressure. [kPa]"""
        friction = self.truth.friction_scale * friction_at_thickness_kpa(self.rpm, self.thickness)
        return friction + ACCESSORIES_KPA if self.rpm > _ACCESSORIES_FROM_RPM else friction

    def push(self, work_j: float) -> None:
        """Give the shaft the work of one combustion event, `work_j`. [J]"""
        inertia = self.truth.inertia_kgm2
        energy = 0.5 * inertia * (self.rpm * math.pi / 30.0) ** 2 + work_j
        self.rpm = math.sqrt(2.0 * energy / inertia) * 30.0 / math.pi

    def heat(self, fuel_g: float) -> None:
        """Warm the coolant by the burnt fuel of one event. [g]"""
        capacity = _HEAT_KJ_PER_K_L * self.hardware.displacement_l
        self.coolant_c += 0.30 * fuel_g * 43.0 / capacity
        if abs(self.coolant_c - self.refreshed_c) > 0.25:
            self._refresh_temperature()

    # --- measurement ----------------------------------------------------------------

    def sense_lambda(self, dt_s: float) -> None:
        """Move the delayed, lagging reading of the wideband."""
        delay = 0.25 + 250.0 / max(self.rpm, 300.0)
        current = self.sensed_lambda
        while self.exhaust and self.exhaust[0][0] <= self.time_s - delay:
            current_in = self.exhaust.popleft()[1]
            self.sensed_lambda += (current_in - self.sensed_lambda) * min(1.0, dt_s / 0.2)
        if self.rpm <= 0.0:
            self.sensed_lambda = current + (2.0 - current) * min(1.0, dt_s / 2.0)

    def sensor_ready(self) -> bool:
        """Say whether the wideband is warm enough to read."""
        return self.time_s >= self.sensor_ready_s

    @property
    def read_map_kpa(self) -> float:
        """Manifold pressure as the controller reads it. [kPa]"""
        return max(0.0, self.map_kpa - self.truth.map_reads_low_kpa)

    def event(self) -> None:
        """Advance by one combustion event, or by a short step while the shaft stands."""
        if self.rpm < _TURNING_RPM:
            self._stand_step()
            return
        dt_s = self._turn_to_next_event()
        if self.rpm < _TURNING_RPM:
            return
        self.events += 1
        if self.turning_since_s is None:
            self.turning_since_s = self.time_s
        synced = self.time_s - self.turning_since_s >= self.truth.sync_delay_s
        controller = self.controller
        controller.throttle_pct, controller.intake_c = self.pedal_pct(self.time_s), self.intake_c
        # A controller times the turn between two events; the log shows what it acts on.
        self.timed_rpm = self.turn_per_event / dt_s * 30.0 / math.pi
        controller.update_phase(self.rpm if synced else 0.0, self.time_s)
        self.valve_pct = controller.valve_pct(self.timed_rpm, self.coolant_c, self.time_s, dt_s)
        read_kpa = self.read_map_kpa
        self.spark_deg = controller.spark_deg(self.timed_rpm, read_kpa, self.coolant_c)
        injected = 0.0
        self.pulse_ms = 0.0
        if synced:
            self.pulse_ms = controller.pulse_ms(
                self.rpm, read_kpa, self.coolant_c, self.charge_k, self.battery_v, self.time_s
            )
            injected = self.injected_g(self.pulse_ms)
        vacuum = 1.0 - self.map_kpa / self.ambient_kpa
        self.film_g, vapour = film_step(
            self.film_g,
            injected,
            dt_s,
            wall_share=self.truth.film_share,
            time_s=self.film_time_s * (1.0 - 0.4 * vacuum),
            # Vacuum, and the hot residue of earlier firings, vaporise more than cranking does.
            vapour_share=self.vapour_share
            + max(0.25 * vacuum, self.residual_heat) * (1.0 - self.vapour_share),
        )
        air = self.breathe(dt_s)
        work = self.combust(air, vapour, synced)
        self.push(work)
        self.heat(vapour if work > 0.0 else 0.0)
        self.sense_lambda(dt_s)

    def _turn_to_next_event(self) -> float:
        """Turn the shaft up to the next combustion event; return the time it took. [s]"""
        left, began = self.turn_per_event, self.time_s
        while left > 1e-9 and self.rpm >= _TURNING_RPM:
            whole = left / (self.rpm * math.pi / 30.0)
            # The starter's stiff torque line needs short steps, a running engine does not.
            dt_s = min(whole, _STEP_AT_REST_S) if self.starter_on else whole
            self.electrical(dt_s)
            self.supply(dt_s)
            left -= self.turn(dt_s)
            self.time_s += dt_s
            if not self.starter_on:
                break
        return self.time_s - began

    def _stand_step(self) -> None:
        dt_s = _STEP_AT_REST_S
        self.time_s += dt_s
        self.electrical(dt_s)
        self.supply(dt_s)
        self.pulse_ms = 0.0
        self.valve_pct = self.controller.valve_pct(0.0, self.coolant_c, self.time_s, dt_s)
        self.controller.update_phase(0.0, self.time_s)
        self.map_kpa += (self.ambient_kpa - self.map_kpa) * min(1.0, dt_s / 0.4)
        self.sense_lambda(dt_s)
        self.turning_since_s = None
        self.rpm = self.timed_rpm = 0.0
        if self.starter_on:
            torque = starter_torque_nm(
                self.truth.starter_stall_nm, self.truth.starter_free_rpm, self.battery_v, 0.0
            )
            resisting = (
                (
                    self.truth.friction_scale * friction_at_thickness_kpa(30.0, self.thickness)
                    + _COMPRESSION_LOSS_KPA
                )
                * self.chamber_l
                / self.turn_per_event
            )
            if torque > resisting:
                self.rpm = _TURNING_RPM + 5.0

    def prime(self) -> None:
        """Give the prime pulse at key-on, once the pump has run for a moment."""
        pulse = self.controller.prime_ms(self.coolant_c, self.battery_v)
        # One pulse of every injector; each chamber gets its share, on the walls.
        one_event = self.injected_g(pulse) / self.hardware.injections_per_cycle
        self.film_g += one_event * self.hardware.chambers * _PRIME_USE

    def sample(self, time_s: float) -> tuple[float, ...]:
        """Return one row of the log, with the noise of real sensors."""
        noise = self.sensor_random.standard_normal(6).tolist()
        rpm = self.timed_rpm
        if 0.0 < rpm < 450.0 and self.starter_on:
            rpm *= 1.0 + 0.035 * math.sin(38.0 * time_s)  # compression ripple
        if self.sensor_ready():
            sensed = min(_LEANEST_READING, max(_RICHEST_READING, self.sensed_lambda))
            reading = sensed + 0.003 * noise[1]
        else:
            reading = _PARKED_LAMBDA
        if self.truth.stuck_lambda is not None:
            reading = self.truth.stuck_lambda
        return (
            time_s,
            max(0.0, rpm + (2.5 * noise[0] if rpm > 0 else 0.0)),
            self.read_map_kpa + 0.25 * noise[2],
            self.coolant_c + 0.05 * noise[3],
            self.intake_c,
            self.pedal_pct(time_s),
            reading,
            self.controller.lambda_target(max(rpm, 1.0), self.read_map_kpa),
            self.pulse_ms,
            self.battery_v + 0.02 * noise[4],
            self.valve_pct,
            self.spark_deg,
            self.rail_kpa + 0.8 * noise[5],
            0.0,
            float(
                self.turning_since_s is not None
                and time_s - self.turning_since_s >= self.truth.sync_delay_s
            ),
        )

"""What a bench engine truly needs at a coolant temperature: held there, mixture and idle in closed loop.

The truth against which measured cells are counted. Nothing of the judgement is in it: the engine's own
physics stands at one temperature until loops of its own have found fuel and air.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from inbetrieb_core.bench import BenchEngine, StartConditions
from inbetrieb_core.bench.controller import Controller
from inbetrieb_core.bench.plant import Plant
from inbetrieb_core.charge.fading import StartFading
from inbetrieb_core.engine import EngineSpec
from inbetrieb_core.tables import Calibration

_SETTLES_S, _READ_S = 25.0, 10.0
#: Speed of the two loops: mixture [%/s for one lambda], air [%/s for 100 rpm].
_FUEL_GAIN, _AIR_GAIN = 40.0, 2.0


@dataclass(frozen=True)
class HeldNeed:
    """What one temperature needs: fuel ÷ fuel given by the tables [–], idle valve [%]; and where it idles.

    Speed and pressure there [1/min, kPa] say which place of the fuel map counts.
    """

    fuel: float
    valve_pct: float
    rpm: float
    map_kpa: float


class _Opened(Controller):
    """A controller whose idle valve stands where a loop outside puts it."""

    opening_pct = 30.0

    def valve_pct(self, rpm: float, coolant_c: float, time_s: float, dt_s: float) -> float:
        """Return the opening. [%] (`rpm` [1/min], `coolant_c` [°C], `time_s`, `dt_s` [s] do not matter)"""
        return self.opening_pct


class _Standing(Plant):
    """An idling engine whose coolant stays where it is put; its loops are its own."""

    correction = 1.0

    def controller_of(
        self, spec: EngineSpec, calibration: Calibration, fading: StartFading
    ) -> _Opened:
        """Return a controller with its valve held. (`spec`, `calibration`, `fading`: see the class)"""
        return _Opened(spec, calibration, idle_trim=False, fading=fading)

    def injected_g(self, pulse_ms: float) -> float:
        """Return the fuel of one event, its open time, `pulse_ms`, corrected. [ms → g]"""
        entered = self.controller.dead_time_ms(self.battery_v)
        return super().injected_g((pulse_ms - entered) * self.correction + entered)


def held_need(
    engine: BenchEngine, spec: EngineSpec, calibration: Calibration, coolant_c: float
) -> HeldNeed | None:
    """Return what the engine needs at a coolant temperature [°C], None where it does not idle."""
    plant = _Standing(
        engine, spec, calibration, StartConditions(coolant_c, min(coolant_c, 20.0), 1), ()
    )
    controller = plant.controller
    controller.state.running_since_s = -1000.0  # every start enrichment has faded
    plant.rail_kpa, plant.battery_v = plant.hardware.rail_pressure_kpa, 14.1
    target = calibration.at_coolant("idle_target", coolant_c)
    plant.rpm = plant.timed_rpm = target
    controller.opening_pct = calibration.at_coolant("idle_valve", coolant_c)
    fuel, valve = [], []
    while plant.time_s < _SETTLES_S + _READ_S:
        plant.coolant_c = coolant_c
        before = plant.time_s
        plant.event()
        step = plant.time_s - before
        wanted = controller.lambda_target(plant.rpm, plant.map_kpa)
        off = _FUEL_GAIN / 100.0 * (plant.sensed_lambda - wanted) * step
        plant.correction = float(np.clip(plant.correction + off, 0.4, 2.5))
        air = _AIR_GAIN * (target - plant.rpm) / 100.0 * step
        controller.opening_pct = float(np.clip(controller.opening_pct + air, 0.0, 100.0))
        if plant.time_s < _SETTLES_S:
            # Brought there, not started: it may not die before its loops have found what it needs.
            plant.rpm = max(plant.rpm, 0.9 * target)
        else:
            fuel.append(plant.correction)
            valve.append(controller.opening_pct)
    if not fuel or plant.rpm < 0.8 * target:
        return None
    return HeldNeed(float(np.median(fuel)), float(np.median(valve)), plant.rpm, plant.map_kpa)


#: Where needs are read; between them their logarithms run straight. [°C]
_GRID_C = (-18.0, -10.0, 0.0, 10.0, 20.0, 30.0, 40.0, 50.0, 60.0, 72.0, 85.0)


@dataclass(frozen=True)
class TrueCurves:
    """What is right over coolant temperature.

    Attributes
    ----------
    at_c, fuel, valve_pct : tuple of float
        Temperatures, warm-up enrichment times filling of the fuel map there [%²], idle valve.
        [°C, %², %]
    rpm, map_kpa : tuple of float
        Where the engine idles at each. [1/min, kPa]
    """

    at_c: tuple[float, ...]
    fuel: tuple[float, ...]
    valve_pct: tuple[float, ...]
    rpm: tuple[float, ...]
    map_kpa: tuple[float, ...]

    def need(self, key: str, coolant_c: float) -> float:
        """Return what is right of warm-up times filling [%²], or of the idle valve [%]."""
        values = self.valve_pct if key == "idle_valve" else self.fuel
        return float(np.exp(np.interp(coolant_c, self.at_c, np.log(values))))

    def given(self, key: str, calibration: Calibration, coolant_c: float) -> float:
        """Return what tables give of the same."""
        value = calibration.at_coolant(key, coolant_c)
        if key == "idle_valve":
            return value
        return value * self.filling(calibration, coolant_c)

    def filling(self, calibration: Calibration, coolant_c: float) -> float:
        """Return the fuel map where the engine idles at a temperature. [%]"""
        rpm, kpa = (float(np.interp(coolant_c, self.at_c, v)) for v in (self.rpm, self.map_kpa))
        return float(calibration["ve"].at_load(rpm, kpa, 0.0))


def true_curves(engine: BenchEngine, spec: EngineSpec, calibration: Calibration) -> TrueCurves:
    """Return what is right for an engine, found from where its tables stand."""
    found = [(c, held_need(engine, spec, calibration, c)) for c in _GRID_C]
    seen = [(c, need) for c, need in found if need is not None]
    fuel = [
        calibration.at_coolant("warm_up_enrichment", c)
        * float(calibration["ve"].at_load(need.rpm, need.map_kpa, 0.0))
        * need.fuel
        for c, need in seen
    ]
    return TrueCurves(
        tuple(c for c, _ in seen),
        tuple(fuel),
        tuple(need.valve_pct for _, need in seen),
        tuple(need.rpm for _, need in seen),
        tuple(need.map_kpa for _, need in seen),
    )

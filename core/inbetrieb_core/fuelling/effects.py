"""Causes under the bonnet as a drive shows them: what each of a size does to ln(need), and the test for it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..air import flow_function
from ..charge import speed_density_gps
from ..engine import EngineSpec
from ..injectors import across_injectors_kpa
from ..quantities import FloatArray, kelvin
from ..tables import Table
from .places import held_at, looked_up
from .samples import Readings

Key = Literal[
    "fuel-per-pulse", "dead-time", "map-sensor", "air-after-throttle", "supply-droop", "low-pressure",
    "charge-temperature", "wideband-offset", "misfire", "one-bank", "short-pulses",
]  # fmt: skip

_USUAL_INTAKE_C = 25.0
#: Net pulses below this are short: many injectors do not follow in proportion (common practice, no source). [ms]
_SHORT_MS = 1.2
#: No effect is computed better than to so much of a size. Air at one port makes its cylinder lean until it misfires, and
#: the oxygen that it leaves reads as more air: its width was set on drawn leaks of the simulated engines. [–]
_FORM, _FORM_OF_A_LEAK = 0.06, 0.3


@dataclass(frozen=True)
class View:
    """What effects are computed from: readings, the engine as entered, and the map in force."""

    readings: Readings
    spec: EngineSpec
    table: Table

    @property
    def is_metered(self) -> bool:
        """Whether the table is the curve of an air meter."""
        return self.table.key == "air_meter"

    @property
    def air_gps(self) -> FloatArray:
        """Air that the controller reckons with at each reading: by its meter, else by speed and density. [g/s]"""
        r = self.readings
        if self.is_metered:
            return held_at(self.table, r.row, r.column)
        intake = np.nan_to_num(r.intake_c, nan=_USUAL_INTAKE_C)
        return speed_density_gps(
            self.spec, looked_up(self.table, r.rpm, r.load), r.rpm, r.map_kpa, intake
        )


#: ln(need) that a cause of a size makes at each reading.
Effect = Callable[[float], FloatArray]


@dataclass(frozen=True)
class Kind:
    """A cause: wording, unit, width and expectation of its size, the least that matters, what it does, the test for it,
    what a size above and below none means in words, and how well a size is computed, in parts of it.
    """

    key: Key
    title: str
    unit: str
    spread: float
    expected: float
    least: float
    effect: Callable[[View], Effect | None]
    test: str
    senses: tuple[str, str] = ("", "")
    form: float = _FORM

    def sense(self, size: float) -> str:
        """Return what the sign of a size means, in words; empty where it needs none. [unit of the cause]"""
        return self.senses[size < 0.0]


def _log1p(part: FloatArray) -> FloatArray:
    return np.asarray(np.log(np.maximum(1.0 + part, 0.2)))


def _whole(view: View) -> Effect:
    ones = np.ones(len(view.readings))
    return lambda size: _log1p(size * ones)


def _dead_time(view: View) -> Effect | None:
    net = view.readings.net_ms
    if not np.isfinite(net).all() or np.ptp(1.0 / np.maximum(net, 0.2)) < 0.1:
        return None
    held = np.maximum(net, 0.2)
    return lambda size: -_log1p(-size / held)


def _short_pulses(view: View) -> Effect | None:
    net = view.readings.net_ms
    # Only where short pulses and plain ones were both driven does it differ from dead time.
    if not np.isfinite(net).all() or net.min() > _SHORT_MS or net.max() < 4.0 * _SHORT_MS:
        return None
    held = np.maximum(net, 0.2)
    # The needle flies without reaching its stop: what is missing dies away as the pulse grows.
    part = np.exp(-((held / _SHORT_MS) ** 2)) / held
    return lambda size: -_log1p(-size * part)


def _map_sensor(view: View) -> Effect | None:
    r = view.readings
    if (
        view.is_metered
        or view.table.by_throttle
        or not np.isfinite(r.map_kpa).all()
        or np.ptp(r.map_kpa) < 15.0
    ):
        return None
    read = np.log(looked_up(view.table, r.rpm, r.map_kpa) * np.maximum(r.map_kpa, 5.0))

    def effect(size: float) -> FloatArray:
        # What was read too low by this stood further right on the map, and held more air by itself.
        true = np.maximum(r.map_kpa + size, 5.0)
        return np.asarray(np.log(looked_up(view.table, r.rpm, true) * true) - read)

    return effect


def _leak(view: View) -> Effect | None:
    pressure = view.readings.map_kpa
    if not np.isfinite(pressure).all() or np.ptp(pressure) < 15.0:
        return None
    baro = view.spec.barometric_kpa
    choke = np.array([flow_function(float(p) / baro) for p in pressure])
    part = choke / np.maximum(view.air_gps, 0.3)
    return lambda size: _log1p(size * part)


def _droop(view: View) -> Effect | None:
    net = view.readings.net_ms
    if not np.isfinite(net).all() or np.isfinite(view.readings.fuel_kpa).mean() > 0.9:
        return None
    flow = net * view.readings.rpm
    top = float(flow.max())
    if top < 2.5 * float(flow.min()):
        return None
    part = (flow / top) ** 2
    return lambda size: -_log1p(-size * part)


def _rail(view: View) -> Effect | None:
    rail = view.readings.fuel_kpa
    if not np.isfinite(rail).all():
        return None
    spec, kpa = view.spec, view.readings.map_kpa
    wanted = np.full(rail.shape, spec.rail_pressure_kpa)
    across, meant = (
        across_injectors_kpa(
            r, kpa, wanted_kpa=spec.rail_pressure_kpa, barometric_kpa=spec.barometric_kpa,
            manifold_referenced=spec.manifold_referenced,
        )
        for r in (rail, wanted)
    )  # fmt: skip
    missing = -0.5 * np.log(np.maximum(across, 20.0) / np.maximum(meant, 20.0))
    return (lambda size: size * missing) if float(np.abs(missing).max()) > 0.01 else None


def _charge(view: View) -> Effect | None:
    intake = view.readings.intake_c
    if not np.isfinite(intake).all() or np.ptp(intake) < 12.0:
        return None
    middle = float(np.median(intake))
    apart = -(intake - middle) / kelvin(middle)
    return lambda size: size * apart


def _wideband(view: View) -> Effect | None:
    target = view.readings.target
    if np.ptp(target) < 0.08:
        return None
    return lambda size: -_log1p(-size / target)


KINDS: tuple[Kind, ...] = (
    Kind(
        "fuel-per-pulse", "fuel per pulse as a whole: injector flow, ethanol share, a constant pressure error, the wideband "
        "(its gain, or its offset at one mixture), or filling as a whole", "%", 0.25, 0.0, 0.08, _whole,
        "Read a gauge on the rail at idle and at 2500 rpm, test the fuel for ethanol, hold the wideband in free air: what is left "
        "is injector flow or filling. No log tells these apart.",
        ("too little fuel", "too much fuel"),
    ),
    Kind(
        "dead-time", "injector dead time", "ms", 0.35, 0.0, 0.1, _dead_time,
        "At warm idle switch lamps and fan on and off: the mixture moves with the voltage if it is dead time.",
        ("more than entered", "less than entered"),
    ),
    Kind(
        "short-pulses", "injectors that do not follow short pulses in proportion", "ms missing at the shortest", 0.2, 0.0, 0.06, _short_pulses,
        "Have them flowed at 1, 1.5, 2 and 4 ms, or raise the idle pulse by a lower rail pressure: dead time would show in all pulses.",
    ),
    Kind(
        "map-sensor", "offset of the manifold pressure sensor", "kPa", 5.0, 0.0, 2.0, _map_sensor,
        "With the engine at rest compare its reading with the air pressure of the place.",
        ("too low", "too high"),
    ),
    Kind(
        "air-after-throttle", "air at the ports, or an exhaust leak before the sensor: air that no sensor meters", "g/s", 0.8, 0.0, 0.3, _leak,
        "At warm idle pinch hoses and wet the gaskets with water, mind fan and belts: speed moves at a leak. If it does not, look "
        "for soot at the exhaust joints before the sensor.",
        form=_FORM_OF_A_LEAK,
    ),
    Kind(
        "supply-droop", "fuel supply that falls off with flow", "% at most flow", 0.2, 0.0, 0.04, _droop,
        "Log the rail pressure, or read a gauge, in a pull: it falls away if it is pump, filter or wire.",
    ),
    Kind(
        "low-pressure", "rail pressure that is not what is entered, as logged", "× what the pressure explains", 0.3, 1.0, 0.3, _rail,
        "Read a gauge on the rail against the log; then regulator, filter, pump and its voltage.",
    ),
    Kind(
        "charge-temperature", "charge temperature: the controller corrects too little or too much for it", "K for each K", 0.5, 0.0, 0.25, _charge,
        "Hold one point with cold and with hot intake air: only the temperature may differ.",
    ),
    Kind(
        "wideband-offset", "offset of the wideband", "lambda", 0.06, 0.0, 0.025, _wideband,
        "Hold the wideband in free air, then compare it with its own gauge at two mixtures.",
        ("too lean", "too rich"),
    ),
)  # fmt: skip

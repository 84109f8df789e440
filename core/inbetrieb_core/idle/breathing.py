"""How much an engine breathes at warm idle, from what is read of it and the fuel map in force."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

import numpy as np

from ..basemaps import filling_error
from ..bounds import out_of_bounds
from ..charge import speed_density_gps
from ..charge.charge_temperature import idle_charge_c
from ..engine import EngineSpec
from ..errors import InputRefused, LogRefused, field_refused
from ..quantities import FloatArray
from ..tables import Calibration
from .air import IdleAir, judge_idle_air
from .segment import longest_idle

_LEAST_S = 5.0
#: Taken for a warm engine where it was neither read nor logged (assumed). [°C, °C]
_INTAKE_C, _COOLANT_C = 25.0, 88.0


@dataclass(frozen=True)
class IdleReading:
    """What is read at warm idle; None where nobody looked.

    Attributes
    ----------
    rpm, map_kpa : float or None
        Speed, and absolute manifold pressure. [1/min, kPa]
    intake_c, coolant_c : float or None
        [°C]
    meter_gps, valve_gps, stop_gps : float or None
        By the air meter, through the idle valve, past the throttle stop. [g/s]
    """

    rpm: float | None = None
    map_kpa: float | None = None
    intake_c: float | None = None
    coolant_c: float | None = None
    meter_gps: float | None = None
    valve_gps: float | None = None
    stop_gps: float | None = None

    def or_else(self, other: IdleReading) -> IdleReading:
        """Return the reading, what nobody looked at taken from `other`."""
        gaps = {name: value for name, value in vars(other).items() if getattr(self, name) is None}
        return replace(self, **gaps)


def idle_reading(channels: Mapping[str, FloatArray]) -> IdleReading:
    """Return the middle of the idle in a log.

    Parameters
    ----------
    channels : mapping of str to ndarray
        Speed and manifold pressure; temperatures and the air meter where they were logged.

    Raises
    ------
    LogRefused
        If speed or pressure is missing, or it does not idle.
    """
    if not {"time_s", "rpm", "map_kpa"} <= set(channels):
        raise LogRefused("Idle air needs speed and manifold pressure in the log.")
    idle = longest_idle(channels, _LEAST_S)

    def middle(name: str) -> float | None:
        values = idle.get(name)
        known = None if values is None else values[np.isfinite(values)]
        return None if known is None or not known.size else float(np.median(known))

    return IdleReading(
        middle("rpm"),
        middle("map_kpa"),
        middle("intake_c"),
        middle("coolant_c"),
        middle("flow_gps"),
    )


def idle_air_of(spec: EngineSpec, calibration: Calibration, reading: IdleReading) -> IdleAir:
    """Return where the air of a warm idle comes from.

    Parameters
    ----------
    spec : EngineSpec
        The engine.
    calibration : Calibration
        Its fuel map is believed as far as its cells have been measured.
    reading : IdleReading
        Speed and pressure at least.

    Raises
    ------
    InputRefused
        If speed or pressure is missing, or a figure cannot be.
    """
    rpm, map_kpa = reading.rpm, reading.map_kpa
    if rpm is None or map_kpa is None:
        raise field_refused("rpm", "Speed and manifold pressure at warm idle are needed.")
    intake_c = _INTAKE_C if reading.intake_c is None else reading.intake_c
    coolant_c = _COOLANT_C if reading.coolant_c is None else reading.coolant_c
    checked = (
        out_of_bounds("rpm", rpm, 200.0, 4000.0, "rpm", "Idle speed"),
        out_of_bounds("map_kpa", map_kpa, 10.0, 120.0, "kPa", "Manifold pressure at idle"),
        out_of_bounds("intake_c", intake_c, -50.0, 120.0, "°C", "Intake air"),
        out_of_bounds("coolant_c", coolant_c, -50.0, 140.0, "°C", "Coolant"),
    )
    problems = [problem for problem in checked if problem is not None]
    if problems:
        raise InputRefused(problems)
    table = calibration["ve"]
    filling = table.at_load(rpm, map_kpa, 0.0)
    if table.by_throttle:
        filling *= spec.barometric_kpa / map_kpa  # its charge is held against a full one
    breathed = speed_density_gps(spec, filling, rpm, map_kpa, idle_charge_c(intake_c, coolant_c))
    return judge_idle_air(
        breathed,
        meter_gps=reading.meter_gps,
        valve_gps=reading.valve_gps,
        stop_gps=reading.stop_gps,
        filling_unsure=filling_error(calibration, [(rpm, map_kpa)]),
    )

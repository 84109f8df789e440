"""What a key-on check is told: the readings, and what is known without the sensors."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..air import standard_pressure_kpa
from ..errors import FieldProblem, InputRefused
from ..sentences import quantity

#: A stopped engine cools with about this time constant (assumed). [h]
COOLING_H = 2.5
_WARM_C = 90.0


@dataclass(frozen=True)
class KeyOnReading:
    """What the controller shows for one sensor with the key on and the engine at rest.

    Attributes
    ----------
    value : float or None
        Reading; of the throttle shut, of fuel pressure at the end of the prime. [unit]
    opened : float or None
        Throttle only: reading fully open. [%]
    """

    value: float | None
    opened: float | None = None


@dataclass(frozen=True)
class Circumstances:
    """What is known without the sensors.

    Attributes
    ----------
    ambient_c : float or None
        Temperature where the engine stands. [°C]
    barometric_kpa : float or None
        Of a weather station or barometer, not reduced to sea level. [kPa]
    altitude_m : float
        Of the place; gives the pressure by the standard atmosphere if it is not known. [m]
    soak_h : float or None
        Time since the engine last ran. [h]
    meter_v : float or None
        Battery voltage on a meter. [V]
    rail_kpa : float
        Rail pressure wanted at prime, gauge. [kPa]
    ethanol_pct : float
        In the tank, as far as it is known. [%]
    """

    ambient_c: float | None = None
    barometric_kpa: float | None = None
    altitude_m: float = 0.0
    soak_h: float | None = None
    meter_v: float | None = None
    rail_kpa: float = 300.0
    ethanol_pct: float = 0.0

    def __post_init__(self) -> None:
        bounds = {
            "ambient_c": (-50.0, 60.0, "Ambient temperature", "°C"),
            "barometric_kpa": (50.0, 110.0, "Air pressure", "kPa"),
            "altitude_m": (-500.0, 5000.0, "Altitude", "m"),
            "soak_h": (0.0, 10_000.0, "The time since the engine ran", "h"),
            "meter_v": (4.0, 18.0, "Battery voltage", "V"),
            "ethanol_pct": (0.0, 100.0, "The ethanol share", "%"),
        }
        problems = []
        for field, (low, high, name, unit) in bounds.items():
            value = getattr(self, field)
            if value is not None and not low <= value <= high:
                hint = ""
                if field == "barometric_kpa" and 500.0 <= value <= 1100.0:
                    hint = f" If {value:g} is hPa, enter {quantity(value / 10, 'kPa')}."
                sentence = f"{name} must be between {quantity(low, unit, bare=True)} and {quantity(high, unit)}, not {quantity(value, unit, bare=True)}.{hint}"
                problems.append(FieldProblem(field, sentence))
        if problems:
            raise InputRefused(problems)

    @property
    def air_kpa(self) -> float:
        """Air pressure: as measured, else of the standard atmosphere. [kPa]"""
        if self.barometric_kpa is not None:
            return self.barometric_kpa
        return standard_pressure_kpa(self.altitude_m)

    @property
    def air_from(self) -> str:
        """Where that pressure comes from, in words."""
        if self.barometric_kpa is not None:
            return "the barometer"
        return f"the standard atmosphere at {self.altitude_m:g} m"

    @property
    def left_over_k(self) -> float:
        """How much warmer than ambient the engine may still be. [K]"""
        if self.soak_h is None or self.ambient_c is None:
            return 0.0
        return max(0.0, _WARM_C - self.ambient_c) * math.exp(-self.soak_h / COOLING_H)

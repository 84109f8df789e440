"""What a sensor can be for: every function with its unit, its range and how it is judged."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

TransferKind = Literal["linear", "table", "thermistor", "frequency", "thermocouple"]


@dataclass(frozen=True)
class SensorFunction:
    """One function that a sensor can have on an engine.

    Attributes
    ----------
    key, title : str
        Identifier and wording.
    unit : str
        Unit of its reading.
    lower, upper : float
        What the quantity can be on an engine; a reading outside it is a fault. [unit]
    decimals : int
        Digits after the point worth showing. [–]
    transfers : tuple of str
        Kinds of transfer that make sense, the usual one first.
    working_points : tuple of float
        Readings at which the resolution matters. [unit]
    needed : {"always", "fitted"}
        Whether a first start needs it on every engine, or only where it is fitted.
    channel : str
        Its channel in logs.
    """

    key: str
    title: str
    unit: str
    lower: float
    upper: float
    decimals: int
    transfers: tuple[TransferKind, ...]
    working_points: tuple[float, ...]
    needed: Literal["always", "fitted"]
    channel: str


_VOLTS: tuple[TransferKind, ...] = ("linear", "table")
_TEMPERATURE: tuple[TransferKind, ...] = ("thermistor", "table", "linear")

FUNCTIONS: dict[str, SensorFunction] = {
    function.key: function
    for function in (
        SensorFunction(
            "throttle", "Throttle", "%", 0.0, 100.0, 1, _VOLTS,
            (0.0, 2.0, 25.0, 100.0), "always", "throttle_pct",
        ),
        SensorFunction(
            "manifold_pressure", "Manifold pressure", "kPa", 5.0, 500.0, 1, _VOLTS,
            (25.0, 40.0, 100.0, 200.0), "always", "map_kpa",
        ),
        SensorFunction(
            "barometric", "Barometric pressure", "kPa", 10.0, 115.0, 1, _VOLTS,
            (80.0, 100.0), "fitted", "barometric_kpa",
        ),
        SensorFunction(
            "coolant", "Coolant temperature", "°C", -40.0, 150.0, 1, _TEMPERATURE,
            (-20.0, 0.0, 20.0, 60.0, 90.0, 110.0), "always", "coolant_c",
        ),
        SensorFunction(
            "intake_air", "Intake air temperature", "°C", -40.0, 150.0, 1, _TEMPERATURE,
            (-20.0, 0.0, 20.0, 40.0, 80.0), "always", "intake_c",
        ),
        SensorFunction(
            "wideband", "Wideband lambda", "lambda", 0.5, 2.0, 3, _VOLTS,
            (0.75, 0.85, 1.0, 1.2), "fitted", "lambda",
        ),
        SensorFunction(
            "fuel_pressure", "Fuel pressure", "kPa", -20.0, 1200.0, 0, _VOLTS,
            (0.0, 300.0, 500.0), "fitted", "fuel_pressure_kpa",
        ),
        SensorFunction(
            "oil_pressure", "Oil pressure", "kPa", -20.0, 1200.0, 0, _VOLTS,
            (0.0, 100.0, 400.0), "fitted", "oil_pressure_kpa",
        ),
        SensorFunction(
            "oil_temperature", "Oil temperature", "°C", -40.0, 180.0, 1, _TEMPERATURE,
            (0.0, 20.0, 60.0, 100.0, 130.0), "fitted", "oil_c",
        ),
        SensorFunction(
            "fuel_level", "Fuel level", "l", 0.0, 500.0, 1, ("table", "linear"),
            (5.0, 20.0, 40.0), "fitted", "fuel_level_l",
        ),
        SensorFunction(
            "flexible_fuel", "Flexible fuel", "%", 0.0, 100.0, 1, ("frequency",),
            (0.0, 10.0, 85.0), "fitted", "ethanol_pct",
        ),
        SensorFunction(
            "exhaust_temperature", "Exhaust temperature", "°C", -40.0, 1200.0, 0,
            ("thermocouple", "linear", "table"), (20.0, 600.0, 900.0), "fitted", "exhaust_c",
        ),
        SensorFunction(
            "battery", "Battery voltage", "V", 0.0, 20.0, 2, ("linear",),
            (10.0, 12.6, 14.2), "always", "battery_v",
        ),
    )
}  # fmt: skip

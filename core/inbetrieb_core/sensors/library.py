"""Generic sensors that ship with the program: invented names, curves as such parts have them.

The curves are those of parts met every day (common practice, no source; values from memory).
None is a data sheet: they are marked assumed until the installer has measured a point.
"""

from __future__ import annotations

import math

from ..sentences import significant
from .entry import (
    FrequencyEntry,
    LinearEntry,
    SensorEntry,
    TableEntry,
    ThermistorEntry,
    ThermocoupleEntry,
    TransferEntry,
)

_NOTE = "Generic curve. Compare it with the part that is fitted."

#: A thermistor of 2.5 kΩ at 20 °C. (°C, Ω) (memory)
_MIDDLING_NTC = (
    (-40.0, 45_300.0), (-20.0, 15_460.0), (0.0, 5896.0), (20.0, 2500.0), (40.0, 1175.0),
    (60.0, 596.0), (80.0, 323.0), (100.0, 186.0), (120.0, 113.0), (140.0, 71.5),
)  # fmt: skip


def _ntc(at_25_ohm: float, beta_k: float) -> tuple[tuple[float, float], ...]:
    """Return three points of a Beta curve, rounded as a person would write them. [Ω, K]"""
    points = []
    for celsius in (-20.0, 25.0, 90.0):
        ohm = at_25_ohm * math.exp(beta_k * (1.0 / (celsius + 273.15) - 1.0 / 298.15))
        points.append((celsius, significant(ohm, 3)))
    return tuple(points)


def _pressure(full_kpa: float, zero_kpa: float = 0.0) -> LinearEntry:
    """Return a sensor that gives 0.5 V at its zero and 4.5 V at full pressure. [kPa]"""
    return LinearEntry("linear", ((0.5, zero_kpa), (4.5, full_kpa)))


def _thermistor(points: tuple[tuple[float, float], ...], pull_up: float = 2490.0) -> TransferEntry:
    return ThermistorEntry("thermistor", pull_up, points)


def _items() -> tuple[SensorEntry, ...]:
    items: list[tuple[str, str, TransferEntry]] = []
    for function in ("coolant", "intake_air", "oil_temperature"):
        items += [
            (function, "Two-wire thermistor, 2.5 kΩ at 20 °C", _thermistor(_MIDDLING_NTC)),
            (function, "Two-wire thermistor, 10 kΩ at 25 °C", _thermistor(_ntc(10_000.0, 3950.0))),
            (function, "Two-wire thermistor, 3 kΩ at 25 °C", _thermistor(_ntc(3000.0, 3980.0))),
        ]
    items += [
        ("throttle", "Potentiometer, three wires", LinearEntry("linear", ((0.55, 0.0), (4.3, 100.0)))),
        ("manifold_pressure", "1-bar sensor, 10 to 105 kPa", LinearEntry("linear", ((0.25, 10.0), (4.75, 105.0)))),
        ("manifold_pressure", "2.5-bar sensor, 20 to 250 kPa", LinearEntry("linear", ((0.4, 20.0), (4.65, 250.0)))),
        ("manifold_pressure", "3-bar sensor, 20 to 300 kPa", LinearEntry("linear", ((0.4, 20.0), (4.65, 300.0)))),
        ("manifold_pressure", "4-bar sensor, 20 to 400 kPa", LinearEntry("linear", ((0.4, 20.0), (4.65, 400.0)))),
        ("barometric", "Barometric sensor, 15 to 115 kPa", LinearEntry("linear", ((0.2, 15.0), (4.8, 115.0)))),
        ("wideband", "Wideband output, 0 V = 0.68, 5 V = 1.36", LinearEntry("linear", ((0.0, 0.68), (5.0, 1.36)))),
        ("wideband", "Wideband output, 0 V = 0.50, 5 V = 1.50", LinearEntry("linear", ((0.0, 0.5), (5.0, 1.5)))),
        ("fuel_pressure", "Pressure sensor, 0 to 1000 kPa gauge", _pressure(1000.0)),
        ("fuel_pressure", "Pressure sensor, 0 to 700 kPa gauge", _pressure(700.0)),
        ("oil_pressure", "Pressure sensor, 0 to 1000 kPa gauge", _pressure(1000.0)),
        ("fuel_level", "Float sender, 45 l tank", TableEntry("table", ((0.4, 45.0), (1.15, 30.0), (1.9, 17.0), (3.1, 0.0)))),
        ("flexible_fuel", "Fuel composition sensor, 50 to 150 Hz", FrequencyEntry("frequency", ((50.0, 0.0), (150.0, 100.0)))),
        ("exhaust_temperature", "Type K behind an amplifier, 0.1 V per mV", ThermocoupleEntry("thermocouple", 0.1)),
        ("exhaust_temperature", "Linearised amplifier, 4 mV per °C", LinearEntry("linear", None, 250.0, 0.0)),
        ("battery", "Battery input, 0 to 20 V", LinearEntry("linear", ((0.0, 0.0), (20.0, 20.0)))),
    ]  # fmt: skip
    return tuple(
        SensorEntry(function, name, transfer, "assumed", _NOTE)
        for function, name, transfer in items
    )


LIBRARY: tuple[SensorEntry, ...] = _items()

"""What can be pasted: the columns that are looked for, by purpose."""

from __future__ import annotations

import math
from dataclasses import dataclass


@dataclass(frozen=True)
class WantedColumn:
    """A column that is looked for in pasted text.

    Attributes
    ----------
    key, title : str
        Identifier and wording.
    dimension, unit : str
        Of :mod:`.quantities`; values come back in this unit. Both empty for a plain number.
    words : tuple of str
        Parts of a heading that mean this column, in lower case.
    lower, upper : float
        Between what its values lie; tells two columns apart that have no heading. [unit]
    usual : tuple of float
        The largest value usually lies between these; beside them another unit is asked for. [unit]
    otherwise : tuple of (str, float)
        Units that are mistaken for this one, and by what their values are multiplied. [–]
    """

    key: str
    title: str
    dimension: str
    unit: str
    words: tuple[str, ...]
    lower: float = -math.inf
    upper: float = math.inf
    usual: tuple[float, float] = (0.0, math.inf)
    otherwise: tuple[tuple[str, float], ...] = ()


_TEMPERATURE = WantedColumn(
    "temperature", "Temperature", "temperature", "degC", ("temp", "°c", "°f"), -75.0, 330.0
)
_RESISTANCE = WantedColumn(
    "resistance", "Resistance", "resistance", "ohm", ("res", "ohm", "ω"),
    usual=(300.0, 2e6), otherwise=(("kΩ", 1000.0), ("MΩ", 1e6)),
)  # fmt: skip
_VOLTAGE = WantedColumn(
    "voltage", "Voltage", "voltage", "V", ("volt", "batt", "supply"), 4.0, 20.0,
    usual=(6.0, 25.0), otherwise=(("mV", 0.001),),
)  # fmt: skip
_SIGNAL = WantedColumn(
    "signal", "Signal", "voltage", "V", ("signal", "volt", "output"), 0.0, 20.0,
    usual=(0.0, 30.0), otherwise=(("mV", 0.001),),
)  # fmt: skip
_PRESSURE = WantedColumn(
    "pressure", "Pressure", "pressure", "kPa", ("press", "kpa", "bar"),
    usual=(25.0, 20_000.0), otherwise=(("bar", 100.0), ("MPa", 1000.0), ("Pa", 0.001)),
)  # fmt: skip


def _plain(key: str, title: str, *words: str) -> WantedColumn:
    return WantedColumn(key, title, "", "", words)


#: Purpose of a table pasted for a sensor that reads in a unit.
_SIGNAL_PURPOSES = {
    "°C": "temperature_signal",
    "kPa": "pressure_signal",
    "l": "volume_signal",
}


def sensor_purpose(kind: str, unit: str) -> str:
    """Return which purpose a table has that is pasted for a sensor.

    Parameters
    ----------
    kind : str
        Of its transfer, such as "thermistor" or "linear".
    unit : str
        In which the sensor's function reads.
    """
    return "resistance" if kind == "thermistor" else _SIGNAL_PURPOSES.get(unit, "signal")


#: What can be pasted, by purpose.
PURPOSES: dict[str, tuple[WantedColumn, ...]] = {
    "resistance": (_TEMPERATURE, _RESISTANCE),
    "temperature_signal": (_SIGNAL, _TEMPERATURE),
    "pressure_signal": (_SIGNAL, _PRESSURE),
    "volume_signal": (
        _SIGNAL,
        _plain("volume", "Volume", "vol", "fill", "fuel", "lit"),
    ),
    "signal": (_SIGNAL, _plain("reading", "Reading", "read", "value", "lambda")),
    "dead_time": (
        _VOLTAGE,
        WantedColumn(
            "dead_time", "Dead time", "time", "ms", ("dead", "lat", "offset", "open"),
            usual=(0.1, 20.0), otherwise=(("µs", 0.001), ("s", 1000.0)),
        ),  # fmt: skip
    ),
    "dwell": (
        _VOLTAGE,
        WantedColumn(
            "dwell", "Dwell", "time", "ms", ("dwell", "charge", "time", "on"),
            usual=(0.5, 60.0), otherwise=(("µs", 0.001), ("s", 1000.0)),
        ),  # fmt: skip
    ),
    "flows": (_plain("flow", "Flow", "flow", "cm", "lb", "g/s"),),
    "pump": (
        _VOLTAGE,
        _PRESSURE,
        WantedColumn("flow", "Flow", "volume_flow", "l/h", ("flow", "l/h")),
    ),
    "prime": (WantedColumn("time", "Time", "time", "s", ("time", "sec")), _PRESSURE),
    "decay": (WantedColumn("time", "Time", "time", "minute", ("time", "min")), _PRESSURE),
    "pairs": (_plain("gauge", "Gauge", "gauge", "display"), _plain("log", "Log", "log", "contr")),
}  # fmt: skip

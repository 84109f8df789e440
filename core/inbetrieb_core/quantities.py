"""Units at the border: what a file or a person calls a unit, and conversion by pint.

User text is never given to pint's parser (an expression such as ``2**9**9`` would be
evaluated); it is looked up in the fixed table below.
"""

from __future__ import annotations

import functools
import re
import unicodedata
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from .errors import CoreError

if TYPE_CHECKING:
    import pint

FloatArray = NDArray[np.float64]

ZERO_CELSIUS_K = 273.15


def listed(values: FloatArray, digits: int) -> tuple[float | None, ...]:
    """Return numbers as they travel: rounded to so many digits, None where nothing is known. [unit kept]"""
    return tuple(round(float(v), digits) if np.isfinite(v) else None for v in values)


#: One pound-force per square inch. [kPa]
PSI_KPA = 6.894757293168

#: dimension -> {pint unit: spellings met in logs, tables and forms, in lower case}
_SPELLINGS: dict[str, dict[str, tuple[str, ...]]] = {
    "temperature": {
        "degC": ("c", "°c", "degc", "deg c", "celsius", "grad c", "gradc", "cel"),
        "degF": ("f", "°f", "degf", "deg f", "fahrenheit"),
        "kelvin": ("k", "kelvin", "°k"),
    },
    "pressure": {
        "kPa": ("kpa", "kilopascal", "kpaa", "kpa abs", "kpa(a)", "kpag"),
        "psi": ("psi", "psia", "psig", "lb/in2", "lbf/in2"),
        "megapascal": ("mpa", "megapascal"),
        "bar": ("bar", "bara", "barg", "bar abs"),
        "millibar": ("mbar", "mb", "hpa", "millibar"),
        "Pa": ("pa", "pascal"),
        "inHg": ("inhg", "in hg", "in.hg", '"hg'),
        "atm": ("atm",),
    },
    "time": {
        "s": ("s", "sec", "secs", "second", "seconds", "sek", "sekunden"),
        "ms": ("ms", "msec", "millis", "millisecond", "milliseconds", "millisekunden"),
        "us": ("us", "µs", "usec", "microsecond", "microseconds"),
        "minute": ("min", "minute", "minutes"),
    },
    "speed_of_rotation": {
        "rpm": ("rpm", "1/min", "min-1", "min^-1", "u/min", "r/min", "rev/min", "/min", "upm"),
        "hertz": ("hz", "1/s", "rev/s", "rps"),
        "rad/s": ("rad/s",),
    },
    "share": {
        "percent": ("%", "pct", "percent", "prozent", "%duty", "% duty"),
        "dimensionless": ("-", "1", "fraction", "ratio", "frac"),
    },
    "voltage": {"V": ("v", "volt", "volts"), "mV": ("mv", "millivolt")},
    "angle": {
        "degree": ("°", "deg", "degree", "degrees", "°btdc", "deg btdc", "°ca", "grad", "btdc"),
        "rad": ("rad",),
    },
    "road_speed": {
        "km/h": ("km/h", "kmh", "kph", "km/hr"),
        "mph": ("mph", "mi/h"),
        "m/s": ("m/s",),
    },
    "length": {"m": ("m", "metre", "metres", "meter", "meters"), "foot": ("ft", "feet", "foot")},
    "mass_flow": {
        "g/s": ("g/s", "gps", "g/sec"),
        "kg/h": ("kg/h", "kg/hr", "kgh"),
        "lb/min": ("lb/min", "lbs/min"),
        "lb/h": ("lb/h", "lb/hr", "lbs/hr", "lbs/h", "pph"),
    },
    "volume_flow": {
        "cm^3/min": ("cm3/min", "cm³/min", "cc/min", "ccm", "ml/min"),
        "l/h": ("l/h", "lph", "l/hr", "litre/h", "liter/h"),
        "l/min": ("l/min", "lpm"),
    },
    # A bare "l" would take the left bank for litres.
    "volume": {"litre": ("litre", "litres", "liter", "liters", "ltr")},
    "torque": {
        "newton*meter": ("nm", "n·m", "n m", "n*m", "newton metre", "newton meter"),
        "lbf*foot": (
            "lbft",
            "lb ft",
            "ft lb",
            "ftlb",
            "lb-ft",
            "ft-lb",
            "lbf ft",
            "ft lbf",
            "lb·ft",
        ),
    },
    "power": {
        "kW": ("kw", "kilowatt"),
        "horsepower": ("hp", "bhp", "whp"),
        "metric_horsepower": ("ps", "cv", "pk"),
    },
    "resistance": {
        "ohm": ("ohm", "ohms", "ω"),
        "kiloohm": (
            "kohm",
            "kohms",
            "kω",
            "k ohm",
            "k-ohm",
            "k-ohms",
            "k ω",
            "kilo ohm",
            "kiloohm",
            "kiloohms",
        ),
        "megaohm": ("mohm", "mω", "megaohm"),
    },
    "mixture": {
        "lambda": ("lambda", "λ", "la", "lam", "phi-1"),
        "air_fuel_ratio": ("afr", "a/f", "air/fuel", ":1", "l:k"),
        "equivalence_ratio": ("phi", "eq", "eqr", "equivalence ratio", "fuel-air"),
    },
}

_BY_SPELLING: dict[str, tuple[str, str]] = {
    spelling: (dimension, unit)
    for dimension, units in _SPELLINGS.items()
    for unit, spellings in units.items()
    for spelling in spellings
}


#: How a unit is written for people where its name in the table is not that already.
_WRITTEN = {
    "degC": "°C", "degF": "°F", "kelvin": "K", "millibar": "mbar", "us": "µs", "minute": "min",
    "percent": "%", "dimensionless": "fraction", "degree": "°", "air_fuel_ratio": "AFR",
    "equivalence_ratio": "phi", "hertz": "Hz", "cm^3/min": "cm³/min", "ohm": "Ω",
    "kiloohm": "kΩ", "megaohm": "MΩ", "megapascal": "MPa", "litre": "litre", "foot": "ft", "newton*meter": "N·m", "lbf*foot": "lb·ft",
    "horsepower": "hp", "metric_horsepower": "PS",
}  # fmt: skip


def written_unit(unit: str) -> str:
    """Return a unit of the table as people write it; its spelling is recognised again."""
    return _WRITTEN.get(unit, unit)


def offered_units(dimension: str) -> tuple[str, ...]:
    """Return the units of a dimension as people write them; empty for none."""
    return tuple(written_unit(unit) for unit in _SPELLINGS.get(dimension, {}))


class UnknownUnitError(CoreError):
    """A unit name is not in the table of known spellings."""


@functools.cache
def _registry() -> pint.UnitRegistry[float]:
    import pint  # half a second to import and build: only when a conversion needs it

    registry: pint.UnitRegistry[float] = pint.UnitRegistry()
    return registry


def normalise_unit(text: str) -> str:
    """Return a unit's text in the form in which the table of spellings holds it."""
    text = unicodedata.normalize("NFKC", text).strip().strip("[](){}").strip().lower()
    text = text.replace("º", "°").replace("μ", "µ")
    return re.sub(r"\s+", " ", text)


def recognise_unit(text: str) -> tuple[str, str] | None:
    """Return (dimension, unit name) of a spelling, or None where it is unknown."""
    return _BY_SPELLING.get(normalise_unit(text))


@functools.cache
def linear_conversion(from_unit: str, to_unit: str) -> tuple[float, float]:
    """Return (factor, offset) so that ``value · factor + offset`` is in `to_unit`.

    Raises
    ------
    UnknownUnitError
        If either unit is not one of the canonical names of the table, or they do not
        measure the same thing.
    """
    known = {unit for units in _SPELLINGS.values() for unit in units}
    if from_unit not in known or to_unit not in known:
        raise UnknownUnitError(f"no conversion known from '{from_unit}' to '{to_unit}'")
    if from_unit == to_unit:
        return 1.0, 0.0
    registry = _registry()
    try:
        at_zero = registry.Quantity(0.0, from_unit).to(to_unit).magnitude
        at_one = registry.Quantity(1.0, from_unit).to(to_unit).magnitude
    except Exception as error:  # pint's own errors share no base with ours
        raise UnknownUnitError(f"'{from_unit}' cannot be given in '{to_unit}'") from error
    return float(at_one - at_zero), float(at_zero)


def convert(value: float, from_unit: str, to_unit: str) -> float:
    """Convert a value [from_unit] between two units of the table, say ``degF`` to ``degC``."""
    factor, offset = linear_conversion(from_unit, to_unit)
    return value * factor + offset


def kelvin(celsius: float) -> float:
    """Return a temperature in kelvin.

    Parameters
    ----------
    celsius : float
        Temperature. [°C]
    """
    return celsius + ZERO_CELSIUS_K

"""Thermistors: resistance against temperature, and the divider that makes a voltage of it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np
from scipy.interpolate import PchipInterpolator
from scipy.optimize import brentq

from ..errors import field_refused
from ..quantities import ZERO_CELSIUS_K, kelvin
from ..sentences import quantity
from .points import Point, checked_points, monotone_direction
from .transfers import SignalUnit

_COLDEST_C, _HOTTEST_C = -70.0, 320.0
_FIELD = "transfer.points"


class ResistanceCurve(Protocol):
    """Resistance against temperature."""

    def temperature_c(self, resistance_ohm: float) -> float:
        """Return the temperature at a resistance [Ω]. [°C]"""

    def resistance_ohm(self, temperature_c: float) -> float:
        """Return the resistance at a temperature. [Ω]"""


@dataclass(frozen=True)
class SteinhartHart:
    """1/T = a + b·ln R + c·(ln R)³.

    Attributes
    ----------
    a, b, c : float
        Coefficients for T in kelvin and R in ohm. [1/K]

    Raises
    ------
    InputRefused
        If resistance would not fall with temperature over the whole range of use.

    References
    ----------
    Steinhart & Hart, "Calibration curves for thermistors", Deep-Sea Research 15 (1968) 497–503.
    """

    a: float
    b: float
    c: float

    def __post_init__(self) -> None:
        if not all(math.isfinite(x) for x in (self.a, self.b, self.c)):
            raise field_refused(_FIELD, "These points do not make a thermistor curve.")
        # 1/T must rise with ln R wherever it is used: resistances of 1 Ω to 10 MΩ.
        least = self.b if self.c >= 0.0 else self.b + 3.0 * self.c * math.log(1e7) ** 2
        if not least > 0.0:
            raise field_refused(
                _FIELD,
                "These points do not lie on a thermistor's curve: resistance would not fall "
                "with temperature everywhere. Look for a typing error or a bad reading.",
            )

    def temperature_c(self, resistance_ohm: float) -> float:
        """Return the temperature at a resistance [Ω], held at −70 and 320 °C. [°C]"""
        log = math.log(min(max(resistance_ohm, 1e-3), 1e9))
        inverse = self.a + self.b * log + self.c * log**3
        coldest, hottest = 1.0 / kelvin(_COLDEST_C), 1.0 / kelvin(_HOTTEST_C)
        return 1.0 / min(max(inverse, hottest), coldest) - ZERO_CELSIUS_K

    def resistance_ohm(self, temperature_c: float) -> float:
        """Return the resistance at a temperature. [Ω]"""
        inverse = 1.0 / kelvin(min(max(temperature_c, _COLDEST_C), _HOTTEST_C))
        if self.c == 0.0:
            return math.exp((inverse - self.a) / self.b)
        # The cubic rises throughout, so that one real root exists.
        log = brentq(lambda x: self.a + self.b * x + self.c * x**3 - inverse, -12.0, 25.0)
        return math.exp(log)


def steinhart_hart(points: Sequence[Sequence[float]]) -> SteinhartHart:
    """Return the curve through three points of (temperature [°C], resistance [Ω]).

    Raises
    ------
    InputRefused
        If there are not exactly three usable points, or they do not make a falling curve.

    References
    ----------
    Steinhart & Hart (1968): three points make three linear equations for a, b and c.
    """
    ordered = resistance_points(points, 3)
    if len(ordered) != 3:
        raise field_refused(
            _FIELD, "Steinhart–Hart takes exactly three points; use a table for more."
        )
    if ordered[0][1] < ordered[-1][1]:
        raise field_refused(
            _FIELD,
            "Resistance rises with temperature here; the three-point curve is for thermistors, "
            "whose resistance falls. Swapped columns? Otherwise enter a table.",
        )
    logs = np.log([resistance for _, resistance in ordered])
    inverse = np.array([1.0 / kelvin(celsius) for celsius, _ in ordered])
    matrix = np.column_stack([np.ones(3), logs, logs**3])
    a, b, c = (float(x) for x in np.linalg.solve(matrix, inverse))
    return SteinhartHart(a, b, c)


def beta_curve(temperature_c: float, resistance_ohm: float, beta_k: float) -> SteinhartHart:
    """Return the curve R = R0·exp(β·(1/T − 1/T0)), which is Steinhart–Hart with c = 0.

    Parameters
    ----------
    temperature_c : float
        Where the resistance is given. [°C]
    resistance_ohm : float
        Resistance there. [Ω]
    beta_k : float
        Beta of the data sheet, 500 to 10 000. [K]

    Raises
    ------
    InputRefused
        If a number is not possible.
    """
    resistance_points([(temperature_c, resistance_ohm)], 1)
    if not 500.0 <= beta_k <= 10_000.0:
        raise field_refused(
            "transfer.beta_k", f"Beta must be between 500 and 10 000 K, not {beta_k:g}."
        )
    b = 1.0 / beta_k
    return SteinhartHart(1.0 / kelvin(temperature_c) - b * math.log(resistance_ohm), b, 0.0)


@dataclass(frozen=True)
class ResistanceTable:
    """A curve through a table of (temperature [°C], resistance [Ω]), 4 points or more.

    Between the points PCHIP of 1/T over ln R, which follows a thermistor closely and never
    overshoots; beyond them Steinhart–Hart's straight part, b·ln R, through the two end points.
    A sensor whose resistance rises (a metal one) is taken as well.
    """

    points: tuple[Point, ...]

    def __post_init__(self) -> None:
        ordered = resistance_points(self.points, 4)
        monotone_direction(ordered, _FIELD, "temperature", "resistance")
        object.__setattr__(self, "points", ordered)
        pairs = sorted((math.log(r), 1.0 / kelvin(t)) for t, r in ordered)
        object.__setattr__(self, "_pairs", pairs)
        curve = PchipInterpolator([p[0] for p in pairs], [p[1] for p in pairs])
        object.__setattr__(self, "_curve", curve)

    def temperature_c(self, resistance_ohm: float) -> float:
        """Return the temperature at a resistance [Ω], held at −70 and 320 °C. [°C]"""
        pairs: list[Point] = self._pairs  # type: ignore[attr-defined]
        log = math.log(min(max(resistance_ohm, 1e-3), 1e9))
        if log < pairs[0][0]:
            inverse = _along(pairs[0], pairs[1], log)
        elif log > pairs[-1][0]:
            inverse = _along(pairs[-2], pairs[-1], log)
        else:
            inverse = float(self._curve(log))  # type: ignore[attr-defined]
        coldest, hottest = 1.0 / kelvin(_COLDEST_C), 1.0 / kelvin(_HOTTEST_C)
        return 1.0 / min(max(inverse, hottest), coldest) - ZERO_CELSIUS_K

    def resistance_ohm(self, temperature_c: float) -> float:
        """Return the resistance at a temperature. [Ω]"""
        wanted = min(max(temperature_c, _COLDEST_C + 1.0), _HOTTEST_C - 1.0)
        low, high = math.log(1e-3), math.log(1e9)
        return math.exp(
            brentq(lambda log: self.temperature_c(math.exp(log)) - wanted, low, high, xtol=1e-10)
        )


def _along(first: Point, second: Point, at: float) -> float:
    slope = (second[1] - first[1]) / (second[0] - first[0])
    return first[1] + slope * (at - first[0])


def resistance_points(points: Sequence[Sequence[float]], least: int) -> tuple[Point, ...]:
    """Return checked (temperature [°C], resistance [Ω]) pairs, coldest first.

    Raises
    ------
    InputRefused
        If a resistance is not above 0, two are equal, or a temperature cannot be.
    """
    ordered = checked_points(points, _FIELD, least, "temperature", "resistance")
    seen: dict[float, float] = {}
    for celsius, ohm in ordered:
        if not ohm > 0.0:
            raise field_refused(
                _FIELD,
                f"At {quantity(celsius, '°C')} the resistance must be above 0 Ω, not {ohm:g}.",
            )
        if not _COLDEST_C <= celsius <= _HOTTEST_C:
            raise field_refused(
                _FIELD, f"{quantity(celsius, '°C')} is not a temperature an engine sensor sees."
            )
        if ohm in seen:
            raise field_refused(
                _FIELD,
                f"{ohm:g} Ω is given both at {quantity(seen[ohm], '°C')} and at {quantity(celsius, '°C')}: "
                "one of them is a typing error.",
            )
        seen[ohm] = celsius
    return ordered


def divider_v(resistance_ohm: float, pull_up_ohm: float, supply_v: float) -> float:
    """Return the voltage at an input: V = V_supply·R/(R + R_pull-up).

    Parameters
    ----------
    resistance_ohm : float
        Of the sensor. [Ω]
    pull_up_ohm : float
        From the input to the supply. [Ω]
    supply_v : float
        Supply of the pull-up. [V]
    """
    return supply_v * resistance_ohm / (resistance_ohm + pull_up_ohm)


def divider_ohm(signal_v: float, pull_up_ohm: float, supply_v: float) -> float:
    """Return the resistance behind a voltage: the inverse of :func:`divider_v`. [Ω]

    Parameters
    ----------
    signal_v, supply_v : float
        At the input, and of the pull-up. [V]
    pull_up_ohm : float
        From the input to the supply. [Ω]
    """
    share = min(max(signal_v / supply_v, 1e-6), 1.0 - 1e-6)
    return pull_up_ohm * share / (1.0 - share)


def check_pull_up(pull_up_ohm: float, supply_v: float) -> None:
    """Refuse a pull-up [Ω] or its supply [V] that cannot be."""
    if not 50.0 <= pull_up_ohm <= 1e6:
        hint = (
            " Without a pull-up the input sees no voltage from a two-wire sensor."
            if pull_up_ohm == 0
            else " Is it in kΩ?"
            if 0 < pull_up_ohm < 50
            else ""
        )
        raise field_refused(
            "transfer.pull_up_ohm",
            f"The pull-up resistor must be between 50 and 1 000 000 Ω, not {pull_up_ohm:g}.{hint}",
        )
    if not 3.0 <= supply_v <= 12.0:
        raise field_refused(
            "transfer.supply_v",
            f"The supply of the pull-up must be between 3 and 12 V, not {supply_v:g}.",
        )


@dataclass(frozen=True)
class Thermistor:
    """A two-wire temperature sensor behind a pull-up resistor.

    Attributes
    ----------
    curve : ResistanceCurve
        Resistance against temperature.
    pull_up_ohm : float
        Pull-up resistor, 50 to 1 000 000. [Ω]
    supply_v : float
        Its supply, 3 to 12. [V]
    data : tuple of (temperature [°C], resistance [Ω])
        What the curve was made from.

    Raises
    ------
    InputRefused
        If pull-up or supply cannot be.
    """

    curve: ResistanceCurve
    pull_up_ohm: float
    supply_v: float
    data: tuple[Point, ...]

    def __post_init__(self) -> None:
        check_pull_up(self.pull_up_ohm, self.supply_v)

    @property
    def signal_unit(self) -> SignalUnit:
        """Always a voltage."""
        return "V"

    def value(self, signal: float) -> float:
        """Return the temperature at the voltage `signal`. [V → °C]"""
        return self.curve.temperature_c(divider_ohm(signal, self.pull_up_ohm, self.supply_v))

    def signal(self, value: float) -> float:
        """Return the voltage at the temperature `value`. [°C → V]"""
        return divider_v(self.curve.resistance_ohm(value), self.pull_up_ohm, self.supply_v)

    @property
    def points(self) -> tuple[Point, ...]:
        """The data as (voltage [V], temperature [°C])."""
        return tuple(
            sorted((divider_v(r, self.pull_up_ohm, self.supply_v), t) for t, r in self.data)
        )

    @property
    def residuals(self) -> tuple[float, ...]:
        """Distance of each datum from one smooth thermistor curve through all. [K]

        The used curve goes through its points; this tells a datum that was typed wrong. With
        fewer than four data, or a metal sensor, there is nothing to compare: 0.
        """
        if len(self.data) < 4 or self.data[0][1] < self.data[-1][1]:
            return tuple(0.0 for _ in self.data)
        logs = np.log([r for _, r in self.data])
        kelvins = np.array([kelvin(t) for t, _ in self.data])
        # Least squares in 1/T, weighted so that every kelvin counts the same.
        weight = kelvins**2
        matrix = np.column_stack([np.ones_like(logs), logs, logs**3])
        solution = np.linalg.lstsq(matrix * weight[:, None], weight / kelvins, rcond=None)[0]
        smooth = 1.0 / (matrix @ solution) - kelvins
        order = np.argsort([divider_v(r, self.pull_up_ohm, self.supply_v) for _, r in self.data])
        return tuple(float(x) for x in smooth[order])

    @property
    def known(self) -> tuple[float, float]:
        """Lowest and highest voltage that the data cover. [V]

        A single datum with Beta covers the 25 to 85 °C for which Beta is usually given.
        """
        if len(self.data) == 1:
            ends = [self.signal(25.0), self.signal(85.0)]
        else:
            ends = [point[0] for point in self.points]
        return min(ends), max(ends)

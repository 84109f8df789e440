"""From a signal to a reading and back: straight line and monotone table.

A transfer is read by the sheets through the few names of :class:`Transfer`; the
thermistor and the thermocouple have files of their own.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, Protocol

import numpy as np
from scipy.interpolate import PchipInterpolator
from scipy.optimize import brentq

from ..errors import field_refused
from .points import Point, checked_points, monotone_direction

SignalUnit = Literal["V", "Hz"]


class Transfer(Protocol):
    """What every transfer can do.

    ``known`` is the range of signals that its data cover; outside it a reading is
    extrapolated. ``points`` are the entered (signal, reading) pairs, ``residuals`` the
    distance of the curve from each, in the unit of the reading.
    """

    @property
    def signal_unit(self) -> SignalUnit: ...
    @property
    def points(self) -> tuple[Point, ...]: ...
    @property
    def residuals(self) -> tuple[float, ...]: ...
    @property
    def known(self) -> tuple[float, float]: ...

    def value(self, signal: float) -> float:
        """Return the reading at `signal`. [V or Hz → unit of the reading]"""

    def signal(self, value: float) -> float:
        """Return the signal that gives `value`. [unit of the reading → V or Hz]"""


@dataclass(frozen=True)
class Linear:
    """A straight line: reading = offset + slope · signal.

    Attributes
    ----------
    slope : float
        [unit of the reading per V or Hz]
    offset : float
        Reading at signal 0. [unit of the reading]
    known : tuple of float
        Lowest and highest signal the data cover. [V or Hz]
    signal_unit : {"V", "Hz"}
    points, residuals
        Entered pairs and the line's distance from each.
    """

    slope: float
    offset: float
    known: tuple[float, float]
    signal_unit: SignalUnit = "V"
    points: tuple[Point, ...] = ()
    residuals: tuple[float, ...] = ()

    def value(self, signal: float) -> float:
        """Return the reading at `signal`. [V or Hz → unit of the reading]"""
        return self.offset + self.slope * signal

    def signal(self, value: float) -> float:
        """Return the signal that gives `value`. [unit of the reading → V or Hz]"""
        return (value - self.offset) / self.slope


def linear_from_points(points: Sequence[Sequence[float]], signal_unit: SignalUnit) -> Linear:
    """Return the line through two points, or the best one (least squares) through more.

    Raises
    ------
    InputRefused
        If there are fewer than two points, or the reading does not change with the signal.
    """
    ordered = checked_points(points, "transfer.points", 2, f"signal ({signal_unit})", "reading")
    signals = np.array([point[0] for point in ordered])
    values = np.array([point[1] for point in ordered])
    centre = float(signals.mean())
    slope = float(((signals - centre) * values).sum() / ((signals - centre) ** 2).sum())
    offset = float(values.mean() - slope * centre)
    _refuse_flat(slope, "transfer.points")
    residuals = tuple(float(offset + slope * s - v) for s, v in ordered)
    return Linear(
        slope, offset, (float(signals[0]), float(signals[-1])), signal_unit, ordered, residuals
    )


def linear_from_slope(
    slope: float, offset: float, signal_unit: SignalUnit, full_signal: float
) -> Linear:
    """Return a line as a data sheet gives it.

    Parameters
    ----------
    slope : float
        Change of the reading. [unit of the reading per V or Hz]
    offset : float
        Reading at signal 0. [unit of the reading]
    signal_unit : {"V", "Hz"}
    full_signal : float
        Largest signal it holds for. [V or Hz]

    Raises
    ------
    InputRefused
        If a number is not finite, or the slope is 0.
    """
    if not (math.isfinite(slope) and math.isfinite(offset)):
        raise field_refused("transfer.slope", "Slope and offset must be plain numbers.")
    _refuse_flat(slope, "transfer.slope")
    return Linear(slope, offset, (0.0, full_signal), signal_unit)


def _refuse_flat(slope: float, field: str) -> None:
    if abs(slope) < 1e-12:
        raise field_refused(
            field, "The reading does not change with the signal: two readings are equal."
        )


@dataclass(frozen=True)
class Table:
    """A monotone curve through points (PCHIP: it never overshoots), ends held.

    Attributes
    ----------
    points : tuple of (signal, reading)
        At least 2, signals rising, readings rising or falling throughout.
    signal_unit : {"V", "Hz"}

    Raises
    ------
    InputRefused
        If the points are not as described.
    """

    points: tuple[Point, ...]
    signal_unit: SignalUnit = "V"

    def __post_init__(self) -> None:
        name = f"signal ({self.signal_unit})"
        ordered = checked_points(self.points, "transfer.points", 2, name, "reading")
        monotone_direction(ordered, "transfer.points", name, "reading")
        object.__setattr__(self, "points", ordered)
        curve = PchipInterpolator([p[0] for p in ordered], [p[1] for p in ordered])
        object.__setattr__(self, "_curve", curve)

    @property
    def known(self) -> tuple[float, float]:
        """Lowest and highest signal of the points. [V or Hz]"""
        return self.points[0][0], self.points[-1][0]

    @property
    def residuals(self) -> tuple[float, ...]:
        """Always 0: the curve goes through its points. [unit of the reading]"""
        return tuple(0.0 for _ in self.points)

    def value(self, signal: float) -> float:
        """Return the reading at `signal` [V or Hz]; beyond the points the end holds."""
        low, high = self.known
        return float(self._curve(min(max(signal, low), high)))  # type: ignore[attr-defined]

    def signal(self, value: float) -> float:
        """Return the signal that gives `value` [unit of the reading]; beyond the ends, that of the end."""
        low, high = self.known
        ends = self.points[0][1], self.points[-1][1]
        if value <= min(ends):
            return low if ends[0] < ends[1] else high
        if value >= max(ends):
            return high if ends[0] < ends[1] else low
        return float(brentq(lambda s: self.value(s) - value, low, high, xtol=1e-9))

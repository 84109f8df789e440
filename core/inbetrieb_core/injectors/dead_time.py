"""Dead time against battery voltage, and against pressure where it is known."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.interpolate import PchipInterpolator

from ..errors import CoreError

DeadTimeOrigin = Literal["data", "interpolated", "held", "extrapolated"]


@dataclass(frozen=True)
class DeadTimeCurve:
    """Dead time of an injector against battery voltage.

    Attributes
    ----------
    voltage_v : tuple of float
        Rising. [V]
    dead_time_ms : tuple of float
        Dead time at each voltage, above or equal 0. [ms]

    Raises
    ------
    CoreError
        If lengths differ, voltages do not rise, or a value is not finite or negative.
    """

    voltage_v: tuple[float, ...]
    dead_time_ms: tuple[float, ...]

    def __post_init__(self) -> None:
        if len(self.voltage_v) != len(self.dead_time_ms) or not self.voltage_v:
            raise CoreError("dead time needs one value for each voltage, at least one pair")
        values = np.array([self.voltage_v, self.dead_time_ms], dtype=float)
        if not np.isfinite(values).all() or (values[1] < 0).any():
            raise CoreError("dead time and voltage must be finite numbers, dead time not negative")
        if (np.diff(values[0]) <= 0).any():
            raise CoreError("the voltages of the dead-time curve must rise from point to point")

    def rising_points(self) -> tuple[float, ...]:
        """Return the voltages at which dead time rises with voltage, which no injector does. [V]"""
        return tuple(
            self.voltage_v[i + 1]
            for i in range(len(self.voltage_v) - 1)
            if self.dead_time_ms[i + 1] > self.dead_time_ms[i]
        )

    def on_axis(
        self, axis_v: tuple[float, ...]
    ) -> tuple[tuple[float, ...], tuple[DeadTimeOrigin, ...]]:
        """Return the dead time at other voltages, each with how it was obtained.

        Parameters
        ----------
        axis_v : tuple of float
            The controller's own axis. [V]

        Returns
        -------
        values : tuple of float
            Dead time. [ms]
        origins : tuple of str
            ``data``, ``interpolated`` (PCHIP: shape-preserving), ``extrapolated`` (a + b/V
            through the two nearest points, not below zero) or ``held`` (where that would
            rise with voltage, or only one point is known).
        """
        volts = np.array(self.voltage_v)
        times = np.array(self.dead_time_ms)
        inside = PchipInterpolator(volts, times) if len(volts) > 1 else None
        values: list[float] = []
        origins: list[DeadTimeOrigin] = []
        for volt in axis_v:
            match = np.flatnonzero(np.isclose(volts, volt, rtol=0.0, atol=1e-9))
            if match.size:
                values.append(float(times[match[0]]))
                origins.append("data")
            elif inside is not None and volts[0] < volt < volts[-1]:
                values.append(float(inside(volt)))
                origins.append("interpolated")
            else:
                value, origin = _outside(volts, times, volt)
                values.append(value)
                origins.append(origin)
        return tuple(values), tuple(origins)


def _outside(volts: np.ndarray, times: np.ndarray, volt: float) -> tuple[float, DeadTimeOrigin]:
    """Return dead time beyond the data by a + b/V through the two nearest points."""
    low = volt < volts[0]
    held = float(times[0] if low else times[-1])
    if len(volts) < 2:
        return held, "held"
    first, second = (0, 1) if low else (-2, -1)
    slope = (times[second] - times[first]) / (1.0 / volts[second] - 1.0 / volts[first])
    value = times[first] + slope * (1.0 / volt - 1.0 / volts[first])
    if slope < 0.0:
        return held, "held"
    return float(max(value, 0.0)), "extrapolated"


#: A middling saturated port injector (assumed, no published source): used where no data
#: sheet is at hand, and marked so.
ASSUMED_DEAD_TIME = DeadTimeCurve((8.0, 10.0, 12.0, 14.0, 16.0), (2.45, 1.66, 1.20, 0.92, 0.74))


@dataclass(frozen=True)
class DeadTimeField:
    """Dead time against voltage at several pressures.

    Attributes
    ----------
    pressure_kpa : tuple of float
        Pressures across the injector, rising, 1 or more. [kPa]
    curves : tuple of DeadTimeCurve
        One curve for each pressure.

    Raises
    ------
    CoreError
        If lengths differ or the pressures do not rise.
    """

    pressure_kpa: tuple[float, ...]
    curves: tuple[DeadTimeCurve, ...]

    def __post_init__(self) -> None:
        if len(self.pressure_kpa) != len(self.curves) or not self.curves:
            raise CoreError("dead time needs one row for each pressure")
        steps = np.diff(np.array(self.pressure_kpa, dtype=float))
        if not np.isfinite(self.pressure_kpa).all() or (steps <= 0).any():
            raise CoreError("the pressures of the dead times must rise from row to row")

    def at_pressure(self, pressure_kpa: float) -> tuple[DeadTimeCurve, bool]:
        """Return the curve at a pressure [kPa], and whether it lies outside the data (held there).

        Between two pressures the dead times of each voltage are blended in a straight line.
        """
        known = self.pressure_kpa
        outside = not known[0] - 1e-9 <= pressure_kpa <= known[-1] + 1e-9
        held = min(max(pressure_kpa, known[0]), known[-1])
        right = min(int(np.searchsorted(known, held, side="left")), len(known) - 1)
        left = right if known[right] == held else right - 1
        if left == right:
            return self.curves[right], outside
        share = (held - known[left]) / (known[right] - known[left])
        volts = tuple(sorted({*self.curves[left].voltage_v, *self.curves[right].voltage_v}))
        low, high = self.curves[left].on_axis(volts)[0], self.curves[right].on_axis(volts)[0]
        return DeadTimeCurve(
            volts, tuple(a + share * (b - a) for a, b in zip(low, high, strict=True))
        ), outside

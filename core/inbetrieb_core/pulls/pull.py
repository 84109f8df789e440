"""A pull: full load through the speeds, every channel on one grid of speed, with what makes it doubtful."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..quantities import FloatArray

Origin = Literal["log", "dynamometer", "typed"]
TorqueKind = Literal["measured", "relative", "none"]

#: Grid of all pulls. [1/min]
STEP_RPM = 100.0
#: A pull spans so much at least. [1/min]
LEAST_SPAN_RPM = 1000.0
#: Doubt of a pull whose speed ran ahead of the car.
SLIPS = "Speed jumps ahead in it: wheels, belt or clutch slip."
CHANNELS = (
    "torque_nm", "map_kpa", "lambda", "lambda_target", "spark_deg", "knock_count", "knock_deg", "boost_duty_pct",
    "fuel_pressure_kpa", "intake_c", "coolant_c", "exhaust_c", "pulse_ms", "battery_v", "throttle_pct", "lambda_correction_pct",
    "cam_profile", "ethanol_pct", "boost_target_kpa",
)  # fmt: skip


#: Channels that are drawn over speed, each with the unit it is drawn in.
DRAWN = {
    "torque_nm": "N·m", "power_kw": "kW", "map_kpa": "kPa", "lambda": "", "spark_deg": "°", "fuel_pressure_kpa": "kPa",
    "intake_c": "°C", "exhaust_c": "°C", "knock_deg": "°",
}  # fmt: skip


@dataclass(frozen=True)
class PullRecord:
    """One pull.

    Attributes
    ----------
    rpm : tuple of float
        Middles of the bins. [1/min]
    values : dict of str to tuple of float or None
        Channels of :data:`CHANNELS`, each in its canonical unit; None where a bin has none.
    torque : {"measured", "relative", "none"}
        Whether torque is real, or only compares with pulls of the same car and gear.
    seconds : float
        It lasted. [s]
    origin : {"log", "dynamometer", "typed"}
    doubts : tuple of str
        What makes it doubtful, in sentences.
    """

    rpm: tuple[float, ...]
    values: dict[str, tuple[float | None, ...]]
    torque: TorqueKind
    seconds: float
    origin: Origin
    doubts: tuple[str, ...] = ()

    def channel(self, name: str) -> FloatArray:
        """Return a channel over :attr:`rpm`; NaN where it has none."""
        held = self.values.get(name)
        if held is None:
            return np.full(len(self.rpm), np.nan)
        return np.array([np.nan if v is None else v for v in held], dtype=float)

    @property
    def speed(self) -> FloatArray:
        """Speed of the bins. [1/min]"""
        return np.array(self.rpm)

    @property
    def power_kw(self) -> FloatArray:
        """Power, of the torque. [kW]"""
        return np.asarray(self.channel("torque_nm") * self.speed * np.pi / 30_000.0)

    @property
    def knock_events(self) -> FloatArray:
        """Knock events of each bin [–]; of a counter, which never falls, its steps, else the signal itself; NaN without one."""
        count = self.channel("knock_count")
        known = np.flatnonzero(np.isfinite(count))
        held = count[known]
        if len(held) < 3 or (np.diff(held) < 0.0).any():
            return count
        events = np.full(len(count), np.nan)
        # A bin without a reading hides no event: the next one shows all that came since.
        events[known] = np.diff(held, prepend=held[0])
        return events

    def peak(self, name: str) -> tuple[float, float] | None:
        """Return the greatest value of a channel and its speed [its unit, 1/min]; None without one."""
        values = self.power_kw if name == "power_kw" else self.channel(name)
        if not np.isfinite(values).any():
            return None
        place = int(np.nanargmax(values))
        return float(values[place]), self.rpm[place]


def binned(
    rpm: FloatArray, columns: Mapping[str, FloatArray], *, torque: TorqueKind, seconds: float, origin: Origin,
    doubts: tuple[str, ...] = (),
) -> PullRecord:  # fmt: skip
    """Return a pull of samples, each bin the mean of what fell into it.

    Parameters
    ----------
    rpm : ndarray
        Of the samples. [1/min]
    columns : mapping of str to ndarray
        Channels, as long as `rpm`.
    torque, origin, doubts
        As :class:`PullRecord`.
    seconds : float
        It lasted. [s]
    """
    bins = np.round(rpm / STEP_RPM).astype(int)
    first, last = int(bins.min()), int(bins.max())
    middles = np.arange(first, last + 1)
    values: dict[str, tuple[float | None, ...]] = {}
    for name in CHANNELS:
        column = columns.get(name)
        if column is None or not np.isfinite(column).any():
            continue
        known = np.isfinite(column)
        total = np.bincount(bins[known] - first, column[known], minlength=len(middles))
        count = np.bincount(bins[known] - first, minlength=len(middles))
        mean = np.where(count > 0, total / np.maximum(count, 1), np.nan)
        if name == "torque_nm":
            # Power of a bin is what was measured; a bin in between is its neighbours'.
            mean = _bridged(mean)
        values[name] = tuple(None if not np.isfinite(v) else round(float(v), 4) for v in mean)
    return PullRecord(
        tuple((middles * STEP_RPM).tolist()), values, torque, round(seconds, 2), origin, doubts
    )


def _bridged(values: FloatArray) -> FloatArray:
    """Fill single empty bins from both sides."""
    out = values.copy()
    for i in range(1, len(values) - 1):
        if np.isnan(values[i]) and np.isfinite(values[i - 1]) and np.isfinite(values[i + 1]):
            out[i] = 0.5 * (values[i - 1] + values[i + 1])
    return out

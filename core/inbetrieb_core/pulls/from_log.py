"""Pulls in a log: found by pedal and speed, their torque measured, or from how the car speeds up in one gear."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from ..errors import LogRefused, field_refused
from ..fuelling.delay import USUAL
from ..logs import Trace
from ..quantities import FloatArray
from .pull import CHANNELS, LEAST_SPAN_RPM, SLIPS, PullRecord, TorqueKind, binned

#: Pedal wide open, and how long mixture and walls take to settle after it opened. [%, s]
_OPEN_PCT, _SETTLES_S = 80.0, 0.5
#: Speed that falls by so much inside a pull is a gear change; a rise so much quicker than around it is spin. [1/min, –]
_FALLS_RPM, _SPINS = 120.0, 1.8
#: Speed over road speed may differ by so much within one gear. [–]
_ONE_RATIO = 0.04
_SMOOTH_S = 0.5
_LEAST_SAMPLES = 15
#: Shares of a mass that turn with it. (common practice, no source)
_TURNS_WITH_IT = 1.05


@dataclass(frozen=True)
class Vehicle:
    """What makes torque of a car's acceleration: approximate, for comparing.

    Attributes
    ----------
    mass_kg : float
        With driver. [kg]
    ratio : float
        Turns of the engine for one of the wheel, in the gear of the pulls. [–]
    tyre_m : float
        Rolling radius. [m]
    """

    mass_kg: float
    ratio: float
    tyre_m: float

    def check(self) -> Vehicle:
        """Return it once it can be.

        Raises
        ------
        InputRefused
            With a sentence.
        """
        for field, value, low, high, unit in (
            ("mass_kg", self.mass_kg, 50.0, 40_000.0, "kg"),
            ("ratio", self.ratio, 0.5, 60.0, ""),
            ("tyre_m", self.tyre_m, 0.1, 1.2, "m"),
        ):
            if not low <= value <= high:
                raise field_refused(
                    f"vehicle.{field}", f"{value:g} {unit} cannot be: {low:g} to {high:g} {unit}."
                )
        return self

    @property
    def inertia_kgm2(self) -> float:
        """What the engine turns, as it feels it. [kg·m²]"""
        return self.mass_kg * _TURNS_WITH_IT * (self.tyre_m / self.ratio) ** 2


@dataclass(frozen=True)
class PullStretch:
    """Where a pull lies in a log. [s]"""

    begin_s: float
    end_s: float
    from_rpm: float
    to_rpm: float


def find_pulls(trace: Trace) -> list[PullStretch]:
    """Return the pulls of a log, in their order; none where pedal or speed is missing."""
    rpm, pedal = trace.get("rpm"), trace.get("throttle_pct")
    if rpm is None or pedal is None:
        return []
    is_open = np.nan_to_num(pedal) >= _OPEN_PCT
    edges = np.flatnonzero(np.diff(np.concatenate([[0], is_open.astype(int), [0]])))
    found = []
    for first, last in zip(edges[::2], edges[1::2], strict=True):
        for a, b in _rises(rpm, int(first), int(last)):
            if rpm[b] - rpm[a] >= LEAST_SPAN_RPM and b - a >= _LEAST_SAMPLES:
                found.append(
                    PullStretch(
                        float(trace.time_s[a]), float(trace.time_s[b]), float(rpm[a]), float(rpm[b])
                    )
                )
    return found


def _rises(rpm: FloatArray, first: int, last: int) -> list[tuple[int, int]]:
    """Return the parts between two samples in which speed only rises: a gear change parts them."""
    known = np.flatnonzero(np.isfinite(rpm[first:last])) + first
    parts, begin, top = [], None, -np.inf
    for i in known.tolist():
        if begin is None:
            begin, top, top_at = i, rpm[i], i
        elif rpm[i] < top - _FALLS_RPM:
            parts.append((begin, top_at))
            begin, top, top_at = i, rpm[i], i
        elif rpm[i] < rpm[begin]:
            begin, top, top_at = i, rpm[i], i
        elif rpm[i] > top:
            top, top_at = rpm[i], i
    if begin is not None:
        parts.append((begin, top_at))
    return parts


def pull_of_log(trace: Trace, stretch: PullStretch, vehicle: Vehicle | None = None) -> PullRecord:
    """Return one pull of a log.

    Parameters
    ----------
    trace : Trace
    stretch : PullStretch
        Of :func:`find_pulls`, or chosen by hand.
    vehicle : Vehicle or None
        With it torque is approximate, without it only relative.

    Raises
    ------
    LogRefused
        If there is no speed, or too little of it.
    """
    rpm = trace.get("rpm")
    if rpm is None:
        raise LogRefused("A pull needs engine speed.")
    inside = (trace.time_s >= stretch.begin_s) & (trace.time_s <= stretch.end_s) & np.isfinite(rpm)
    if inside.sum() < _LEAST_SAMPLES or np.ptp(rpm[inside]) < LEAST_SPAN_RPM:
        raise LogRefused(
            f"A pull goes through {LEAST_SPAN_RPM:.0f} rpm at least, with {_LEAST_SAMPLES} samples or more."
        )
    time, speed = trace.time_s[inside], rpm[inside]
    doubts = _doubts(time, speed, _or_none(trace, "speed_kmh", inside))
    columns = {name: values[inside] for name in CHANNELS if (values := trace.get(name)) is not None}
    kind: TorqueKind = "measured"
    if "torque_nm" not in columns:
        power = _or_none(trace, "power_kw", inside)
        if power is not None:
            columns["torque_nm"] = power * 30_000.0 / np.pi / np.maximum(speed, 1.0)
        else:
            kind = "relative"
            columns["torque_nm"] = _from_rise(
                time, speed, 1.0 if vehicle is None else vehicle.inertia_kgm2
            )
    if "lambda" in columns:
        columns["lambda"] = _brought_back(trace, time, speed)
    settled = time >= time[0] + _SETTLES_S
    return binned(
        speed[settled], {name: values[settled] for name, values in columns.items()}, torque=kind,
        seconds=float(time[-1] - time[0]), origin="log", doubts=doubts,
    )  # fmt: skip


def _brought_back(trace: Trace, time: FloatArray, speed: FloatArray) -> FloatArray:
    """Return lambda of what burnt at each time: the sensor is late. [–]"""
    reading = trace["lambda"]
    known = np.isfinite(reading)
    return np.asarray(np.interp(time + USUAL.at(speed), trace.time_s[known], reading[known]))


def _or_none(trace: Trace, name: str, inside: np.ndarray) -> FloatArray | None:
    values = trace.get(name)
    return None if values is None or not np.isfinite(values[inside]).any() else values[inside]


def _rate(time: FloatArray, speed: FloatArray) -> FloatArray:
    """Return the rise of speed, smoothed. [1/min/s]"""
    even = np.linspace(time[0], time[-1], max(_LEAST_SAMPLES, len(time)))
    step = float(even[1] - even[0])
    width = max(5, round(_SMOOTH_S / step)) | 1
    width = min(width, (len(even) - 1) | 1 if len(even) % 2 == 0 else len(even))
    held = np.interp(even, time, speed)
    slope = scipy.signal.savgol_filter(
        held, width if width % 2 else width - 1, 2, deriv=1, delta=step
    )
    return np.asarray(np.interp(time, even, slope))


def _from_rise(time: FloatArray, speed: FloatArray, inertia_kgm2: float) -> FloatArray:
    """Return the torque that turns an inertia as quickly; losses are not in it. [N·m]"""
    return np.asarray(inertia_kgm2 * _rate(time, speed) * np.pi / 30.0)


def _doubts(time: FloatArray, speed: FloatArray, road: FloatArray | None) -> tuple[str, ...]:
    found = []
    rate = _rate(time, speed)
    middle = float(np.median(rate))
    inner = rate[len(rate) // 10 : -max(1, len(rate) // 10)]
    if (
        middle > 0.0
        and float(inner.max()) > _SPINS * middle
        and float(inner.max()) > _SPINS * float(np.quantile(inner, 0.85))
    ):
        found.append(SLIPS)
    if road is not None:
        moving = np.isfinite(road) & (road > 20.0)
        if moving.sum() > 10:
            ratio = speed[moving] / road[moving]
            if np.ptp(np.quantile(ratio, (0.05, 0.95))) > _ONE_RATIO * float(np.median(ratio)):
                found.append(
                    "Engine speed and road speed do not keep one ratio: two gears in it, or spin."
                )
    return tuple(found)

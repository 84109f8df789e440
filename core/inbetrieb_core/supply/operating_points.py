"""Steady warm operating points out of a log, for inferring injectors."""

from __future__ import annotations

import numpy as np

from ..errors import LogRefused
from ..injectors import OperatingPoint
from ..logs import Trace
from ..quantities import FloatArray

_NEEDED = ("rpm", "lambda", "lambda_target", "pulse_ms", "battery_v")
_WINDOW_S = 2.0
_WARM_C = 75.0
#: A window is steady if speed, pulse and lambda stray no more than this from their median.
_STEADY_SHARE = {"rpm": 0.03, "pulse_ms": 0.04, "lambda": 0.025}
#: Windows whose pulses are this near belong to one point.
_SAME_PULSE_SHARE = 0.06
_MOST_POINTS = 12
_SENSOR_ENDS = (0.655, 1.355)


def steady_points(trace: Trace) -> tuple[OperatingPoint, ...]:
    """Return the steady warm points of a log, shortest pulse first, 12 at most.

    A point is 2 s long or more: coolant above 75 °C, running, speed, pulse and lambda calm,
    lambda not at an end of its range. Points with nearly the same pulse are averaged, the
    longer weighing more.

    Raises
    ------
    LogRefused
        If a needed channel is missing or nothing in the log is steady and warm.
    """
    missing = [name for name in _NEEDED if trace.get(name) is None]
    if missing:
        raise LogRefused(f"To infer injectors the log needs {', '.join(missing)} too.")
    windows = _steady_windows(trace)
    if not windows:
        raise LogRefused(
            "Nothing in this log is steady and warm for two seconds with a usable lambda."
        )
    windows.sort(key=lambda w: w["pulse_ms"])
    groups: list[list[dict[str, float]]] = []
    for window in windows:
        if groups and window["pulse_ms"] < groups[-1][0]["pulse_ms"] * (1.0 + _SAME_PULSE_SHARE):
            groups[-1].append(window)
        else:
            groups.append([window])
    groups = sorted(groups, key=len, reverse=True)[:_MOST_POINTS]
    points = [_mean_point(group) for group in groups]
    return tuple(sorted(points, key=lambda p: p.pulse_ms))


def _steady_windows(trace: Trace) -> list[dict[str, float]]:
    time = trace.time_s
    coolant = trace.get("coolant_c")
    windows = []
    start = float(time[0])
    while start + _WINDOW_S <= float(time[-1]) + 1e-9:
        inside = (time >= start) & (time < start + _WINDOW_S)
        window = _window(trace, inside)
        warm = coolant is None or (
            inside.any() and float(np.nanmin(coolant[inside])) >= _WARM_C
        )  # fmt: skip
        if window is not None and warm:
            windows.append(window)
        start += _WINDOW_S
    return windows


def _window(trace: Trace, inside: np.ndarray) -> dict[str, float] | None:
    if inside.sum() < 5:
        return None
    medians: dict[str, float] = {}
    for name in (*_NEEDED, "map_kpa", "fuel_pressure_kpa", "lambda_correction_pct"):
        values: FloatArray | None = trace.get(name)
        if values is None:
            continue
        part = values[inside]
        if np.isfinite(part).sum() < 5:
            if name in _NEEDED:
                return None
            continue
        medians[name] = float(np.nanmedian(part))
        share = _STEADY_SHARE.get(name)
        if share is not None:
            spread = float(np.nanpercentile(part, 90) - np.nanpercentile(part, 10)) / 2.0
            if spread > share * abs(medians[name]):
                return None
    if medians["rpm"] < 400.0 or medians["pulse_ms"] <= 0.0:
        return None
    low, high = _SENSOR_ENDS
    return medians if low < medians["lambda"] < high else None


def _mean_point(group: list[dict[str, float]]) -> OperatingPoint:
    def mean(name: str) -> float | None:
        values = [window[name] for window in group if name in window]
        return float(np.mean(values)) if values else None

    def rounded(name: str, digits: int) -> float | None:
        value = mean(name)
        return None if value is None else round(value, digits)

    def certain(name: str) -> float:
        value = mean(name)
        assert value is not None  # the window was refused without it
        return value

    # Rounded as a log is read: far finer than any sensor.
    return OperatingPoint(
        round(certain("lambda"), 4),
        round(certain("lambda_target"), 4),
        round(certain("pulse_ms"), 3),
        round(certain("battery_v"), 2),
        round(mean("lambda_correction_pct") or 0.0, 2),
        rounded("fuel_pressure_kpa", 1),
        rounded("rpm", 0),
        rounded("map_kpa", 1),
    )

"""What a log holds, in a few figures: how long it runs, how much of it warm, starts and pulls in it."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..charge import WARM_C
from ..quantities import FloatArray
from .trace import Trace

#: Below the first it stands, above the second it runs. [1/min]
_STANDS_RPM, _RUNS_RPM = 60.0, 400.0
#: A pull: pedal wide open, speed rising by so much in one go. [%, 1/min]
_OPEN_PCT, _RISES_RPM = 80.0, 1200.0
#: A gap between samples longer than this is a pause. [s]
_PAUSE_S = 1.0
#: A place that was visited: a square of speed and load, and how long it was stood on. [1/min, kPa or %, s]
_PLACE_RPM, _PLACE_LOAD, _VISITED_S = 500.0, 10.0, 2.0


@dataclass(frozen=True)
class Holds:
    """What a log holds.

    Attributes
    ----------
    running_s, warm_s : float
        It runs, and runs warm. [s]
    starts, pulls : int
        Times it came to run from a standstill, and times it was pulled up with the pedal open.
    places : int or None
        Squares of 500 1/min and 10 kPa (10 % of throttle without a manifold pressure) that it ran warm on, for two
        seconds or more; None of logs of earlier versions.
    """

    running_s: float
    warm_s: float
    starts: int
    pulls: int
    places: int | None = None


def what_holds(trace: Trace) -> Holds:
    """Return what a log holds; nothing where speed is missing."""
    rpm = trace.get("rpm")
    if rpm is None:
        return Holds(0.0, 0.0, 0, 0, 0)
    steps = np.diff(trace.time_s, append=trace.time_s[-1])
    steps = np.where(steps > _PAUSE_S, 0.0, steps)
    runs = np.nan_to_num(rpm) > _RUNS_RPM
    coolant = trace.get("coolant_c")
    warm = runs & (np.nan_to_num(coolant) >= WARM_C) if coolant is not None else np.zeros_like(runs)
    return Holds(
        round(float(steps[runs].sum()), 1), round(float(steps[warm].sum()), 1), _starts(np.nan_to_num(rpm)),
        _pulls(rpm, trace.get("throttle_pct"), trace.time_s), _places(rpm, _load(trace), np.where(warm, steps, 0.0)),
    )  # fmt: skip


def _load(trace: Trace) -> FloatArray | None:
    pressure = trace.get("map_kpa")
    return trace.get("throttle_pct") if pressure is None else pressure


def _places(rpm: FloatArray, load: FloatArray | None, seconds: FloatArray) -> int:
    """Return how many squares of speed and load were stood on long enough."""
    if load is None:
        return 0
    known = np.isfinite(rpm) & np.isfinite(load) & (seconds > 0.0)
    squares = np.column_stack([rpm[known] // _PLACE_RPM, load[known] // _PLACE_LOAD])
    if not len(squares):
        return 0
    _, place = np.unique(squares, axis=0, return_inverse=True)
    return int((np.bincount(place.ravel(), seconds[known]) >= _VISITED_S).sum())


def _starts(rpm: FloatArray) -> int:
    """Return how often it came to run after it stood; one that runs from the first sample is none."""
    stood, count = False, 0
    for is_low, is_high in zip(
        (rpm < _STANDS_RPM).tolist(), (rpm > _RUNS_RPM).tolist(), strict=True
    ):
        if is_low:
            stood = True
        elif is_high and stood:
            stood, count = False, count + 1
    return count


def _pulls(rpm: FloatArray, throttle: FloatArray | None, time_s: FloatArray) -> int:
    if throttle is None:
        return 0
    is_open = np.nan_to_num(throttle) >= _OPEN_PCT
    edges = np.flatnonzero(np.diff(np.concatenate([[0], is_open.astype(int), [0]])))
    return sum(
        bool(np.nanmax(rpm[first:last]) - rpm[first] > _RISES_RPM)
        for first, last in zip(edges[::2], edges[1::2], strict=True)
        if np.isfinite(rpm[first]) and time_s[last - 1] - time_s[first] > 1.0
    )

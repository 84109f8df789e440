"""Where a valve stood still: its steps, each with the speed that it settled at."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from ..quantities import FloatArray

#: A valve that moves by less than this stands; it has to stand so long. [%, s]
_STANDS_PCT, _LEAST_S = 0.4, 0.8
#: The settled part of a step is its last share, at most so long. [–, s]
_LAST_SHARE, _LAST_S = 0.4, 2.5
#: A pause so many times longer than a step of the log parts two pieces. [–]
_BREAK_STEPS = 5.0
#: A ramp is read in pieces of this height. [%]
_PIECE_PCT = 2.5
#: Below this an engine has stalled. [1/min]
STALLED_RPM = 250.0


@dataclass(frozen=True)
class Plateau:
    """One step of a sweep.

    Attributes
    ----------
    duty_pct : float
        Of the valve. [%]
    rpm, scatter_rpm : float
        Settled speed, and its standard deviation there. [1/min]
    drift_rpm : float
        By which speed still moved over the settled part. [1/min]
    length_s : float
        [s]
    direction : {-1, 0, 1}
        From where it was reached: from above, unknown, from below.
    stalled : bool
    """

    duty_pct: float
    rpm: float
    scatter_rpm: float
    drift_rpm: float
    length_s: float
    direction: int
    stalled: bool


def plateaus_of(channels: Mapping[str, FloatArray]) -> tuple[Plateau, ...]:
    """Return the steps of a sweep, in time order; of a ramp its pieces.

    Parameters
    ----------
    channels : mapping of str to ndarray
        At least time_s, rpm and idle_valve_pct. [s, 1/min, %]
    """
    time, rpm, duty = (
        np.asarray(channels[k], dtype=float) for k in ("time_s", "rpm", "idle_valve_pct")
    )
    good = np.isfinite(time) & np.isfinite(rpm) & np.isfinite(duty)
    time, rpm, duty = time[good], rpm[good], duty[good]
    if time.size < 10:
        return ()
    bounds = _bounds(time, duty)
    found: list[Plateau] = []
    for begin, end in bounds:
        if end - begin < 4 or time[end - 1] - time[begin] < _LEAST_S:
            continue
        level = float(np.median(duty[begin:end]))
        before = found[-1].duty_pct if found else level
        direction = int(np.sign(round(level - before, 2)))
        if direction == 0 and found:
            direction = found[-1].direction
        length = float(time[end - 1] - time[begin])
        settled = time[begin:end] >= time[end - 1] - min(_LAST_SHARE * length, _LAST_S)
        speeds, at = rpm[begin:end][settled], time[begin:end][settled]
        half = max(1, speeds.size // 2)
        drift = float(np.mean(speeds[half:]) - np.mean(speeds[:half])) if speeds.size > 3 else 0.0
        stalled = float(np.min(rpm[begin:end])) < STALLED_RPM
        found.append(
            Plateau(level, float(np.median(speeds)), float(np.std(speeds - _line(at, speeds))), drift,
                    length, direction, stalled)
        )  # fmt: skip
    return tuple(found)


def _line(at: FloatArray, values: FloatArray) -> FloatArray:
    if values.size < 3:
        return np.full(values.size, values.mean())
    slope, offset = np.polyfit(at - at[0], values, 1)
    return np.asarray(slope * (at - at[0]) + offset)


def _bounds(time: FloatArray, duty: FloatArray) -> list[tuple[int, int]]:
    """Return where pieces of nearly one opening begin and end."""
    step = float(np.median(np.diff(time)))
    broken = np.concatenate([[False], np.diff(time) > _BREAK_STEPS * step])
    bounds, begin, centre = [], 0, float(duty[0])
    for i, (level, breaks) in enumerate(zip(duty.tolist(), broken.tolist(), strict=True)):
        if abs(level - centre) > _STANDS_PCT or breaks:
            bounds.append((begin, i))
            begin, centre = i, level
    bounds.append((begin, duty.size))
    long = [b for b in bounds if time[b[1] - 1] - time[b[0]] >= _LEAST_S]
    if len(long) >= 5:
        return long
    return _ramp_pieces(duty)


def _ramp_pieces(duty: FloatArray) -> list[tuple[int, int]]:
    """Return pieces of a ramp, each about as high as the others."""
    bounds, begin = [], 0
    for i in range(1, duty.size):
        if abs(duty[i] - duty[begin]) >= _PIECE_PCT:
            bounds.append((begin, i))
            begin = i
    bounds.append((begin, duty.size))
    return bounds

"""When the pedal is at rest: only then does speed tell of idle, and flare of cranking air."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..quantities import FloatArray
from .trace import Trace

BoolArray = NDArray[np.bool_]

#: Opening above rest that counts as a foot on the pedal, and how long speed hangs after it.
_MOVED_PCT, _NOISE_FACTOR, _HANGS_S = 1.5, 5.0, 2.0
#: A car that rolls does not idle.
_ROLLS_KMH = 3.0


def pedal_opening_pct(trace: Trace, crank_s: float | None) -> FloatArray | None:
    """Return the throttle opening above its rest, single odd samples left out. [%]

    Parameters
    ----------
    trace : Trace
        Log of one start.
    crank_s : float or None
        Where cranking begins. [s]

    Returns
    -------
    ndarray or None
        None where the throttle is not logged; a missing sample stays NaN.
    """
    throttle = trace.get("throttle_pct")
    if throttle is None:
        return None
    there = throttle[np.isfinite(throttle)]
    low = float(np.quantile(there, 0.1))
    if crank_s is not None:
        before = throttle[(trace.time_s < crank_s) & np.isfinite(throttle)]
        low = min(low, float(np.median(before))) if before.size else low
    return np.asarray(_middle_of_three(throttle) - low)


def pedal_rests(trace: Trace, crank_s: float | None) -> BoolArray:
    """Return where the engine is left alone: no pedal now or just before, and it does not roll.

    Parameters
    ----------
    trace : Trace
        Log of one start.
    crank_s : float or None
        Where cranking begins. [s]

    Returns
    -------
    ndarray of bool
        All True where neither throttle nor road speed is logged: then nothing speaks against it.
    """
    time = trace.time_s
    disturbed = np.zeros(time.shape, dtype=bool)
    opening = pedal_opening_pct(trace, crank_s)
    if opening is not None:
        disturbed |= np.nan_to_num(opening, nan=0.0) > moved_pct(opening)
    rolling = trace.get("speed_kmh")
    if rolling is not None:
        disturbed |= np.nan_to_num(rolling, nan=0.0) > _ROLLS_KMH
    for i in np.flatnonzero(disturbed & ~np.r_[disturbed[1:], False]):
        disturbed |= (time > time[i]) & (time <= time[i] + _HANGS_S)
    return ~disturbed


def moved_pct(opening: FloatArray) -> float:
    """Return the opening above which the pedal has moved, by the noise of the channel. [%]"""
    steps = np.abs(np.diff(opening[np.isfinite(opening)]))
    noise = float(np.median(steps)) if steps.size else 0.0
    return max(_MOVED_PCT, min(_NOISE_FACTOR * noise, 4.0))


def _middle_of_three(values: FloatArray) -> FloatArray:
    if values.size < 3:
        return values
    padded = np.pad(values, 1, mode="reflect")  # an odd end sample counts no more than others
    with np.errstate(invalid="ignore"):
        return np.asarray(np.median(np.stack([padded[:-2], values, padded[2:]]), axis=0))

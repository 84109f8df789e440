"""When a lambda reading counts: sensor alive, not saturated, exhaust delay passed."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..quantities import FloatArray
from .trace import Trace

BoolArray = NDArray[np.bool_]

#: From injection to reading at idle speeds (common practice: a good half second).
DELAY_S = 0.6
_PARKED_BAND = 0.012
_SETTLE_S = 1.0
_LEAN_END, _RICH_END = 1.33, 0.60


def usable_lambda(trace: Trace, run_s: float) -> tuple[BoolArray, float | None]:
    """Return which samples of lambda count, and from when.

    Parameters
    ----------
    trace : Trace
        Log of one start.
    run_s : float
        Time at which the engine ran. [s]

    Returns
    -------
    mask : ndarray of bool
        True where the reading counts; all False without a usable reading.
    from_s : float or None
        First time that counts. [s]

    Notes
    -----
    A cold sensor's channel is parked: it stays at one value whatever the engine does. It
    counts from one second after it has left that value for good. Readings at the lean or
    rich end of the sensor do not count, nor does a constant channel.
    """
    time = trace.time_s
    nothing = np.zeros(time.shape, dtype=bool)
    reading = trace.get("lambda")
    if reading is None:
        return nothing, None
    alive_s = _leaves_parking(time, reading, run_s)
    if alive_s is None:
        return nothing, None
    inside = (reading > _RICH_END) & (reading < _LEAN_END) & np.isfinite(reading)
    mask = inside & (time >= max(alive_s + _SETTLE_S, run_s + DELAY_S + 0.4))
    if mask.sum() < 3 or float(np.ptp(reading[mask])) == 0.0 and mask.sum() > 20:
        return nothing, None
    return mask, float(time[np.flatnonzero(mask)[0]])


def _leaves_parking(time: FloatArray, reading: FloatArray, run_s: float) -> float | None:
    """Return when the reading has left its parked value for good; None if it never does."""
    early = reading[(time <= run_s + 1.0) & np.isfinite(reading)]
    if early.size < 3:
        finite = np.flatnonzero(np.isfinite(reading))
        return float(time[finite[0]]) if finite.size else None
    parked = float(np.median(early))
    if float(np.mean(np.abs(early - parked) > _PARKED_BAND)) > 0.3:
        return float(time[0])  # it moves from the beginning: a sensor already hot
    away = np.abs(reading - parked) > _PARKED_BAND
    for i in np.flatnonzero(away & (time > time[0])):
        later = away[(time >= time[i]) & (time <= time[i] + 2.0)]
        if later.mean() >= 0.8:
            return float(time[i])
    return None


def fuel_need(trace: Trace, mask: BoolArray, target: FloatArray) -> FloatArray:
    """Return fuel needed over fuel given, sample by sample: λ / λ target · correction in force.

    Parameters
    ----------
    trace : Trace
        Log with lambda.
    mask : ndarray of bool
        Usable samples.
    target : ndarray
        Target of each sample. [–]

    Returns
    -------
    ndarray
        Above 1: lean, more fuel needed; NaN where lambda does not count. [–]
    """
    need = np.full(trace.time_s.shape, np.nan)
    correction = trace.get("lambda_correction_pct")
    factor = 1.0 if correction is None else 1.0 + np.nan_to_num(correction) / 100.0
    ratio = trace["lambda"] / target * factor
    need[mask] = ratio[mask]
    return need

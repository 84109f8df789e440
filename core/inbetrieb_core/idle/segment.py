"""Where a log idles: throttle shut, standing, at a speed of idle."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from ..errors import LogRefused
from ..quantities import FloatArray

#: Speeds of an idle, also of one that hunts. [1/min, 1/min]
_SLOWEST_RPM, _FASTEST_RPM = 250.0, 2200.0
#: The throttle is shut within this of where it mostly rests; a car stands below this. [%, km/h]
_SHUT_PCT, _STANDS_KMH = 2.0, 3.0
#: After a start idle counts from here on, at most so much of it is left out; else from here; below this it
#: was cranked, looked for so many samples before. [s, –, s, 1/min, –]
_SETTLES_S, _SETTLES_SHARE, _BEGINS_S, _CRANKS_RPM, _LOOKED_BACK = 20.0, 0.4, 2.0, 350.0, 40


def longest_idle(channels: Mapping[str, FloatArray], least_s: float) -> dict[str, FloatArray]:
    """Return the longest stretch of idle in a log, without the seconds in which it settles.

    Parameters
    ----------
    channels : mapping of str to ndarray
        At least time_s and rpm; throttle and road speed where they were logged. [s, 1/min, %, km/h]
    least_s : float
        How long it has to be. [s]

    Raises
    ------
    LogRefused
        If there is none so long.
    """
    time, rpm = channels["time_s"], channels["rpm"]
    runs, slow = np.isfinite(time) & (rpm > _SLOWEST_RPM), rpm < _FASTEST_RPM
    shut = stands = np.ones(len(time), dtype=bool)
    throttle, speed = channels.get("throttle_pct"), channels.get("speed_kmh")
    if throttle is not None and np.isfinite(throttle).any():
        shut = ~(throttle > float(np.nanquantile(throttle, 0.05)) + _SHUT_PCT)
    if speed is not None:
        stands = ~(speed > _STANDS_KMH)
    idles = runs & slow & shut & stands
    edges = np.flatnonzero(np.diff(np.concatenate([[0], idles.astype(int), [0]])))
    spans = zip(edges[::2], edges[1::2], strict=True)
    long = [(a, b) for a, b in spans if time[b - 1] - time[a] >= least_s]
    if not long:
        raise LogRefused(
            f"There is no idle of {least_s:.0f} s in this log{_instead(runs, slow, shut, stands)}."
        )
    a, b = max(long, key=lambda span: time[span[1] - 1] - time[span[0]])
    began = a > 0 and bool((rpm[max(0, a - _LOOKED_BACK) : a] < _CRANKS_RPM).any())
    length = time[b - 1] - time[a]
    skipped = min(_SETTLES_S, _SETTLES_SHARE * length) if began else _BEGINS_S
    after = a + int(np.searchsorted(time[a:b], time[a] + skipped))
    return {key: np.asarray(values[after:b], dtype=float) for key, values in channels.items()}


def _instead(
    runs: NDArray[np.bool_],
    slow: NDArray[np.bool_],
    shut: NDArray[np.bool_],
    stands: NDArray[np.bool_],
) -> str:
    """Return what most of a log without an idle does instead, and what to do."""
    if runs.mean() < 0.5:
        return ": most of the time it does not run"
    if (runs & shut & stands & ~slow).mean() > 0.5:
        return f": with the throttle shut it turns faster than {_FASTEST_RPM:.0f} 1/min, so the throttle stop, its return or a leak comes first"
    return " with the throttle shut, the car standing: let it idle longer"

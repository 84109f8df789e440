"""Where a running engine fell so low that its controller cranked it anew, and counts its after-start anew."""

from __future__ import annotations

import numpy as np

from ..logs.trace import Trace
from ..quantities import FloatArray

#: Below this share of the crank-to-run speed a controller goes back to cranking (common practice, no
#: source); between it and the speed itself only the pulse tells. [–]
_FALLS_BACK = 0.75
#: A pulse so much longer than those of the last seconds is a cranking pulse. [–, s]
_LONGER, _BEFORE_S = 1.4, 2.0


def cranked_anew_s(
    trace: Trace, run_s: float, end_s: float, crank_to_run_rpm: float
) -> tuple[float, ...]:
    """Return when an engine that had run, and fell to cranking, ran again. [s]

    Parameters
    ----------
    trace : Trace
        One start; needs ``rpm``.
    run_s, end_s : float
        When it first ran, and until when. [s]
    crank_to_run_rpm : float
        Speed at which the controller leaves cranking. [1/min]
    """
    time, speed = trace.time_s, np.nan_to_num(trace["rpm"], nan=crank_to_run_rpm)
    inside = (time > run_s) & (time < end_s)
    low = inside & (speed < crank_to_run_rpm)
    edges = np.flatnonzero(np.diff(np.r_[False, low, False].astype(int)))
    found = []
    for first, after in zip(edges[::2], edges[1::2], strict=True):
        if after >= time.size or time[after] >= end_s:
            continue  # it did not come back
        fell = float(speed[first:after].min()) < _FALLS_BACK * crank_to_run_rpm
        if fell or _pulse_jumps(time, trace.get("pulse_ms"), first, after, run_s):
            found.append(float(time[after]))
    return tuple(found)


def _pulse_jumps(
    time: FloatArray, pulse: FloatArray | None, first: int, after: int, run_s: float
) -> bool:
    """Say whether the pulse while low was longer than load explains: it is that of cranking."""
    if pulse is None:
        return False
    before = (time >= max(time[first] - _BEFORE_S, run_s)) & (time < time[first])
    if not before.any() or not np.isfinite(pulse[before]).any():
        return False
    here = pulse[first:after]
    here = here[np.isfinite(here)]
    return bool(here.size and here.max() > _LONGER * np.nanmax(pulse[before]))

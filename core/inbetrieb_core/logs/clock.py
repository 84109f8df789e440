"""A clock that was set while the log ran: its jumps are taken out where the engine shows them."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from ..errors import LogRefused
from ..quantities import FloatArray
from ..sentences import number

#: More jumps than this are no clock but a wrong column.
_MOST_JUMPS = 20
#: A jump forward is one of the clock from this length on; shorter ones are gaps in the log.
_SET_FORWARD_S = 30.0
#: How long a break is taken to be where nobody knows.
_BREAK_S = 5.0
_RUNS_RPM, _ALIKE, _ALIKE_K = 100.0, 0.15, 1.0


def continuous_clock(
    time: FloatArray, channels: Mapping[str, FloatArray], problems: list[str]
) -> FloatArray:
    """Return the time of every sample with jumps of the clock taken out.

    Parameters
    ----------
    time : ndarray
        As logged, every sample finite. [s]
    channels : mapping of str to ndarray
        Others of the log; speed and coolant tell whether the engine ran on through a jump.
    problems : list of str
        Is told what was done.

    Returns
    -------
    ndarray
        Rises from sample to sample, or repeats. [s]

    Raises
    ------
    LogRefused
        If time runs backwards so often that it is no clock.

    Notes
    -----
    Where the engine runs alike on both sides, the log goes on at its usual step. Where it does
    not, the parts are recordings of their own and a gap is left between them.
    """
    steps = np.diff(time)
    usual = float(np.median(steps[steps > 0])) if (steps > 0).any() else 0.0
    back = np.flatnonzero(steps < 0)
    if back.size > min(_MOST_JUMPS, max(1, time.size // 20)) or usual <= 0.0 < back.size:
        place = int(back[0])
        raise LogRefused(
            f"Time runs backwards in {back.size} place(s): first at sample {place + 2}, from "
            f"{number(float(time[place]))} s to {number(float(time[place + 1]))} s. Is it another "
            "column that holds the time?"
        )
    steps = steps.copy()
    for place in [int(i) for i in np.flatnonzero((steps < 0) | (steps > _SET_FORWARD_S))]:
        alike = _runs_alike(channels, place)
        if steps[place] > 0 and not alike:
            continue  # a pause of the logger
        jump = number(abs(float(steps[place])), 3)
        way = "back" if steps[place] < 0 else "forward"
        steps[place] = usual if alike else _BREAK_S
        problems.append(
            f"The clock jumps {way} by {jump} s after sample {place + 1}: "
            + (
                "the engine ran on, so the log is read on at its usual step."
                if alike
                else "a new recording begins there; how long after the last is not known."
            )
        )
    return np.asarray(np.r_[time[:1], time[0] + np.cumsum(steps)])


def _runs_alike(channels: Mapping[str, FloatArray], place: int) -> bool:
    """Say whether the engine runs on through a jump after a sample."""
    speed = channels.get("rpm")
    if speed is None:
        return False
    before, after = _beside(speed, place)
    if before is None or after is None:
        return False
    if max(before, after) < _RUNS_RPM:
        return before == after == 0.0 and _same_coolant(channels, place)
    near = abs(after - before) <= _ALIKE * max(before, after)
    return near and _same_coolant(channels, place)


def _same_coolant(channels: Mapping[str, FloatArray], place: int) -> bool:
    coolant = channels.get("coolant_c")
    if coolant is None:
        return True
    before, after = _beside(coolant, place)
    return before is None or after is None or abs(after - before) <= _ALIKE_K


def _beside(values: FloatArray, place: int) -> tuple[float | None, float | None]:
    """Return the nearest readable values before and after a jump."""
    earlier = values[max(0, place - 4) : place + 1]
    later = values[place + 1 : place + 6]
    earlier, later = earlier[np.isfinite(earlier)], later[np.isfinite(later)]
    return (
        float(earlier[-1]) if earlier.size else None,
        float(later[0]) if later.size else None,
    )

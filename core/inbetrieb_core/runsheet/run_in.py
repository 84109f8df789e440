"""The run-in clock: only time inside the band counts."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..errors import field_refused
from ..quantities import FloatArray

#: Usual for a flat-tappet cam (common practice, no source). [1/min, 1/min, s]
SPEED_RPM, BAND_RPM, LENGTH_S = 2500.0, 300.0, 1200.0
#: A gap between samples longer than this is a pause. [s]
_PAUSE_S = 2.0


@dataclass(frozen=True)
class RunIn:
    """How much of a run-in is done.

    Attributes
    ----------
    counted_s, outside_s, left_s : float
        Inside the band, running outside of it, and still to do. [s]
    done : bool
    sentence : str
    inside : bool
        Whether the newest sample is inside the band.
    """

    counted_s: float
    outside_s: float
    left_s: float
    done: bool
    sentence: str
    inside: bool = False


def run_in_of(
    time_s: FloatArray,
    rpm: FloatArray,
    *,
    speed_rpm: float = SPEED_RPM,
    band_rpm: float = BAND_RPM,
    length_s: float = LENGTH_S,
    before_s: float = 0.0,
    outside_before_s: float = 0.0,
) -> RunIn:
    """Return how much of a run-in a log holds.

    Parameters
    ----------
    time_s, rpm : ndarray
        Of the log; pauses in it do not count. [s, 1/min]
    speed_rpm, band_rpm, length_s : float
        Wanted, its width either way, and for how long. [1/min, 1/min, s]
    before_s, outside_before_s : float
        Already counted, and already run outside the band. [s]

    Raises
    ------
    InputRefused
        If what is wanted cannot be.
    """
    if not (
        1000.0 <= speed_rpm <= 5000.0 and 20.0 <= band_rpm <= 1000.0 and 10.0 <= length_s <= 7200.0
    ):
        raise field_refused(
            "speed_rpm", "A run-in is 1000 to 5000 rpm, ±20 to ±1000 rpm, up to two hours."
        )
    steps = np.diff(time_s)
    steps = np.where((steps > 0.0) & (steps <= _PAUSE_S), steps, 0.0)
    speed = rpm[1:]
    inside = np.abs(speed - speed_rpm) <= band_rpm
    counted = before_s + float(steps[inside].sum())
    outside = outside_before_s + float(steps[~inside & (speed > 300.0)].sum())
    left = max(0.0, length_s - counted)
    done = left <= 0.0
    sentence = (
        f"Run in: {counted / 60.0:.0f} min at {speed_rpm:.0f} ± {band_rpm:.0f} rpm."
        if done
        else f"{counted / 60.0:.1f} of {length_s / 60.0:.0f} min count; {outside / 60.0:.1f} min ran outside the band."
    )
    return RunIn(counted, outside, left, done, sentence, bool(len(inside) and inside[-1]))


class RunInClock:
    """A run-in counted on while its samples come."""

    def __init__(self) -> None:
        self._last: tuple[float, float] | None = None
        self._is_counting = False
        #: How much is done; None before it was begun.
        self.now: RunIn | None = None

    def switch(self, *, on: bool) -> None:
        """Count from now on, or pause."""
        self._is_counting = on
        if on and self.now is None:
            self.now = run_in_of(np.empty(0), np.empty(0))

    def count(self, time_s: FloatArray, rpm: FloatArray) -> None:
        """Take samples that follow those before, counted or not. [s, 1/min]"""
        if not len(time_s):
            return
        if self._is_counting and self.now is not None:
            first = [] if self._last is None else [self._last]
            times = np.array([*(at for at, _ in first), *time_s])
            speeds = np.array([*(speed for _, speed in first), *rpm])
            before = self.now
            self.now = run_in_of(
                times, speeds, before_s=before.counted_s, outside_before_s=before.outside_s
            )
        self._last = float(time_s[-1]), float(rpm[-1])

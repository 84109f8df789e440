"""Times of a counter that starts anew, carried on over the blocks of a file."""

from __future__ import annotations

import math

import numpy as np

from ..errors import LogRefused
from ..quantities import FloatArray

NO_TIME = "The times jump to and fro: this column is no time."
#: Counters start anew at these. [ticks]
_WRAPS = tuple(float(2**bits) for bits in (16, 20, 24, 31, 32, 40, 48))


class Counter:
    """Carries a column of times on where its counter starts anew.

    Attributes
    ----------
    wraps : int
        How often it started anew. [–]
    backward : int
        Rows out of order, which are left out. [–]
    ended : bool
        Whether another recording began, of which nothing is used.
    """

    def __init__(self) -> None:
        self.wraps = self.backward = 0
        self.ended = False
        self._lift, self._last_raw, self._step = 0.0, -math.inf, 0.0

    def carried_on(self, raw: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Return the times of the rows that are used, and which rows those are.

        A fall by nearly a power of two is a counter that starts anew; a small one is a row out
        of order; any other is the beginning of another recording.

        Parameters
        ----------
        raw : ndarray
            Next times as they stand in the file. [ticks]

        Raises
        ------
        LogRefused
            If they are no times at all.
        """
        before = np.concatenate([[self._last_raw], raw[:-1]])
        steps = raw - before
        rising = steps[(steps > 0) & np.isfinite(steps)]
        if rising.size:
            self._step = float(np.median(rising))
        lift = np.zeros(raw.size)
        used = np.ones(raw.size, dtype=bool)
        highest = self._last_raw
        drops = np.flatnonzero(steps < 0)
        if drops.size > max(100, raw.size // 2):
            raise LogRefused(NO_TIME)
        for i in drops:
            peak = max(highest, float(before[i]))
            wrap = next((w for w in _WRAPS if w > peak), None)
            gap = math.inf if wrap is None else raw[i] + wrap - before[i]
            if wrap is not None and gap <= max(200.0 * self._step, 0.02 * wrap):
                lift[i:] += wrap
                self.wraps += 1
            elif before[i] - raw[i] < 50.0 * max(self._step, 1e-12):
                used[i] = False
                self.backward += 1
                raw = raw.copy()
                raw[i] = before[i]
                if i + 1 < raw.size:
                    steps[i + 1] = raw[i + 1] - raw[i]
            else:  # another recording begins here
                self.ended = True
                raw, lift, used = raw[:i], lift[:i], used[:i]
                break
            highest = -math.inf
        if raw.size:
            self._last_raw = float(raw[-1])
        time = raw + lift + self._lift
        if lift.size:
            self._lift += float(lift[-1])
        full = np.zeros(before.size, dtype=bool)
        full[: used.size] = used
        return time[used], full

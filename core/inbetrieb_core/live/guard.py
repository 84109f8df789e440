"""What a live source sends, made fit to be kept: times rise, no flood, nothing that is no number."""

from __future__ import annotations

import numpy as np

from ..quantities import FloatArray

#: No more than so many samples of a second are kept. [1/s]
MOST_HZ = 30.0
#: A clock that steps back or ahead by more than this was set anew. [s]
_SET_ANEW_S, _AHEAD_S = 1.0, 3600.0
#: What came at once beyond this is dropped unread.
_MOST_AT_ONCE = 50_000


class Guard:
    """Lets samples in: hostile, broken and hurried sources included.

    Parameters
    ----------
    width : int
        Channels of a sample, time first.
    """

    def __init__(self, width: int) -> None:
        self._width = width
        self._shift_s = 0.0
        self._last_s: float | None = None
        #: Samples without a time, out of order, and too many; clocks that were set anew.
        self.without_time = self.out_of_order = self.too_many = self.clock_set = 0

    def take(self, rows: FloatArray) -> FloatArray:
        """Return the samples that are let in, times rising strictly, shape (samples, channels).

        Parameters
        ----------
        rows : ndarray
            As they came, shape (samples, channels); the first channel is time. [s]
        """
        rows = np.atleast_2d(np.asarray(rows, dtype=float))
        if rows.size == 0 or rows.shape[1] != self._width:
            return np.empty((0, self._width))
        if len(rows) > _MOST_AT_ONCE:
            self.too_many += len(rows) - _MOST_AT_ONCE
            rows = rows[-_MOST_AT_ONCE:]
        kept, times = [], []
        for number, time_s in enumerate(rows[:, 0].tolist()):
            at_s = self._placed(time_s)
            if at_s is not None:
                kept.append(number)
                times.append(at_s)
        found = rows[kept].copy()
        found[:, 0] = times
        found[~np.isfinite(found)] = np.nan
        return found

    def _placed(self, time_s: float) -> float | None:
        """Return the time of a sample on the session's own clock; None where it is not let in. [s]"""
        if not np.isfinite(time_s):
            self.without_time += 1
            return None
        at_s = time_s + self._shift_s
        if self._last_s is not None:
            step_s = at_s - self._last_s
            if step_s < -_SET_ANEW_S or step_s > _AHEAD_S:
                # The session's clock goes on where it stood; the samples keep their distances.
                self.clock_set += 1
                at_s = self._last_s + 1.0 / MOST_HZ
                self._shift_s = at_s - time_s
            elif step_s <= 0.0:
                self.out_of_order += 1
                return None
            elif step_s < 1.0 / MOST_HZ - 1e-6:
                self.too_many += 1
                return None
        self._last_s = at_s
        return at_s

    @property
    def problems(self) -> tuple[str, ...]:
        """What was wrong with the samples, in sentences."""
        told = (
            (self.without_time, "{} samples without a time were left out."),
            (self.out_of_order, "{} samples that came out of order were left out."),
            (
                self.too_many,
                f"{{}} samples beyond {MOST_HZ:.0f} a second were left out: a start needs no more.",
            ),
            (self.clock_set, "The clock of the source was set {} times; the times go on."),
        )
        return tuple(sentence.format(count) for count, sentence in told if count)

"""Rows of a session in memory: the newest for whoever watches, and those that no disk has taken yet."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from inbetrieb_core.quantities import FloatArray

#: Rows that are held for whoever watches, and at most while the disk takes none.
BUFFERED, MOST_UNKEPT = 4096, 60_000


class Rows:
    """Rows as they came, numbered from 0.

    Parameters
    ----------
    width : int
        Channels of a row, time first.
    """

    def __init__(self, width: int) -> None:
        self._buffer = np.empty((0, width))
        self._unkept = self._buffer
        #: Rows that came before the buffer; rows on the disk, and rows that were lost for want of room on it.
        self._before = self.kept = self.lost = 0

    @property
    def count(self) -> int:
        """Rows that came."""
        return self._before + len(self._buffer)

    @property
    def newest(self) -> FloatArray | None:
        """The newest row; None before the first."""
        return self._buffer[-1] if len(self._buffer) else None

    @property
    def held(self) -> FloatArray:
        """What is in memory, shape (rows, channels)."""
        return self._buffer

    def admit(self, rows: FloatArray) -> None:
        """Take rows that follow."""
        self._unkept = np.concatenate([self._unkept, rows])
        joined = np.concatenate([self._buffer, rows])
        over = max(0, len(joined) - BUFFERED)
        self._buffer = joined[over:].copy() if over else joined
        self._before += over

    def since(self, number: int) -> FloatArray | None:
        """Return the rows from a number on; None where they are not in memory any more."""
        return None if number < self._before else self._buffer[number - self._before :]

    def number_before(self, seconds: float) -> int:
        """Return the number of the first row at most so long before the newest. [s]"""
        if not len(self._buffer):
            return self.count
        times = self._buffer[:, 0]
        return self._before + int(np.searchsorted(times, times[-1] - seconds))

    def keep(self, write: Callable[[int, FloatArray], None]) -> None:
        """Have what is not on the disk yet written: `write` takes the number of its first row, and the rows.

        What it raises goes on to the caller; then as much stays as may wait, the newest of it.
        """
        if not len(self._unkept):
            return
        try:
            write(self.kept + self.lost, self._unkept)
        except BaseException:
            over = max(0, len(self._unkept) - MOST_UNKEPT)
            self.lost += over
            self._unkept = self._unkept[over:]
            raise
        self.kept += len(self._unkept)
        self._unkept = self._unkept[:0]

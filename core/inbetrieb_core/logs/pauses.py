"""Where samples that come live begin anew: the key was off."""

from __future__ import annotations

import numpy as np

from ..quantities import FloatArray

#: A pause is longer than so many usual steps, and than this. [–, s]
_STEPS, _LEAST_S = 4.0, 0.3


def after_newest_pause(time_s: FloatArray) -> int:
    """Return the index of the first sample after the newest pause; 0 without one.

    Parameters
    ----------
    time_s : ndarray
        Rising. [s]
    """
    steps = np.diff(time_s)
    if not len(steps):
        return 0
    pauses = np.flatnonzero(steps > max(_LEAST_S, _STEPS * float(np.median(steps))))
    return int(pauses[-1]) + 1 if len(pauses) else 0

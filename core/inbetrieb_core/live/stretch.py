"""Where in a session the newest start begins."""

from __future__ import annotations

import numpy as np

from ..logs import after_newest_pause
from ..quantities import FloatArray

#: Above this it turns. [1/min]
_TURNS_RPM = 40.0


def newest_start_s(time_s: FloatArray, rpm: FloatArray) -> float:
    """Return where the newest start of a session begins: at its key-on, or where it last came to rest. [s]

    Parameters
    ----------
    time_s, rpm : ndarray
        Of the session; at least one sample. [s, 1/min]
    """
    key_on = after_newest_pause(time_s)
    turns = np.nan_to_num(rpm[key_on:]) > _TURNS_RPM
    moving = np.flatnonzero(turns)
    if not len(moving):
        return float(time_s[key_on])
    # Back from the newest turning to where it last stood, and further to where that rest began.
    still = np.flatnonzero(~turns[: moving[-1]])
    if not len(still):
        return float(time_s[key_on])
    before = np.flatnonzero(turns[: still[-1]])
    return float(time_s[key_on + (int(before[-1]) + 1 if len(before) else 0)])

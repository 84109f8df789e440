"""A wheel read off its own edges: places counted between the gaps."""

from __future__ import annotations

from collections import Counter

import numpy as np

from ..quantities import FloatArray
from .wheel import MOST_EDGES, Wheel, toothed

#: So large a share of the turns must say the same.
_AGREED_SHARE = 0.6
_MOST_MISSING = 4
_LEAST_GAPS = 4


def measured_wheel(times_s: FloatArray) -> Wheel | None:
    """Return the even wheel with one gap that edges tell by themselves; None if they tell none.

    Parameters
    ----------
    times_s : ndarray
        Edges of the fast signal, rising. [s]

    Notes
    -----
    A step against the mean of the steps beside it: 1.5 to 2.5 times is one tooth missing, 2.5 to
    3.5 two, and so on. The places between two gaps are those of one turn; most turns must agree.
    """
    steps = np.diff(times_s)
    if steps.size < 8:
        return None
    ratio = steps[1:-1] / np.minimum(
        0.5 * (steps[:-2] + steps[2:]), np.maximum(steps[:-2], steps[2:])
    )
    missing = np.clip(np.round(ratio).astype(int) - 1, 0, 99)
    gaps = np.flatnonzero((ratio >= 1.5) & (missing >= 1)) + 1
    if gaps.size < _LEAST_GAPS:
        return None
    turns = Counter(
        (int(b - a) + int(missing[b - 1]), int(missing[b - 1]))
        for a, b in zip(gaps, gaps[1:], strict=False)
    )
    (places, gone), count = turns.most_common(1)[0]
    if count < _AGREED_SHARE * (gaps.size - 1) or not gone <= _MOST_MISSING < places <= MOST_EDGES:
        return None
    return toothed(f"{places}−{gone}", places, range(places - gone, places))

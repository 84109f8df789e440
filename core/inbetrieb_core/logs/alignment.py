"""Two logs side by side: by how much one clock is ahead of the other, found from what both saw."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
import scipy

from ..errors import LogRefused
from ..quantities import FloatArray
from ..sentences import fixed

#: Clock on which they are laid; least overlap of the shorter; agreement that counts, and so many times as telling as
#: any other shift further away than this. [s, –, –, –, s]
_STEP_S, _OVERLAP, _AGREES, _BETTER, _APART_S = 0.1, 0.3, 0.8, 1.35, 5.0
_MOST_SAMPLES = 400_000
_LEAST_S = 3.0


@dataclass(frozen=True)
class Alignment:
    """How two logs lie.

    Attributes
    ----------
    shift_s : float
        Added to the times of the second log. [s]
    agreement : float
        Correlation where they overlap then, −1 to 1. [–]
    is_told : bool
    sentence : str
    """

    shift_s: float
    agreement: float
    is_told: bool
    sentence: str


def align(
    first_s: FloatArray, first: FloatArray, second_s: FloatArray, second: FloatArray
) -> Alignment:  # fmt: skip
    """Return by how much the times of a second log are moved to lie on the first.

    Parameters
    ----------
    first_s, second_s : ndarray
        Times, rising. [s]
    first, second : ndarray
        The same quantity in both; NaN where missing. [any unit]

    Raises
    ------
    LogRefused
        If one is too short, or does not move.

    Notes
    -----
    The shift whose correlation over what overlaps tells most, each side with its own mean and spread there.
    """
    a, a_known = _even(first_s, first)
    b, b_known = _even(second_s, second)
    b, b_known = b[::-1], b_known[::-1]

    def slid(x: FloatArray, y: FloatArray) -> FloatArray:
        return np.asarray(scipy.signal.fftconvolve(x, y))

    count = np.maximum(slid(a_known, b_known), 1e-9)
    mean_a, mean_b = slid(a, b_known) / count, slid(a_known, b) / count
    spread_a = np.maximum(slid(a**2, b_known) / count - mean_a**2, 0.0)
    spread_b = np.maximum(slid(a_known, b**2) / count - mean_b**2, 0.0)
    both = slid(a, b) / count - mean_a * mean_b
    with np.errstate(invalid="ignore", divide="ignore"):
        alike = both / np.sqrt(spread_a * spread_b)
    enough = count >= _OVERLAP * min(a_known.sum(), b_known.sum())
    # A stretch in which hardly anything moves agrees with anything.
    moves = (spread_a > 0.05 * float(np.var(a))) & (spread_b > 0.05 * float(np.var(b)))
    alike = np.where(enough & moves & np.isfinite(alike), alike, -2.0)
    # How telling: Fisher's z of the correlation, by how much overlaps. A short stretch agrees easily.
    telling = np.where(
        alike > -2.0, np.arctanh(np.clip(alike, -0.9999, 0.9999)) * np.sqrt(count), -np.inf
    )
    place = int(np.argmax(telling))
    best = float(alike[place])
    fine = 0.0
    if 0 < place < len(alike) - 1 and alike[place - 1] > -2.0 and alike[place + 1] > -2.0:
        left, middle, right = alike[place - 1 : place + 2]
        bend = left - 2.0 * middle + right
        fine = 0.5 * float(left - right) / float(bend) if bend < 0.0 else 0.0
    shift = float(first_s[0] - second_s[0]) + (place + fine - (len(b) - 1)) * _STEP_S
    far = np.abs(np.arange(len(alike)) - place) * _STEP_S > _APART_S
    other = float(telling[far].max(initial=0.0))
    told = best >= _AGREES and float(telling[place]) >= _BETTER * other
    said = (
        f"The second log is moved by {fixed(shift, 2, signed=True)} s: there both agree ({best:.2f})."
        if told
        else "No shift at which they agree: they lie as their own clocks have them."
    )
    return Alignment(round(shift, 3) if told else 0.0, round(max(-1.0, best), 3), told, said)


def _even(time_s: FloatArray, values: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Return values about their mean on an even clock, 0 where unknown, and where they are known."""
    known = np.isfinite(values)
    if known.sum() < 5 or time_s[-1] - time_s[0] < _LEAST_S:
        raise LogRefused("Three seconds of a reading at least are needed in both logs.")
    if np.ptp(values[known]) == 0.0:
        raise LogRefused("What does not move says nothing of time: choose another channel.")
    even = np.arange(time_s[0], time_s[-1], _STEP_S)[:_MOST_SAMPLES]
    held = np.interp(even, time_s[known], values[known])
    nearest = np.interp(even, time_s, known.astype(float)) > 0.5
    centred = held - float(held[nearest].mean()) if nearest.any() else held
    return np.where(nearest, centred, 0.0), nearest.astype(float)

"""Readings that the others contradict: they count, but no longer for what they claim.

A mixture that was read while the engine misfired unnoticed, or ran far from its idle, may be off by ten
of its own errors; in a closed form it would pull the curve for good. Its error is widened until it is
believable beside the others: Huber's proposal for regression (Robust Estimation of a Location
Parameter, 1964, from memory), with the prior as one more observation.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..quantities import FloatArray
from .coordinates import Coordinate
from .process import Curve, Reading, posterior

#: Off by more of its errors than this a reading is doubted. [–]
_DOUBTED = 2.0
_ROUNDS, _LENGTH_K = 4, 28.0
#: What neighbouring temperatures of a real engine may differ beyond any curve. [–]
_ROUGH = 0.01


def doubted(
    mean: FloatArray, coordinate: Coordinate, readings: Sequence[Reading]
) -> list[Reading]:
    """Return readings with the errors that can be believed beside the others; none grows surer.

    Parameters
    ----------
    mean : ndarray
        Prior mean at the knots. [–]
    coordinate : Coordinate
        Its spread.
    readings : sequence of Reading
        In any order.
    """
    if len({reading.trial for reading in readings}) < 2:
        return list(readings)  # nobody contradicts a single log but the engine data
    widened = list(readings)
    for _ in range(_ROUNDS):
        curve = posterior(mean, coordinate, widened, length_k=_LENGTH_K, widening=1.0)
        widened = [_believable(reading, curve) for reading in readings]
    return widened


def _believable(reading: Reading, curve: Curve) -> Reading:
    place = np.array([reading.coolant_c])
    known = float(np.hypot(curve.spread_at(place)[0], _ROUGH))
    off = abs(reading.value - float(curve.at(place)[0]))
    allowed = _DOUBTED * float(np.hypot(reading.spread, known))
    if off <= allowed:
        return reading
    return replace(reading, spread=reading.spread * off / allowed)

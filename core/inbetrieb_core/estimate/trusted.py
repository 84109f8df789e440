"""How far readings are trusted: newer ones more than older ones, and none that all others contradict.

A reading is the need of an engine as it ran then. While tables are put right it idles elsewhere from
start to start, on other cells of the fuel map and at another opening, and each start is nearer to where
the engine will run. And a mixture that was read while the engine misfired unnoticed may be off by ten of
its own errors, which in a closed form would pull the curve for good: its error is widened until it is
believable beside the others (Huber's proposal for regression, Robust Estimation of a Location
Parameter, 1964, from memory), with the prior as one more observation.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from ..quantities import FloatArray
from .coordinates import Coordinate
from .process import Curve, Reading, posterior

#: Each later trial that read the same within this makes a reading's error larger by this share. [K, –]
_NEAR_K, _AGES = 12.0, 0.3
#: Off by more of its errors than this a reading is doubted. [–]
_DOUBTED = 2.0
_ROUNDS, _LENGTH_K = 4, 28.0
#: What neighbouring temperatures of a real engine may differ beyond any curve. [–]
_ROUGH = 0.01


def trusted(mean: FloatArray, coordinate: Coordinate, readings: Sequence[Reading]) -> list[Reading]:
    """Return readings with the errors that can be believed of them; none grows surer.

    Parameters
    ----------
    mean : ndarray
        Prior mean at the knots. [–]
    coordinate : Coordinate
        Its spread.
    readings : sequence of Reading
        Of this engine, in any order; without a trial are those of the start that is just judged.
    """
    if len({reading.trial for reading in readings}) < 2:
        return list(readings)  # nobody contradicts a single log but the engine data
    readings = [_aged(reading, readings) for reading in readings]
    widened = list(readings)
    for _ in range(_ROUNDS):
        curve = posterior(mean, coordinate, widened, length_k=_LENGTH_K, widening=1.0)
        widened = [_believable(reading, curve) for reading in readings]
    return widened


def _aged(reading: Reading, readings: Sequence[Reading]) -> Reading:
    if reading.trial is None:
        return reading
    later = {
        other.trial
        for other in readings
        if abs(other.coolant_c - reading.coolant_c) < _NEAR_K
        and (other.trial is None or other.trial > reading.trial)
    }
    return replace(reading, spread=reading.spread * (1.0 + _AGES * len(later)))


def _believable(reading: Reading, curve: Curve) -> Reading:
    place = np.array([reading.coolant_c])
    known = float(np.hypot(curve.spread_at(place)[0], _ROUGH))
    off = abs(reading.value - float(curve.at(place)[0]))
    allowed = _DOUBTED * float(np.hypot(reading.spread, known))
    if off <= allowed:
        return reading
    return replace(reading, spread=reading.spread * off / allowed)

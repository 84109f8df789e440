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
    readings = _aged(readings)
    widened = readings
    for _ in range(_ROUNDS):
        curve = posterior(mean, coordinate, widened, length_k=_LENGTH_K, widening=1.0)
        widened = _believable(readings, curve)
    return widened


def _aged(readings: Sequence[Reading]) -> list[Reading]:
    """Return readings with wider errors, by how many later trials read the same near by."""
    place = np.array([reading.coolant_c for reading in readings])
    # Without a trial is the start that is just judged: the latest of all.
    trial = np.array([np.inf if r.trial is None else r.trial for r in readings])
    trials, number = np.unique(trial, return_inverse=True)
    near = np.abs(place[:, None] - place[None, :]) < _NEAR_K
    seen = near @ (number[:, None] == np.arange(trials.size)[None, :])
    later = (seen & (trials[None, :] > trial[:, None])).sum(axis=1)
    return [
        replace(reading, spread=reading.spread * (1.0 + _AGES * float(count)))
        for reading, count in zip(readings, later, strict=True)
    ]


def _believable(readings: Sequence[Reading], curve: Curve) -> list[Reading]:
    """Return readings as wide as it takes to believe them beside a curve."""
    place, value, spread = (
        np.array([getattr(reading, name) for reading in readings])
        for name in ("coolant_c", "value", "spread")
    )
    known = np.hypot(curve.spread_at(place), _ROUGH)
    allowed = _DOUBTED * np.hypot(spread, known)
    wider = spread * np.maximum(np.abs(value - curve.at(place)) / allowed, 1.0)
    return [
        replace(reading, spread=float(wide)) if wide > reading.spread else reading
        for reading, wide in zip(readings, wider, strict=True)
    ]

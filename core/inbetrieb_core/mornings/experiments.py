"""What can be tried between two true cold starts, ranked by what it would teach.

A trial teaches as much as its outcome says of the outcomes at the check temperatures: their mutual
information over the draws of what is believed (Lindley 1956, On a measure of the information provided
by an experiment, from memory).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..estimate import LadderEstimate
from ..quantities import FloatArray
from ..starts import good_of_draws
from ..tables import Calibration
from .soak import Cooling

ExperimentKind = Literal["cold", "half-warm", "hot"]
#: A hot restart is tried here; half-warm ones at these temperatures, if it stood so long. [°C, °C, h]
_HOT_C, _HALF_WARM_C, _MOST_H = 80.0, (60.0, 50.0, 40.0, 30.0, 20.0), 8.0
#: Half-warm is at least so far above the air: nearer it is a cold start that is not true. [K]
_ABOVE_AIR_K = 8.0
#: A probability below this is taken for none.
_LEAST = 1e-9


@dataclass(frozen=True)
class Experiment:
    """A start that may be tried.

    Attributes
    ----------
    kind : {"cold", "half-warm", "hot"}
        True cold start, or a restart that costs no morning.
    coolant_c : float
        Where. [°C]
    after_h : float or None
        Standing until then. [h]
    good : float
        Chance that it is good. [–]
    teaches : float
        What its outcome says of the check temperatures, in all. [bit]
    """

    kind: ExperimentKind
    coolant_c: float
    after_h: float | None
    good: float
    teaches: float


def experiments(
    believed: LadderEstimate,
    calibration: Calibration,
    checks_c: Sequence[float],
    cooling: Cooling,
    *,
    from_c: float,
    ambient_c: float,
    morning_c: float,
) -> tuple[Experiment, ...]:
    """Return what can be tried until and on the next morning, what teaches most first.

    Parameters
    ----------
    believed : LadderEstimate
        After all starts.
    calibration : Calibration
        In force.
    checks_c : sequence of float
        Temperatures at which starts have to be proven. [°C]
    cooling : Cooling
        Of this engine.
    from_c, ambient_c : float
        Coolant when switched off, and air around the engine. [°C]
    morning_c : float
        Expected on the next morning. [°C]
    """
    places: list[tuple[ExperimentKind, float, float | None]] = [
        ("cold", morning_c, None),
        ("hot", _HOT_C, 0.0),
    ]
    for place in _HALF_WARM_C:
        after = cooling.hours_until(place, from_c, ambient_c)
        if after and place > ambient_c + _ABOVE_AIR_K and after <= _MOST_H:
            places.append(("half-warm", place, after))
    at_c = np.array([place for _, place, _ in places])
    checks = np.array(checks_c)
    good = good_of_draws(believed, calibration, np.concatenate([at_c, checks]))
    found = [
        Experiment(
            kind,
            place,
            after,
            float(good[:, i].mean()),
            sum(information(good[:, i], good[:, at_c.size + j]) for j in range(checks.size)),
        )
        for i, (kind, place, after) in enumerate(places)
    ]
    return tuple(sorted(found, key=lambda e: -e.teaches))


def information(first: FloatArray, second: FloatArray) -> float:
    """Return what one outcome says of another, by their probabilities in each draw. [bit]

    Parameters
    ----------
    first, second : ndarray, shape (draws,)
        Probability that each comes out well, the two independent within a draw. [–]
    """
    one = np.stack([first, 1.0 - first])
    other = np.stack([second, 1.0 - second])
    joint = one @ other.T / first.size
    apart = np.outer(one.mean(axis=1), other.mean(axis=1))
    terms = joint * np.log2(np.maximum(joint, _LEAST) / np.maximum(apart, _LEAST))
    return max(0.0, float(terms.sum()))

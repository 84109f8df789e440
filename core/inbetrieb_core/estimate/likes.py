"""Narrowing the prior by like engines: what proven tables of earlier jobs departed from their data.

A new engine's departure is taken for a draw about those of its like, with a spread between engines of
:data:`_BETWEEN`; the mean of n like engines is known to that spread over the root of n (Gelman & Hill,
Data Analysis Using Regression and Multilevel Models, 2007, ch. 12, from memory).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from ..charge import expected_start_value
from ..engine import EngineSpec
from ..tables import Calibration
from .coordinates import COORDINATES
from .evidence import Evidence

#: How far departures of like engines lie apart. Common practice, no source. [ln]
_BETWEEN = 0.15
#: Engines count as like within this factor of chamber size. [–]
_SIZE = 1.6
#: And with ethanol shares this near. [–]
_ETHANOL = 0.1
#: Tables whose proven values carry over; openings depend on the valve fitted. [–]
_CARRIED = ("warm_up_enrichment", "after_start_enrichment")
#: Departures are told at these temperatures, from proven starts this near. [°C, K]
_PLACES_C, _NEAR_K = (-10.0, 10.0, 30.0, 60.0), 10.0


@dataclass(frozen=True)
class LikeEngine:
    """An earlier job of the workshop.

    Attributes
    ----------
    spec : EngineSpec
        Its engine as entered.
    calibration : Calibration
        Its newest tables.
    proven_c : tuple of float
        Where its starts are proven. [°C]
    """

    spec: EngineSpec
    calibration: Calibration
    proven_c: tuple[float, ...]


def is_like(spec: EngineSpec, other: EngineSpec) -> bool:
    """Return whether two engines start alike: fuelling, cycle, cam, fuel and chamber size."""
    same = (spec.fuelling, spec.cycle, spec.cam) == (other.fuelling, other.cycle, other.cam)
    size = max(spec.chamber_l, other.chamber_l) / min(spec.chamber_l, other.chamber_l)
    ethanol = abs(spec.ethanol_volume_share - other.ethanol_volume_share)
    return same and size < _SIZE and ethanol < _ETHANOL


def known_from(spec: EngineSpec, likes: Sequence[LikeEngine]) -> tuple[Evidence, ...]:
    """Return what like engines teach, as weak evidence of this one.

    Parameters
    ----------
    spec : EngineSpec
        The engine in question.
    likes : sequence of LikeEngine
        Earlier jobs; those that are not like it are passed over.
    """
    found = []
    alike = [like for like in likes if is_like(spec, like.spec)]
    for key in _CARRIED:
        coordinate = COORDINATES[key]
        for place in _PLACES_C:
            off = [
                float(
                    coordinate.to_scale(like.calibration.at_coolant(key, place))
                    - coordinate.to_scale(expected_start_value(like.spec, key, place))
                )
                for like in alike
                if any(abs(place - c) <= _NEAR_K for c in like.proven_c)
            ]
            if not off:
                continue
            expected = float(coordinate.to_scale(expected_start_value(spec, key, place)))
            value = float(coordinate.from_scale(expected + sum(off) / len(off)))
            spread = _BETWEEN * math.sqrt(1.0 + 1.0 / len(off))
            found.append(Evidence(key, "like", place, value, spread))
    return tuple(found)

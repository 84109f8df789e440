"""What a fuel map may be off by itself, by where its cells come from."""

from __future__ import annotations

import numpy as np

from ..tables import Table
from ..tables.table import AS_FOUND
from .proposal import LEAST_HITS_S
from .solve import MapFit, MapPrior

#: What a map may be off that was computed, that came from elsewhere and has run an engine, and that drives have
#: corrected. Off as a whole it is a cause of its own: no log parts filling as a whole from flow. What exhaust leaves
#: in the cylinder, and how warm the charge gets, is known least at light load. [ln]
GENERATED = MapPrior(0.03, 0.06, 0.05, 0.03, 0.035)
BROUGHT = MapPrior(0.02, 0.03, 0.024, 0.02, 0.01)
CORRECTED = MapPrior(0.01, 0.015, 0.01, 0.01, 0.005)
#: A map is what more than this share of the visited cells is. [–]
_MOSTLY = 0.5


def prior_of(table: Table, fit: MapFit) -> MapPrior:
    """Return what a map may be off by itself: by where most of the visited cells come from.

    Parameters
    ----------
    table : Table
        The map in force.
    fit : MapFit
        Where it was visited.
    """
    visited = fit.hits >= LEAST_HITS_S
    if not visited.any():
        return GENERATED
    marks = table.provenance.reshape(visited.shape)
    kinds = [marks[tuple(place)].kind for place in np.argwhere(visited)]
    measured = kinds.count("measured") / len(kinds)
    if measured > _MOSTLY:
        return CORRECTED
    return BROUGHT if measured + kinds.count(AS_FOUND) / len(kinds) > _MOSTLY else GENERATED

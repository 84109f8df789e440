"""Whether a start came out as nobody would have expected after all the others."""

from __future__ import annotations

import math

import numpy as np

from ..engine import EngineSpec
from .cranking import CrankingPosterior, fuel_of
from .evidence import Evidence

#: Fewer starts than this expect nothing.
_FEWEST = 5


def chance_without(posterior: CrankingPosterior, spec: EngineSpec, start: Evidence) -> float | None:
    """Return how likely the outcome of a start was by all the others, None where there is none. [–]

    Parameters
    ----------
    posterior : CrankingPosterior
        From all starts, this one among them.
    spec : EngineSpec
        The engine.
    start : Evidence
        Outcome of cranking.

    Notes
    -----
    The draws are weighed by the inverse of this start's likelihood: they stand then for the others
    alone (Gelfand 1996, importance sampling leave-one-out).
    """
    outcome = start.outcome
    if outcome is None or outcome.handover or len(posterior.trials) < _FEWEST:
        return None
    mine = posterior.told[:, np.array([t == start.trial for t in posterior.trials])].sum(axis=1)
    weight = np.exp(mine.min() - mine)
    given = math.log(fuel_of(spec, outcome))
    burns = posterior.burns_of_each(start.coolant_c, given)
    ran = float(weight @ burns / weight.sum())
    return ran if outcome.ran else 1.0 - ran

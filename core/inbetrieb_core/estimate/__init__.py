"""The start tables over coolant temperature as one estimate from everything that starts taught."""

from .coordinates import COORDINATES
from .evidence import CrankingOutcome, Evidence, FuelMapPlace
from .ladder import HOT_C, LadderEstimate, basis_of, estimate
from .process import Curve
from .proposals import BAND, MOST_STEP, CurveProposal, SearchStep, measured_proposals, search_step
from .view import Chance, Coverage, CurveView, Pull, chances, curve_views, pulls

__all__ = [
    "BAND",
    "COORDINATES",
    "MOST_STEP",
    "Chance",
    "Coverage",
    "CurveView",
    "Pull",
    "chances",
    "curve_views",
    "pulls",
    "HOT_C",
    "CrankingOutcome",
    "Curve",
    "CurveProposal",
    "Evidence",
    "FuelMapPlace",
    "LadderEstimate",
    "SearchStep",
    "basis_of",
    "estimate",
    "measured_proposals",
    "search_step",
]

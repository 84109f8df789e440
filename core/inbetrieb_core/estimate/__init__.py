"""The start tables over coolant temperature as one estimate from everything that starts taught."""

from .bands import band_of
from .cells import changes_to
from .coordinates import COORDINATES
from .cranking import LEAST_FUEL_PCT, expected_fuel, primed_pct
from .evidence import CrankingOutcome, Evidence, FuelMapPlace, RunUpOutcome
from .ladder import HOT_C, LadderEstimate, at_coolants, basis_of, estimate, idle_air_below
from .likes import LikeEngine, known_from
from .process import Curve
from .proposals import NONE_PCT, measured_proposals
from .proposed import BAND, CurveProposal
from .search import MOST_STEP, SAME_PLACE_K, Limits, SearchStep, search_step
from .surprise import chance_without
from .view import CurveView, Pull, curve_views, pulls

__all__ = [
    "band_of",
    "BAND",
    "COORDINATES",
    "CrankingOutcome",
    "Curve",
    "CurveProposal",
    "CurveView",
    "Evidence",
    "FuelMapPlace",
    "HOT_C",
    "LadderEstimate",
    "LikeEngine",
    "Limits",
    "MOST_STEP",
    "NONE_PCT",
    "Pull",
    "RunUpOutcome",
    "SAME_PLACE_K",
    "SearchStep",
    "at_coolants",
    "basis_of",
    "chance_without",
    "changes_to",
    "curve_views",
    "estimate",
    "expected_fuel",
    "idle_air_below",
    "known_from",
    "measured_proposals",
    "LEAST_FUEL_PCT",
    "primed_pct",
    "pulls",
    "search_step",
]

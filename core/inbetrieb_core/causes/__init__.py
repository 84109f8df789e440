"""Causes: whether a bad start or idle is a table at all, and if not, what is wrong under the bonnet."""

from .catalogue import CAUSES, MANOEUVRES, TABLES, Cause, Symptom, Telling
from .cranked_anew import cranked_anew_s
from .observed import (
    STUMBLING_SHARE,
    Observed,
    Stretch,
    lambda_lag_s,
    map_spread,
    rail_falls,
    rail_share,
    stretches_of,
)
from .signs import Size, slow_crank_rpm
from .weigh import Diagnosis, Ranked, diagnose, tellings

__all__ = [
    "Symptom",
    "CAUSES",
    "MANOEUVRES",
    "STUMBLING_SHARE",
    "TABLES",
    "Cause",
    "Diagnosis",
    "Observed",
    "Ranked",
    "Size",
    "Stretch",
    "Telling",
    "cranked_anew_s",
    "diagnose",
    "lambda_lag_s",
    "map_spread",
    "rail_falls",
    "rail_share",
    "slow_crank_rpm",
    "stretches_of",
    "tellings",
]

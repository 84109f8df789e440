"""The fuel map from logs: which samples count, one correction of the whole map, and what is not the table's fault."""

from .delay import Delay, delay_of
from .fingerprint import CORRECTED, GENERATED, Fingerprint, FoundCause, fingerprint
from .layers import Layer, layer_keys, stack
from .plan import DrivePoint, plan_drive
from .proposal import AUTHORITY, Proposal, propose
from .samples import Readings, Sifted, joined, sift
from .solve import MapFit, MapPrior, roughness_matrix, solve_map

__all__ = [
    "AUTHORITY",
    "CORRECTED",
    "GENERATED",
    "MapPrior",
    "Delay",
    "DrivePoint",
    "Fingerprint",
    "FoundCause",
    "Layer",
    "MapFit",
    "Proposal",
    "Readings",
    "Sifted",
    "delay_of",
    "fingerprint",
    "joined",
    "layer_keys",
    "plan_drive",
    "propose",
    "roughness_matrix",
    "sift",
    "solve_map",
    "stack",
]

"""The fuel map from logs: which samples count, one correction of the whole map, and what is not the table's fault."""

from .beside import Beside
from .cold import cold_readings, cold_told, warmed_up
from .corrections import CorrectionKey, CorrectionTold, correction_table, corrections_of
from .cylinders import MOST_CYLINDERS, CylinderTold, cylinder_channel, cylinders_of
from .delay import Delay, delay_of
from .fingerprint import Fingerprint, FoundCause, fingerprint, prior_of
from .layers import Layer, few_left, layer_titles, stack
from .mended import Mended, without
from .places import MAPS, MapKey, grid_of, looked_up
from .plan import DrivePoint, plan_drive
from .proposal import AUTHORITY, LEAST_HITS_S, Proposal, propose, refuse_authority
from .rests import Rests, rests_of
from .samples import Readings, Sifted, carried_to, joined, sift
from .solve import MapFit, roughness_matrix, solve_map
from .trims import readings_of_trims

__all__ = [
    "rests_of",
    "Rests",
    "cylinders_of",
    "cylinder_channel",
    "CylinderTold",
    "MOST_CYLINDERS",
    "warmed_up",
    "cold_told",
    "cold_readings",
    "Beside",
    "MAPS",
    "CorrectionKey",
    "CorrectionTold",
    "MapKey",
    "Mended",
    "correction_table",
    "corrections_of",
    "grid_of",
    "looked_up",
    "readings_of_trims",
    "without",
    "AUTHORITY",
    "LEAST_HITS_S",
    "Delay",
    "DrivePoint",
    "Fingerprint",
    "FoundCause",
    "Layer",
    "MapFit",
    "Proposal",
    "Readings",
    "Sifted",
    "carried_to",
    "delay_of",
    "few_left",
    "fingerprint",
    "joined",
    "layer_titles",
    "prior_of",
    "refuse_authority",
    "plan_drive",
    "propose",
    "roughness_matrix",
    "sift",
    "solve_map",
    "stack",
]

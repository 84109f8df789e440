"""The fuel map from logs: which samples count, one correction of the whole map, and what is not the table's fault."""

from .beside import Beside
from .cold import COLD_BELOW_C, cold_readings, cold_told, warmed_up
from .corrections import CorrectionKey, CorrectionTold, correction_table, corrections_of
from .cylinders import (
    CYLINDER_TRIM,
    MOST_CYLINDERS,
    CylinderTold,
    cylinder_channel,
    cylinders_of,
    trims_of,
)
from .delay import Delay, delay_of
from .earlier import PastPass, reckoned_alike, that_tell
from .fingerprint import Fingerprint, fingerprint, fingerprint_of_drives
from .found_cause import FoundCause
from .layers import Layer, few_left, layer_titles, stack
from .map_prior import BROUGHT, GENERATED, prior_of
from .mended import Mended, without
from .places import MAPS, MapKey, grid_of, looked_up
from .plan import DrivePoint, plan_drive
from .proposal import AUTHORITY, LEAST_HITS_S, Proposal, propose, refuse_authority
from .rests import REST_TELLS, Rests, rests_of
from .samples import Readings, Sifted, carried_to, joined, sift
from .solve import MapFit, roughness_matrix, solve_map
from .trims import readings_of_trims

__all__ = [
    "AUTHORITY",
    "BROUGHT",
    "COLD_BELOW_C",
    "GENERATED",
    "CYLINDER_TRIM",
    "LEAST_HITS_S",
    "MAPS",
    "MOST_CYLINDERS",
    "Beside",
    "CorrectionKey",
    "CorrectionTold",
    "CylinderTold",
    "Delay",
    "DrivePoint",
    "Fingerprint",
    "FoundCause",
    "Layer",
    "MapFit",
    "MapKey",
    "Mended",
    "PastPass",
    "Proposal",
    "Readings",
    "REST_TELLS",
    "Rests",
    "Sifted",
    "carried_to",
    "cold_readings",
    "cold_told",
    "correction_table",
    "corrections_of",
    "cylinder_channel",
    "cylinders_of",
    "delay_of",
    "few_left",
    "fingerprint",
    "fingerprint_of_drives",
    "grid_of",
    "joined",
    "layer_titles",
    "looked_up",
    "plan_drive",
    "prior_of",
    "propose",
    "readings_of_trims",
    "reckoned_alike",
    "refuse_authority",
    "rests_of",
    "roughness_matrix",
    "sift",
    "solve_map",
    "stack",
    "that_tell",
    "trims_of",
    "warmed_up",
    "without",
]

"""Pulls: full load as records with conditions, compared with their uncertainty; limits, supply, spark, cams and boost."""

from .boost import BoostStep, BoostTables, Staircase, boost_tables, staircase
from .boost_loop import boost_loop_told
from .boost_share import SharedStep, of_one_fuel, over_share, resting
from .cams import CamSwitch, cam_switch
from .checks import CHECKS, BrakePoint, PullCheck, load_points
from .compare import Difference, Member, compare, order_of
from .dips import Dip, find_dips
from .dynamometer import DynamometerFile, read_dynamometer, typed_pull
from .from_log import PullStretch, Vehicle, find_pulls, pull_of_log
from .full_load import readings_of_pulls
from .held import HeldPoint, gaps_told, held_points
from .limits import (
    Exceeded,
    Feed,
    PullLimits,
    measured_beyond,
    passed_limits,
    proposed_limits,
    titles,
)
from .pull import CHANNELS, DRAWN, STEP_RPM, PullRecord
from .spark import BestSpark, HeardKnock, KnockCell, SparkPoint, fit_spark, knock_cells
from .standards import STANDARDS, Ambient, Standard, correction_factor, is_within
from .supply import SupplyLine, supply_line

__all__ = [
    "CHANNELS",
    "CHECKS",
    "DRAWN",
    "STANDARDS",
    "STEP_RPM",
    "Ambient",
    "BestSpark",
    "BoostStep",
    "BoostTables",
    "BrakePoint",
    "CamSwitch",
    "Difference",
    "Dip",
    "DynamometerFile",
    "Exceeded",
    "Feed",
    "HeardKnock",
    "HeldPoint",
    "KnockCell",
    "Member",
    "PullCheck",
    "PullLimits",
    "PullRecord",
    "PullStretch",
    "SparkPoint",
    "Staircase",
    "Standard",
    "SupplyLine",
    "Vehicle",
    "SharedStep",
    "boost_loop_told",
    "of_one_fuel",
    "over_share",
    "resting",
    "boost_tables",
    "cam_switch",
    "compare",
    "correction_factor",
    "find_dips",
    "find_pulls",
    "fit_spark",
    "gaps_told",
    "held_points",
    "is_within",
    "knock_cells",
    "load_points",
    "measured_beyond",
    "order_of",
    "passed_limits",
    "proposed_limits",
    "pull_of_log",
    "read_dynamometer",
    "readings_of_pulls",
    "staircase",
    "supply_line",
    "titles",
    "typed_pull",
]

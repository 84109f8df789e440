"""Seasons of virtual mornings on simulated engines with hidden needs and hidden faults."""

from .hands import HANDS, Hand, mends
from .report import Report, SeasonRecord, StartRecord, report_on, what_it_was
from .scenario import Scenario, checked_scenario
from .season import (
    HALF_WARM_C,
    HOT_C,
    noise_of,
    open_temperatures,
    play,
    simulated_start,
)
from .truths import climate, found_tables, hidden_engine

__all__ = [
    "HALF_WARM_C",
    "HOT_C",
    "HANDS",
    "Hand",
    "Report",
    "Scenario",
    "SeasonRecord",
    "StartRecord",
    "checked_scenario",
    "climate",
    "found_tables",
    "hidden_engine",
    "mends",
    "noise_of",
    "open_temperatures",
    "play",
    "report_on",
    "simulated_start",
    "what_it_was",
]

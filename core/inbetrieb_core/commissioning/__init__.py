"""The order of work and the next action."""

from .next_action import NextAction, TrialFact, next_action
from .stations import STATIONS, Station

__all__ = ["STATIONS", "NextAction", "Station", "TrialFact", "next_action"]

"""The order of work and the next action."""

from .gates import Gate, KeyOnFact, injector_gate, sensor_gate
from .next_action import NextAction, TrialFact, next_action
from .stations import STATIONS, Station

__all__ = [
    "STATIONS",
    "Gate",
    "KeyOnFact",
    "NextAction",
    "Station",
    "TrialFact",
    "injector_gate",
    "next_action",
    "sensor_gate",
]

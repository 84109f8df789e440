"""The order of work and the next action."""

from .car import CAR_BEGINS, CarBegins, CarState
from .gates import (
    CaptureFact,
    Gate,
    KeyOnFact,
    base_map_gate,
    hot_idle_gate,
    injector_gate,
    intake_gate,
    output_gate,
    sensor_gate,
    trigger_gate,
    wiring_gate,
)
from .intake import (
    CONFIGURABLE_INPUTS,
    INTAKE_ITEMS,
    IntakeDifference,
    IntakeEntry,
    IntakeItem,
    intake_differences,
)
from .next_action import CheckTemperature, NextAction, TrialFact, checks_of, next_action
from .output_tests import (
    SAFE_FIRST,
    OutputFact,
    OutputTestResult,
    TestedOutput,
    judge_output_test,
    outputs_to_test,
)
from .stations import STATIONS, Station

__all__ = [
    "CAR_BEGINS",
    "CarBegins",
    "CarState",
    "CONFIGURABLE_INPUTS",
    "INTAKE_ITEMS",
    "IntakeDifference",
    "IntakeEntry",
    "IntakeItem",
    "intake_differences",
    "SAFE_FIRST",
    "STATIONS",
    "CaptureFact",
    "CheckTemperature",
    "Gate",
    "KeyOnFact",
    "NextAction",
    "OutputFact",
    "OutputTestResult",
    "Station",
    "TestedOutput",
    "TrialFact",
    "base_map_gate",
    "checks_of",
    "hot_idle_gate",
    "injector_gate",
    "intake_gate",
    "judge_output_test",
    "next_action",
    "output_gate",
    "outputs_to_test",
    "sensor_gate",
    "trigger_gate",
    "wiring_gate",
]

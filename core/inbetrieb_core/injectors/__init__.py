"""Injectors: flow, dead time, drivers, how alike they are, and what they really are."""

from .dead_time import ASSUMED_DEAD_TIME, DeadTimeCurve, DeadTimeField, DeadTimeOrigin
from .drivers import DriverJudgement, DriverKind, judge_driver
from .flow import (
    DUTY_LIMIT_PCT,
    FLUIDS,
    POUND_G,
    FlowUnit,
    Fluid,
    cm3_per_minute,
    differential_pressure_kpa,
    duty_pct,
    flow_at_pressure,
    flow_of_blend,
    flow_of_petrol,
    pounds_per_hour,
    reference_pulse_ms,
    volume_flow_cm3_min,
)
from .flow_bench import FlowReport, Placing, judge_report
from .infer import InferredInjectors, OperatingPoint, infer_injectors
from .library import INJECTORS, LibraryInjector
from .logged_rail import across_injectors_kpa

__all__ = [
    "ASSUMED_DEAD_TIME",
    "DUTY_LIMIT_PCT",
    "FLUIDS",
    "INJECTORS",
    "POUND_G",
    "DeadTimeCurve",
    "DeadTimeField",
    "DeadTimeOrigin",
    "DriverJudgement",
    "DriverKind",
    "FlowReport",
    "FlowUnit",
    "Fluid",
    "InferredInjectors",
    "LibraryInjector",
    "OperatingPoint",
    "Placing",
    "across_injectors_kpa",
    "cm3_per_minute",
    "differential_pressure_kpa",
    "duty_pct",
    "flow_at_pressure",
    "flow_of_blend",
    "flow_of_petrol",
    "infer_injectors",
    "judge_driver",
    "judge_report",
    "pounds_per_hour",
    "reference_pulse_ms",
    "volume_flow_cm3_min",
]

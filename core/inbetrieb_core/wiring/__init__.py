"""Wiring: controllers, what is fitted, the plan of pins and wires, checks and output conditions."""

from .allocate import Allocation, LeftOut, Placed, allocate, can_serve_all
from .capability import CAPABILITIES, Capability
from .checks import Check, CheckResult, judge_check
from .colours import LETTERS
from .fitting import (
    IDLE_VALVES,
    IGNITIONS,
    INJECTIONS,
    OUTPUT_KINDS,
    SWITCH_INPUTS,
    Fitting,
    OwnFunction,
    usual_fitting,
)
from .functions import (
    BRANCH_TITLES,
    Way,
    WiredFunction,
    coil_count,
    functions_of,
    injector_groups,
    sparks_per_turn,
)
from .lines import LineEdit, WiringLine, lines_of, sizes_mm2
from .outputs import (
    FanPicture,
    OutputSettings,
    OutputSheet,
    fan_picture,
    fan_runs,
    output_sheets,
    pump_runs,
    usual_settings,
)
from .pin_list import PinList, read_pin_list
from .plan import LineChange, PlanEntry, WiringPlan, changes_between, plan_wiring
from .profile import (
    FADE_LAWS,
    FORMAT,
    AxisFormat,
    BuiltInPressure,
    Connector,
    ControllerProfile,
    Pin,
    TableFormat,
)
from .remedies import Change, Remedy, cheapest_remedy
from .three_wire import ThreeWire, WireReading, identify_three_wires
from .wire import WireSize, fuse_for, gauge_number, size_wire, wire_resistance_ohm

__all__ = [
    "BRANCH_TITLES",
    "CAPABILITIES",
    "FADE_LAWS",
    "FORMAT",
    "IDLE_VALVES",
    "IGNITIONS",
    "INJECTIONS",
    "LETTERS",
    "OUTPUT_KINDS",
    "SWITCH_INPUTS",
    "Allocation",
    "AxisFormat",
    "BuiltInPressure",
    "Capability",
    "Change",
    "Check",
    "CheckResult",
    "Connector",
    "ControllerProfile",
    "FanPicture",
    "Fitting",
    "LeftOut",
    "LineChange",
    "LineEdit",
    "OutputSettings",
    "OutputSheet",
    "OwnFunction",
    "Pin",
    "PinList",
    "Placed",
    "PlanEntry",
    "Remedy",
    "TableFormat",
    "ThreeWire",
    "Way",
    "WireReading",
    "WireSize",
    "WiredFunction",
    "WiringLine",
    "WiringPlan",
    "allocate",
    "can_serve_all",
    "changes_between",
    "cheapest_remedy",
    "coil_count",
    "fan_picture",
    "fan_runs",
    "functions_of",
    "fuse_for",
    "gauge_number",
    "identify_three_wires",
    "injector_groups",
    "judge_check",
    "lines_of",
    "output_sheets",
    "plan_wiring",
    "pump_runs",
    "read_pin_list",
    "size_wire",
    "sizes_mm2",
    "sparks_per_turn",
    "usual_fitting",
    "usual_settings",
    "wire_resistance_ohm",
]

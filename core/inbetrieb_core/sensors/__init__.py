"""Sensors: from a signal to a reading, and whether the reading can be believed."""

from .agreement import Agreement, fit_agreement
from .circumstances import Circumstances, KeyOnReading
from .entry import (
    FrequencyEntry,
    LinearEntry,
    SensorEntry,
    TableEntry,
    ThermistorEntry,
    ThermocoupleEntry,
    TransferEntry,
)
from .flexible_fuel import (
    BlendNeed,
    blend_need,
    ethanol_share,
    read_share,
    share_in_use,
    sold_blends,
)
from .fuel_level import FuelLevelSheet, fuel_level_sheet
from .functions import FUNCTIONS, SensorFunction
from .key_on import KeyOnResult, check_key_on
from .key_on_rules import SensorJudgement
from .library import LIBRARY
from .log_readings import key_on_readings
from .sheet import SensorSheet, TableRow, sensor_sheet, value_table
from .throttle import ThrottleCapture, capture_throttle

__all__ = [
    "FUNCTIONS",
    "LIBRARY",
    "Agreement",
    "BlendNeed",
    "Circumstances",
    "FrequencyEntry",
    "FuelLevelSheet",
    "KeyOnReading",
    "KeyOnResult",
    "LinearEntry",
    "SensorEntry",
    "SensorFunction",
    "SensorJudgement",
    "SensorSheet",
    "TableEntry",
    "TableRow",
    "ThermistorEntry",
    "ThermocoupleEntry",
    "ThrottleCapture",
    "TransferEntry",
    "blend_need",
    "capture_throttle",
    "check_key_on",
    "ethanol_share",
    "fit_agreement",
    "fuel_level_sheet",
    "key_on_readings",
    "read_share",
    "sensor_sheet",
    "share_in_use",
    "sold_blends",
    "value_table",
]

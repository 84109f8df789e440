"""What each table is: key, unit, axes, bounds, step and wording. The one place for all of it."""

from __future__ import annotations

from .optional_tables import BY_THROTTLE, OPTIONAL_TABLES
from .table_definition import AxisDefinition, Group, TableDefinition

AXES: dict[str, AxisDefinition] = {
    axis.name: axis
    for axis in (
        AxisDefinition("coolant_c", "°C", "Coolant temperature", -50.0, 150.0),
        AxisDefinition("rpm", "rpm", "Engine speed", 0.0, 25_000.0),
        AxisDefinition("map_kpa", "kPa", "Manifold pressure, absolute", 5.0, 600.0),
        AxisDefinition("battery_v", "V", "Battery voltage", 4.0, 20.0),
        AxisDefinition("ethanol_pct", "%", "Ethanol share of the fuel", 0.0, 100.0),
        AxisDefinition("throttle_pct", "%", "Throttle opening", 0.0, 100.0),
        AxisDefinition("meter_hz", "Hz", "Signal of the air-flow meter", 0.0, 20_000.0),
        AxisDefinition("meter_v", "V", "Signal of the air-flow meter", 0.0, 5.5),
        AxisDefinition("throttle_rate_pct_s", "%/s", "Speed of the throttle", 0.0, 3000.0),
        AxisDefinition("speed_error_rpm", "rpm", "Idle target minus engine speed", -2000.0, 2000.0),
        AxisDefinition("intake_c", "°C", "Intake air temperature", -50.0, 150.0),
        AxisDefinition("barometric_kpa", "kPa", "Barometric pressure", 40.0, 115.0),
        AxisDefinition("cylinder", "", "Cylinder", 1.0, 16.0),
    )
}

_COOLANT = ("coolant_c",)
_LOAD = ("rpm", "map_kpa")
_BATTERY = ("battery_v",)


#: In the order in which the phases of a start use them.
DEFINITIONS: dict[str, TableDefinition] = {
    table.key: table
    for table in (
        TableDefinition(
            "prime_pulse",
            "Prime pulse",
            "Prime",
            "ms",
            _COOLANT,
            0.0,
            120.0,
            0.0,
            0.1,
            "start",
            "One injection at key-on that wets the walls before the starter turns.",
        ),
        TableDefinition(
            "cranking_fuel",
            "Cranking fuel",
            "Crank fuel",
            "%",
            _COOLANT,
            10.0,
            1500.0,
            None,
            0.1,
            "start",
            "Fuel per injection below the crank-to-run speed, in percent of the reference pulse.",
        ),
        TableDefinition(
            "cranking_air",
            "Cranking air",
            "Crank air",
            "%",
            _COOLANT,
            -30.0,
            100.0,
            0.0,
            0.1,
            "start",
            "Idle-valve opening added while cranking, below zero taken away; it fades after the start.",
        ),
        TableDefinition(
            "after_start_enrichment",
            "After-start enrichment",
            "After-start",
            "%",
            _COOLANT,
            0.0,
            400.0,
            0.0,
            0.1,
            "start",
            "Fuel added right after the start; 0 is none.",
        ),
        TableDefinition(
            "after_start_fade",
            "After-start fade",
            "Fade",
            "s",
            _COOLANT,
            0.5,
            180.0,
            None,
            0.1,
            "start",
            "Time in which the after-start enrichment falls to zero in a straight line.",
        ),
        TableDefinition(
            "warm_up_enrichment",
            "Warm-up enrichment",
            "Warm-up",
            "%",
            _COOLANT,
            50.0,
            400.0,
            100.0,
            0.1,
            "start",
            "Fuel multiplier until the engine is warm; 100 is none.",
        ),
        TableDefinition(
            "idle_valve",
            "Idle valve",
            "Idle valve",
            "%",
            _COOLANT,
            0.0,
            100.0,
            None,
            0.1,
            "start",
            "Opening of the idle valve while the engine runs with a closed throttle.",
        ),
        TableDefinition(
            "idle_target",
            "Idle target",
            "Target",
            "rpm",
            _COOLANT,
            400.0,
            3000.0,
            None,
            1.0,
            "start",
            "Speed the engine is meant to idle at.",
        ),
        TableDefinition(
            "ve",
            "Volumetric efficiency",
            "VE",
            "%",
            _LOAD,
            5.0,
            200.0,
            None,
            0.1,
            "map",
            "Air a chamber traps, in percent of its displacement at manifold pressure.",
            alternatives=BY_THROTTLE,
        ),
        TableDefinition(
            "lambda_target",
            "Lambda target",
            "Lambda",
            "–",
            _LOAD,
            0.6,
            1.3,
            1.0,
            0.001,
            "map",
            "Mixture the controller aims at.",
            alternatives=BY_THROTTLE,
        ),
        TableDefinition(
            "spark",
            "Spark advance",
            "Spark",
            "°",
            _LOAD,
            -20.0,
            60.0,
            None,
            0.1,
            "map",
            "Ignition before top dead centre.",
            alternatives=BY_THROTTLE,
        ),
        TableDefinition(
            "dead_time",
            "Injector dead time",
            "Dead time",
            "ms",
            _BATTERY,
            0.0,
            10.0,
            None,
            0.001,
            "battery",
            "Time from the start of the pulse in which the injector passes no fuel.",
        ),
        TableDefinition(
            "dwell",
            "Dwell",
            "Dwell",
            "ms",
            _BATTERY,
            0.0,
            30.0,
            None,
            0.01,
            "battery",
            "Time for which the ignition coil is fed before the spark.",
        ),
        *OPTIONAL_TABLES,
    )
}

START_TABLES: tuple[str, ...] = tuple(
    key for key, table in DEFINITIONS.items() if table.group == "start"
)

#: Maps of one kind share their rules, whichever cam profile they are for.
VE_MAPS = ("ve", "ve_second_cam")
SPARK_MAPS = ("spark", "spark_second_cam")

__all__ = [
    "AXES", "DEFINITIONS", "SPARK_MAPS", "START_TABLES", "VE_MAPS", "AxisDefinition", "Group",
    "TableDefinition",
]  # fmt: skip

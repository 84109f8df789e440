"""What each table is: key, unit, axes, bounds, step and wording. The one place for all of it."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

Group = Literal["start", "map", "battery", "boost", "limit", "setting"]


@dataclass(frozen=True)
class AxisDefinition:
    """A quantity that tables run over.

    Attributes
    ----------
    name, unit, title : str
        Canonical name, unit and wording.
    lower, upper : float
        Bounds of a breakpoint. [unit]
    """

    name: str
    unit: str
    title: str
    lower: float
    upper: float


@dataclass(frozen=True)
class TableDefinition:
    """A table of the calibration.

    Attributes
    ----------
    key : str
        Stable name, used in files and over HTTP.
    title, short : str
        Wording on the screen, and a short form for column heads.
    unit : str
        Unit of the values.
    axes : tuple of str
        Axis names; the first is the row of the array. None for a single number.
    lower, upper : float
        Bounds of a value. [unit]
    neutral : float or None
        Value at which the table does nothing; None where there is none. [unit]
    resolution : float
        Smallest meaningful difference; proposals are rounded to it. [unit]
    group : {"start", "map", "battery", "boost", "limit", "setting"}
        Start tables share the coolant axis; a setting is a single number.
    meaning : str
        One sentence of what the controller does with it.
    optional : bool
        Whether a calibration can do without it: not every engine or file has it.
    """

    key: str
    title: str
    short: str
    unit: str
    axes: tuple[str, ...]
    lower: float
    upper: float
    neutral: float | None
    resolution: float
    group: Group
    meaning: str
    optional: bool = False


AXES: dict[str, AxisDefinition] = {
    axis.name: axis
    for axis in (
        AxisDefinition("coolant_c", "°C", "Coolant temperature", -50.0, 150.0),
        AxisDefinition("rpm", "rpm", "Engine speed", 0.0, 25_000.0),
        AxisDefinition("map_kpa", "kPa", "Manifold pressure, absolute", 5.0, 600.0),
        AxisDefinition("battery_v", "V", "Battery voltage", 4.0, 20.0),
        AxisDefinition("ethanol_pct", "%", "Ethanol share of the fuel", 0.0, 100.0),
    )
}

_COOLANT = ("coolant_c",)
_LOAD = ("rpm", "map_kpa")
_BATTERY = ("battery_v",)
_BOOST = ("rpm", "ethanol_pct")


def _optional(
    key: str, title: str, short: str, unit: str, axes: tuple[str, ...],
    bounds: tuple[float, float], neutral: float | None, resolution: float, group: Group, meaning: str,
) -> TableDefinition:  # fmt: skip
    """Return a table that not every calibration has."""
    lower, upper = bounds
    return TableDefinition(
        key, title, short, unit, axes, lower, upper, neutral, resolution, group, meaning, True
    )


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
            0.0,
            100.0,
            0.0,
            0.1,
            "start",
            "Idle-valve opening added while cranking; it fades after the start.",
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
        _optional(
            "ve_second_cam",
            "Volumetric efficiency, second cam profile",
            "VE, cam 2",
            "%",
            _LOAD,
            (5.0, 200.0),
            None,
            0.1,
            "map",
            "Filling above the switch-over speed of an engine with two cam profiles.",
        ),
        _optional(
            "spark_second_cam",
            "Spark advance, second cam profile",
            "Spark, cam 2",
            "°",
            _LOAD,
            (-20.0, 60.0),
            None,
            0.1,
            "map",
            "Ignition above the switch-over speed of an engine with two cam profiles.",
        ),
        _optional(
            "learned_trim",
            "Learned trim",
            "Trim",
            "%",
            _LOAD,
            (-100.0, 100.0),
            0.0,
            0.1,
            "map",
            "Correction that the mixture loop has learned on top of the fuel table.",
        ),
        _optional(
            "boost_target",
            "Boost target, absolute",
            "Boost",
            "kPa",
            _BOOST,
            (50.0, 600.0),
            None,
            1.0,
            "boost",
            "Manifold pressure that the boost control aims at.",
        ),
        _optional(
            "boost_duty",
            "Boost valve duty",
            "Boost duty",
            "%",
            _BOOST,
            (0.0, 100.0),
            0.0,
            0.5,
            "boost",
            "Duty of the boost valve; with closed-loop control what it starts from.",
        ),
        _optional(
            "rev_limit",
            "Rev limit",
            "Rev limit",
            "rpm",
            _COOLANT,
            (1000.0, 20_000.0),
            None,
            50.0,
            "limit",
            "Speed above which the engine is cut, lower while it is cold or too hot.",
        ),
        _optional(
            "boost_cut",
            "Boost cut, absolute",
            "Boost cut",
            "kPa",
            (),
            (60.0, 700.0),
            None,
            1.0,
            "setting",
            "Manifold pressure above which fuel or spark is cut.",
        ),
        _optional(
            "overrun_cut_rpm",
            "Overrun fuel cut from",
            "Overrun from",
            "rpm",
            (),
            (800.0, 8000.0),
            None,
            50.0,
            "setting",
            "Speed above which fuel is cut with a closed throttle.",
        ),
        _optional(
            "overrun_resume_rpm",
            "Overrun fuel returns at",
            "Fuel returns",
            "rpm",
            (),
            (600.0, 7000.0),
            None,
            50.0,
            "setting",
            "Speed at which fuel comes back when the engine slows down.",
        ),
        _optional(
            "overrun_map",
            "Overrun fuel cut below",
            "Overrun below",
            "kPa",
            (),
            (5.0, 100.0),
            None,
            1.0,
            "setting",
            "Manifold pressure below which the engine is driven by the vehicle.",
        ),
        _optional(
            "overrun_delay",
            "Overrun fuel cut delay",
            "Overrun delay",
            "s",
            (),
            (0.0, 10.0),
            0.0,
            0.1,
            "setting",
            "How long these conditions last before fuel is cut.",
        ),
        _optional(
            "closed_loop_authority",
            "Closed-loop mixture authority",
            "Authority",
            "%",
            (),
            (0.0, 100.0),
            0.0,
            1.0,
            "setting",
            "How far the mixture loop may correct, up and down.",
        ),
        _optional(
            "closed_loop_coolant",
            "Closed loop from coolant",
            "Loop from",
            "°C",
            (),
            (0.0, 110.0),
            None,
            1.0,
            "setting",
            "Coolant temperature from which the mixture loop may work.",
        ),
        _optional(
            "closed_loop_delay",
            "Closed loop after the start",
            "Loop after",
            "s",
            (),
            (0.0, 600.0),
            None,
            1.0,
            "setting",
            "Time after the start from which the mixture loop may work.",
        ),
        _optional(
            "closed_loop_map",
            "Closed loop below manifold pressure",
            "Loop below",
            "kPa",
            (),
            (20.0, 600.0),
            None,
            1.0,
            "setting",
            "Manifold pressure above which the mixture loop rests.",
        ),
        _optional(
            "idle_spark_authority",
            "Idle spark authority",
            "Idle spark ±",
            "°",
            (),
            (0.0, 40.0),
            0.0,
            1.0,
            "setting",
            "How far idle spark may move with the speed error, up and down.",
        ),
        _optional(
            "cam_switch_rpm",
            "Cam switch-over speed",
            "Cam switch",
            "rpm",
            (),
            (1500.0, 12_000.0),
            None,
            50.0,
            "setting",
            "Speed at which the engine changes to its second cam profile.",
        ),
    )
}

START_TABLES: tuple[str, ...] = tuple(
    key for key, table in DEFINITIONS.items() if table.group == "start"
)

#: Maps of one kind share their rules, whichever cam profile they are for.
VE_MAPS = ("ve", "ve_second_cam")
SPARK_MAPS = ("spark", "spark_second_cam")

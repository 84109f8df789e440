"""What is entered of an engine: each field once, with its default, its range, its unit and its name.

Everything else that speaks of engine data takes it from here: the checks, the published contract,
and through :data:`ENGINE_FIELDS` the forms on the screen.
"""

from __future__ import annotations

import dataclasses
from dataclasses import dataclass, field
from typing import Any, Literal, cast

CycleKind = Literal["four_stroke", "rotary"]
Fuelling = Literal["port", "throttle_body"]
Induction = Literal["natural", "boosted"]
CamClass = Literal["mild", "moderate", "wild"]
ChargeCooling = Literal["none", "air", "water"]
FuelSeason = Literal["unknown", "winter", "summer"]
InjectorSpray = Literal["unknown", "valve", "wall"]
Use = Literal["road", "towing", "stationary", "competition"]


@dataclass(frozen=True)
class FieldRange:
    """What a number can be.

    Attributes
    ----------
    lower, upper : float
        Both possible. [unit]
    unit : str
        Empty for none.
    title : str
        As it stands at the beginning of a sentence.
    """

    lower: float
    upper: float
    unit: str
    title: str


def _between(lower: float, upper: float, unit: str, title: str, default: Any = ...) -> Any:
    """Return a field that is a number in a range; without a default it must be given."""
    known = {"range": FieldRange(lower, upper, unit, title)}
    if default is ...:
        return field(metadata=known)
    return field(default=default, metadata=known)


@dataclass(frozen=True)
class Schools:
    """Choices on which good installers differ; both ways are supported.

    Attributes
    ----------
    prime : {"shot", "cranking_only"}
        A real prime shot at key-on, or almost none and all of it with cranking fuel.
    idle_speed : {"low", "high"}
        Warm idle 700–800 or 950–1000 per minute.
    idle_mixture : {"rich", "lean"}
        Slightly rich for stability or at stoichiometry for economy.
    step : {"auto", "5", "10"}
        First step of a correction in percent; auto takes 10 for a wet manifold, else 5.
    curve : {"full", "three_point"}
        Full curves over coolant temperature, or three points at −7, 18 and 77 °C.
    boost_control : {"open_loop", "closed_loop"}
        Boost by a duty table alone, or steered towards a target.
    target : {"inside", "outside"}
        Whether the mixture target is part of the controller's fuel equation, or has to be
        worked into its fuel table.
    load : {"volumetric_efficiency", "mass_flow", "throttle_angle"}
        What the controller takes for load.
    idle_spark : {"smooth", "lopey"}
        Spark that holds idle steady within ±5°, or lets a big cam lope.
    changes : {"together", "one_at_a_time"}
        Whether what starts measured is taken together with the one searched step, or only the
        earliest thing is changed after a start.
    charge : {"blended", "sensor"}
        Whether the controller takes the charge for warmer than the intake air by itself, or for as
        warm as its sensor says.
    """

    prime: Literal["shot", "cranking_only"] = "shot"
    idle_speed: Literal["low", "high"] = "low"
    idle_mixture: Literal["rich", "lean"] = "rich"
    step: Literal["auto", "5", "10"] = "auto"
    curve: Literal["full", "three_point"] = "full"
    boost_control: Literal["open_loop", "closed_loop"] = "open_loop"
    target: Literal["inside", "outside"] = "inside"
    load: Literal["volumetric_efficiency", "mass_flow", "throttle_angle"] = "volumetric_efficiency"
    idle_spark: Literal["smooth", "lopey"] = "smooth"
    changes: Literal["together", "one_at_a_time"] = "together"
    charge: Literal["blended", "sensor"] = "blended"


@dataclass(frozen=True)
class EngineData:
    """What is known of an engine before it has run, its injectors apart.

    Attributes
    ----------
    displacement_l : float
        All chambers together: every cylinder, or one chamber of each rotor. [l]
    chambers : int
        Cylinders, or rotors. [–]
    cycle : {"four_stroke", "rotary"}
        A rotary's rotor is one chamber that fires once per shaft turn.
    compression_ratio : float
        Geometric. [–]
    valves_per_chamber : int
        2 to 5; not used for a rotary. [–]
    cam : {"mild", "moderate", "wild"}
        How far overlap disturbs idle.
    fuelling : {"port", "throttle_body"}
        Where the fuel is injected.
    induction : {"natural", "boosted"}
        Natural or charged.
    boost_kpa : float
        Highest boost above barometric. [kPa]
    rail_pressure_kpa : float
        Rail pressure, gauge. [kPa]
    manifold_referenced : bool
        Whether the regulator follows manifold pressure.
    injections_per_cycle : int
        Openings of each injector per engine cycle. [–]
    ethanol_volume_share : float
        Of the fuel in the tank. [–]
    rev_limit_rpm, crank_to_run_rpm : float
        Limit, and the speed at which the controller leaves cranking. [1/min]
    altitude_m : float
        Of the place of work. [m]
    schools : Schools
        The installer's choices.
    idle_valve_full_gps : float or None
        Air the idle valve passes fully open with closed throttle; None where unknown. [g/s]
    bore_mm, stroke_mm : float or None
        None where unknown. [mm]
    cam_duration_deg, cam_lift_mm, lobe_separation_deg : float or None
        Advertised duration and valve lift, both cams alike, and the angle between the lobes in
        cam degrees; None where only the class is known. [°], [mm]
    cam_profiles : int
        Two for an engine that changes to a second, wilder profile at speed. [–]
    charge_cooling : {"none", "air", "water"}
        Cooler between charger and engine.
    boost_full_rpm : float or None
        Slowest speed at which the charger reaches full boost; None where unknown. [1/min]
    wastegate_kpa : float or None
        Boost with the boost valve at rest; None until it was measured. [kPa]
    use : {"road", "towing", "stationary", "competition"}
        What the engine is for.
    fuel_season : {"unknown", "winter", "summer"}
        Of petrol: that of the winter boils earlier.
    injector_spray : {"unknown", "valve", "wall"}
        Aimed at the back of the valve, or along the port's wall.
    port_volume_cm3 : float or None
        Of one intake port and runner behind its injector; None where unknown. [cm³]
    cranking_rpm : float or None
        Speed at which the starter turns the cold engine; None where unknown. [1/min]
    coolant_l, oil_l : float or None
        Filled; None where unknown. [l]
    """

    displacement_l: float = _between(0.05, 30.0, "l", "Displacement")
    chambers: int = _between(1, 16, "", "The number of cylinders or rotors")
    cycle: CycleKind = "four_stroke"
    compression_ratio: float = _between(5.0, 18.0, ":1", "The compression ratio", 9.5)
    valves_per_chamber: int = _between(2, 5, "", "Valves per cylinder", 4)
    cam: CamClass = "mild"
    fuelling: Fuelling = "port"
    induction: Induction = "natural"
    boost_kpa: float = _between(0.0, 400.0, "kPa", "Boost", 0.0)
    rail_pressure_kpa: float = _between(50.0, 1000.0, "kPa", "Rail pressure", 300.0)
    manifold_referenced: bool = True
    injections_per_cycle: int = _between(1, 8, "", "Injections per cycle", 1)
    ethanol_volume_share: float = _between(0.0, 1.0, "", "The ethanol share", 0.0)
    rev_limit_rpm: float = _between(1500.0, 20_000.0, "rpm", "The rev limit", 6500.0)
    crank_to_run_rpm: float = _between(200.0, 900.0, "rpm", "The crank-to-run speed", 450.0)
    altitude_m: float = _between(-500.0, 5000.0, "m", "Altitude", 0.0)
    schools: Schools = field(default_factory=Schools)
    idle_valve_full_gps: float | None = _between(
        0.2, 200.0, "g/s", "Air through the open idle valve", None
    )
    bore_mm: float | None = _between(20.0, 200.0, "mm", "The bore", None)
    stroke_mm: float | None = _between(20.0, 200.0, "mm", "The stroke", None)
    cam_duration_deg: float | None = _between(180.0, 360.0, "°", "Cam duration", None)
    cam_lift_mm: float | None = _between(3.0, 25.0, "mm", "Valve lift", None)
    lobe_separation_deg: float | None = _between(90.0, 130.0, "°", "Lobe separation", None)
    cam_profiles: int = _between(1, 2, "", "Cam profiles", 1)
    charge_cooling: ChargeCooling = "air"
    boost_full_rpm: float | None = _between(800.0, 12_000.0, "rpm", "The speed of full boost", None)
    wastegate_kpa: float | None = _between(0.0, 400.0, "kPa", "Wastegate boost", None)
    use: Use = "road"
    fuel_season: FuelSeason = "unknown"
    injector_spray: InjectorSpray = "unknown"
    port_volume_cm3: float | None = _between(10.0, 3000.0, "cm³", "The port's volume", None)
    cranking_rpm: float | None = _between(60.0, 500.0, "rpm", "Cranking speed", None)
    coolant_l: float | None = _between(0.5, 80.0, "l", "Coolant", None)
    oil_l: float | None = _between(0.5, 60.0, "l", "Oil", None)


@dataclass(frozen=True)
class DeadTimeSheet:
    """Dead time of an injector as a data sheet gives it.

    Attributes
    ----------
    voltage_v : tuple of float
        Rising. [V]
    dead_time_ms : tuple of float
        At each voltage. [ms]
    """

    voltage_v: tuple[float, ...]
    dead_time_ms: tuple[float, ...]


@dataclass(frozen=True)
class InjectorsEntry:
    """The injectors as they are entered with an engine.

    Attributes
    ----------
    flow_cm3_min : float
        Static flow of one at the rated pressure. [cm³/min]
    count : int or None
        All of them; None for one per chamber. [–]
    rated_pressure_kpa : float
        Pressure difference of the rating. [kPa]
    dead_time : DeadTimeSheet or None
        None takes a middling curve, marked as assumed.
    """

    flow_cm3_min: float = _between(20.0, 6000.0, "cm³/min", "Injector flow")
    count: int | None = _between(1, 32, "", "The number of injectors", None)
    rated_pressure_kpa: float = _between(
        60.0, 1000.0, "kPa", "The injector's rated pressure", 300.0
    )
    dead_time: DeadTimeSheet | None = None


#: Speed of the torque peak. [1/min]
TORQUE_PEAK_RANGE = FieldRange(800.0, 15_000.0, "rpm", "The speed of the torque peak")


@dataclass(frozen=True)
class EngineEntry(EngineData):
    """An engine as it is entered, stored and sent. Only displacement, chambers and the flow of the
    injectors are needed.

    Attributes
    ----------
    injectors : InjectorsEntry
    torque_peak_rpm : float or None
        None takes a usual share of the rev limit. [1/min]

    Others as :class:`EngineData`.
    """

    injectors: InjectorsEntry = field(kw_only=True)
    torque_peak_rpm: float | None = field(
        default=None, kw_only=True, metadata={"range": TORQUE_PEAK_RANGE}
    )


@dataclass(frozen=True)
class EngineField:
    """A number of an engine, for whoever asks for it.

    Attributes
    ----------
    path : str
        Such as ``injectors.flow_cm3_min``.
    title, unit : str
    lower, upper : float
        [unit]
    default : float or None
        None where there is none: see `needed`. [unit]
    needed : bool
        Whether it must be given.
    """

    path: str
    title: str
    unit: str
    lower: float
    upper: float
    default: float | None
    needed: bool


def _engine_fields(of: type[Any], before: str = "") -> tuple[EngineField, ...]:
    found = []
    for entry in dataclasses.fields(of):
        known: FieldRange | None = entry.metadata.get("range")
        if known is None:
            continue
        needed = entry.default is dataclasses.MISSING
        found.append(
            EngineField(
                before + entry.name, known.title, known.unit, known.lower, known.upper,
                None if needed else cast(float | None, entry.default), needed,
            )
        )  # fmt: skip
    return tuple(found)


#: Every number of an engine with its range and default; the one list for checks and forms.
ENGINE_FIELDS: tuple[EngineField, ...] = (
    *_engine_fields(EngineEntry),
    *_engine_fields(InjectorsEntry, "injectors."),
)

"""What an installer knows of an engine before it has ever run: the input of everything else."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, field
from typing import Literal

from .air import standard_pressure_kpa
from .bounds import out_of_bounds
from .errors import FieldProblem, InputRefused
from .fuel import Fuel
from .injectors import (
    ASSUMED_DEAD_TIME,
    DeadTimeCurve,
    differential_pressure_kpa,
    flow_at_pressure,
    reference_pulse_ms,
)

CycleKind = Literal["four_stroke", "rotary"]
Fuelling = Literal["port", "throttle_body"]
Induction = Literal["natural", "boosted"]
CamClass = Literal["mild", "moderate", "wild"]
ChargeCooling = Literal["none", "air", "water"]
Use = Literal["road", "towing", "stationary", "competition"]


@dataclass(frozen=True)
class InjectorSet:
    """The injectors fitted, as the data sheet or the seller describes them.

    Attributes
    ----------
    count : int
        Injectors in all. [–]
    flow_cm3_min : float
        Static flow of one at the rated pressure. [cm³/min]
    rated_pressure_kpa : float
        Pressure difference of the rating. [kPa]
    dead_time : DeadTimeCurve
        Against battery voltage.
    dead_time_assumed : bool
        True where no data sheet was at hand.
    """

    count: int
    flow_cm3_min: float
    rated_pressure_kpa: float = 300.0
    dead_time: DeadTimeCurve = ASSUMED_DEAD_TIME
    dead_time_assumed: bool = True


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


@dataclass(frozen=True)
class EngineSpec:
    """One engine as entered. Construct it, then call :meth:`check`.

    Attributes
    ----------
    displacement_l : float
        All chambers together: every cylinder, or one chamber of each rotor. [l]
    chambers : int
        Cylinders, or rotors. [–]
    injectors : InjectorSet
        The injectors fitted.
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
    rev_limit_rpm, torque_peak_rpm, crank_to_run_rpm : float
        Limit, peak of torque, and the speed at which the controller leaves cranking. [1/min]
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
    """

    displacement_l: float
    chambers: int
    injectors: InjectorSet
    cycle: CycleKind = "four_stroke"
    compression_ratio: float = 9.5
    valves_per_chamber: int = 4
    cam: CamClass = "mild"
    fuelling: Fuelling = "port"
    induction: Induction = "natural"
    boost_kpa: float = 0.0
    rail_pressure_kpa: float = 300.0
    manifold_referenced: bool = True
    injections_per_cycle: int = 1
    ethanol_volume_share: float = 0.0
    rev_limit_rpm: float = 6500.0
    torque_peak_rpm: float = 4000.0
    crank_to_run_rpm: float = 450.0
    altitude_m: float = 0.0
    schools: Schools = field(default_factory=Schools)
    idle_valve_full_gps: float | None = None
    bore_mm: float | None = None
    stroke_mm: float | None = None
    cam_duration_deg: float | None = None
    cam_lift_mm: float | None = None
    lobe_separation_deg: float | None = None
    cam_profiles: int = 1
    charge_cooling: ChargeCooling = "air"
    boost_full_rpm: float | None = None
    wastegate_kpa: float | None = None
    use: Use = "road"

    @property
    def overlap_deg(self) -> float | None:
        """Crank angle with both valves open, from duration and lobe separation. [°]

        Duration − 2·separation for two equal cams: geometry.
        """
        if self.cam_duration_deg is None or self.lobe_separation_deg is None:
            return None
        return self.cam_duration_deg - 2.0 * self.lobe_separation_deg

    @property
    def cam_wildness(self) -> float:
        """How far overlap disturbs idle: 0 mild, 1 moderate, 2 wild; continuous from cam data. [–]"""
        overlap = self.overlap_deg
        if overlap is None:
            return {"mild": 0.0, "moderate": 1.0, "wild": 2.0}[self.cam]
        return min(2.4, max(0.0, (overlap - _MILD_OVERLAP_DEG) / _OVERLAP_PER_CLASS_DEG))

    def by_cam(self, mild: float, moderate: float, wild: float) -> float:
        """Return a value that stands at three cam classes, blended for a cam known by its data.

        Parameters
        ----------
        mild, moderate, wild : float
            The three values. [any unit]
        """
        wildness = self.cam_wildness
        if wildness <= 1.0:
            return mild + (moderate - mild) * wildness
        return moderate + (wild - moderate) * (wildness - 1.0)

    @property
    def piston_speed_at_limit_m_s(self) -> float | None:
        """Mean piston speed at the rev limit, 2·stroke·n/60; None without the stroke. [m/s]"""
        if self.stroke_mm is None or self.cycle == "rotary":
            return None
        return 2.0 * self.stroke_mm / 1000.0 * self.rev_limit_rpm / 60.0

    @property
    def top_map_kpa(self) -> float:
        """Highest manifold pressure that is meant to happen, absolute. [kPa]"""
        return self.barometric_kpa + self.boost_kpa

    @property
    def turns_per_cycle(self) -> int:
        """Shaft turns in which every chamber fires once. [–]"""
        return 2 if self.cycle == "four_stroke" else 1

    @property
    def firings_per_turn(self) -> float:
        """Combustion events per shaft turn. [–]"""
        return self.chambers / self.turns_per_cycle

    @property
    def chamber_l(self) -> float:
        """Displacement of one combustion event. [l]"""
        return self.displacement_l / self.chambers

    @property
    def fuel(self) -> Fuel:
        """The blend in the tank."""
        return Fuel(self.ethanol_volume_share)

    @property
    def barometric_kpa(self) -> float:
        """Air pressure of the standard atmosphere at the place of work. [kPa]"""
        return standard_pressure_kpa(self.altitude_m)

    @property
    def wet_manifold(self) -> bool:
        """Whether fuel wets the whole manifold."""
        return self.fuelling == "throttle_body"

    @property
    def injector_flow_cm3_min(self) -> float:
        """Static flow of one injector with outside pressure at its tip. [cm³/min]

        That is the state in which tables are written: full load, cranking, or above the
        throttle. A controller that measures manifold pressure corrects the rest itself.
        """
        across = differential_pressure_kpa(
            self.rail_pressure_kpa,
            self.barometric_kpa,
            self.barometric_kpa,
            manifold_referenced=self.manifold_referenced,
        )
        return flow_at_pressure(
            self.injectors.flow_cm3_min, self.injectors.rated_pressure_kpa, across
        )

    @property
    def reference_pulse_ms(self) -> float:
        """Pulse for 100 % volumetric efficiency, 100 kPa, 20 °C, lambda 1, no dead time. [ms]"""
        return reference_pulse_ms(
            displacement_l=self.displacement_l,
            injector_count=self.injectors.count,
            injections_per_cycle=self.injections_per_cycle,
            flow_cm3_min=self.injector_flow_cm3_min,
            fuel=self.fuel,
        )

    def check(self) -> EngineSpec:
        """Return the engine itself once every field is physically possible.

        Raises
        ------
        InputRefused
            With one sentence for each field that is not.
        """
        problems = list(_range_problems(self))
        if problems:
            raise InputRefused(problems)
        return self


#: Overlap of a mild cam by advertised duration, and how much more each class has (common
#: practice, no source). [°]
_MILD_OVERLAP_DEG, _OVERLAP_PER_CLASS_DEG = 24.0, 28.0

#: field -> (lower, upper, unit, what it is called)
_RANGES: dict[str, tuple[float, float, str, str]] = {
    "displacement_l": (0.05, 30.0, "l", "Displacement"),
    "chambers": (1, 16, "", "The number of cylinders or rotors"),
    "compression_ratio": (5.0, 18.0, ":1", "The compression ratio"),
    "valves_per_chamber": (2, 5, "", "Valves per cylinder"),
    "boost_kpa": (0.0, 400.0, "kPa", "Boost"),
    "rail_pressure_kpa": (50.0, 1000.0, "kPa", "Rail pressure"),
    "injections_per_cycle": (1, 8, "", "Injections per cycle"),
    "ethanol_volume_share": (0.0, 1.0, "", "The ethanol share"),
    "rev_limit_rpm": (1500.0, 20_000.0, "rpm", "The rev limit"),
    "torque_peak_rpm": (800.0, 15_000.0, "rpm", "The speed of the torque peak"),
    "crank_to_run_rpm": (200.0, 900.0, "rpm", "The crank-to-run speed"),
    "altitude_m": (-500.0, 5000.0, "m", "Altitude"),
    "injectors.count": (1, 32, "", "The number of injectors"),
    "injectors.flow_cm3_min": (20.0, 6000.0, "cm³/min", "Injector flow"),
    "injectors.rated_pressure_kpa": (60.0, 1000.0, "kPa", "The injector's rated pressure"),
    "idle_valve_full_gps": (0.2, 200.0, "g/s", "Air through the open idle valve"),
    "bore_mm": (20.0, 200.0, "mm", "The bore"),
    "stroke_mm": (20.0, 200.0, "mm", "The stroke"),
    "cam_duration_deg": (180.0, 360.0, "°", "Cam duration"),
    "cam_lift_mm": (3.0, 25.0, "mm", "Valve lift"),
    "lobe_separation_deg": (90.0, 130.0, "°", "Lobe separation"),
    "cam_profiles": (1, 2, "", "Cam profiles"),
    "boost_full_rpm": (800.0, 12_000.0, "rpm", "The speed of full boost"),
    "wastegate_kpa": (0.0, 400.0, "kPa", "Wastegate boost"),
}


def _range_problems(spec: EngineSpec) -> Iterator[FieldProblem]:
    """Yield a problem for each field outside its physical range."""
    for path, (lower, upper, unit, name) in _RANGES.items():
        value: object = spec
        for part in path.split("."):
            value = getattr(value, part)
        if value is None:
            continue
        number = float(value)  # type: ignore[arg-type]
        problem = out_of_bounds(path, number, lower, upper, unit, name)
        if problem is not None:
            yield problem
    if spec.torque_peak_rpm >= spec.rev_limit_rpm:
        yield FieldProblem("torque_peak_rpm", "The torque peak must lie below the rev limit.")
    yield from _geometry_problems(spec)
    if spec.induction == "natural" and spec.boost_kpa > 0:
        yield FieldProblem("boost_kpa", "A naturally aspirated engine has no boost: enter 0.")
    if spec.induction == "boosted" and spec.boost_kpa <= 0:
        yield FieldProblem("boost_kpa", "Enter the highest boost of the charged engine in kPa.")


#: Bore and stroke are nominal figures; further off than this the displacement is another. [–]
_DISPLACEMENT_TOLERANCE = 0.04


def _geometry_problems(spec: EngineSpec) -> Iterator[FieldProblem]:
    """Yield what bore, stroke, cam and charger data say against each other."""
    if spec.bore_mm is not None and spec.stroke_mm is not None and spec.cycle == "four_stroke":
        litres = math.pi / 4.0 * spec.bore_mm**2 * spec.stroke_mm * spec.chambers / 1e6
        if abs(litres / spec.displacement_l - 1.0) > _DISPLACEMENT_TOLERANCE:
            yield FieldProblem(
                "bore_mm",
                f"{spec.chambers} × {spec.bore_mm:g} mm bore × {spec.stroke_mm:g} mm stroke make "
                f"{litres:.2f} l, not {spec.displacement_l:g} l.",
            )
    if (spec.cam_duration_deg is None) != (spec.lobe_separation_deg is None):
        yield FieldProblem(
            "cam_duration_deg", "Cam duration and lobe separation say something only together."
        )
    if spec.boost_full_rpm is not None and spec.boost_full_rpm >= spec.rev_limit_rpm:
        yield FieldProblem("boost_full_rpm", "Full boost must be reached below the rev limit.")
    if spec.wastegate_kpa is not None and spec.wastegate_kpa > spec.boost_kpa:
        yield FieldProblem(
            "wastegate_kpa",
            "Wastegate boost is the least there can be: it cannot exceed the highest.",
        )


__all__ = [
    "CamClass",
    "ChargeCooling",
    "CycleKind",
    "EngineSpec",
    "Fuelling",
    "Induction",
    "InjectorSet",
    "Schools",
    "Use",
]

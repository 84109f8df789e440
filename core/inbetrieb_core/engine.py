"""One engine: what is entered of it, checked, and what follows from it at once."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, field, fields

from .air import standard_pressure_kpa
from .bounds import out_of_bounds
from .engine_data import (
    ENGINE_FIELDS,
    CamClass,
    ChargeCooling,
    CycleKind,
    DeadTimeSheet,
    EngineData,
    EngineEntry,
    Fuelling,
    Induction,
    InjectorsEntry,
    Schools,
    Use,
)
from .errors import CoreError, FieldProblem, InputRefused
from .fuel import Fuel
from .injectors import (
    ASSUMED_DEAD_TIME,
    DeadTimeCurve,
    differential_pressure_kpa,
    flow_at_pressure,
    flow_of_blend,
    reference_pulse_ms,
)


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
class EngineSpec(EngineData):
    """One engine as everything else computes with it. Construct it, then call :meth:`check`.

    Attributes
    ----------
    injectors : InjectorSet
        The injectors fitted.
    torque_peak_rpm : float
        [1/min]

    Others as :class:`~inbetrieb_core.engine_data.EngineData`.
    """

    injectors: InjectorSet = field(kw_only=True)
    torque_peak_rpm: float = field(default=4000.0, kw_only=True)

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
        """Static flow of one injector with outside pressure at its tip, of the blend. [cm³/min]

        Flow is entered as that of petrol; a denser blend passes less volume, by the root of its density
        (Bernoulli). That is the state in which tables are written: full load, cranking, or above the
        throttle. A controller that measures manifold pressure corrects the rest itself.
        """
        across = differential_pressure_kpa(
            self.rail_pressure_kpa,
            self.barometric_kpa,
            self.barometric_kpa,
            manifold_referenced=self.manifold_referenced,
        )
        entered = flow_of_blend(self.injectors.flow_cm3_min, self.fuel)
        return flow_at_pressure(entered, self.injectors.rated_pressure_kpa, across)

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


def _range_problems(spec: EngineSpec) -> Iterator[FieldProblem]:
    """Yield a problem for each field outside its physical range."""
    for known in ENGINE_FIELDS:
        value: object = spec
        for part in known.path.split("."):
            value = getattr(value, part)
        if value is None:
            continue
        number = float(value)  # type: ignore[arg-type]
        problem = out_of_bounds(
            known.path, number, known.lower, known.upper, known.unit, known.title
        )
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


#: Torque usually peaks at about this share of the rev limit (common practice, no source).
_TORQUE_PEAK_SHARE = 0.64
#: More points than any data sheet has.
_MOST_DEAD_TIMES = 32


def engine_of(entry: EngineEntry) -> EngineSpec:
    """Return the checked engine of an entry.

    Raises
    ------
    InputRefused
        With one sentence per field that is not possible.
    """
    injectors = entry.injectors
    curve = ASSUMED_DEAD_TIME
    problems: list[FieldProblem] = []
    if injectors.dead_time is not None:
        curve, problems = _dead_time(injectors.dead_time)
    if problems:
        raise InputRefused(problems)
    peak = entry.torque_peak_rpm
    plain = {known.name: getattr(entry, known.name) for known in fields(EngineData)}
    return EngineSpec(
        **plain,
        injectors=InjectorSet(
            entry.chambers if injectors.count is None else injectors.count,
            injectors.flow_cm3_min,
            injectors.rated_pressure_kpa,
            curve,
            injectors.dead_time is None,
        ),
        torque_peak_rpm=round(_TORQUE_PEAK_SHARE * entry.rev_limit_rpm, -2)
        if peak is None
        else peak,
    ).check()


def _dead_time(sheet: DeadTimeSheet) -> tuple[DeadTimeCurve, list[FieldProblem]]:
    """Return the curve of a data sheet, and what is wrong with it."""
    at = "injectors.dead_time"
    if len(sheet.voltage_v) > _MOST_DEAD_TIMES:
        return ASSUMED_DEAD_TIME, [FieldProblem(at, "That is more dead times than any sheet has.")]
    try:
        curve = DeadTimeCurve(sheet.voltage_v, sheet.dead_time_ms)
    except CoreError as error:
        return ASSUMED_DEAD_TIME, [FieldProblem(at, f"{error}.")]
    return curve, [
        FieldProblem(
            at, f"Dead time rises at {volt:g} V; with more voltage an injector opens faster."
        )
        for volt in curve.rising_points()
    ]


def entry_of(spec: EngineSpec) -> EngineEntry:
    """Return an engine as it would be entered."""
    injectors, curve = spec.injectors, spec.injectors.dead_time
    plain = {known.name: getattr(spec, known.name) for known in fields(EngineData)}
    return EngineEntry(
        **plain,
        injectors=InjectorsEntry(
            injectors.flow_cm3_min,
            injectors.count,
            injectors.rated_pressure_kpa,
            None
            if injectors.dead_time_assumed
            else DeadTimeSheet(curve.voltage_v, curve.dead_time_ms),
        ),
        torque_peak_rpm=spec.torque_peak_rpm,
    )


__all__ = [
    "EngineEntry",
    "engine_of",
    "entry_of",
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

"""Injectors and supply as an installer enters them, and what the engine makes of them."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Literal

from ..bounds import out_of_bounds
from ..engine import EngineSpec, InjectorSet
from ..errors import CoreError, FieldProblem, InputRefused, field_refused
from ..injectors import (
    ASSUMED_DEAD_TIME,
    FLUIDS,
    DeadTimeCurve,
    DeadTimeField,
    DriverKind,
    FlowReport,
    FlowUnit,
    flow_at_pressure,
    flow_of_petrol,
    judge_report,
    volume_flow_cm3_min,
)
from ..provenance import ProvenanceKind
from ..sentences import injector_flow, kilopascal, number, quantity
from .modes import Signals
from .pump import Line, PumpCurve, PumpFlow

FluidKey = Literal["petrol", "test_fluid", "ethanol", "own"]
RegulatorKind = Literal[
    "referenced_return", "fixed_return", "referenced_dead_head", "fixed_dead_head"
]

REGULATORS: dict[RegulatorKind, str] = {
    "referenced_return": "follows the manifold, with a return line",
    "fixed_return": "fixed above outside air, with a return line",
    "referenced_dead_head": "follows the manifold, at the tank, no return line",
    "fixed_dead_head": "fixed above outside air, at the tank, no return line",
}
#: Shortest open time that usual injectors repeat well, where no data sheet says (common
#: practice, no source). [ms]
USUAL_STEADY_MS = 0.7
MOST_VOLTAGES, MOST_PRESSURES = 32, 8


@dataclass(frozen=True)
class DeadTimeEntry:
    """Dead time [ms] over voltage [V]; several rows where it is known at several pressures [kPa]."""

    voltage_v: tuple[float, ...]
    dead_time_ms: tuple[tuple[float, ...], ...]
    pressure_kpa: tuple[float, ...] | None = None


@dataclass(frozen=True)
class ReportEntry:
    """A flow-bench report: flow of each injector [flow_unit], the pressure [kPa], cylinders' needs [%]."""

    flows: tuple[float, ...]
    pressure_kpa: float | None = None
    needs_pct: tuple[float, ...] | None = None


@dataclass(frozen=True)
class InjectorEntry:
    """The injectors of a job.

    Attributes
    ----------
    name : str
        What is fitted, in the installer's words.
    count : int
        Injectors in all. [–]
    flow : float
        Static flow of one, in `flow_unit`. [flow_unit]
    flow_unit : {"cm³/min", "lb/h", "g/s"}
    fluid : {"petrol", "test_fluid", "ethanol", "own"}
        With what it was measured; ``own`` takes `fluid_density_kg_m3`.
    fluid_density_kg_m3 : float or None
        [kg/m³]
    rated_pressure_kpa : float
        Pressure difference of the rating. [kPa]
    dead_time : DeadTimeEntry or None
        None takes a middling curve and marks it assumed.
    report : ReportEntry or None
        Its mean then stands for `flow`.
    resistance_ohm : float or None
        [Ω]
    driver : {"plain", "current_limiting", "unknown"}
        What the controller has.
    smallest_open_ms : float or None
        Shortest open time that repeats well; None takes a usual one. [ms]
    injections_per_cycle : int
        [–]
    signals : {"speed_only", "crank", "crank_and_cam"}
        What the controller knows of the crankshaft.
    target_power_kw : float or None
        What the build is meant to reach. [kW]
    provenance, note : str
        Where the data come from.
    override_reason : str
        Why implausible injectors are right all the same.
    """

    name: str
    count: int
    flow: float
    flow_unit: FlowUnit = "cm³/min"
    fluid: FluidKey = "petrol"
    fluid_density_kg_m3: float | None = None
    rated_pressure_kpa: float = 300.0
    dead_time: DeadTimeEntry | None = None
    report: ReportEntry | None = None
    resistance_ohm: float | None = None
    driver: DriverKind = "unknown"
    smallest_open_ms: float | None = None
    injections_per_cycle: int = 1
    signals: Signals = "crank_and_cam"
    target_power_kw: float | None = None
    provenance: ProvenanceKind = "assumed"
    note: str = ""
    override_reason: str = ""

    @property
    def density_kg_m3(self) -> float:
        """Density of the fluid of the rating. [kg/m³]"""
        if self.fluid == "own":
            return self.fluid_density_kg_m3 or math.nan
        return FLUIDS[self.fluid].density_kg_m3

    def petrol_cm3_min(self, flow: float) -> float:
        """Return a flow in the entry's unit and fluid as petrol. [flow_unit → cm³/min]"""
        volume = volume_flow_cm3_min(flow, self.flow_unit, self.density_kg_m3)
        return flow_of_petrol(volume, self.density_kg_m3)

    @property
    def steady_open_ms(self) -> float:
        """Shortest open time that repeats well. [ms]"""
        return USUAL_STEADY_MS if self.smallest_open_ms is None else self.smallest_open_ms

    def flow_report(self) -> FlowReport | None:
        """Return the judged flow-bench report, as petrol at the rated pressure; None without one.

        Raises
        ------
        InputRefused
            If an injector is missing or a flow cannot be.
        """
        if self.report is None:
            return None
        pressure = self.report.pressure_kpa or self.rated_pressure_kpa
        flows = [
            flow_at_pressure(self.petrol_cm3_min(flow), pressure, self.rated_pressure_kpa)
            for flow in self.report.flows
        ]
        return judge_report(flows, self.count, self.report.needs_pct)

    def rated_cm3_min(self) -> float:
        """Return the flow to compute with: the report's mean, or else the rating, as petrol. [cm³/min]"""
        report = self.flow_report()
        return self.petrol_cm3_min(self.flow) if report is None else report.mean_cm3_min

    def dead_time_field(self) -> DeadTimeField | None:
        """Return the entered dead times, None where there are none.

        Raises
        ------
        InputRefused
            If they are incomplete, or rise with voltage.
        """
        entry = self.dead_time
        if entry is None:
            return None
        if len(entry.voltage_v) > MOST_VOLTAGES or len(entry.dead_time_ms) > MOST_PRESSURES:
            raise field_refused(
                "dead_time", f"At most {MOST_VOLTAGES} voltages and {MOST_PRESSURES} pressures."
            )
        pressures = entry.pressure_kpa or (self.rated_pressure_kpa,)
        try:
            field = DeadTimeField(
                tuple(pressures),
                tuple(DeadTimeCurve(tuple(entry.voltage_v), tuple(r)) for r in entry.dead_time_ms),
            )
        except CoreError as error:
            sentence = f"{error}."
            raise field_refused("dead_time", sentence[0].upper() + sentence[1:]) from error
        problems = [
            FieldProblem(
                "dead_time",
                f"Dead time rises at {volt:g} V; with more voltage an injector opens faster.",
            )
            for curve in field.curves
            for volt in curve.rising_points()
        ]
        problems += [
            FieldProblem("dead_time", f"{volt:g} V is no battery's: 4 to 20 V are.")
            for volt in entry.voltage_v
            if not 4.0 <= volt <= 20.0
        ]
        problems += [
            FieldProblem("dead_time", f"{kpa:g} kPa across an injector cannot be.")
            for kpa in entry.pressure_kpa or ()
            if not 20.0 <= kpa <= 1500.0
        ]
        problems += [
            FieldProblem(
                "dead_time", f"A dead time of {time:g} ms cannot be. Is it in microseconds?"
            )
            for curve in field.curves
            for time in curve.dead_time_ms
            if time > 20.0
        ]
        if problems:
            raise InputRefused(problems)
        return field

    def check(self) -> InjectorEntry:
        """Return the entry itself once every field is possible.

        Raises
        ------
        InputRefused
            With one sentence for each field that is not.
        """
        problems = list(_injector_problems(self))
        for part in (self.flow_report, self.dead_time_field):
            if problems:
                break
            try:
                part()
            except InputRefused as refused:
                problems += refused.problems
        if problems:
            raise InputRefused(problems)
        return self

    def fitted_to(self, spec: EngineSpec) -> EngineSpec:
        """Return the engine with these injectors, everything checked.

        Raises
        ------
        InputRefused
            With one sentence for each field that cannot be.
        """
        self.check()
        field = self.dead_time_field()
        curve = ASSUMED_DEAD_TIME
        if field is not None:
            curve, _ = field.at_pressure(spec.rail_pressure_kpa)
        return replace(
            spec,
            injections_per_cycle=self.injections_per_cycle,
            injectors=InjectorSet(
                self.count, self.rated_cm3_min(), self.rated_pressure_kpa, curve, field is None
            ),
        ).check()


#: field -> (lowest, highest, unit, what it is called)
_BOUNDS: dict[str, tuple[float, float, str, str]] = {
    "count": (1, 32, "", "The number of injectors"),
    "rated_pressure_kpa": (60.0, 1000.0, "kPa", "The rated pressure"),
    "fluid_density_kg_m3": (500.0, 1100.0, "kg/m³", "The fluid's density"),
    "resistance_ohm": (0.3, 60.0, "Ω", "The resistance of an injector"),
    "smallest_open_ms": (0.05, 5.0, "ms", "The smallest steady open time"),
    "injections_per_cycle": (1, 8, "", "Injections per cycle"),
    "target_power_kw": (1.0, 3000.0, "kW", "The target power"),
}
_LEAST_CM3, _MOST_CM3 = 20.0, 6000.0


def _injector_problems(entry: InjectorEntry) -> Iterator[FieldProblem]:
    if not entry.name.strip():
        yield FieldProblem("name", "Say which injectors are fitted, so that they are found again.")
    for field, (low, high, unit, name) in _BOUNDS.items():
        value = getattr(entry, field)
        problem = None if value is None else out_of_bounds(field, value, low, high, unit, name)
        if problem is not None:
            yield problem
    if entry.fluid == "own" and entry.fluid_density_kg_m3 is None:
        yield FieldProblem("fluid_density_kg_m3", "Enter the density of the fluid in kg/m³.")
        return
    flow = volume_flow_cm3_min(entry.flow, entry.flow_unit, entry.density_kg_m3)
    if not (math.isfinite(flow) and _LEAST_CM3 <= flow <= _MOST_CM3):
        yield FieldProblem(
            "flow",
            f"A flow of {number(entry.flow)} {entry.flow_unit} is {injector_flow(flow)}; injectors flow "
            f"between {quantity(_LEAST_CM3, 'cm³/min', bare=True)} and {quantity(_MOST_CM3, 'cm³/min')}. Is the unit right?",
        )
    pressure = entry.report.pressure_kpa if entry.report else None
    if pressure is not None and not 30.0 <= pressure <= 1000.0:
        yield FieldProblem(
            "report.pressure_kpa",
            f"The report's pressure must be between {kilopascal(30, bare=True)} and {kilopascal(1000)}, not {quantity(pressure, 'kPa', bare=True)}.",
        )


@dataclass(frozen=True)
class SupplyEntry:
    """Pump, regulator and lines of a job.

    Attributes
    ----------
    name : str
        Which pump is fitted.
    readings : tuple of PumpFlow
        Its flow over pressure and voltage.
    regulator : str
        Key of :data:`REGULATORS`.
    rail_pressure_kpa : float
        Gauge; with a referenced regulator above the manifold. [kPa]
    line_loss_kpa, line_loss_at_l_h : float
        One known loss between pump and rail. [kPa, l/h]
    voltage_v : float
        At the pump under full load. [V]
    prime : tuple of (seconds, kPa) or None
        Pressure after pump on.
    decay : tuple of (minutes, kPa) or None
        Pressure after key-off.
    provenance, note : str
    """

    name: str
    readings: tuple[PumpFlow, ...]
    regulator: RegulatorKind = "referenced_return"
    rail_pressure_kpa: float = 300.0
    line_loss_kpa: float = 0.0
    line_loss_at_l_h: float = 100.0
    voltage_v: float = 13.5
    prime: tuple[tuple[float, float], ...] | None = None
    decay: tuple[tuple[float, float], ...] | None = None
    provenance: ProvenanceKind = "assumed"
    note: str = ""

    @property
    def referenced(self) -> bool:
        """Whether the regulator follows the manifold."""
        return self.regulator.startswith("referenced")

    @property
    def returns(self) -> bool:
        """Whether a return line runs from the rail."""
        return self.regulator.endswith("return")

    def check(self) -> SupplyEntry:
        """Return the entry itself once every field is possible.

        Raises
        ------
        InputRefused
            With one sentence for each field that is not.
        """
        bounded = (
            out_of_bounds(
                "rail_pressure_kpa", self.rail_pressure_kpa, 50.0, 1000.0, "kPa", "Rail pressure"
            ),
            out_of_bounds("voltage_v", self.voltage_v, 6.0, 18.0, "V", "The voltage at the pump"),
        )
        problems = [problem for problem in bounded if problem is not None]
        if not self.name.strip():
            problems.append(FieldProblem("name", "Say which pump is fitted."))
        for part in (self.curve, self.line):
            try:
                part()
            except InputRefused as refused:
                problems += refused.problems
        if problems:
            raise InputRefused(problems)
        return self

    def curve(self) -> PumpCurve:
        """Return the pump's curve."""
        return PumpCurve(self.readings)

    def line(self) -> Line:
        """Return the line's loss."""
        return Line(self.line_loss_kpa, self.line_loss_at_l_h)

    def fitted_to(self, spec: EngineSpec) -> EngineSpec:
        """Return the engine with this rail pressure and regulator."""
        return replace(
            spec, rail_pressure_kpa=self.rail_pressure_kpa, manifold_referenced=self.referenced
        ).check()

"""Everything that follows from the entered injectors and supply: what the sheet shows."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from ..charge import expected_start_value
from ..engine import EngineSpec
from ..injectors import (
    DUTY_LIMIT_PCT,
    DeadTimeOrigin,
    DriverJudgement,
    FlowReport,
    judge_driver,
    pounds_per_hour,
)
from ..sentences import celsius, injector_flow
from .entry import InjectorEntry, SupplyEntry
from .full_load import DutyLine, duty_lines, hardest, injector_power_kw, running_dead_time_ms
from .judgement import InjectorJudgement, idle_open_ms, judge_injectors
from .margin import Supply, SupplyMargin, supply_margin
from .modes import InjectionMode, injection_modes
from .prime import DecayResult, PrimeResult, judge_decay, judge_prime

#: A cold start on a weak battery, for the largest pulse.
_COLD_C, _COLD_V = -20.0, 9.0


@dataclass(frozen=True)
class DeadTimeCell:
    """Dead time [ms] at a breakpoint [V] of the controller, how it was obtained, and whether the
    rail's pressure lies outside the data."""

    voltage_v: float
    dead_time_ms: float
    origin: DeadTimeOrigin


@dataclass(frozen=True)
class InjectorSheet:
    """What follows from the injectors in this engine.

    Attributes
    ----------
    rated_cm3_min : float
        Petrol, at the rated pressure, of the mean injector. [cm³/min]
    rail_cm3_min, rail_lb_h, rail_gps : float
        At this rail, fuel of the job. [cm³/min, lb/h, g/s]
    fuel_density_kg_m3 : float
        Of the fuel in the tank. [kg/m³]
    reference_pulse_ms : float
        100 % volumetric efficiency, lambda 1, no dead time. [ms]
    smallest_pulse_ms, largest_pulse_ms : float
        Expected: warm idle, and full load or a start at −20 °C; with dead time. [ms]
    largest_at : str
        Which of the two it is.
    idle_open_ms : float
        Warm idle without dead time. [ms]
    steady_open_ms : float
        Shortest open time that repeats well. [ms]
    dead_time_share_pct : float
        Dead time in the idle pulse. [%]
    dead_time : tuple of DeadTimeCell
        On the controller's axis.
    dead_time_outside : bool
        Whether the rail lies outside the pressures of the data.
    duty_lines : tuple of DutyLine
    duty_limit_pct : float
        [%]
    power_kw : float
        The largest these injectors carry on this fuel. [kW]
    report : FlowReport or None
    driver : DriverJudgement or None
    modes : tuple of InjectionMode
    judgement : InjectorJudgement
    level : {"good", "attention", "stop"}
        The worst of all that is judged: injectors, report, driver, mode.
    sentences : tuple of str
        The verdict, the most important first.
    """

    rated_cm3_min: float
    rail_cm3_min: float
    rail_lb_h: float
    rail_gps: float
    fuel_density_kg_m3: float
    reference_pulse_ms: float
    smallest_pulse_ms: float
    largest_pulse_ms: float
    largest_at: str
    idle_open_ms: float
    steady_open_ms: float
    dead_time_share_pct: float
    dead_time: tuple[DeadTimeCell, ...]
    dead_time_outside: bool
    duty_lines: tuple[DutyLine, ...]
    duty_limit_pct: float
    power_kw: float
    report: FlowReport | None
    driver: DriverJudgement | None
    modes: tuple[InjectionMode, ...]
    judgement: InjectorJudgement
    level: Literal["good", "attention", "stop"]
    sentences: tuple[str, ...]


def injector_sheet(
    spec: EngineSpec, entry: InjectorEntry, battery_axis_v: tuple[float, ...]
) -> InjectorSheet:
    """Return everything that follows from injectors in an engine.

    Parameters
    ----------
    spec : EngineSpec
        The engine; its own injectors are replaced by the entry's.
    entry : InjectorEntry
        As typed.
    battery_axis_v : tuple of float
        The controller's own axis of dead time. [V]

    Raises
    ------
    InputRefused
        With one sentence for each field that cannot be.
    """
    engine = entry.fitted_to(spec)
    report = entry.flow_report()
    driver = None
    if entry.resistance_ohm is not None:
        driver = judge_driver(entry.resistance_ohm, entry.driver)
    times, origins = engine.injectors.dead_time.on_axis(battery_axis_v)
    field = entry.dead_time_field()
    outside = field is not None and len(field.curves) > 1 and field.at_pressure(
        spec.rail_pressure_kpa
    )[1]  # fmt: skip
    opened, dead = idle_open_ms(engine), running_dead_time_ms(engine)
    largest, where = _largest_pulse(engine)
    judgement = judge_injectors(engine)
    flow = engine.injector_flow_cm3_min
    density = engine.fuel.density_kg_m3
    power = injector_power_kw(engine, DUTY_LIMIT_PCT)
    findings = sorted(
        _findings(entry, engine, judgement, report, driver, power),
        key=lambda finding: _SERIOUS.index(finding[0]),
    )
    return InjectorSheet(
        engine.injectors.flow_cm3_min,
        flow,
        pounds_per_hour(flow, density),
        flow * density / 60_000.0,
        density,
        engine.reference_pulse_ms,
        opened + dead,
        largest,
        where,
        opened,
        entry.steady_open_ms,
        100.0 * dead / (opened + dead),
        tuple(
            DeadTimeCell(v, t, o) for v, t, o in zip(battery_axis_v, times, origins, strict=True)
        ),
        outside,
        duty_lines(engine),
        DUTY_LIMIT_PCT,
        power,
        report,
        driver,
        injection_modes(engine, entry.signals, entry.steady_open_ms),
        judgement,
        min((level for level, _ in findings), key=_SERIOUS.index),
        tuple(sentence for _, sentence in findings),
    )


def _largest_pulse(engine: EngineSpec) -> tuple[float, str]:
    full = hardest(engine)
    share = expected_start_value(engine, "cranking_fuel", _COLD_C) / 100.0
    cold = engine.reference_pulse_ms * share + engine.injectors.dead_time.on_axis((_COLD_V,))[0][0]
    if cold > full.pulse_ms or not math.isfinite(full.pulse_ms):
        return cold, f"a start at {celsius(_COLD_C)} on {_COLD_V:g} V"
    return full.pulse_ms, f"full load at {full.rpm:.0f} rpm"


Level = Literal["good", "attention", "stop"]
_SERIOUS: tuple[Level, ...] = ("stop", "attention", "good")
_JUDGED: dict[str, Level] = {"fits": "good", "attention": "attention", "implausible": "stop"}


def _findings(
    entry: InjectorEntry,
    engine: EngineSpec,
    judgement: InjectorJudgement,
    report: FlowReport | None,
    driver: DriverJudgement | None,
    power_kw: float,
) -> Iterator[tuple[Level, str]]:
    """Yield everything that is judged, each with how serious it is."""
    for sentence in judgement.sentences:
        yield _JUDGED[judgement.level], sentence
    opened = idle_open_ms(engine)
    if opened < entry.steady_open_ms and not any("steady range" in s for s in judgement.sentences):
        yield (
            "attention",
            f"Idle pulse {opened:.2f} ms: below this injector's steady {entry.steady_open_ms:g} ms.",
        )
    if entry.target_power_kw is not None:
        yield _power_finding(engine, power_kw, entry.target_power_kw)
    if report is not None and report.level != "matched":
        for sentence in report.sentences:
            yield "attention", sentence
    if driver is not None and driver.level != "fits":
        yield driver.level, driver.sentence
    modes = injection_modes(engine, entry.signals, entry.steady_open_ms)
    if not any(mode.allowed and mode.in_use for mode in modes):
        times = "once" if entry.injections_per_cycle == 1 else f"{entry.injections_per_cycle} times"
        yield (
            "attention",
            f"Injecting {times} per cycle is no mode that these crank and cam signals allow.",
        )
    if entry.dead_time is None:
        yield (
            "attention",
            "No dead time is entered: a middling curve stands in and counts as assumed.",
        )


def _power_finding(engine: EngineSpec, power_kw: float, target_kw: float) -> tuple[Level, str]:
    if power_kw >= target_kw:
        return (
            "good",
            f"They carry about {power_kw:.0f} kW on this fuel, enough for {target_kw:g} kW.",
        )
    needed = engine.injectors.flow_cm3_min * target_kw / max(power_kw, 1e-6)
    return (
        "attention",
        f"They carry about {power_kw:.0f} kW on this fuel; {target_kw:g} kW need about "
        f"{injector_flow(needed)} each.",
    )


@dataclass(frozen=True)
class SupplySheet:
    """What follows from the supply: margin, prime and residual pressure."""

    margin: SupplyMargin
    prime: PrimeResult | None
    decay: DecayResult | None


def supply_sheet(spec: EngineSpec, entry: SupplyEntry) -> SupplySheet:
    """Return everything that follows from a supply on an engine.

    Raises
    ------
    InputRefused
        With one sentence for each field that cannot be.
    """
    entry.check()
    engine = entry.fitted_to(spec)
    supply = Supply(entry.curve(), entry.line(), entry.returns, entry.voltage_v)
    return SupplySheet(
        supply_margin(engine, supply),
        judge_prime(entry.prime, entry.rail_pressure_kpa) if entry.prime else None,
        judge_decay(entry.decay) if entry.decay else None,
    )

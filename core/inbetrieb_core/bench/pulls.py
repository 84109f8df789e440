"""Pulls of the bench engine on simulated rollers or a brake: boost, heat, knock, a pump that ends, and what goes wrong."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..charge.idle_air import INDICATED_WORK_KJ_PER_G
from ..engine import EngineSpec
from ..errors import field_refused
from ..friction import friction_at_thickness_kpa, oil_thickness
from ..logs import Trace
from ..quantities import kelvin
from ..tables import Calibration
from .engines import BenchEngine
from .lookup import surface
from .physics import mixture_work, spark_efficiency
from .truth import true_filling

#: What can be wrong in a pull, in words.
PULL_FAULTS: dict[str, str] = {
    "weak_pump": "Pump at its end",
    "boost_leak": "Charge pipe leaks",
    "creep": "Wastegate too small",
    "stuck_valve": "Boost valve without effect",
    "knock": "Fuel that knocks early",
    "slip": "Tyre slips on the rollers",
    "lean_hole": "Lean hole in the map",
    "two_gears": "A gear change in it",
}
_RATE_HZ, _BEGIN_S = 20.0, 1.0
#: Mass times square of tyre over ratio, as the engine feels it, for each litre of it. [kg·m²/l]
_INERTIA_PER_L = 1.3
_SENSOR_S = 0.35
#: Spark that the charge bears at 100 kPa and 30 °C; less for each kPa and K. [°, °/kPa, °/K]
_BEARS_DEG, _PER_KPA, _PER_K = 34.0, 0.16, 0.25
_DRY_AIR = 0.28705  # kJ/(kg·K)


@dataclass(frozen=True)
class PullTruth:
    """What nobody entered.

    Attributes
    ----------
    wastegate_kpa : float
        What the spring holds by itself, above the air. [kPa]
    valve_kpa : float
        What full duty adds. [kPa]
    valve_bend : float
        Exponent of the valve over its duty. [–]
    spools_rpm : float
        Where the turbocharger begins to make it. [1/min]
    creep_kpa : float
        What it adds with speed. [kPa]
    pump_ends : float
        Fuel flow at which the pump's pressure falls away, against that of the natural engine. [–]
    bears_deg : float
        More or less spark than usual that the fuel bears. [°]
    gain : float
        Torque against the middling engine. [–]
    repeat : float
        How pulls differ as a whole. (standard deviation) [–]
    soak_k, drift : float
        Intake air gains this from pull to pull [K]; torque does by itself. [–]
    """

    wastegate_kpa: float = 40.0
    valve_kpa: float = 110.0
    valve_bend: float = 1.3
    spools_rpm: float = 2800.0
    creep_kpa: float = 0.0
    pump_ends: float = 3.0
    bears_deg: float = 0.0
    gain: float = 1.0
    repeat: float = 0.006
    soak_k: float = 1.5
    drift: float = 0.0


def drawn_truth(spec: EngineSpec, seed: int) -> PullTruth:
    """Return a truth drawn about an engine.

    Parameters
    ----------
    spec : EngineSpec
    seed : int
    """
    draw = np.random.default_rng([seed, 0x7B])
    boost = max(30.0, spec.boost_kpa)
    return PullTruth(
        wastegate_kpa=float(boost * draw.uniform(0.3, 0.6)), valve_kpa=float(boost * draw.uniform(0.8, 1.8)),
        valve_bend=float(draw.uniform(0.8, 2.2)), spools_rpm=float(spec.torque_peak_rpm * draw.uniform(0.55, 0.8)),
        bears_deg=float(draw.normal(0.0, 2.0)), gain=float(draw.uniform(0.94, 1.06)), repeat=float(draw.uniform(0.003, 0.009)),
        soak_k=float(draw.uniform(0.5, 3.0)), drift=float(draw.normal(0.0, 0.002)),
        pump_ends=float(1.0 + (spec.boost_kpa / 100.0 + 0.6) * draw.uniform(0.9, 1.6)),
    )  # fmt: skip


def with_pull_faults(truth: PullTruth, faults: Sequence[str]) -> PullTruth:
    """Return a truth with faults in it.

    Parameters
    ----------
    truth : PullTruth
    faults : sequence of str
        Of :data:`PULL_FAULTS`.

    Raises
    ------
    InputRefused
        If there is none of that name.
    """
    for fault in faults:
        if fault not in PULL_FAULTS:
            raise field_refused("faults", f"There is no fault '{fault[:40]}' of a pull.")
    if "weak_pump" in faults:
        truth = replace(truth, pump_ends=0.8)
    if "boost_leak" in faults:
        truth = replace(
            truth, wastegate_kpa=0.75 * truth.wastegate_kpa, spools_rpm=1.18 * truth.spools_rpm
        )
    if "creep" in faults:
        truth = replace(truth, creep_kpa=70.0)
    if "stuck_valve" in faults:
        truth = replace(truth, valve_kpa=0.5)
    if "knock" in faults:
        truth = replace(truth, bears_deg=truth.bears_deg - 12.0)
    return truth


def simulate_pull(
    engine: BenchEngine, spec: EngineSpec, calibration: Calibration, truth: PullTruth, *, duty_pct: float = 0.0,
    number: int = 0, change_pct: float = 0.0, faults: Sequence[str] = (), brake: bool = True, ambient_c: float = 22.0, seed: int = 0,
) -> Trace:  # fmt: skip
    """Return the log of one pull.

    Parameters
    ----------
    engine : BenchEngine
        The simulated engine.
    spec : EngineSpec
        As entered; the controller computes with it.
    calibration : Calibration
        In the controller.
    truth : PullTruth
        Faults in it already.
    duty_pct : float
        Of the boost valve. [%]
    number : int
        Pulls before it: heat and drift.
    change_pct : float
        What a part makes more. [%]
    faults : sequence of str
        Those that are none of the truth: slip, two gears, a hole.
    brake : bool
        Whether torque is logged; else only speed tells.
    ambient_c : float
        Of the air. [°C]
    seed : int
        Of repeat and noise.

    Raises
    ------
    InputRefused
        If the duty cannot be.
    """
    if not 0.0 <= duty_pct <= 100.0:
        raise field_refused("duty_pct", "Duty lies between 0 and 100 %.")
    draw = np.random.default_rng([seed, 0x9C, number])
    hardware, plant = engine.truth.hardware, engine.truth
    true_ve_pct = true_filling(plant)
    ve, target, spark = (surface(calibration[key]) for key in ("ve", "lambda_target", "spark"))
    by_throttle = calibration["ve"].by_throttle
    baro = hardware.barometric_kpa
    own = 1.0 + truth.repeat * float(draw.standard_normal()) + truth.drift * number
    top = 0.97 * spec.rev_limit_rpm
    rpm, time = max(1400.0, 0.25 * top), 0.0
    coolant, intake = 86.0 + 0.4 * number, ambient_c + 6.0 + truth.soak_k * number
    thickness = oil_thickness(90.0)
    inertia = _INERTIA_PER_L * hardware.displacement_l
    knocks, retard, pressure_lag, shifted = 0, 0.0, baro, False
    late: list[tuple[float, float]] = []
    rows = []
    dt = 1.0 / (_RATE_HZ * 5.0)
    flow_natural = top * baro
    step = 0
    while rpm < top and time < 40.0:
        pulling = time >= _BEGIN_S
        pedal = 100.0 if pulling else 12.0
        charged = (
            (truth.wastegate_kpa + truth.valve_kpa * _valve(duty_pct, truth.valve_bend))
            if spec.boost_kpa > 0.0
            else 0.0
        )
        spool = truth.spools_rpm * (1.0 + charged / 900.0)
        made = charged / (1.0 + math.exp(-(rpm - spool) / 260.0)) + truth.creep_kpa * (
            rpm / top
        ) ** 4 * (charged > 0.0)
        full = baro * (0.985 - 0.03 * (rpm / top) ** 2) + made
        pressure_lag += ((full if pulling else 45.0) - pressure_lag) * min(1.0, dt / 0.12)
        heated = intake + 0.28 * max(0.0, pressure_lag - baro)
        pressure_map = pedal if by_throttle else pressure_lag
        charge_k = kelvin(heated)
        trapped = (
            true_ve_pct(rpm, pressure_lag)
            / 100.0
            * pressure_lag
            * hardware.chamber_l
            / (_DRY_AIR * charge_k)
        )
        wanted = max(0.3, target(rpm, pressure_map))
        told = ve(rpm, pressure_map) / 100.0 * (baro if by_throttle else pressure_lag)
        flow = rpm * pressure_lag / flow_natural
        missing = 90.0 * max(0.0, flow - truth.pump_ends) ** 2 * 4.0 + 2.0 * flow**2
        commanded = hardware.rail_pressure_kpa + (
            pressure_lag - baro if hardware.manifold_referenced else 0.0
        )
        rail = max(60.0, commanded - missing)
        across = max(20.0, rail + baro - pressure_lag)
        expected = max(20.0, commanded + baro - pressure_lag)
        given = (
            told
            * hardware.chamber_l
            / (_DRY_AIR * charge_k)
            / wanted
            * plant.flow_scale
            * math.sqrt(across / expected)
        )
        if "lean_hole" in faults:
            given *= 1.0 - 0.13 * math.exp(-(((rpm - 0.55 * top) / 260.0) ** 2))
        mixture = trapped / max(given, 1e-9)
        bears = (
            _BEARS_DEG
            + truth.bears_deg
            - _PER_KPA * max(0.0, pressure_lag - 100.0)
            - _PER_K * (heated - 30.0)
            + 0.002 * (rpm - 3000.0)
        )
        advance = spark(rpm, pressure_map) - retard
        if (
            pulling
            and advance > bears
            and draw.random() < 0.25 * dt * 100.0 * min(1.0, (advance - bears) / 6.0)
        ):
            knocks += 1
            retard = min(8.0, retard + 2.0)
        retard = max(0.0, retard - 1.2 * dt)
        best = 24.0 + 10.0 * (1.0 - min(1.0, pressure_lag / baro)) + 0.0008 * (rpm - 3000.0)
        work = (
            INDICATED_WORK_KJ_PER_G
            * 1000.0
            * plant.efficiency_scale
            * trapped
            * mixture_work(mixture, 0.0, rpm)
            * spark_efficiency(advance, best)
            / 0.9
        )
        mean_kpa = work / hardware.chamber_l - plant.friction_scale * friction_at_thickness_kpa(
            rpm, thickness
        )
        torque = (
            mean_kpa
            * hardware.displacement_l
            / (2.0 * math.pi * hardware.turns_per_cycle)
            * truth.gain
            * own
            * (1.0 + change_pct / 100.0)
        )
        gains = torque if pulling else 0.0
        slips = "slip" in faults and pulling and 0.5 * top < rpm < 0.56 * top
        rpm += gains / (inertia * (0.35 if slips else 1.0)) * 30.0 / math.pi * dt
        if "two_gears" in faults and not shifted and rpm > 0.75 * top:
            rpm, shifted = 0.6 * top, True
        late.append((time, mixture))
        if step % 5 == 0:
            while len(late) > 1 and late[0][0] < time - _SENSOR_S:
                late.pop(0)
            rows.append(_row(time, rpm, pressure_lag, heated, coolant, pedal, late[0][1], wanted, told, commanded, rail, advance, retard, knocks, duty_pct, torque, calibration, spec, draw, brake))  # fmt: skip
        step += 1
        time += dt
    columns = np.array(rows, dtype=float).T
    channels = {name: columns[i].round(4) for i, name in enumerate(_LOGGED)}
    if not brake:
        del channels["torque_nm"]
    return Trace(channels)


_LOGGED = (
    "time_s", "rpm", "map_kpa", "intake_c", "coolant_c", "throttle_pct", "lambda", "lambda_target", "pulse_ms",
    "fuel_pressure_kpa", "spark_deg", "knock_deg", "knock_count", "boost_duty_pct", "torque_nm", "battery_v",
)  # fmt: skip


def _valve(duty_pct: float, bend: float) -> float:
    """Return what a valve does at a duty: nothing below 8 %, all above 92 %. [% → –]"""
    return math.pow(min(1.0, max(0.0, (duty_pct - 8.0) / 84.0)), bend)


def _row(
    time: float, rpm: float, pressure: float, heated: float, coolant: float, pedal: float, mixture: float, wanted: float,
    told: float, commanded: float, rail: float, advance: float, retard: float, knocks: int, duty: float, torque: float,
    calibration: Calibration, spec: EngineSpec, draw: np.random.Generator, brake: bool,
) -> tuple[float, ...]:  # fmt: skip
    noise = draw.standard_normal(8)
    pulse = spec.reference_pulse_ms * told / 100.0 / wanted * 293.15 / kelvin(heated) + calibration[
        "dead_time"
    ].at(13.8)
    return (
        time, rpm + 3.0 * noise[0], pressure + 0.4 * noise[1], heated + 0.2 * noise[2], coolant, pedal,
        min(1.4, max(0.62, mixture)) + 0.004 * noise[3], wanted, pulse, rail + 0.8 * noise[4], advance, retard, float(knocks),
        duty, torque * (1.0 + 0.004 * noise[5]) if brake else 0.0, 13.8 + 0.02 * noise[6],
    )  # fmt: skip

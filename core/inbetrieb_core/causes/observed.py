"""What one log shows of the causes: figures of the start, and mixture and air in short stretches."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from ..air import DRY_AIR_GAS_CONSTANT
from ..charge.charge_temperature import idle_charge_c
from ..charge.fading import STRAIGHT, StartFading
from ..engine import EngineSpec
from ..logs.trace import Trace
from ..quantities import FloatArray, kelvin
from ..tables import Calibration

#: Width of a stretch, and from when after running on one is steady enough.
STRETCH_S, _FROM_S = 3.0, 1.5
_MOST_STRETCHES = 40
#: A mixture that scatters more than this within a few seconds is that of an engine that misfires;
#: a sensor and a narrow-band loop stay below (common practice). [ln]
_MISFIRES = 0.035
#: Below this share of the idle target an engine stumbles: misfires are likely (common practice). [–]
STUMBLING_SHARE = 0.72
#: Speed that swings by more than this share fills and wets the manifold as it goes.
_SWINGS = 0.12


@dataclass(frozen=True)
class Stretch:
    """A few seconds of running with the pedal at rest; None is unknown.

    Attributes
    ----------
    after_s : float
        Since it ran; where the controller cranked it anew, since it ran again. [s]
    coolant_c : float
        [°C]
    rpm : float
        [1/min]
    total : float or None
        ln(warm-up enrichment in force · fuel needed / fuel given): the need at this coolant,
        whatever the table holds; the after-start enrichment in force counts as right. [–]
    after_start : float
        ln(1 + after-start enrichment in force). [–]
    pulse_ms : float or None
        Injection without dead time. [ms]
    map_kpa, valve_pct : float or None
        [kPa, %]
    air_gps : float or None
        By manifold pressure, speed and the fuel map. [g/s]
    misfires : bool
        Whether the mixture jumped as it does when single charges do not burn: then it reads leaner
        than it is, whether it is too lean or too rich, and `total` is unknown.
    clock_s : float
        How far the after-start enrichment has faded, by the controller's own law. [s]
    swings : bool
        Whether speed sank or swung so far that the mixture was not looked at.
    intake_c : float or None
        Of the intake air. [°C]
    """

    after_s: float
    coolant_c: float
    rpm: float
    total: float | None = None
    after_start: float = 0.0
    pulse_ms: float | None = None
    map_kpa: float | None = None
    valve_pct: float | None = None
    air_gps: float | None = None
    misfires: bool = False
    clock_s: float = 0.0
    swings: bool = False
    intake_c: float | None = None


@dataclass(frozen=True)
class Observed:
    """One log as the causes look at it; None is unknown, never zero.

    Attributes
    ----------
    channels : tuple of str
        That the log has.
    coolant_c : float
        At the start. [°C]
    turned, fired, ran, stalled, accepted : bool
        What became of it.
    wrong : tuple of str
        Points in which it was not acceptable.
    no_position, turned_slowly : bool
        Whether somebody saw that position was never found, or that the starter turned too slowly.
    cranking_rpm, battery_rest_v, battery_low_v : float or None
        [1/min, V, V]
    sync_late_s, pressure_late_s, pressure_share : float or None
        As in the figures of a start. [s, s, –]
    rail_share : float or None
        Fuel pressure while running ÷ pressure as entered. [–]
    rail_falls : float or None
        Share by which fuel pressure falls from little to much flow; None without both. [–]
    lambda_lag_s : float or None
        How long the wideband takes to tell that fuel was cut. [s]
    rest_map_kpa, barometric_kpa : float or None
        Manifold pressure with the engine at rest; logged air pressure. [kPa]
    idle_off_rpm, valve_pct : float or None
        Worst departure of idle from its target, and the valve once it settled. [1/min, %]
    lambda_alive : bool or None
        Whether the wideband ever measured; None where it had no time to, or is not logged.
    ran_s : float
        How long it ran. [s]
    departure : float or None
        How far the fuel tables in force stand from the engine data, the farthest as |ln|. [–]
    map_spread : float
        What the fuel map may be off where the engine idles, by where its cells come from. [ln]
    roughness : float or None
        Spread of speed from sample to sample at idle ÷ speed. [–]
    stretches : tuple of Stretch
        Of running.
    cranked_anew : int
        How often it had run, fell so low that the controller cranked it anew, and ran again.
    """

    channels: tuple[str, ...]
    coolant_c: float
    turned: bool = True
    fired: bool = True
    ran: bool = True
    stalled: bool = False
    accepted: bool = False
    wrong: tuple[str, ...] = ()
    no_position: bool = False
    turned_slowly: bool = False
    cranking_rpm: float | None = None
    battery_rest_v: float | None = None
    battery_low_v: float | None = None
    sync_late_s: float | None = None
    pressure_late_s: float | None = None
    pressure_share: float | None = None
    rail_share: float | None = None
    rail_falls: float | None = None
    lambda_lag_s: float | None = None
    rest_map_kpa: float | None = None
    barometric_kpa: float | None = None
    idle_off_rpm: float | None = None
    valve_pct: float | None = None
    lambda_alive: bool | None = None
    ran_s: float = 0.0
    departure: float | None = None
    map_spread: float = 0.05
    roughness: float | None = None
    stretches: tuple[Stretch, ...] = ()
    cranked_anew: int = 0


def stretches_of(
    trace: Trace,
    need: FloatArray | None,
    calibration: Calibration,
    spec: EngineSpec,
    run_s: float,
    end_s: float,
    rests: np.ndarray,
    coolant_c: float,
    fading: StartFading = STRAIGHT,
    anew_s: Sequence[float] = (),
) -> tuple[Stretch, ...]:
    """Return the running part of a log in stretches of three seconds, at most forty.

    Parameters
    ----------
    trace : Trace
        One start.
    need : ndarray or None
        Fuel needed over fuel given of every sample; NaN where lambda does not count. [–]
    calibration : Calibration
        In force.
    spec : EngineSpec
        The engine.
    run_s, end_s : float
        Where it ran, and until when. [s]
    rests : ndarray of bool
        Where the pedal rests.
    coolant_c : float
        Stands in where the log has none. [°C]
    fading : StartFading
        How the controller runs its start fuel down.
    anew_s : sequence of float
        When it ran again after its controller had cranked it anew, see :func:`.cranked_anew_s`. [s]
    """
    begins = np.arange(run_s + _FROM_S, end_s - 0.4 * STRETCH_S, STRETCH_S)
    if not begins.size and end_s - run_s > 1.0:
        # It died soon: one short stretch is better than none.
        begins = np.array([run_s + 0.6])
    every = max(1, math.ceil(begins.size / _MOST_STRETCHES))
    fade = calibration.at_coolant("after_start_fade", coolant_c)
    enriched = calibration.at_coolant("after_start_enrichment", coolant_c)
    target = calibration.at_coolant("idle_target", coolant_c)
    runs = [run_s, *anew_s]
    clocks = [fading.clock_s(trace.time_s, trace["rpm"], ran_s, target) for ran_s in runs]
    found = []
    for begin in begins[::every]:
        inside = (trace.time_s >= begin) & (trace.time_s < min(begin + STRETCH_S, end_s)) & rests
        if inside.sum() < 2:
            continue
        middle = float(begin + 0.5 * STRETCH_S)
        number = max(int(np.searchsorted(runs, middle)) - 1, 0)
        after = middle - runs[number]
        gone = float(np.interp(middle, trace.time_s, clocks[number]))
        left = float(fading.left(np.array(gone), fade))
        stretch = _stretch(
            trace, inside, need, calibration, spec, after, coolant_c, enriched * left
        )
        found.append(replace(stretch, clock_s=gone))
    return tuple(found)


def _stretch(
    trace: Trace,
    inside: np.ndarray,
    need: FloatArray | None,
    calibration: Calibration,
    spec: EngineSpec,
    after_s: float,
    coolant_c: float,
    after_start_pct: float,
) -> Stretch:
    def middle(name: str) -> float | None:
        values = trace.get(name)
        if values is None:
            return None
        here = values[inside]
        here = here[np.isfinite(here)]
        return float(np.median(here)) if here.size else None

    coolant = middle("coolant_c")
    coolant = coolant_c if coolant is None else coolant
    rpm = middle("rpm") or 0.0
    volts, pulse, pressure = middle("battery_v"), middle("pulse_ms"), middle("map_kpa")
    intake = middle("intake_c")
    total, misfires = None, False
    # An engine that stumbles misfires, and a misfire reads as what it is not.
    low, high = np.quantile(trace["rpm"][inside], (0.1, 0.9))
    steady = rpm >= STUMBLING_SHARE * calibration.at_coolant("idle_target", coolant)
    steady = steady and high - low < _SWINGS * rpm
    if need is not None and steady:
        here = need[inside]
        here = here[np.isfinite(here) & (here > 0)]
        if here.size >= max(2, int(0.3 * inside.sum())):
            enrichment = calibration.at_coolant("warm_up_enrichment", coolant) / 100.0
            misfires = _scatter(np.log(here)) > _MISFIRES
            if not misfires:
                total = float(np.median(np.log(here))) + math.log(max(enrichment, 0.05))
    dead = calibration["dead_time"].at(volts) if volts is not None else None
    open_ms = None if pulse is None or dead is None or pulse <= dead + 0.1 else pulse - dead
    return Stretch(
        after_s,
        coolant,
        rpm,
        total,
        math.log1p(max(after_start_pct, 0.0) / 100.0),
        open_ms,
        pressure,
        middle("idle_valve_pct"),
        _air_gps(calibration, spec, rpm, pressure, intake, coolant),
        misfires,
        swings=not steady,
        intake_c=intake,
    )


def _scatter(values: FloatArray) -> float:
    """Return the spread of values about their straight line. [unit of the values]"""
    if values.size < 8:
        return 0.0
    place = np.arange(values.size, dtype=float)
    return float(np.std(values - np.polyval(np.polyfit(place, values, 1), place)))


#: What an idle cell of the fuel map may be off, by its origin: measured, brought in, computed. [ln]
_MEASURED_MAP, _BROUGHT_MAP, _COMPUTED_MAP = 0.03, 0.05, 0.075


def map_spread(calibration: Calibration, spec: EngineSpec, rpm: float, map_kpa: float) -> float:
    """Return what the fuel map may be off at a place, by where the nearest cell comes from. [ln]

    Parameters
    ----------
    calibration : Calibration
        In force.
    spec : EngineSpec
        The engine.
    rpm, map_kpa : float
        Where the engine idles. [1/min, kPa]
    """
    table = calibration["ve"]
    load = 0.0 if table.by_throttle else map_kpa
    index = tuple(
        int(np.argmin(np.abs(np.array(axis.points) - value)))
        for axis, value in zip(table.axes, (rpm, load), strict=True)
    )
    mark = table.mark(index)
    if mark.kind == "measured" or mark.source.startswith("trial"):
        return _MEASURED_MAP
    return _BROUGHT_MAP if mark.kind == "carried_over" else computed_map_spread(spec)


def computed_map_spread(spec: EngineSpec) -> float:
    """Return what a computed fuel map may be off at idle: more for rotors and wild cams. [ln]"""
    if spec.cycle == "rotary":
        return 2.0 * _COMPUTED_MAP
    return _COMPUTED_MAP * (1.0 + 0.15 * spec.cam_wildness)


def _air_gps(
    calibration: Calibration,
    spec: EngineSpec,
    rpm: float,
    map_kpa: float | None,
    intake_c: float | None,
    coolant_c: float,
) -> float | None:
    """Return the air that the engine draws, by its fuel map. [g/s]"""
    table = calibration["ve"]
    if map_kpa is None or rpm <= 0.0 or table.by_throttle:
        return None
    filling = table.at_load(rpm, map_kpa, 0.0) / 100.0
    intake = coolant_c if intake_c is None else intake_c
    charge_k = kelvin(idle_charge_c(intake, coolant_c))
    per_chamber = filling * map_kpa * spec.chamber_l / (DRY_AIR_GAS_CONSTANT * charge_k)
    return per_chamber * spec.firings_per_turn * rpm / 60.0


def rail_share(trace: Trace, spec: EngineSpec, run_s: float, end_s: float) -> float | None:
    """Return fuel pressure while running over what was entered, None where it is not logged. [–]

    Parameters
    ----------
    trace : Trace
        One start.
    spec : EngineSpec
        The engine.
    run_s, end_s : float
        Where it runs. [s]
    """
    rail = trace.mean("fuel_pressure_kpa", run_s + 1.0, end_s)
    if rail is None or rail <= 0.0:
        return None
    manifold = trace.mean("map_kpa", run_s + 1.0, end_s)
    if not spec.manifold_referenced or manifold is None:
        return rail / spec.rail_pressure_kpa
    # A gauge reads against free air, and a regulator on the manifold takes the rail down with it.
    expected = spec.rail_pressure_kpa + manifold - spec.barometric_kpa
    as_difference = rail / spec.rail_pressure_kpa
    return min((as_difference, rail / expected), key=lambda share: abs(math.log(share)))


#: Much flow is at least this many times little flow.
_FLOW_RATIO = 2.0
#: Fuel is cut below this pulse, for at least so long; then the exhaust is air. [ms, s, –]
_CUT_MS, _CUT_S, _AIR_RISES = 0.05, 1.0, 0.15
#: A sensor that does not tell of a cut while it lasts. [s]
_NEVER_S = 4.0


def rail_falls(trace: Trace, run_s: float, end_s: float) -> float | None:
    """Return by which share fuel pressure falls from little to much flow. [–]

    Parameters
    ----------
    trace : Trace
        One start, or a drive.
    run_s, end_s : float
        Where it runs. [s]
    """
    rail, pulse = trace.get("fuel_pressure_kpa"), trace.get("pulse_ms")
    if rail is None or pulse is None:
        return None
    inside = (trace.time_s > run_s + 1.0) & (trace.time_s < end_s)
    flow = pulse * trace["rpm"]
    inside &= np.isfinite(rail) & np.isfinite(flow) & (pulse > _CUT_MS)
    if inside.sum() < 40:
        return None
    low, high = np.quantile(flow[inside], (0.2, 0.9))
    if high < _FLOW_RATIO * max(low, 1e-6):
        return None
    at_little = float(np.median(rail[inside & (flow <= low)]))
    at_much = float(np.median(rail[inside & (flow >= high)]))
    return None if at_little <= 0.0 else 1.0 - at_much / at_little


def lambda_lag_s(trace: Trace, run_s: float, end_s: float) -> float | None:
    """Return how long the wideband takes to tell that fuel was cut, the median of all cuts. [s]

    Parameters
    ----------
    trace : Trace
        One start, or a drive.
    run_s, end_s : float
        Where it runs. [s]
    """
    reading, pulse = trace.get("lambda"), trace.get("pulse_ms")
    if reading is None or pulse is None:
        return None
    time, lags = trace.time_s, []
    cut = (pulse < _CUT_MS) & (trace["rpm"] > 600.0) & (time > run_s + 1.0) & (time < end_s)
    for first in np.flatnonzero(cut & ~np.r_[False, cut[:-1]]):
        until = first + int(np.argmin(cut[first:])) if not cut[first:].all() else len(cut)
        if time[until - 1] - time[first] < _CUT_S or not np.isfinite(reading[first]):
            continue
        rose = np.flatnonzero(reading[first:until] > reading[first] + _AIR_RISES)
        if reading[first] < 1.2:
            lags.append(float(time[first + rose[0]] - time[first]) if rose.size else _NEVER_S)
    return float(np.median(lags)) if lags else None


__all__ = [
    "STRETCH_S",
    "STUMBLING_SHARE",
    "Observed",
    "Stretch",
    "lambda_lag_s",
    "map_spread",
    "rail_falls",
    "rail_share",
    "stretches_of",
]

"""The figures of a start, from a log or from what somebody saw."""

from __future__ import annotations

import numpy as np

from ..causes import STUMBLING_SHARE
from ..errors import CoreError
from ..logs.pedal import BoolArray
from ..logs.trace import Trace
from ..logs.usable_lambda import DELAY_S, fuel_need, usable_lambda
from ..quantities import FloatArray
from ..tables import Calibration
from ..tables.weights import weight_matrix
from .acceptance import JUDGED_UNTIL_S, MIXTURE_FROM_S, SETTLED_BY_S
from .cranking_figures import cranking_figures
from .model import Observation, StartFigures, StartSetting
from .outcomes import RAN
from .phases import Moments

#: So near to the begin of cranking the coolant is that of the start.
_BEFORE_CRANKING_S = 2.0
#: Width of the stretches in which idle and mixture are looked at.
_STRETCH_S, _MIXTURE_STRETCH_S = 3.0, 8.0
_HUNTING_LEAST_RPM = 40.0
#: Speed rises to its flare and falls into its dip in about this time. [s]
_INTO_DIP_S = 0.6
#: Where an idling engine is taken to be when manifold pressure is not known (common practice).
IDLE_MAP_KPA = 38.0


def coolant_at_start(trace: Trace, setting: StartSetting, crank_s: float | None) -> float:
    """Return the coolant temperature right before cranking, from the log or as told. [°C]

    Parameters
    ----------
    trace : Trace
        The part of the log that belongs to the start.
    setting : StartSetting
        Its coolant stands in where the log has none.
    crank_s : float or None
        Where cranking begins; heat may have soaked in since the log began. [s]

    Raises
    ------
    CoreError
        If neither knows it.
    """
    values = trace.get("coolant_c")
    if values is not None:
        there = np.isfinite(values)
        if crank_s is not None:
            soon = there & (np.abs(trace.time_s - crank_s) < _BEFORE_CRANKING_S)
            there = soon if soon.any() else there
        finite = values[there]
        return float(np.median(finite[: max(3, len(finite) // 2)]))
    if setting.coolant_c is not None:
        return setting.coolant_c
    raise CoreError("The log has no coolant temperature: say how warm the engine was.")


def idle_target_of(trace: Trace, calibration: Calibration, coolant_c: float) -> FloatArray:
    """Return the idle target of every sample. [1/min]"""
    table = calibration["idle_target"]
    values = trace.get("coolant_c")
    if values is None:
        return np.full(trace.time_s.shape, table.at(coolant_c))
    coolant = np.where(np.isfinite(values), values, coolant_c)
    return np.interp(coolant, table.axes[0].points, table.values)


def figures_of(
    trace: Trace,
    moments: Moments,
    setting: StartSetting,
    calibration: Calibration,
    target: FloatArray,
    coolant_c: float,
    rests: BoolArray,
    hidden_s: tuple[tuple[float, float], ...] = (),
) -> StartFigures:
    """Return the figures of one start from its log.

    Parameters
    ----------
    trace : Trace
        The part of the log that belongs to the start.
    moments : Moments
        Its moments.
    setting : StartSetting
        What is known besides.
    calibration : Calibration
        Tables in force.
    target : ndarray
        Idle target of every sample. [1/min]
    coolant_c : float
        Coolant temperature at the start. [°C]
    rests : ndarray of bool
        Where the pedal rests.
    hidden_s : tuple of (float, float)
        Long gaps of the log: a figure that they may hide is unknown. [s]
    """
    m = moments
    values: dict[str, float | None] = {
        "cranking_rpm": m.plateau_rpm,
        "battery_rest_v": trace.mean("battery_v", m.key_s, m.crank_s or m.end_s),
    }
    if m.crank_s is not None:
        values["intake_c"] = trace.mean("intake_c", m.crank_s - _BEFORE_CRANKING_S, m.crank_s + 1.0)
        values |= cranking_figures(trace, m, target, setting.spec.crank_to_run_rpm)
    if m.run_s is not None:
        values |= _running(trace, m, target, rests)
        fade = after_start_lasts_s(trace, m, setting, calibration, coolant_c)
        values |= _mixture(trace, m, calibration, fade, rests)
        values["need_settled"] = _trusted(values)
    values |= _hidden(m, hidden_s)
    return StartFigures(coolant_c, calibration.at_coolant("idle_target", coolant_c), **values)


def _hidden(m: Moments, gaps: tuple[tuple[float, float], ...]) -> dict[str, float | None]:
    """Return the figures that a long gap hides as unknown."""
    if m.crank_s is None:
        return {}
    unknown: dict[str, float | None] = {}
    for begin, end in gaps:
        if m.run_s is not None and begin < m.run_s and end > m.crank_s - 0.5:
            unknown |= dict.fromkeys(("fire_after_s", "run_after_s", "cranked_s"))
            unknown |= dict.fromkeys(("sync_late_s", "pressure_late_s", "pressure_share"))
            unknown |= dict.fromkeys(("left_after_s",))
            if end >= m.run_s - 0.05:  # it fired in the gap: how high, and since when, is not known
                unknown |= dict.fromkeys(("flare_rpm", "dip_rpm", "settled_after_s"))
    return unknown


def _running(
    trace: Trace, m: Moments, target: FloatArray, rests: BoolArray
) -> dict[str, float | None]:
    assert m.run_s is not None
    time, speed = trace.time_s, trace["rpm"]
    end = m.stall_s if m.stall_s is not None else m.end_s

    def at(moment: float | None) -> float | None:
        return None if moment is None else float(speed[int(np.argmin(np.abs(time - moment)))])

    result: dict[str, float | None] = {
        "flare_rpm": at(m.flare_s),
        "dip_rpm": at(m.dip_s),
        "flare_valve_pct": None
        if m.flare_s is None
        else trace.mean("idle_valve_pct", m.flare_s - _INTO_DIP_S, m.flare_s),
        "dip_valve_pct": None
        if m.dip_s is None
        else trace.mean("idle_valve_pct", m.dip_s - _INTO_DIP_S, m.dip_s),
        "ran_s": None if m.stall_s is None else m.stall_s - m.run_s,
        "settled_after_s": None if m.settled_s is None else m.settled_s - m.run_s,
    }
    start = _steady_from(trace, m, end, rests)
    if start is not None:
        inside = (time >= start) & (time <= start + 2.0) & rests
        result["steady_rpm"] = float(np.mean(speed[inside]))
        result["steady_target_rpm"] = float(np.mean(target[inside]))
        result["idle_valve_pct"] = trace.mean("idle_valve_pct", start, start + 2.0)
        result["steady_map_kpa"] = trace.mean("map_kpa", start, start + 2.0)
        result["steady_coolant_c"] = trace.mean("coolant_c", start, start + 2.0)
        result |= _worst(
            "idle_off_rpm",
            "idle_off_c",
            trace,
            np.where(rests, speed - target, np.nan),
            (m.run_s, SETTLED_BY_S, end - 0.5),
        )
        calm_until = _pedal_after(time, rests, max(start - 2.0, m.run_s + 5.0), end)
        result |= _hunting(trace, max(start - 2.0, m.run_s + 5.0), calm_until)
    return result


def _steady_from(trace: Trace, m: Moments, end: float, rests: BoolArray) -> float | None:
    """Return the begin of the first two seconds of idle from about 12 s on. [s]

    A log that ends sooner is read at its end; None where the pedal never rests that long.
    """
    assert m.run_s is not None
    lasted = end - m.run_s
    if not ((m.stall_s is None and lasted >= 4.0) or lasted > SETTLED_BY_S + 2.0):
        return None
    time = trace.time_s
    begin = min(m.run_s + SETTLED_BY_S, end - 2.0)
    while begin <= end - 2.0 + 1e-9:
        inside = (time >= begin) & (time <= begin + 2.0)
        if inside.any() and rests[inside].all():
            return begin
        begin += 0.5
    return None


def _pedal_after(time: FloatArray, rests: BoolArray, start_s: float, end_s: float) -> float:
    """Return the first moment after another at which the pedal moves, at latest the end. [s]"""
    moved = np.flatnonzero(~rests & (time > start_s) & (time < end_s))
    return float(time[moved[0]]) if moved.size else end_s


def _worst(
    name: str,
    coolant_name: str,
    trace: Trace,
    values: FloatArray,
    window: tuple[float, float, float],
    stretch_s: float = _STRETCH_S,
) -> dict[str, float | None]:
    """Return the largest median of stretches, with its sign, and where it was.

    The window is where it ran, from how long after it is looked at, and where the log ends. [s]
    """
    run_s, from_s, end_s = window
    worst: float | None = None
    begin_s = 0.0
    until = min(end_s, run_s + JUDGED_UNTIL_S)
    for begin in np.arange(run_s + from_s, until - 0.5 * stretch_s, stretch_s):
        inside = values[(trace.time_s >= begin) & (trace.time_s < begin + stretch_s)]
        inside = inside[np.isfinite(inside)]
        if inside.size < 3:
            continue
        middle = float(np.median(inside))
        if worst is None or abs(middle) > abs(worst):
            worst, begin_s = middle, float(begin)
    if worst is None:
        return {}
    coolant_c = trace.mean("coolant_c", begin_s, begin_s + stretch_s)
    return {name: worst, coolant_name: coolant_c}


def _hunting(trace: Trace, start_s: float, end_s: float) -> dict[str, float | None]:
    """Return amplitude and period of a periodic speed oscillation, if there is one."""
    inside = (trace.time_s >= start_s) & (trace.time_s <= end_s)
    time, speed = trace.time_s[inside], trace["rpm"][inside]
    if len(time) < 24 or time[-1] - time[0] < 6.0 or not np.isfinite(speed).all():
        return {}
    grid = np.linspace(time[0], time[-1], len(time))
    even = np.interp(grid, time, speed)
    even = even - np.polyval(np.polyfit(grid - grid[0], even, 2), grid - grid[0])
    power = np.abs(np.fft.rfft(even * np.hanning(len(even)))) ** 2
    rates = np.fft.rfftfreq(len(even), grid[1] - grid[0])
    slow = (rates > 0.25) & (rates < 2.5)
    if not slow.any() or power[1:].sum() <= 0:
        return {}
    peak = int(np.flatnonzero(slow)[np.argmax(power[slow])])
    share = power[max(1, peak - 1) : peak + 2].sum() / power[1:].sum()
    amplitude = float(np.sqrt(2.0) * np.std(even))
    if amplitude < _HUNTING_LEAST_RPM or share < 0.5:
        return {}
    return {"hunting_rpm": amplitude, "hunting_period_s": float(1.0 / rates[peak])}


def after_start_lasts_s(
    trace: Trace,
    moments: Moments,
    setting: StartSetting,
    calibration: Calibration,
    coolant_c: float,
) -> float:
    """Return how long the after-start enrichment lasts in this start, by the controller's own law. [s]

    Parameters
    ----------
    trace, moments, setting, calibration, coolant_c
        As for :func:`figures_of`.
    """
    fade = calibration.at_coolant("after_start_fade", coolant_c)
    if moments.run_s is None:
        return fade
    target = calibration.at_coolant("idle_target", coolant_c)
    return setting.fading.lasts_s(trace.time_s, trace["rpm"], moments.run_s, target, fade)


def _mixture(
    trace: Trace, m: Moments, calibration: Calibration, fade: float, rests: BoolArray
) -> dict[str, float | None]:
    assert m.run_s is not None
    mask, from_s = usable_lambda(trace, m.run_s)
    if from_s is None:
        return {}
    end = m.stall_s if m.stall_s is not None else m.end_s
    need = fuel_need(trace, mask & rests, lambda_target_of(trace, calibration))
    time = trace.time_s - DELAY_S
    early = need[(time >= m.run_s + 0.5) & (time < m.run_s + 0.5 * fade) & (time < end)]
    # Once the after-start enrichment has faded; else the last part of a short log.
    begin = min(m.run_s + fade, max(end - 4.0, m.run_s + 0.75 * fade))
    late = need[(time >= begin) & (time < end - DELAY_S)]
    return {
        "lambda_usable_from_s": from_s,
        "need_after_start": _median(early),
        "need_settled": _median(late),
        **_worst(
            "mixture_off",
            "mixture_off_c",
            trace,
            np.log(need),
            (m.run_s, MIXTURE_FROM_S, end - 0.5),
            _MIXTURE_STRETCH_S,
        ),
    }


def _trusted(values: dict[str, float | None]) -> float | None:
    """Return the settled need unless the engine stumbles: a misfire reads lean."""
    need, steady = values.get("need_settled"), values.get("steady_rpm")
    target = values.get("steady_target_rpm")
    stumbles = steady is not None and target is not None and steady < STUMBLING_SHARE * target
    return None if need is not None and need > 1.0 and stumbles else need


def _median(values: FloatArray) -> float | None:
    finite = values[np.isfinite(values)]
    return float(np.median(finite)) if finite.size >= 3 else None


def lambda_target_of(trace: Trace, calibration: Calibration) -> FloatArray:
    """Return the mixture target of every sample: logged, else from the table at its place. [–]"""
    logged = trace.get("lambda_target")
    if logged is not None:
        sane = np.isfinite(logged) & (logged > 0.5) & (logged < 1.6)
        if sane.mean() > 0.5:
            return np.where(sane, logged, np.nanmedian(logged[sane]))
    table = calibration["lambda_target"]
    pressure = trace.get("map_kpa")
    kpa = (
        np.full(trace.time_s.shape, IDLE_MAP_KPA)
        if pressure is None
        else np.nan_to_num(pressure, nan=IDLE_MAP_KPA)
    )
    speed = np.nan_to_num(trace["rpm"], nan=800.0)
    pedal = trace.get("throttle_pct")
    if table.by_throttle:
        kpa = np.zeros(speed.shape) if pedal is None else np.nan_to_num(pedal, nan=0.0)
    weights = weight_matrix([axis.points for axis in table.axes], [speed, kpa])
    return np.asarray(weights @ table.values.ravel(), dtype=float)


def figures_from_observation(observation: Observation, calibration: Calibration) -> StartFigures:
    """Return the figures that an installer's own observation gives.

    Parameters
    ----------
    observation : Observation
        What was seen.
    calibration : Calibration
        Tables in force.
    """
    ran = observation.outcome in RAN
    fired = ran or observation.outcome == "fired and died"
    target = calibration.at_coolant("idle_target", observation.coolant_c)
    lambda_target = calibration["lambda_target"].at_load(target, IDLE_MAP_KPA, 0.0)
    later = observation.lambda_later
    return StartFigures(
        coolant_c=observation.coolant_c,
        target_rpm=target,
        fire_after_s=observation.cranking_s if fired else None,
        run_after_s=observation.cranking_s if ran else None,
        cranked_s=None if ran else observation.cranking_s,
        flare_rpm=observation.flare_rpm,
        dip_rpm=observation.dip_rpm,
        steady_rpm=observation.settled_rpm,
        steady_target_rpm=target if observation.settled_rpm is not None else None,
        idle_off_rpm=None if observation.settled_rpm is None else observation.settled_rpm - target,
        mixture_off=None if later is None else float(np.log(later / lambda_target)),
        ran_s=observation.ran_s if observation.outcome == "started and died" else None,
        need_settled=None if later is None else later / lambda_target,
    )

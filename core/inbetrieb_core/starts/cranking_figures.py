"""The figures of cranking: how long, how far a charge lifted it, and what was not ready."""

from __future__ import annotations

import numpy as np

from ..logs.pedal import pedal_opening_pct
from ..logs.trace import Trace
from ..quantities import FloatArray
from .phases import Moments

_PEDAL_MOVED_PCT = 4.0
#: So far below its target, and so long after it ran, an engine is being held by the foot.
_HELD_BELOW_TARGET_RPM, _RUNS_UP_S = 150.0, 0.5
_PRESSURE_THERE = 0.85
#: Below this share of the cranking speed the starter turns it. [–]
_CRANKED_SHARE = 1.08


def cranking_figures(
    trace: Trace, m: Moments, target: FloatArray, crank_to_run_rpm: float
) -> dict[str, float | None]:
    """Return the figures of cranking by their names in :class:`.model.StartFigures`.

    Parameters
    ----------
    trace : Trace
        The part of the log that belongs to the start.
    m : Moments
        Its moments; cranking is among them.
    target : ndarray
        Idle target of every sample. [1/min]
    crank_to_run_rpm : float
        Speed at which the controller leaves cranking. [1/min]
    """
    assert m.crank_s is not None
    given_up = m.stall_s or _last_turning(trace, m)
    until = m.fire_s if m.fire_s is not None else given_up
    volts = trace.get("battery_v")
    inside = (trace.time_s >= m.crank_s - 0.3) & (trace.time_s <= until + 0.2)
    low = None
    if volts is not None and np.isfinite(volts[inside]).any():
        low = float(np.nanmin(volts[inside]))
    return {
        "fire_after_s": None if m.fire_s is None else m.fire_s - m.crank_s,
        "run_after_s": None if m.run_s is None else m.run_s - m.crank_s,
        # One that fired and died was cranked on: that it was, and in vain, is what it tells.
        "cranked_s": None if m.run_s is not None else given_up - m.crank_s,
        "peak_rpm": float(np.nanmax(trace["rpm"])),
        "left_after_s": _left(trace, m, crank_to_run_rpm),
        "battery_low_v": low,
        "pedal_pct": _pedal(trace, m, target),
        "sync_late_s": _sync_late(trace, m),
        **_pressure(trace, m),
        **_stirred(trace, m),
    }


def _left(trace: Trace, m: Moments, crank_to_run_rpm: float) -> float | None:
    """Return when speed first crossed the crank-to-run speed for good, since cranking began. [s]

    An engine that ran may have hung below that speed in between; one that fell back to what the
    starter turns it at had not left cranking.
    """
    assert m.crank_s is not None
    if m.turn_s is None:
        return None
    time, speed = trace.time_s, trace["rpm"]
    over = np.flatnonzero((speed > crank_to_run_rpm) & (time >= m.turn_s))
    if m.run_s is not None and m.plateau_rpm:
        cranked = (speed < _CRANKED_SHARE * m.plateau_rpm) & (time < m.run_s)
        fell_back = np.flatnonzero(cranked)
        over = over[over > fell_back[-1]] if fell_back.size else over
    return float(time[over[0]]) - m.crank_s if over.size else None


def _stirred(trace: Trace, m: Moments) -> dict[str, float | None]:
    """Return how far single charges lifted the cranking speed, early and late."""
    if m.turn_s is None or not m.plateau_rpm:
        return {}
    time, speed = trace.time_s, trace["rpm"]
    begin = m.turn_s + 0.3
    until = m.run_s if m.run_s is not None else (m.stall_s or _last_turning(trace, m))
    until -= 0.05
    if until - begin < 0.9:
        return {}
    third = (until - begin) / 3.0
    early = speed[(time >= begin) & (time < begin + third)]
    late = speed[(time >= until - third) & (time < until)]
    if early.size < 2 or late.size < 2:
        return {}
    return {
        "stirred_early": float(early.max()) / m.plateau_rpm,
        "stirred_late": float(late.max()) / m.plateau_rpm,
    }


def _last_turning(trace: Trace, m: Moments) -> float:
    turning = np.flatnonzero(np.nan_to_num(trace["rpm"]) > 40.0)
    return float(trace.time_s[turning[-1]]) if turning.size else m.end_s


def _pedal(trace: Trace, m: Moments, target: FloatArray) -> float | None:
    """Return how far the foot helped: before it ran, or at once after while speed was low. [%]

    A pedal pressed once the engine runs well is no help, and says nothing about the start.
    """
    opening = pedal_opening_pct(trace, m.crank_s)
    if opening is None or m.crank_s is None:
        return None
    time, speed = trace.time_s, trace["rpm"]
    until = m.run_s if m.run_s is not None else m.end_s
    helped = (time >= m.crank_s) & (time <= until)
    if m.run_s is not None:
        low = speed < target - _HELD_BELOW_TARGET_RPM
        pressed = np.nan_to_num(opening, nan=0.0) > _PEDAL_MOVED_PCT
        caught = (time > m.run_s + _RUNS_UP_S) & (time <= m.run_s + 1.5) & low & pressed
        helped |= caught
    inside = opening[helped]
    if not np.isfinite(inside).any():
        return None
    most = float(np.nanmax(inside))
    return most if most > _PEDAL_MOVED_PCT else 0.0


def _sync_late(trace: Trace, m: Moments) -> float | None:
    """Return cranking time without known position: from the sync channel, or from speed."""
    assert m.crank_s is not None
    sync = trace.get("sync")
    if sync is not None:
        known = np.flatnonzero((sync > 0.5) & (trace.time_s >= m.crank_s))
        return (float(trace.time_s[known[0]]) if known.size else m.end_s) - m.crank_s
    if m.turn_s is None:
        return m.end_s - m.crank_s
    return m.turn_s - m.crank_s


def _pressure(trace: Trace, m: Moments) -> dict[str, float | None]:
    pressure = trace.get("fuel_pressure_kpa")
    if pressure is None or m.crank_s is None:
        return {}
    time = trace.time_s
    later = pressure[(time > m.crank_s) & np.isfinite(pressure)]
    first = trace.mean("fuel_pressure_kpa", m.crank_s, m.crank_s + 1.0)
    if not later.size or first is None:
        return {}
    level = float(np.quantile(later, 0.9))
    if level <= 0:
        return {}
    there = np.flatnonzero((pressure >= _PRESSURE_THERE * level) & (time >= m.crank_s))
    late = float(time[there[0]]) - m.crank_s if there.size else m.end_s - m.crank_s
    return {"pressure_share": first / level, "pressure_late_s": late}

"""The moments of a start, found in the log: first fire, run, flare, dip, settled, stall."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from ..logs.pedal import BoolArray
from ..logs.trace import Trace
from ..quantities import FloatArray
from .acceptance import (
    FLARE_WITHIN_S,
    SETTLED_BY_S,
    SETTLED_FOR_S,
    WARM_C,
    settled_band_rpm,
)
from .model import Phase, PhaseName
from .window import TURNING_RPM, StartWindow

_FIRE_FACTOR, _FIRE_ABOVE_RPM = 1.35, 30.0
_SPIN_UP_S = 0.15
_STALL_RPM = 100.0
_RUN_DOWN_S, _HELD_S = 1.5, 5.0
#: After a burst the speed is back at the cranking plateau for longer than a stall takes.
_LASTS_S, _RUNS_DOWN_S = 2.5, 0.8
_PAST_THE_FLARE_RPM = 40.0


@dataclass(frozen=True)
class Moments:
    """Times of the log; None where it did not happen. [s]

    Attributes
    ----------
    key_s, crank_s, turn_s, fire_s, run_s, flare_s, dip_s, settled_s, stall_s, end_s : float
        Begin of the window, of cranking, first visible speed, first fire, crank-to-run
        speed crossed, flare, dip, settled, stall, end of the window.
    plateau_rpm : float or None
        Median cranking speed. [1/min]
    """

    key_s: float
    end_s: float
    crank_s: float | None = None
    turn_s: float | None = None
    plateau_rpm: float | None = None
    fire_s: float | None = None
    run_s: float | None = None
    flare_s: float | None = None
    dip_s: float | None = None
    settled_s: float | None = None
    stall_s: float | None = None


def find_moments(
    trace: Trace,
    window: StartWindow,
    crank_to_run_rpm: float,
    target: FloatArray,
    rests: BoolArray,
) -> Moments:
    """Return the moments of one start.

    Parameters
    ----------
    trace : Trace
        The part of the log that belongs to the start; every sample has a speed.
    window : StartWindow
        Where cranking begins.
    crank_to_run_rpm : float
        Speed at which the controller leaves cranking. [1/min]
    target : ndarray
        Idle target of every sample. [1/min]
    rests : ndarray of bool
        Where the pedal rests: flare, dip and settling are told from there only.
    """
    time, speed = trace.time_s, trace["rpm"]
    key_s, end_s = float(time[0]), float(time[-1])
    turning = np.flatnonzero((speed > TURNING_RPM) & (time >= (window.crank_s or key_s)))
    if window.crank_s is None or not turning.size:
        return Moments(key_s, end_s, crank_s=window.crank_s)
    turn_s = float(time[turning[0]])
    run_s = _run_time(time, speed, turn_s, crank_to_run_rpm)
    # A single charge that burned lifts it: what follows a burst is no cranking speed any more.
    bursts = np.flatnonzero((speed > crank_to_run_rpm) & (time >= turn_s))
    cranked_until = float(time[bursts[0]]) if bursts.size else end_s
    plateau = _plateau(time, speed, turn_s, cranked_until)
    fire_s = _once_known(trace, turn_s, _fire_time(time, speed, turn_s, plateau, run_s), run_s)
    if run_s is None:
        stall_s = _stops(time, speed, fire_s) if fire_s is not None else None
        return Moments(key_s, end_s, window.crank_s, turn_s, plateau, fire_s, stall_s=stall_s)
    stall_s = _stops(time, speed, run_s)
    if stall_s is not None and _key_off(trace, stall_s, run_s, target):
        end_s, stall_s = _decline_begins(time, stall_s), None
    alive_until = stall_s if stall_s is not None else end_s + 1e-9
    flare_s, dip_s, settled_s = _run_up(time, speed, target, rests, run_s, alive_until)
    return Moments(
        key_s,
        end_s,
        window.crank_s,
        turn_s,
        plateau,
        fire_s,
        run_s,
        flare_s,
        dip_s,
        settled_s,
        stall_s,
    )


def _once_known(
    trace: Trace, turn_s: float, fire_s: float | None, run_s: float | None
) -> float | None:
    """Return the first fire, not before the position is known: without it nothing is lit. [s]"""
    sync = trace.get("sync")
    if sync is None or fire_s is None:
        return fire_s
    known = np.flatnonzero((sync > 0.5) & (trace.time_s >= turn_s))
    if not known.size:
        return fire_s
    known_s = float(trace.time_s[known[0]])
    # A channel that only comes once it runs says nothing of the first fire.
    return known_s if fire_s < known_s and (run_s is None or known_s <= run_s) else fire_s


def _run_up(
    time: FloatArray,
    speed: FloatArray,
    target: FloatArray,
    rests: BoolArray,
    run_s: float,
    alive_until: float,
) -> tuple[float | None, float | None, float | None]:
    """Return the times of flare, dip and settling; None for what a foot on the pedal hides. [s]"""
    moved = np.flatnonzero(~rests & (time >= run_s) & (time < alive_until))
    pedal_s = float(time[moved[0]]) if moved.size else alive_until
    within = min(run_s + FLARE_WITHIN_S, alive_until)
    flare_s = _extreme(time, speed, run_s, min(within, pedal_s), np.argmax)
    if pedal_s < within:
        at_flare, at_pedal = (float(np.interp(t, time, speed)) for t in (flare_s, pedal_s))
        if at_pedal > at_flare - _PAST_THE_FLARE_RPM:
            return None, None, None  # it was still rising when the foot came
    settled_s = _settled(time, speed, target, flare_s, min(alive_until, pedal_s))
    dip_until = settled_s if settled_s is not None else min(alive_until, run_s + SETTLED_BY_S)
    dip_s = _extreme(time, speed, flare_s, min(dip_until, pedal_s), np.argmin)
    if settled_s is None and pedal_s < dip_until:
        return flare_s, None, None
    return flare_s, dip_s, settled_s


def _run_time(
    time: FloatArray, speed: FloatArray, turn_s: float, crank_to_run_rpm: float
) -> float | None:
    """Return when speed crosses the crank-to-run speed and stays for two samples or 0.15 s.

    A burst that falls back into cranking does not count where a later crossing lasts.
    """
    above = (speed > crank_to_run_rpm) & (time >= turn_s)
    crossings: list[int] = []
    for i in np.flatnonzero(above & ~np.r_[False, above[:-1]]):
        until = np.searchsorted(time, time[i] + 0.15)
        if above[i : max(until, i + 2)].all():
            crossings.append(int(i))
    if not crossings:
        return None
    plateau = _plateau(time, speed, turn_s, float(time[crossings[0]]))
    step = float(np.median(np.diff(time)))
    for crossing in crossings:
        soon = (time >= time[crossing]) & (time <= time[crossing] + _LASTS_S)
        cranked = soon & (speed > TURNING_RPM) & (speed < 1.3 * plateau)
        if cranked.sum() * step <= _RUNS_DOWN_S:
            return float(time[crossing])
    return None


def _plateau(time: FloatArray, speed: FloatArray, turn_s: float, until_s: float) -> float:
    """Return the median cranking speed, spin-up and late stumbling left out. [1/min]"""
    whole = (time >= turn_s) & (time <= until_s) & (speed > TURNING_RPM)
    steady = whole & (time >= turn_s + _SPIN_UP_S)
    begin = steady & (time <= turn_s + 1.5)
    candidates = [float(np.median(speed[part])) for part in (begin, steady) if part.any()]
    if not candidates:
        candidates = [float(np.min(speed[whole]))]
    return min(*candidates, 400.0)


def _fire_time(
    time: FloatArray, speed: FloatArray, turn_s: float, plateau: float, run_s: float | None
) -> float | None:
    """Return when speed leaves the cranking plateau while rising; at latest when it runs."""
    threshold = _FIRE_FACTOR * plateau + _FIRE_ABOVE_RPM
    rising = np.r_[False, np.diff(speed) > 0]
    fires = np.flatnonzero((speed > threshold) & rising & (time >= turn_s))
    if fires.size:
        first = float(time[fires[0]])
        return first if run_s is None else min(first, run_s)
    return run_s


def _stops(time: FloatArray, speed: FloatArray, after_s: float) -> float | None:
    """Return the first time below the stall speed after a moment, None if it runs on."""
    stopped = np.flatnonzero((speed < _STALL_RPM) & (time > after_s))
    return float(time[stopped[0]]) if stopped.size else None


def _key_off(trace: Trace, stall_s: float, run_s: float, target: FloatArray) -> bool:
    """Say whether the engine was switched off rather than stalled.

    Where pulses or battery are logged, they end while it still turns. Where they are not, an
    engine that held its target until it ran down within a second and a half counts as
    switched off.
    """
    time, speed = trace.time_s, trace["rpm"]
    before = (time >= max(run_s, stall_s - _RUN_DOWN_S)) & (time < stall_s)
    fast = before & (speed > 250.0)
    for name, off_below in (("pulse_ms", 0.05), ("battery_v", 5.0)):
        values = trace.get(name)
        if values is not None and fast.sum() >= 2:
            return bool((values[fast] < off_below).mean() > 0.3)
    held = (time >= stall_s - _RUN_DOWN_S - _HELD_S) & (time < stall_s - _RUN_DOWN_S)
    if stall_s - _RUN_DOWN_S - _HELD_S < run_s + FLARE_WITHIN_S or held.sum() < 3:
        return False
    band = np.array([settled_band_rpm(float(value)) for value in target[held]])
    return bool((np.abs(speed[held] - target[held]) <= band).all())


def _decline_begins(time: FloatArray, stall_s: float) -> float:
    """Return the moment before a switched-off engine ran down. [s]"""
    last = np.flatnonzero(time < stall_s - _RUN_DOWN_S)
    return float(time[last[-1]]) if last.size else float(time[0])


def _extreme(
    time: FloatArray,
    speed: FloatArray,
    start_s: float,
    end_s: float,
    pick: Callable[[FloatArray], np.intp],
) -> float:
    """Return the time of the sample that `pick` chooses between two times. [s]"""
    inside = np.flatnonzero((time >= start_s) & (time < end_s))
    if not inside.size:
        return start_s
    return float(time[inside[pick(speed[inside])]])


def _settled(
    time: FloatArray, speed: FloatArray, target: FloatArray, after_s: float, until_s: float
) -> float | None:
    """Return when speed enters the band around its target for at least three seconds."""
    band = np.array([settled_band_rpm(float(value)) for value in target])
    width = max(3, int(round(0.3 / float(np.median(np.diff(time))))))
    smooth = np.convolve(np.pad(speed, width // 2, mode="edge"), np.ones(width) / width, "same")
    smooth = smooth[width // 2 : width // 2 + len(speed)]
    inside = (np.abs(smooth - target) <= band) & (time >= after_s) & (time < until_s)
    begin: float | None = None
    for i in np.flatnonzero(time >= after_s):
        if not inside[i]:
            begin = None
        elif begin is None:
            begin = float(time[i])
        elif time[i] - begin >= SETTLED_FOR_S:
            return begin
    return None


def phases_of(moments: Moments, after_start_s: float, coolant_c: float) -> tuple[Phase, ...]:
    """Return the named phases of a start.

    Parameters
    ----------
    moments : Moments
        From :func:`find_moments`.
    after_start_s : float
        Fade time of the after-start enrichment. [s]
    coolant_c : float
        Coolant temperature; a warm engine has no warm-up phase. [°C]
    """
    m = moments
    phases: list[Phase] = []

    def add(name: PhaseName, start: float | None, end: float | None) -> None:
        if start is not None and end is not None and end >= start:
            phases.append(Phase(name, start, end))

    if m.crank_s is None:
        add("key-on", m.key_s, m.end_s)
        return tuple(phases)
    add("key-on", m.key_s, m.crank_s)
    if m.crank_s - m.key_s > 0.3:
        add("prime", max(m.key_s, m.crank_s - 2.0), m.crank_s)
    alive = m.stall_s if m.stall_s is not None else m.end_s
    add("cranking", m.crank_s, m.fire_s if m.fire_s is not None else alive)
    if m.fire_s is not None:
        add("first fire", m.fire_s, m.fire_s)
        add("run-up", m.fire_s, _run_up_ends(m, alive))
    if m.run_s is not None:
        dip_end = m.settled_s if m.settled_s is not None else min(alive, m.run_s + 12.0)
        add("flare", m.flare_s, m.flare_s)
        add("dip", m.flare_s if m.dip_s is not None else None, dip_end)
        add("after-start", m.run_s, min(alive, m.run_s + after_start_s))
        if m.settled_s is not None:
            add("settled", m.settled_s, alive)
        if coolant_c < WARM_C:
            add("warm-up", min(alive, m.run_s + after_start_s), alive)
        else:
            add("idle", min(alive, m.run_s + after_start_s), alive)
    if m.stall_s is not None:
        add("stall", m.stall_s, m.stall_s)
    return tuple(phases)


def _run_up_ends(m: Moments, alive: float) -> float:
    """Return where the run-up ends: at the flare, else where it runs, else with the attempt. [s]"""
    if m.flare_s is not None:
        return m.flare_s
    return m.run_s if m.run_s is not None else alive

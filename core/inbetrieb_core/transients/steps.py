"""Throttle steps in a log: how quick, from where to where, and the spike of mixture that follows."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..charge import WARM_C
from ..errors import LogRefused
from ..fuelling import delay_of, looked_up
from ..logs import Trace
from ..quantities import FloatArray
from ..tables import Calibration

Verdict = Literal["answered", "lean", "rich", "not_yet", "cold"]

#: A pedal that moves by so much, as quickly as this, is a step; its windows before and after it. [%, %/s, s, s]
_LEAST_PCT, _LEAST_PCT_S, BEFORE_S, AFTER_S = 3.0, 8.0, 1.0, 4.0
#: Movements closer than this are one: a logger writes a quick foot as stairs. What follows it is cut short by the next
#: movement, and of use from so long on. [s, s]
_ONE_MOVE_S, _LEAST_AFTER_S = 0.35, 1.6
#: Around a step nothing else moves: speed by so much of it, the pedal by so much of the step. [–, –]
_SPEED_SHARE, _HELD_SHARE = 0.35, 0.34
#: A spike within this is answered; cells that miss their target by more are not proven. [ln]
SPIKE, PROVEN = 0.04, 0.06
_GRID_S = 0.02
_RUNNING_V = 13.8
_USUAL_INTAKE_C = 25.0
NEEDED = ("rpm", "throttle_pct", "lambda", "pulse_ms", "map_kpa")


@dataclass(frozen=True)
class Drive:
    """A drive on an even clock, as the steps need it; one array each.

    Attributes
    ----------
    time_s : ndarray
        Even steps. [s]
    rpm, throttle_pct, map_kpa, coolant_c : ndarray
        [1/min, %, kPa, °C]
    error : ndarray
        ln of lambda over its target, brought back by the delay of the sensor; positive is lean. [–]
    trim : ndarray
        ln of what the mixture loop adds. [–]
    fuel : ndarray
        Net pulse, as a relative measure of the fuel injected. [ms]
    air : ndarray
        Air of a cycle by the map in the controller, relative. [–]
    """

    time_s: FloatArray
    rpm: FloatArray
    throttle_pct: FloatArray
    map_kpa: FloatArray
    coolant_c: FloatArray
    error: FloatArray
    fuel: FloatArray
    air: FloatArray
    trim: FloatArray

    def between(self, begin_s: float, end_s: float) -> slice:
        """Return the samples between two times. [s]"""
        first, last = np.searchsorted(self.time_s, (begin_s, end_s))
        return slice(int(first), int(last))


@dataclass(frozen=True)
class ThrottleStep:
    """One step of the pedal.

    Attributes
    ----------
    time_s, rpm, coolant_c : float
        When, at which speed, how warm. [s, 1/min, °C]
    until_s : float
        What follows it is read until then. [s]
    from_pct, to_pct, rate_pct_s : float
        Pedal before and after, and how quickly it moved. [%, %, %/s]
    from_kpa, to_kpa : float
        Manifold pressure before and after. [kPa]
    spike_pct : float
        Greatest departure from what holds before and after it; positive is lean. [%]
    lasts_s : float
        How long it stays beyond half of that. [s]
    before_pct, after_pct : float
        Departure from target where nothing moves, before and after. [%]
    verdict : {"answered", "lean", "rich", "not_yet", "cold"}
        "not_yet" where the cells before or after are not proven: a hole in the map is no transient.
    """

    time_s: float
    rpm: float
    coolant_c: float
    from_pct: float
    to_pct: float
    rate_pct_s: float
    from_kpa: float
    to_kpa: float
    spike_pct: float
    lasts_s: float
    before_pct: float
    after_pct: float
    verdict: Verdict
    until_s: float


def prepared(trace: Trace, calibration: Calibration) -> Drive:
    """Return a log as the steps need it.

    Parameters
    ----------
    trace : Trace
    calibration : Calibration
        That was in the controller.

    Raises
    ------
    LogRefused
        If a channel is missing.
    """
    missing = [name for name in NEEDED if trace.get(name) is None]
    if missing:
        raise LogRefused(
            f"A transient is read from speed, pedal, pressure, pulse and lambda; missing: {', '.join(missing)}."
        )
    times = trace.time_s
    even = np.arange(times[0], times[-1], _GRID_S)
    if len(even) < 10:
        raise LogRefused("The log is too short for a step of the pedal.")

    def on_grid(values: FloatArray | None, usual: float) -> FloatArray:
        if values is None or not np.isfinite(values).any():
            return np.full(even.shape, usual)
        known = np.isfinite(values)
        return np.asarray(np.interp(even, times[known], values[known]))

    rpm, pressure = on_grid(trace["rpm"], 0.0), on_grid(trace["map_kpa"], 100.0)
    throttle = on_grid(trace["throttle_pct"], 0.0)
    table = calibration["ve"]
    load = throttle if table.by_throttle else pressure
    target = on_grid(trace.get("lambda_target"), np.nan)
    by_table = looked_up(calibration["lambda_target"], rpm, load)
    target = np.clip(np.where(np.isfinite(target), target, by_table), 0.3, 2.0)
    delay = delay_of(trace, calibration["dead_time"].at(_RUNNING_V)).at(rpm)
    reading = np.log(np.clip(on_grid(trace["lambda"], 1.0), 0.3, 3.0))
    dead = np.interp(
        on_grid(trace.get("battery_v"), _RUNNING_V),
        calibration["dead_time"].axes[0].points,
        calibration["dead_time"].values,
    )
    filling = looked_up(table, rpm, load)
    intake_k = on_grid(trace.get("intake_c"), _USUAL_INTAKE_C) + 273.15
    air = filling * (1.0 if table.by_throttle else pressure / 100.0) / intake_k
    return Drive(
        even, rpm, throttle, pressure, on_grid(trace.get("coolant_c"), 90.0),
        np.interp(even + delay, even, reading) - np.log(target),
        on_grid(trace["pulse_ms"], 0.0) - dead, air,
        np.log1p(np.clip(on_grid(trace.get("lambda_correction_pct"), 0.0), -60.0, 100.0) / 100.0),
    )  # fmt: skip


def throttle_steps(drive: Drive) -> list[ThrottleStep]:
    """Return the steps of the pedal whose mixture can be read, in their order."""
    rate = np.gradient(drive.throttle_pct, drive.time_s)
    moving = np.abs(rate) > _LEAST_PCT_S
    moves = _moves(moving, drive.time_s)
    found = []
    for place, (first, last) in enumerate(moves):
        following = moves[place + 1][0] if place + 1 < len(moves) else len(drive.time_s)
        before = moves[place - 1][1] if place else 0
        step = _step(drive, first, last, before, following)
        if step is not None:
            found.append(step)
    return found


def _moves(moving: np.ndarray, time_s: FloatArray) -> list[tuple[int, int]]:
    """Return first and last sample of every movement; those close together are one."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], moving.astype(int), [0]])))
    merged: list[tuple[int, int]] = []
    for first, last in zip(edges[::2].tolist(), (edges[1::2] - 1).tolist(), strict=True):
        if merged and time_s[first] - time_s[merged[-1][1]] < _ONE_MOVE_S:
            merged[-1] = (merged[-1][0], last)
        else:
            merged.append((first, last))
    return merged


def _step(
    drive: Drive, first: int, last: int, moved_before: int, moves_again: int
) -> ThrottleStep | None:
    """Return the step between two samples; None where it is none, or something else moves."""
    begin_s, end_s = float(drive.time_s[first]), float(drive.time_s[last])
    low, high = float(drive.throttle_pct[first]), float(drive.throttle_pct[last])
    if abs(high - low) < _LEAST_PCT or end_s - begin_s > AFTER_S / 2.0:
        return None
    again_s = float(drive.time_s[min(moves_again, len(drive.time_s) - 1)])
    until_s = min(end_s + AFTER_S, again_s)
    rested_s = begin_s - float(drive.time_s[moved_before])
    if until_s - end_s < _LEAST_AFTER_S or rested_s < BEFORE_S:
        return None
    before = drive.between(begin_s - BEFORE_S, begin_s - 0.05)
    after = drive.between(end_s, until_s)
    settled = drive.between(end_s + 0.65 * (until_s - end_s), until_s)
    whole = slice(before.start, after.stop)
    rpm, fuel = drive.rpm[whole], drive.fuel[whole]
    held = max(np.ptp(drive.throttle_pct[before]), np.ptp(drive.throttle_pct[after]))
    if (
        held > _HELD_SHARE * abs(high - low)
        or np.ptp(rpm) > _SPEED_SHARE * rpm.mean()
        or fuel.min() <= 0.05
    ):
        return None
    burnt = [float(np.median(drive.error[part])) for part in (before, settled)]
    spike, lasts_s = _spike(drive, before, after, burnt)
    # What the loop adds is missing in the map.
    rest = [
        b + float(np.median(drive.trim[part]))
        for b, part in zip(burnt, (before, settled), strict=True)
    ]
    coolant = float(drive.coolant_c[first])
    return ThrottleStep(
        round(begin_s, 2), round(float(rpm.mean())), round(coolant, 1), round(low, 1), round(high, 1),
        round(abs(high - low) / max(end_s - begin_s, _GRID_S)),
        round(float(np.median(drive.map_kpa[before])), 1), round(float(np.median(drive.map_kpa[settled])), 1),
        round(100.0 * float(np.expm1(spike)), 1), round(lasts_s, 2),
        round(100.0 * float(np.expm1(rest[0])), 1), round(100.0 * float(np.expm1(rest[1])), 1),
        _verdict(spike, rest, coolant), round(until_s, 2),
    )  # fmt: skip


def _spike(
    drive: Drive, before: slice, after: slice, rest: list[float]
) -> tuple[float, float]:  # fmt: skip
    """Return the greatest departure from what holds before and after [ln], and how long half of it lasts. [s]"""
    whole = slice(before.stop, after.stop)
    pressure = drive.map_kpa[whole]
    low, high = float(np.median(drive.map_kpa[before])), float(pressure[-1])
    share = (pressure - low) / (high - low) if abs(high - low) > 1.0 else np.ones(pressure.shape)
    away = drive.error[whole] - (rest[0] + np.clip(share, 0.0, 1.0) * (rest[1] - rest[0]))
    place = int(np.argmax(np.abs(away)))
    spike = float(away[place])
    beyond = away * np.sign(spike) > 0.5 * abs(spike)
    return spike, float(beyond.sum()) * _GRID_S


def _verdict(spike: float, rest: list[float], coolant_c: float) -> Verdict:
    if max(map(abs, rest)) > PROVEN:
        return "not_yet"
    if abs(spike) <= SPIKE:
        return "answered"
    if coolant_c < WARM_C:
        return "cold"
    return "lean" if spike > 0.0 else "rich"

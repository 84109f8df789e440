"""How late the wideband is: from the pulse to its reading, told by the drive itself where it can."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..logs import Trace
from ..quantities import FloatArray

#: Where a drive does not tell: what is usual, and what slow exhaust gas adds. [s, s·1/min]
_USUAL_S, _BY_RPM = 0.25, 260.0
_MOST_S, _STEP_S = 2.0, 0.02
#: Changes of fuel over so long are followed; so well must the reading follow them. [s, –]
_CHANGE_S, _LEAST_CORRELATION = 0.6, 0.35
_LEAST_SAMPLES = 200


@dataclass(frozen=True)
class Delay:
    """Delay of the reading: `base_s` [s] and `by_rpm` over speed [s·1/min]; whether a drive told it."""

    base_s: float
    by_rpm: float
    is_told: bool

    def at(self, rpm: FloatArray) -> FloatArray:
        """Return the delay at a speed. [1/min → s]"""
        return np.asarray(self.base_s + self.by_rpm / np.maximum(rpm, 400.0))

    @property
    def sentence(self) -> str:
        """How late it is, and by what it is known."""
        idle, fast = (float(self.at(np.array([rpm]))[0]) for rpm in (900.0, 3000.0))
        by = (
            "as the drive itself tells"
            if self.is_told
            else "as is usual: this drive does not tell it"
        )
        return f"The wideband is {idle:.1f} s late at 900 rpm and {fast:.1f} s at 3000, {by}."


USUAL = Delay(_USUAL_S, _BY_RPM, False)


def delay_of(trace: Trace, dead_time_ms: float) -> Delay:
    """Return how late the wideband of a drive is.

    Parameters
    ----------
    trace : Trace
        With speed, lambda, pulse and manifold pressure; else the usual delay is taken.
    dead_time_ms : float
        Entered dead time at running voltage. [ms]

    Notes
    -----
    Changes of air over fuel (pressure over net pulse) and changes of ln lambda are shifted against each other; the
    shift at which they agree best is the delay, apart for slow and for quick gas.
    """
    pulse, pressure = trace.get("pulse_ms"), trace.get("map_kpa")
    if pulse is None or pressure is None:
        return USUAL
    time_s, rpm = trace.time_s, trace["rpm"]
    even = np.arange(time_s[0], time_s[-1], _STEP_S)
    if even.size < _LEAST_SAMPLES or even.size > 2_000_000:
        return USUAL
    net = np.maximum(pulse - dead_time_ms, 0.05)
    mixture = np.interp(even, time_s, np.log(np.maximum(pressure, 5.0) / net))
    reading = np.interp(
        even, time_s, np.log(np.clip(np.nan_to_num(trace["lambda"], nan=1.0), 0.6, 1.4))
    )
    speed = np.interp(even, time_s, np.nan_to_num(rpm))
    lag = round(_CHANGE_S / _STEP_S)
    given, seen = mixture[lag:] - mixture[:-lag], reading[lag:] - reading[:-lag]
    speed = speed[lag:]
    fired = (net > 0.06).mean() > 0.5
    running = speed > 500.0
    if not fired or running.sum() < _LEAST_SAMPLES:
        return USUAL
    middle = float(np.median(speed[running]))
    found = []
    for part in (running & (speed <= middle), running & (speed > middle)):
        best = _best(given, seen, part)
        if best is not None:
            found.append((float(np.mean(1.0 / speed[part])), best))
    if not found:
        return USUAL
    if len(found) == 1 or abs(found[0][0] - found[1][0]) < 5e-5:
        place, seconds = found[0]
        return Delay(max(0.05, seconds - _BY_RPM * place), _BY_RPM, True)
    (slow, late), (quick, soon) = found
    by_rpm = float(np.clip((late - soon) / (slow - quick), 0.0, 600.0))
    return Delay(max(0.05, soon - by_rpm * quick), by_rpm, True)


def _best(given: FloatArray, seen: FloatArray, part: np.ndarray) -> float | None:
    """Return the shift at which the reading follows what was given; None where it does not. [s]"""
    places = np.flatnonzero(part)
    shifts = np.arange(0, round(_MOST_S / _STEP_S))
    best, at = 0.0, None
    for shift in shifts[::2]:
        inside = places[places + shift < seen.size]
        if inside.size < _LEAST_SAMPLES:
            break
        x, y = given[inside], seen[inside + shift]
        spread = float(x.std() * y.std())
        if spread < 1e-7:
            return None
        agreement = float(((x - x.mean()) * (y - y.mean())).mean() / spread)
        if agreement > best:
            best, at = agreement, shift * _STEP_S
    return at if best > _LEAST_CORRELATION else None

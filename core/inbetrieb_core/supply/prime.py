"""Prime and residual pressure: how long the pump must run, and what a falling pressure means."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy.optimize import least_squares

from ..errors import field_refused
from ..logs import Trace
from ..sentences import kilopascal, quantity

#: Pressure counts as built at this share of its final value. [–]
BUILT_SHARE = 0.95
_SPARE_S = 0.5
_WANTED_SHARE = 0.9


@dataclass(frozen=True)
class PrimeResult:
    """How pressure builds.

    Attributes
    ----------
    final_kpa : float
        Where it ends. [kPa]
    time_constant_s : float
        Of the rise. [s]
    built_s : float
        From pump on until 95 % of the final pressure. [s]
    prime_s : float
        How long to let the pump run, on the next half second with half a second to spare. [s]
    level : {"good", "attention", "fault"}
    sentence : str
    """

    final_kpa: float
    time_constant_s: float
    built_s: float
    prime_s: float
    level: Literal["good", "attention", "fault"]
    sentence: str


def judge_prime(readings: Sequence[Sequence[float]], wanted_kpa: float) -> PrimeResult:
    """Return how long the pump must run.

    Parameters
    ----------
    readings : sequence of (seconds since pump on, pressure [kPa])
        At least two, from a log or a stopwatch.
    wanted_kpa : float
        Rail pressure wanted, gauge. [kPa]

    Raises
    ------
    InputRefused
        If the readings are not a rise.

    Notes
    -----
    p(t) = p_0 + (p_final − p_0)·(1 − e^(−t/τ)), fitted by least squares; with fewer than four
    readings the last one is taken as final.
    """
    times, pressures = _checked(readings, "prime.readings", "seconds")
    if pressures[-1] <= pressures[0] + 5.0:
        raise field_refused("prime.readings", "The pressure does not rise: does the pump run?")
    final, tau, start = _fit_rise(times, pressures)
    left = (1.0 - BUILT_SHARE) * final / max(final - start, 1e-6)
    built = max(0.0, tau * math.log(1.0 / min(1.0, left)))
    prime = math.ceil((built + _SPARE_S) * 2.0) / 2.0
    level: Literal["good", "attention", "fault"] = "good"
    sentence = f"Pressure is built after {built:.1f} s: let the pump run {prime:g} s at key-on."
    if final < _WANTED_SHARE * wanted_kpa:
        level = "fault"
        sentence = (
            f"Pressure ends at {kilopascal(final)}, {kilopascal(wanted_kpa)} are wanted: look at leaks, "
            "regulator and pump voltage before anything else."
        )
    elif final > 1.15 * wanted_kpa:
        level = "attention"
        sentence += (
            f" It ends at {kilopascal(final)}, above the wanted {kilopascal(wanted_kpa)}: a tight return, "
            "or the regulator's setting."
        )
    elif built > 3.0:
        level = "attention"
        sentence += (
            " That is slow: a worn pump, a thin feed, or fuel that ran back. Until it is found, "
            "switch the key on twice."
        )
    return PrimeResult(final, tau, built, prime, level, sentence)


def _fit_rise(times: np.ndarray, pressures: np.ndarray) -> tuple[float, float, float]:
    """Return (final [kPa], time constant [s], start [kPa])."""
    start = float(pressures[0]) if times[0] <= 0.05 else 0.0
    if times.size < 4:
        final = float(pressures[-1])
        inside = (times > 0.0) & (pressures < 0.98 * final) & (pressures > start)
        if inside.any():
            shares = (pressures[inside] - start) / (final - start)
            tau = float(np.median(times[inside] / -np.log(1.0 - shares)))
        else:
            tau = float(times[-1]) / -math.log(1.0 - BUILT_SHARE)
        return final, tau, start

    def misfit(unknown: np.ndarray) -> np.ndarray:
        final, log_tau, first = unknown
        shape = 1.0 - np.exp(-times / math.exp(float(log_tau)))
        return np.asarray(first + (final - first) * shape - pressures)

    most = float(pressures.max())
    reached = times[pressures >= start + (1.0 - math.exp(-1.0)) * (most - start)]
    guess = [most, math.log(max(float(reached[0]), 0.02)), start]
    # A few odd readings must not turn the fit, but the rise itself must not count as odd.
    scale = max(5.0, 0.05 * most)
    final, log_tau, first = least_squares(misfit, guess, loss="soft_l1", f_scale=scale).x
    return float(final), math.exp(float(log_tau)), float(first)


def prime_readings(trace: Trace) -> tuple[tuple[float, float], ...]:
    """Return the pressure rise of a key-on log as (seconds since pump on, pressure [kPa]).

    The pump is taken to switch on with the last sample before pressure has risen by 5 kPa;
    readings end when the engine turns, or when pressure falls again.

    Raises
    ------
    InputRefused
        If the log has no fuel pressure, or it does not rise.
    """
    pressure = trace.get("fuel_pressure_kpa")
    if pressure is None:
        raise field_refused("log_id", "This log has no fuel pressure.")
    time = trace.time_s
    keep = np.isfinite(pressure)
    rpm = trace.get("rpm")
    if rpm is not None:
        turning = np.flatnonzero(np.nan_to_num(rpm) > 30.0)
        if turning.size:
            keep[turning[0] :] = False
    time, pressure = time[keep], pressure[keep]
    if time.size < 3 or pressure.max() < pressure[0] + 20.0:
        raise field_refused(
            "log_id", "Fuel pressure does not rise in this log before the engine turns."
        )
    risen = int(np.flatnonzero(pressure > pressure[0] + 5.0)[0])
    first, last = max(0, risen - 1), int(pressure.argmax())
    last = max(last, min(first + 3, time.size - 1))
    start = float(time[first])
    return tuple(
        (float(t - start), float(p))
        for t, p in zip(time[first : last + 1], pressure[first : last + 1], strict=True)
    )


@dataclass(frozen=True)
class DecayResult:
    """What the residual pressure says.

    Attributes
    ----------
    half_minutes : float or None
        Time in which half is lost; None if it hardly falls. [min]
    after_ten_pct : float
        What is left after ten minutes. [%]
    verdict : {"good", "check_valve", "leak"}
    sentence : str
        With the test that tells the two apart.
    """

    half_minutes: float | None
    after_ten_pct: float
    verdict: Literal["good", "check_valve", "leak"]
    sentence: str


#: Half lost within this is a check valve that does not close; within the second, a leak
#: (common practice, no source). [min]
_CHECK_VALVE_MIN, _LEAK_MIN = 1.0, 20.0


def judge_decay(readings: Sequence[Sequence[float]]) -> DecayResult:
    """Judge the fall of pressure after key-off.

    Parameters
    ----------
    readings : sequence of (minutes since key-off, pressure [kPa])
        At least two.

    Raises
    ------
    InputRefused
        If the readings are not a fall.

    Notes
    -----
    p(t) = p_0·e^(−t/τ) through ln p by least squares, each reading weighted by its pressure.
    """
    times, pressures = _checked(readings, "decay.readings", "minutes")
    if pressures[0] <= 20.0:
        raise field_refused("decay.readings", "Begin with the pressure at key-off.")
    if pressures.max() > 1.1 * pressures[0]:
        raise field_refused(
            "decay.readings", "The pressure rises after key-off: are the readings in order?"
        )
    kept = np.maximum(pressures, 1.0)
    fall = times - times[0]
    weight = kept**2
    logs = np.log(kept / kept[0])
    rate = -float((weight * fall * logs).sum() / (weight * fall**2).sum())
    left = 100.0 * math.exp(-10.0 * max(rate, 0.0))
    half = math.log(2.0) / rate if rate > 1e-4 else None
    if half is None or half >= _LEAK_MIN:
        return DecayResult(
            half, left, "good", f"About {left:.0f} % is left after ten minutes: it holds."
        )
    lost = f"Half of the pressure is gone in {half * 60:.0f} s" if half < 2 else (
        f"Half of the pressure is gone in {half:.0f} min"
    )  # fmt: skip
    if half < _CHECK_VALVE_MIN:
        return DecayResult(
            half,
            left,
            "check_valve",
            f"{lost}: most likely the pump's check valve. Prime again, clamp the feed at once: if it "
            "now holds it is the valve, if it falls on it is the rail, an injector or the regulator.",
        )
    return DecayResult(
        half,
        left,
        "leak",
        f"{lost}: a leak. Look and smell for fuel first. Then clamp the return: if it now holds it "
        "is the regulator; if it falls on, an injector drips.",
    )


def _checked(
    readings: Sequence[Sequence[float]], field: str, unit: str
) -> tuple[np.ndarray, np.ndarray]:
    if len(readings) < 2:
        raise field_refused(field, f"At least two readings are needed: {unit} and pressure.")
    if len(readings) > 100_000:
        raise field_refused(field, "That are more readings than a gauge gives.")
    values = np.array(sorted((float(r[0]), float(r[1])) for r in readings))
    if not np.isfinite(values).all() or (values[:, 0] < 0).any():
        raise field_refused(field, "Times and pressures must be plain numbers, times from 0 on.")
    if (np.diff(values[:, 0]) <= 0).any():
        raise field_refused(field, f"Two readings have the same {unit}.")
    if not ((values[:, 1] >= -5.0) & (values[:, 1] <= 2000.0)).all():
        raise field_refused(
            field,
            f"A fuel pressure lies between {kilopascal(0, bare=True)} and {kilopascal(2000)}.",
        )
    if 0.5 < values[:, 1].max() < 12.0:
        raise field_refused(
            field,
            f"At most {quantity(float(values[:, 1].max()), 'kPa')}: is that bar? 3 bar are 300 kPa.",
        )
    return values[:, 0], values[:, 1]

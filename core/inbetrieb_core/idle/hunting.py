"""An idle that hunts: its period and size, and which loop, or what else, makes it.

Every loop that acts on speed swings with it; the one that makes it swings so far that its own effect on
speed is about as large as the swing. Sizes are compared in revolutions: opening times gain, ignition
times what a degree is worth, mixture times what a per cent is worth.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np
from scipy import signal

from ..errors import LogRefused
from ..quantities import FloatArray

Cause = Literal[
    "none", "valve_loop", "spark_correction", "mixture_loop", "lean_surge", "missing_cylinder", "load",
    "unknown",
]  # fmt: skip

_RATE_HZ, _LEAST_S, _WINDOW_S = 20.0, 12.0, 20.0
_BAND_HZ = (0.06, 3.5)
#: Speed that swings by less than this is steady; a share of it that the period has to hold. [1/min, –]
STEADY_RPM, _PERIODIC = 28.0, 0.3
#: What a per cent of valve, a degree of ignition and a per cent of mixture are worth where nothing is
#: known of the engine (common practice, no source). [1/min per %, per °, per %]
_VALVE_RPM, _SPARK_RPM, _MIXTURE_RPM = 18.0, 7.0, 2.5
#: A loop makes a swing that it explains to this share, whatever else is rough from this one on; its own
#: swing has to follow it. [–, –, –]
_EXPLAINS, _PLAINLY, _COHERENT = 0.45, 0.6, 0.5
_LEAN = 1.07
#: Speed that jumps from firing to firing by so much, and by such a share of its swing, has charges that
#: do not burn. [1/min, –]
_ROUGH_RPM, _ROUGH_SHARE = 9.0, 0.1
#: After a start idle counts from here on; below this it was cranked. [s, 1/min]
_SETTLES_S, _CRANKS_RPM = 20.0, 350.0
#: Without a loop that explains it, only a swing of this size and this much of a period is hunting; and so
#: many periods have to be seen of any. [1/min, –, –]
_PLAIN_RPM, _PLAIN_PERIODIC, _LEAST_PERIODS = 45.0, 0.5, 2.8
#: Voltage that steps with the speed by so much shows a load. [V]
_LOAD_V = 0.12

#: What each cause is, and the one change to try. Common practice, no source.
_TOLD: dict[Cause, str] = {
    "valve_loop": (
        "The idle loop makes it: the valve swings far enough to explain all of it. Halve its integral gain "
        "and read again; if it stays, switch the loop off and see that it stops."
    ),
    "spark_correction": (
        "The ignition's correction for idle speed makes it. Make that table flatter by half, the steep "
        "middle first, and read again."
    ),
    "mixture_loop": (
        "The mixture loop makes it: fuel swings and speed follows. Slow the loop down by half, or open it at "
        "idle, and read again."
    ),
    "lean_surge": (
        "It surges lean{mean}: charges burn badly and speed falls until the next burn better. Give 5 % more "
        "fuel where it idles, and read again, before any loop is touched."
    ),
    "missing_cylinder": (
        "No loop explains it: speed jumps from firing to firing, as with a cylinder that misses. Look at "
        "plugs, coils, injectors and compression of each cylinder first."
    ),
    "load": (
        "It comes with a load: voltage steps at the same moments. Find which (fan, lamps, pump), and give it "
        "its idle air."
    ),
    "unknown": (
        "No logged channel explains it. Log valve, spark, lambda and battery beside the speed, then let it "
        "idle for half a minute."
    ),
    "none": "",
}


@dataclass(frozen=True)
class LoopShare:
    """How a loop moved with the speed.

    Attributes
    ----------
    channel : str
        Of the log.
    share : float
        How much of the swing its own movement would make. [–]
    leads_deg : float
        By how much it leads speed at that period. [°]
    """

    channel: str
    share: float
    leads_deg: float


@dataclass(frozen=True)
class Hunting:
    """What a log of the idle says.

    Attributes
    ----------
    hunting : bool
    period_s : float or None
        Of the largest swing. [s]
    amplitude_rpm : float
        Half of the swing from least to greatest. [1/min]
    cause : str
        A :data:`Cause`.
    loops : tuple of LoopShare
        How each loop moved with it.
    sentences : tuple of str
        What it is, and the one change to try.
    """

    hunting: bool
    period_s: float | None
    amplitude_rpm: float
    cause: Cause
    loops: tuple[LoopShare, ...]
    sentences: tuple[str, ...]


def judge_hunting(
    channels: Mapping[str, FloatArray], *, valve_gain: float | None = None
) -> Hunting:
    """Return whether an idle hunts, and what makes it.

    Parameters
    ----------
    channels : mapping of str to ndarray
        time_s and rpm; valve, spark, lambda, correction and battery where they were logged.
    valve_gain : float or None
        Of the sweep. [1/min per %]

    Raises
    ------
    LogRefused
        If speed is missing, or there is no idle long enough to tell.
    """
    for key in ("time_s", "rpm"):
        if key not in channels:
            raise LogRefused("Hunting is read from the speed: it is missing in this log.")
    idle = _longest_idle(channels)
    even = _evened(idle)
    rpm = even["rpm"]
    swing = _detrended(rpm)
    rough = _rough(idle)
    frequency, power = _spectrum(swing)
    slowest = max(_BAND_HZ[0], _LEAST_PERIODS / (idle["time_s"][-1] - idle["time_s"][0]))
    inside = (frequency >= slowest) & (frequency <= _BAND_HZ[1])
    peak = int(np.flatnonzero(inside)[np.argmax(power[inside])])
    near = np.abs(frequency - frequency[peak]) <= max(0.08, 0.25 * frequency[peak])
    share = float(power[near & inside].sum() / max(power[inside].sum(), 1e-9))
    amplitude = 0.5 * float(np.quantile(swing, 0.97) - np.quantile(swing, 0.03))
    lambda_mean = _median(even.get("lambda"))
    misses = rough > max(_ROUGH_RPM, _ROUGH_SHARE * amplitude)
    if amplitude < STEADY_RPM:
        cause: Cause = "missing_cylinder" if misses else "none"
        said = (f"The idle is steady: ±{amplitude:.0f} rpm.",)
        if misses:
            said = (f"The idle is held, ±{amplitude:.0f} rpm, but rough. {_TOLD[cause]}",)
        return Hunting(False, None, round(amplitude, 1), cause, (), said)
    phases, shares = {}, {}
    for key, worth in (
        ("idle_valve_pct", abs(valve_gain) if valve_gain else _VALVE_RPM),
        ("spark_deg", _SPARK_RPM),
        ("lambda_correction_pct", _MIXTURE_RPM),
    ):
        channel = even.get(key)
        if channel is None or float(np.ptp(channel)) < 1e-6:
            continue
        own = _detrended(channel)
        coherence, phase = _coherence(swing, own, frequency[peak])
        phases[key] = round(phase, 0)
        size = 0.5 * float(np.quantile(own, 0.97) - np.quantile(own, 0.03)) * worth
        # Too rich and too lean both slow an engine: speed may swing twice for once of the mixture.
        follows = coherence > _COHERENT or (
            key == "lambda_correction_pct" and _swings_at(own, frequency[peak])
        )
        shares[key] = round(size / amplitude, 2) if follows else 0.0
    loops = tuple(LoopShare(key, share_of, phases[key]) for key, share_of in shares.items())
    cause = _cause(even, swing, shares, share, misses, lambda_mean, frequency[peak])
    if cause == "none":
        return Hunting(False, None, round(amplitude, 1), "none", loops, (
            f"Speed varies by ±{amplitude:.0f} rpm without a period.",))  # fmt: skip
    period = round(1.0 / float(frequency[peak]), 2)
    return Hunting(
        True, period, round(amplitude, 1), cause, loops,
        _words(cause, period, amplitude, lambda_mean, phases),
    )  # fmt: skip


def _swings_at(values: FloatArray, hz: float) -> bool:
    """Say whether a channel swings with a period of its own, at a frequency or at half of it."""
    frequency, power = _spectrum(values)
    inside = (frequency >= _BAND_HZ[0]) & (frequency <= _BAND_HZ[1])
    own = float(np.asarray(frequency)[inside][int(np.argmax(power[inside]))])
    near = np.abs(frequency - own) <= max(0.08, 0.25 * own)
    periodic = float(power[near & inside].sum() / max(power[inside].sum(), 1e-12)) > _PERIODIC
    return periodic and any(abs(own / (hz * part) - 1.0) < 0.2 for part in (1.0, 0.5))


def _longest_idle(channels: Mapping[str, FloatArray]) -> dict[str, FloatArray]:
    """Return the longest stretch of idle in a log, its first seconds left out."""
    time, rpm = channels["time_s"], channels["rpm"]
    idles = np.isfinite(time) & np.isfinite(rpm) & (rpm > 250.0) & (rpm < 2200.0)
    throttle = channels.get("throttle_pct")
    if throttle is not None and np.isfinite(throttle).any():
        idles &= ~(throttle > float(np.nanquantile(throttle, 0.05)) + 2.0)
    speed = channels.get("speed_kmh")
    if speed is not None:
        idles &= ~(speed > 3.0)
    edges = np.flatnonzero(np.diff(np.concatenate([[0], idles.astype(int), [0]])))
    spans = [
        (a, b)
        for a, b in zip(edges[::2], edges[1::2], strict=True)
        if time[b - 1] - time[a] >= _LEAST_S
    ]
    if not spans:
        raise LogRefused(
            f"There is no idle of {_LEAST_S:.0f} s in this log with the throttle shut: let it idle longer."
        )
    a, b = max(spans, key=lambda s: time[s[1] - 1] - time[s[0]])
    # A start settles for a while before its idle is one.
    began = a > 0 and bool((rpm[max(0, a - 40) : a] < _CRANKS_RPM).any())
    skipped = min(_SETTLES_S, 0.4 * (time[b - 1] - time[a])) if began else 2.0
    after = a + int(np.searchsorted(time[a:b], time[a] + skipped))
    return {key: np.asarray(values[after:b], dtype=float) for key, values in channels.items()}


def _evened(idle: Mapping[str, FloatArray]) -> dict[str, FloatArray]:
    """Return the channels at an even rate."""
    time = idle["time_s"]
    at = np.arange(time[0], time[-1], 1.0 / _RATE_HZ)
    even = {}
    for key, values in idle.items():
        known = np.isfinite(values)
        if known.sum() > 0.5 * values.size:
            even[key] = np.interp(at, time[known], values[known])
    return even


def _detrended(values: FloatArray) -> FloatArray:
    """Return a channel without what moves slower than the slowest swing that is looked for."""
    level = np.asarray(signal.detrend(values))
    if values.size < 3.0 * _WINDOW_S * _RATE_HZ:
        return level
    high = signal.butter(2, 0.6 * _BAND_HZ[0], "highpass", fs=_RATE_HZ, output="sos")
    return np.asarray(signal.sosfiltfilt(high, level))


def _spectrum(values: FloatArray) -> tuple[FloatArray, FloatArray]:
    segment = min(values.size, int(_WINDOW_S * _RATE_HZ))
    frequency, power = signal.welch(values, _RATE_HZ, nperseg=segment, nfft=4 * segment)
    return np.asarray(frequency), np.asarray(power)


def _coherence(one: FloatArray, other: FloatArray, hz: float) -> tuple[float, float]:
    """Return how well one channel follows another about a frequency, and by how much it leads. [–, °]"""
    low, high = max(0.04, 0.6 * hz), min(0.45 * _RATE_HZ, 1.6 * hz)
    band = signal.butter(2, (low, high), "bandpass", fs=_RATE_HZ, output="sos")
    a = signal.hilbert(signal.sosfiltfilt(band, one))
    b = signal.hilbert(signal.sosfiltfilt(band, other))
    cross = np.mean(b * np.conj(a))
    size = np.sqrt(np.mean(np.abs(a) ** 2) * np.mean(np.abs(b) ** 2))
    return float(np.abs(cross) / max(size, 1e-12)), float(np.degrees(np.angle(cross)))


def _rough(idle: Mapping[str, FloatArray]) -> float:
    """Return by how much speed jumps from sample to sample beyond its own swing. [1/min]"""
    rpm = idle["rpm"]
    if rpm.size < 20:
        return 0.0
    second = rpm[2:] - 2.0 * rpm[1:-1] + rpm[:-2]
    return float(np.std(second) / np.sqrt(6.0))


def _median(values: FloatArray | None) -> float | None:
    return None if values is None else float(np.median(values))


def _cause(
    even: Mapping[str, FloatArray],
    swing: FloatArray,
    shares: Mapping[str, float],
    periodic: float,
    misses: bool,
    lambda_mean: float | None,
    hz: float,
) -> Cause:
    best = max(shares, key=lambda key: shares[key], default="")
    made_by: dict[str, Cause] = {
        "idle_valve_pct": "valve_loop",
        "spark_deg": "spark_correction",
        "lambda_correction_pct": "mixture_loop",
    }
    if (
        best
        and shares[best] >= _EXPLAINS
        and periodic > _PERIODIC
        and (not misses or shares[best] > _PLAINLY)
    ):
        return made_by[best]
    battery = even.get("battery_v")
    if battery is not None:
        own = _detrended(battery)
        coherence, _ = _coherence(swing, own, hz)
        if 0.5 * float(np.ptp(np.quantile(own, (0.05, 0.95)))) > _LOAD_V and coherence > _COHERENT:
            return "load"
    if misses:
        lean = lambda_mean is not None and lambda_mean > _LEAN
        return "lean_surge" if lean else "missing_cylinder"
    if lambda_mean is not None and lambda_mean > _LEAN:
        return "lean_surge"
    if best and shares[best] >= _EXPLAINS:
        return made_by[best]
    plain = (
        periodic > _PLAIN_PERIODIC
        and 0.5 * float(np.ptp(np.quantile(swing, (0.03, 0.97)))) > _PLAIN_RPM
    )
    return "unknown" if plain else "none"


def _words(
    cause: Cause,
    period: float,
    amplitude: float,
    lambda_mean: float | None,
    phases: Mapping[str, float],
) -> tuple[str, ...]:
    first = f"The idle hunts: ±{amplitude:.0f} rpm every {period:.1f} s."
    told = _TOLD[cause].format(mean="" if lambda_mean is None else f" (lambda {lambda_mean:.2f})")
    leads = {"idle_valve_pct": "valve", "spark_deg": "spark", "lambda_correction_pct": "mixture"}
    told_phases = ", ".join(f"{leads[k]} {v:+.0f}°" for k, v in phases.items())
    third = (f"Against the speed they lead by: {told_phases}.",) if told_phases else ()
    return (first, told, *third)

"""An idle that hunts: its period and size, and which loop, or what else, makes it.

Every loop that acts on speed swings with it; the one that makes it swings so far that its own effect on
speed is about as large as the swing. Sizes are compared in revolutions: opening times gain, ignition
times what a degree is worth, mixture times what a per cent is worth.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
import scipy

from ..errors import LogRefused
from ..quantities import FloatArray
from .segment import longest_idle

Cause = Literal[
    "none", "valve_loop", "spark_correction", "mixture_loop", "lean_surge", "missing_cylinder", "load",
    "unknown",
]  # fmt: skip

_RATE_HZ, _LEAST_S, _WINDOW_S = 20.0, 12.0, 20.0
_BAND_HZ = (0.06, 3.5)
#: Speed that swings by less than this is steady; a share of it that the period has to hold. [1/min, –]
STEADY_RPM, _PERIODIC = 28.0, 0.3
_VALVE, _SPARK, _MIXTURE = "idle_valve_pct", "spark_deg", "lambda_correction_pct"
#: What a per cent of valve, a degree of ignition and a per cent of mixture are worth where nothing is
#: known of the engine (common practice, no source). [1/min per %, per °, per %]
_VALVE_RPM, _SPARK_RPM, _MIXTURE_RPM = 18.0, 7.0, 2.5
#: By channel: what it is called where it makes the swing, in a sentence, and what a unit is worth.
_LOOPS: dict[str, tuple[Cause, str, float]] = {
    _VALVE: ("valve_loop", "valve", _VALVE_RPM),
    _SPARK: ("spark_correction", "spark", _SPARK_RPM),
    _MIXTURE: ("mixture_loop", "mixture", _MIXTURE_RPM),
}
#: A loop makes a swing that it explains to this share, whatever else is rough from this one on; its own
#: swing has to follow it. [–, –, –]
_EXPLAINS, _PLAINLY, _COHERENT = 0.45, 0.6, 0.5
_LEAN = 1.07
#: Speed that jumps from firing to firing by so much, and by such a share of its swing, has charges that
#: do not burn. [1/min, –]
_ROUGH_RPM, _ROUGH_SHARE = 9.0, 0.1
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

    @property
    def advice(self) -> str:
        """The one change to try; what it is where nothing is to be changed."""
        return self.sentences[min(1, len(self.sentences) - 1)]


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
    if not {"time_s", "rpm"} <= set(channels):
        raise LogRefused("Hunting is read from the speed: it is missing in this log.")
    idle = longest_idle(channels, _LEAST_S)
    even = _evened(idle)
    swing = _detrended(even["rpm"])
    amplitude = _half_swing(swing)
    misses = _rough(even["rpm"], idle["time_s"]) > max(_ROUGH_RPM, _ROUGH_SHARE * amplitude)
    if amplitude < STEADY_RPM:
        return _steady(amplitude, misses=misses)
    seen_s = float(idle["time_s"][-1] - idle["time_s"][0])
    hz, periodic = _strongest(swing, max(_BAND_HZ[0], _LEAST_PERIODS / seen_s))
    loops = tuple(_loops(even, swing, hz, abs(valve_gain) if valve_gain else _VALVE_RPM))
    lambda_mean = float(np.median(even["lambda"])) if "lambda" in even else None
    cause = _cause(even, swing, loops, hz, periodic, lambda_mean, misses=misses)
    if cause == "none":
        varies = f"Speed varies by ±{amplitude:.0f} rpm without a period."
        return Hunting(False, None, round(amplitude, 1), "none", loops, (varies,))
    period_s = round(1.0 / hz, 2)
    said = _words(cause, period_s, amplitude, lambda_mean, loops)
    return Hunting(True, period_s, round(amplitude, 1), cause, loops, said)


def _steady(amplitude: float, *, misses: bool) -> Hunting:
    """Return what is said of an idle that hardly swings: it may still be rough."""
    if not misses:
        said = f"The idle is steady: ±{amplitude:.0f} rpm."
        return Hunting(False, None, round(amplitude, 1), "none", (), (said,))
    said = f"The idle is held, ±{amplitude:.0f} rpm, but rough. {_TOLD['missing_cylinder']}"
    return Hunting(False, None, round(amplitude, 1), "missing_cylinder", (), (said,))


def _loops(
    even: Mapping[str, FloatArray], swing: FloatArray, hz: float, valve_rpm: float
) -> Iterator[LoopShare]:
    """Yield how each loop that was logged moved with the speed; `valve_rpm` is a per cent's worth."""
    for key, (_, _, worth) in _LOOPS.items():
        channel = even.get(key)
        if channel is None or float(np.ptp(channel)) < 1e-6:
            continue
        own = _detrended(channel)
        coherence, leads_deg = _coherence(swing, own, hz)
        # Too rich and too lean both slow an engine: speed may swing twice for once of the mixture.
        follows = coherence > _COHERENT or (key == _MIXTURE and _swings_at(own, hz))
        made = _half_swing(own) * (valve_rpm if key == _VALVE else worth) / _half_swing(swing)
        yield LoopShare(key, round(made, 2) if follows else 0.0, round(leads_deg))


def _half_swing(values: FloatArray) -> float:
    """Return half of the way from least to greatest, the last few per cent left out."""
    low, high = np.quantile(values, (0.03, 0.97))
    return 0.5 * float(high - low)


def _strongest(values: FloatArray, slowest_hz: float) -> tuple[float, float]:
    """Return the strongest frequency, and which share of the power lies about it. [Hz, –]"""
    segment = min(values.size, int(_WINDOW_S * _RATE_HZ))
    hz, power = (
        np.asarray(x)
        for x in scipy.signal.welch(values, _RATE_HZ, nperseg=segment, nfft=4 * segment)
    )
    inside = (hz >= slowest_hz) & (hz <= _BAND_HZ[1])
    hz, power = hz[inside], power[inside]
    peak = float(hz[int(np.argmax(power))])
    near = np.abs(hz - peak) <= max(0.08, 0.25 * peak)
    return peak, float(power[near].sum() / max(power.sum(), 1e-12))


def _swings_at(values: FloatArray, hz: float) -> bool:
    """Say whether a channel swings with a period of its own, at a frequency or at half of it."""
    own, periodic = _strongest(values, _BAND_HZ[0])
    return periodic > _PERIODIC and any(abs(own / (hz * p) - 1.0) < 0.2 for p in (1.0, 0.5))


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
    level = np.asarray(scipy.signal.detrend(values))
    if values.size < 3.0 * _WINDOW_S * _RATE_HZ:
        return level
    high = scipy.signal.butter(2, 0.6 * _BAND_HZ[0], "highpass", fs=_RATE_HZ, output="sos")
    return np.asarray(scipy.signal.sosfiltfilt(high, level))


def _coherence(one: FloatArray, other: FloatArray, hz: float) -> tuple[float, float]:
    """Return how well one channel follows another about a frequency, and by how much it leads. [–, °]"""
    low, high = max(0.04, 0.6 * hz), min(0.45 * _RATE_HZ, 1.6 * hz)
    band = scipy.signal.butter(2, (low, high), "bandpass", fs=_RATE_HZ, output="sos")
    a = scipy.signal.hilbert(scipy.signal.sosfiltfilt(band, one))
    b = scipy.signal.hilbert(scipy.signal.sosfiltfilt(band, other))
    cross = np.mean(b * np.conj(a))
    size = np.sqrt(np.mean(np.abs(a) ** 2) * np.mean(np.abs(b) ** 2))
    return float(np.abs(cross) / max(size, 1e-12)), float(np.degrees(np.angle(cross)))


def _rough(rpm: FloatArray, logged_s: FloatArray) -> float:
    """Return by how much speed jumps from sample to sample beyond its own swing. [1/min]

    At the even rate, so that a quick log is no smoother than a slow one; `logged_s` are its own times.
    """
    slower = max(1, round(float(np.median(np.diff(logged_s))) * _RATE_HZ))
    rpm = rpm[::slower]
    if rpm.size < 20:
        return 0.0
    second = rpm[2:] - 2.0 * rpm[1:-1] + rpm[:-2]
    return float(np.std(second) / np.sqrt(6.0))


def _cause(
    even: Mapping[str, FloatArray],
    swing: FloatArray,
    loops: Sequence[LoopShare],
    hz: float,
    periodic: float,
    lambda_mean: float | None,
    *,
    misses: bool,
) -> Cause:
    best = max(loops, key=lambda loop: loop.share, default=None)
    made_by = best if best is not None and best.share >= _EXPLAINS else None
    if made_by and periodic > _PERIODIC and (not misses or made_by.share > _PLAINLY):
        return _LOOPS[made_by.channel][0]
    if "battery_v" in even:
        own = _detrended(even["battery_v"])
        if _half_swing(own) > _LOAD_V and _coherence(swing, own, hz)[0] > _COHERENT:
            return "load"
    if lambda_mean is not None and lambda_mean > _LEAN:
        return "lean_surge"
    if misses:
        return "missing_cylinder"
    if made_by:
        return _LOOPS[made_by.channel][0]
    plain = periodic > _PLAIN_PERIODIC and _half_swing(swing) > _PLAIN_RPM
    return "unknown" if plain else "none"


def _words(
    cause: Cause,
    period_s: float,
    amplitude: float,
    lambda_mean: float | None,
    loops: Sequence[LoopShare],
) -> tuple[str, ...]:
    first = f"The idle hunts: ±{amplitude:.0f} rpm every {period_s:.1f} s."
    told = _TOLD[cause].format(mean="" if lambda_mean is None else f" (lambda {lambda_mean:.2f})")
    leads = ", ".join(f"{_LOOPS[loop.channel][1]} {loop.leads_deg:+.0f}°" for loop in loops)
    third = (f"Against the speed they lead by: {leads}.",) if leads else ()
    return (first, told, *third)

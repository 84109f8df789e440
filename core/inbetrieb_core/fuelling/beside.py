"""What a drive shows beside the needs of its map: a known pressure, misfires, and a second bank that differs."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from ..logs import Trace
from ..quantities import FloatArray
from .known_pressure import PressureSeen, pressure_seen

#: Misfires: seconds are looked at one by one; a cylinder that burns nothing sends air past the sensor, so that its reading
#: leaps to lean and comes back. [s, –, –]
_WINDOW_S, _LEAP, _ONE_SIDED = 1.0, 0.06, 1.8
#: Shares of the seconds that would count: from here misfires are possible, and sure. [–]
_MISFIRES, _SURELY = 0.05, 0.2
#: Two good sensors in one exhaust read so far apart (common practice, no source); a bank is off from here. [–, –]
_SENSORS, _BANK = 0.012, 0.03
#: Least of steady running that tells; seconds of one stretch go together. [s, s]
_LEAST_S, _TOGETHER_S = 20.0, 6.0


@dataclass(frozen=True)
class Beside:
    """What one drive shows beside its readings.

    Attributes
    ----------
    pressure : PressureSeen
    steady_s : float
        How long it was steady. [s]
    misfires_s : float
        Of this with misfires. [s]
    misfires_kpa : float
        Middle manifold pressure of those seconds; NaN where not known. [kPa]
    steady_kpa : float
        Of all of them, likewise. [kPa]
    banks : float
        ln of the second sensor's lambda over the first's; NaN with one sensor. [–]
    """

    pressure: PressureSeen = field(default_factory=PressureSeen)
    steady_s: float = 0.0
    misfires_s: float = 0.0
    misfires_kpa: float = math.nan
    steady_kpa: float = math.nan
    banks: float = math.nan


@dataclass(frozen=True)
class Misfires:
    """How much of a drive misfires, with its standard error [–], and whether it does so under load rather than everywhere."""

    share: float
    error: float
    under_load: bool

    @property
    def probability(self) -> float:
        """That it is misfires, of what a share this large speaks for. [–]"""
        return min(0.98, max(0.0, (self.share - _MISFIRES) / (_SURELY - _MISFIRES)))


@dataclass(frozen=True)
class Banks:
    """How far the second bank's lambda stands above the first's, with its standard error. [ln]"""

    apart: float
    error: float

    @property
    def probability(self) -> float:
        """That the banks differ by more than matters. [–]"""
        beyond = (abs(self.apart) - _BANK) / (self.error * math.sqrt(2.0))
        return min(0.98, 0.5 * (1.0 + math.erf(beyond)))


def beside(trace: Trace, steady: NDArray[np.bool_]) -> Beside:
    """Return what a log shows beside its readings.

    Parameters
    ----------
    trace : Trace
        With lambda.
    steady : ndarray of bool
        Samples that count but for misfires.
    """
    pressure = pressure_seen(trace)
    if not steady.any():
        return Beside(pressure)
    second = np.floor((trace.time_s - trace.time_s[0]) / _WINDOW_S).astype(int)
    counted = np.flatnonzero(steady)
    held = np.split(counted, np.flatnonzero(np.diff(second[counted])) + 1)
    held = [places for places in held if places.size >= 4]
    leaps = np.array([_leaps(trace["lambda"][places]) for places in held], dtype=int)
    kpa = trace.get("map_kpa")
    middles = np.array([math.nan if kpa is None else float(np.nanmedian(kpa[p])) for p in held])
    missing = leaps > 0
    # Noise leaps to both sides alike: what it does to the rich side it did to the lean one.
    by_noise = int((leaps < 0).sum())
    return Beside(
        pressure,
        len(held) * _WINDOW_S,
        max(0, int(missing.sum()) - by_noise) * _WINDOW_S,
        _middle(middles[missing]),
        _middle(middles),
        _banks(trace, steady),
    )


def _middle(values: FloatArray) -> float:
    known = values[np.isfinite(values)]
    return float(np.median(known)) if known.size else math.nan


def _leaps(reading: FloatArray) -> int:
    """Return 1 where a second of lambda leaps to lean and back, again and again; −1 where to rich; else 0."""
    low, middle, high = np.nanpercentile(reading, [7.5, 50.0, 92.5])
    lean, rich = high - middle, middle - low
    if high - low <= _LEAP:
        return 0
    return int(lean > _ONE_SIDED * rich) - int(rich > _ONE_SIDED * lean)


def _banks(trace: Trace, steady: NDArray[np.bool_]) -> float:
    other = trace.get("lambda_2")
    if other is None:
        return math.nan
    both = steady & (other > 0.6) & (other < 1.4) & (trace["lambda"] > 0.6)
    if both.mean() * float(np.ptp(trace.time_s)) < _LEAST_S:
        return math.nan
    return float(np.median(np.log(other[both] / trace["lambda"][both])))


def misfires_of(drives: Sequence[Beside]) -> Misfires | None:
    """Return the misfires of drives; None where none is seen or too little was steady.

    Parameters
    ----------
    drives : sequence of Beside
    """
    steady, missing = (sum(getattr(d, name) for d in drives) for name in ("steady_s", "misfires_s"))
    if steady < _LEAST_S or missing / steady <= _MISFIRES:
        return None
    apart = [d.misfires_kpa - d.steady_kpa for d in drives if d.misfires_s]
    under_load = bool(np.isfinite(apart).any() and float(np.nanmedian(apart)) > 10.0)
    share = missing / steady
    error = math.sqrt(share * (1.0 - share) * _TOGETHER_S / steady)
    return Misfires(share, error, under_load)


def banks_of(drives: Sequence[Beside]) -> Banks | None:
    """Return how far two banks are apart; None with one sensor.

    Parameters
    ----------
    drives : sequence of Beside
    """
    seen = [d.banks for d in drives if math.isfinite(d.banks)]
    if not seen:
        return None
    spread = float(np.std(seen)) / math.sqrt(len(seen)) if len(seen) > 1 else 0.0
    return Banks(float(np.median(seen)), math.hypot(_SENSORS, spread))

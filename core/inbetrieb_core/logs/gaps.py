"""What a log lacks: artefacts taken out, short gaps bridged, long gaps told.

A missing cell is missing and never zero. A shaft cannot stop and turn again within a sample or
two, so a zero among running samples is missing, too; it is a stop where its neighbours fall.
The limits are common practice without a source.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from ..quantities import FloatArray
from .trace import Trace

#: Up to this long a gap is bridged by a straight line, or up to some steps of a slow log.
BRIDGED_S, BRIDGED_STEPS = 0.6, 2.5
_TURNS_RPM, _CRANKED_RPM = 100.0, 450.0
#: An engine that really stops loses at most so much speed in a second.
_STOPS_RPM_PER_S = 9000.0
#: No engine of the trade goes from its neighbours' speed to this and back between two samples.
_SPIKE_FACTOR, _SPIKE_ABOVE_RPM = 1.8, 600.0
#: A zero in these channels is a dropped cell where both neighbours are further than this from it.
_NEVER_ZERO = {
    "coolant_c": 8.0,
    "intake_c": 8.0,
    "battery_v": 5.0,
    "map_kpa": 12.0,
    "lambda": 0.4,
    "fuel_pressure_kpa": 100.0,
}
#: States, which have no value between two others.
_STATES = frozenset(["sync", "cam_profile", "gear"])


@dataclass(frozen=True)
class Gap:
    """A stretch of which the log tells nothing: the times of its neighbours. [s]"""

    start_s: float
    end_s: float

    @property
    def length_s(self) -> float:
        """How long it is. [s]"""
        return self.end_s - self.start_s


@dataclass(frozen=True, eq=False)
class Mended:
    """A log that can be judged.

    Attributes
    ----------
    trace : Trace
        Every sample has a speed; short gaps of every channel are filled.
    gaps : tuple of Gap
        Longer ones, in order of time.
    bridged : int
        Samples of speed that were filled. [–]
    """

    trace: Trace
    gaps: tuple[Gap, ...]
    bridged: int


def mend(trace: Trace) -> Mended:
    """Return a log without artefacts and short gaps, and where its long gaps lie.

    Parameters
    ----------
    trace : Trace
        Needs ``rpm``.
    """
    time = trace.time_s
    limit = bridged_s(time)
    speed = _standing(time, _without_artefacts(time, trace["rpm"].copy(), limit), limit)
    missing = ~np.isfinite(speed)
    channels: dict[str, FloatArray] = {}
    for name, values in trace.channels.items():
        if name == "time_s":
            channels[name] = values
            continue
        clean = speed if name == "rpm" else _without_zeros(time, values, name, limit)
        channels[name] = _bridged(time, clean, limit, name in _STATES)
    there = np.isfinite(channels["rpm"])
    if there.sum() < 2:
        return Mended(trace, (Gap(float(time[0]), float(time[-1])),), 0)
    kept = Trace({name: values[there] for name, values in channels.items()})
    steps = np.diff(kept.time_s)
    gaps = tuple(
        Gap(float(kept.time_s[i]), float(kept.time_s[i + 1]))
        for i in np.flatnonzero(steps > limit + 1e-9)
    )
    return Mended(kept, gaps, int((missing & there).sum()))


def bridged_s(time: FloatArray) -> float:
    """Return the longest gap between two samples that is bridged. [s]"""
    return max(BRIDGED_S, BRIDGED_STEPS * float(np.median(np.diff(time))))


def _runs(marked: np.ndarray) -> Iterator[tuple[int, int]]:
    """Yield first and last index of every run of marked samples."""
    edges = np.flatnonzero(np.diff(np.r_[False, marked, False].astype(int)))
    yield from zip(edges[::2].tolist(), (edges[1::2] - 1).tolist(), strict=True)


def _without_artefacts(time: FloatArray, speed: FloatArray, limit: float) -> FloatArray:
    """Return speed with impossible zeros and spikes missing. [1/min]"""
    for first, last in _runs(speed == 0.0):
        if _is_dropped(time, speed, first, last, limit):
            speed[first : last + 1] = np.nan
    there = np.flatnonzero(np.isfinite(speed))
    if there.size < 3:
        return speed
    values = speed[there]
    beside = np.maximum(np.r_[values[0], values[:-1]], np.r_[values[1:], values[-1]])
    # Two spiked samples in a row have a calm one on their far side.
    calm = np.minimum(beside, np.maximum(_shifted(values, 2), _shifted(values, -2)))
    spikes = values > _SPIKE_FACTOR * calm + _SPIKE_ABOVE_RPM
    speed[there[spikes]] = np.nan
    return speed


def _standing(time: FloatArray, speed: FloatArray, limit: float) -> FloatArray:
    """Return speed of a logger that writes nothing while the engine stands, with zeros there."""
    if (speed == 0.0).any():
        return speed
    for first, last in _runs(~np.isfinite(speed)):
        stood = first == 0 or speed[first - 1] < _TURNS_RPM or _falls(time, speed, first - 1)
        stands = last == len(speed) - 1 or speed[last + 1] < _CRANKED_RPM
        whole = first == 0 and last == len(speed) - 1
        if stood and stands and not whole and time[last] - time[first] > limit:
            speed[first : last + 1] = 0.0
    return speed


def _shifted(values: FloatArray, by: int) -> FloatArray:
    return np.asarray(np.roll(np.pad(values, 2, mode="edge"), by)[2:-2])


def _is_dropped(time: FloatArray, speed: FloatArray, first: int, last: int, limit: float) -> bool:
    """Say whether a run of zeros is an artefact: the shaft turned before and after."""
    earlier = np.flatnonzero(np.isfinite(speed[:first]))
    later = np.flatnonzero(np.isfinite(speed[last + 1 :]))
    if not earlier.size:
        return False
    before = int(earlier[-1])
    if speed[before] < _TURNS_RPM:
        return False
    if not later.size:  # the end of the log
        drop = speed[before] / max(time[first] - time[before], 1e-6)
        short = time[last] - time[first] < limit
        return bool(short and drop > _STOPS_RPM_PER_S and not _falls(time, speed, before))
    after = last + 1 + int(later[0])
    if speed[after] < _TURNS_RPM or speed[after] < 0.6 * speed[before]:
        return False  # it fell: a stop, and perhaps another start
    if time[after] - time[before] <= limit:
        return True
    drop = speed[before] / max(time[first] - time[before], 1e-6)
    return bool(drop > _STOPS_RPM_PER_S and not _falls(time, speed, before))


def _falls(time: FloatArray, speed: FloatArray, at: int) -> bool:
    """Say whether speed was on its way down before a sample."""
    before = (time >= time[at] - 0.5) & (time < time[at]) & np.isfinite(speed)
    return bool(before.any() and speed[at] < 0.75 * float(np.max(speed[before])))


def _without_zeros(time: FloatArray, values: FloatArray, name: str, limit: float) -> FloatArray:
    """Return a channel with zeros missing where both neighbours are far from zero."""
    least = _NEVER_ZERO.get(name)
    if least is None or not (values == 0.0).any():
        return values
    values = values.copy()
    for first, last in _runs(values == 0.0):
        beside = [i for i in (first - 1, last + 1) if 0 <= i < len(values)]
        if len(beside) < 2 or time[beside[1]] - time[beside[0]] > limit:
            continue
        left, right = values[beside[0]], values[beside[1]]
        if abs(left) > least and abs(right) > least and left * right > 0:
            values[first : last + 1] = np.nan
    return values


def _bridged(time: FloatArray, values: FloatArray, limit: float, state: bool) -> FloatArray:
    """Return values with short gaps filled: on a straight line, a state as it was before."""
    missing = ~np.isfinite(values)
    if not missing.any() or missing.all():
        return values
    there = np.flatnonzero(~missing)
    filled = values.copy()
    for first, last in _runs(missing):
        if first == 0 or last == len(values) - 1:
            continue  # nothing on one side: not told
        if time[last + 1] - time[first - 1] > limit:
            continue
        if state:
            filled[first : last + 1] = values[first - 1]
        else:
            filled[first : last + 1] = np.interp(time[first : last + 1], time[there], values[there])
    return filled

"""Tracks of a satellite receiver, NMEA 0183 or GPX: speed and altitude over a clock of their own."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from ..errors import LogRefused
from ..quantities import FloatArray
from ..sentences import fixed
from .alignment import Alignment, align
from .names import CHANNELS
from .trace import Trace

LARGEST_TRACK_BYTES = 40_000_000
#: A track has at most so many fixes; one that is further away than this from a sample says nothing of it. [–, s]
_MOST_FIXES, _GAP_S = 400_000, 2.5
_KMH_PER_KNOT, _DAY_S = 1.852, 86_400.0
#: Receivers repeat fixes nearer than this. [s]
_SAME_S = 1e-3
#: What a track's speed moves with, and the agreement that counts: two readings of one speed are nearly the same, engine
#: speed follows through the gears. [–]
_MOVES_WITH = {"speed_kmh": 0.95, "rpm": 0.8}


@dataclass(frozen=True, eq=False)
class Track:
    """A track.

    Attributes
    ----------
    time_s : ndarray
        From the first fix, rising. [s]
    speed_kmh, altitude_m : ndarray
        NaN where the receiver said nothing. [km/h], [m]
    """

    time_s: FloatArray
    speed_kmh: FloatArray
    altitude_m: FloatArray


def is_track(head: bytes) -> bool:
    """Say whether a file begins as a track does: sentences of a receiver, or GPX."""
    begins = head.removeprefix(b"\xef\xbb\xbf").lstrip()
    return begins[:1] == b"$" or (begins[:1] == b"<" and b"<gpx" in begins[:2000])


def read_track(data: bytes) -> Track:
    """Return the track of a file.

    Parameters
    ----------
    data : bytes
        NMEA 0183 sentences, or GPX 1.0 or 1.1.

    Raises
    ------
    LogRefused
        If it is neither, too large, or has no two fixes with a time and a speed.

    Notes
    -----
    The libraries have no bounds of their own: whoever serves strangers runs this in a process of its own.
    """
    if len(data) > LARGEST_TRACK_BYTES:
        raise LogRefused(f"A track has up to {LARGEST_TRACK_BYTES / 1e6:.0f} MB.")
    if not is_track(data[:4000]):
        raise LogRefused("This is no track: bring NMEA sentences of a receiver, or a GPX file.")
    text = data.decode("utf-8-sig", "replace")
    rows = list(_of_gpx(text) if text.lstrip().startswith("<") else _of_sentences(text))
    if len(rows) > _MOST_FIXES:
        raise LogRefused(f"The track has {len(rows)} fixes; up to {_MOST_FIXES} can be read.")
    fixes = np.array(rows, dtype=float).reshape(-1, 3)
    time_s = _through_midnight(fixes[:, 0])
    kept = np.concatenate([[True], np.diff(np.maximum.accumulate(time_s)) > _SAME_S])[: len(time_s)]
    fixes, time_s = fixes[kept], time_s[kept]
    if np.isfinite(fixes[:, 1]).sum() < 2:
        raise LogRefused("The track has no two fixes with a time and a speed.")
    return Track(time_s - time_s[0], fixes[:, 1], fixes[:, 2])


def _through_midnight(seconds: FloatArray) -> FloatArray:
    """Return times of day that go on rising where a day ends. [s]"""
    if not seconds.size:
        return seconds
    days = np.cumsum(np.diff(seconds, prepend=seconds[0]) < -_DAY_S / 2.0)
    return np.asarray(seconds + _DAY_S * days)


def _of_sentences(text: str) -> Iterator[tuple[float, float, float]]:
    """Yield time of day, speed and altitude of NMEA sentences; what is damaged or no fix is passed over. [s, km/h, m]"""
    import pynmea2

    open_s = speed = altitude = math.nan
    for line in text.splitlines():
        if line[:1] != "$" or line[3:6] not in ("RMC", "GGA"):
            continue
        try:
            said = pynmea2.parse(line.strip(), check=True)
            at = said.timestamp
        except (pynmea2.ParseError, ValueError, TypeError, AttributeError):
            continue
        if at is None or isinstance(at, str):
            continue
        time_s = at.hour * 3600.0 + at.minute * 60.0 + at.second + at.microsecond / 1e6
        # Sentences of one time are one fix, in whatever order they come.
        if time_s != open_s:
            if math.isfinite(open_s):
                yield open_s, speed, altitude
            open_s, speed, altitude = time_s, math.nan, math.nan
        if line[3:6] == "RMC" and said.status == "A":
            speed = _KMH_PER_KNOT * _number(said.spd_over_grnd)
        elif line[3:6] == "GGA" and _number(said.gps_qual) > 0.0:
            altitude = _number(said.altitude)
    if math.isfinite(open_s):
        yield open_s, speed, altitude


def _number(said: object) -> float:
    """Return what a field says; NaN where it is no finite number."""
    try:
        value = float(said)  # type: ignore[arg-type]
    except (TypeError, ValueError):
        return math.nan
    return value if math.isfinite(value) else math.nan


def _of_gpx(text: str) -> Iterator[tuple[float, float, float]]:
    """Yield time, speed and altitude of the points of a GPX file; speed from place to place where none is said. [s, km/h, m]"""
    if "<!ENTITY" in text or "<!DOCTYPE" in text:
        raise LogRefused("A GPX file defines no entities: this one is not read.")
    import gpxpy
    from gpxpy.gpx import GPXException

    try:
        points = [point for track in gpxpy.parse(text).tracks for part in track.segments for point in part.points]  # fmt: skip
        timed = [(point.time.timestamp(), point) for point in points if point.time is not None]
    except (GPXException, ValueError, OverflowError, RecursionError) as error:
        raise LogRefused("The GPX file is damaged, or of a kind that cannot be read.") from error
    before = None
    for at, point in timed:
        speed = _number(point.speed)
        if math.isnan(speed) and before is not None and at > before[0]:
            speed = _number(point.distance_2d(before[1])) / (at - before[0])
        before = (at, point)
        yield at, 3.6 * speed, _number(point.elevation)


def track_lies(trace: Trace, track: Track) -> Alignment:
    """Return by how much the times of a track are moved to lie on a log, from what moves in both.

    Parameters
    ----------
    trace : Trace
        With road speed, or else engine speed, which follows it while no gear is changed.
    track : Track

    Raises
    ------
    LogRefused
        If neither is there, or one does not move or is too short.
    """
    channel = next((name for name in _MOVES_WITH if trace.get(name) is not None), None)
    if channel is None:
        raise LogRefused("The log has neither road speed nor engine speed to compare with.")
    lies = align(trace.time_s, trace[channel], track.time_s, track.speed_kmh)
    told = lies.is_told and lies.agreement >= _MOVES_WITH[channel]
    title = CHANNELS[channel].title.lower()
    said = (
        f"The track begins at {fixed(lies.shift_s, 1)} s of the log: there its speed and the log's {title} agree "
        f"({lies.agreement:.2f})."
        if told
        else f"At no shift do the track's speed and the log's {title} agree ({lies.agreement:.2f})."
    )
    return replace(lies, is_told=told, sentence=said)


def with_track(trace: Trace, track: Track, shift_s: float) -> Trace:
    """Return a log with the altitude of a track, and its speed where the log has no road speed of its own.

    Parameters
    ----------
    trace : Trace
    track : Track
    shift_s : float
        Added to the times of the track. [s]

    Raises
    ------
    LogRefused
        If nothing of the track lies on the log then.
    """
    added = {"altitude_m": _on(trace.time_s, track.time_s + shift_s, track.altitude_m)}
    if trace.get("speed_kmh") is None:
        added["speed_kmh"] = _on(trace.time_s, track.time_s + shift_s, track.speed_kmh)
    seen = {name: values for name, values in added.items() if np.isfinite(values).any()}
    if not seen:
        raise LogRefused("Moved so, nothing of the track lies on the log.")
    return Trace({**trace.channels, **seen})


def _on(base: FloatArray, time_s: FloatArray, values: FloatArray) -> FloatArray:
    """Return what a track says at the times of a log; NaN away from its fixes."""
    known = np.isfinite(values)
    if known.sum() < 2:
        return np.full(base.shape, np.nan)
    time_s, values = time_s[known], values[known]
    after = np.clip(np.searchsorted(time_s, base, side="right"), 1, time_s.size - 1)
    wide = time_s[after] - time_s[after - 1] > _GAP_S
    outside = (base < time_s[0]) | (base > time_s[-1])
    return np.where(wide | outside, np.nan, np.interp(base, time_s, values))

"""Finding the starts in a log: where cranking begins, and which part belongs to which start."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..errors import CoreError
from ..logs.gaps import Mended, mend
from ..logs.trace import Trace
from ..quantities import FloatArray

TURNING_RPM = 40.0
TURNING_FOR_S = 0.15
BATTERY_DIP_V = 0.8
#: A key-on period shorter than this before cranking belongs to the start.
_BEFORE_S = 20.0
_STANDS_FOR_S, _SOON_S = 0.5, 0.6
#: So long after cranking an engine is warm whatever the morning was: the rest is a drive.
JUDGED_FOR_S = 1800.0


class NoStartError(CoreError):
    """The log holds no start."""


@dataclass(frozen=True)
class StartWindow:
    """One start in a log.

    Attributes
    ----------
    begin_s, end_s : float
        Part of the log that belongs to it. [s]
    crank_s : float or None
        Where cranking begins; None if the engine never turned. [s]
    """

    begin_s: float
    end_s: float
    crank_s: float | None


def find_starts(trace: Trace, crank_to_run_rpm: float) -> tuple[StartWindow, ...]:
    """Return every start of a log in order of time.

    Parameters
    ----------
    trace : Trace
        Needs ``rpm``.
    crank_to_run_rpm : float
        A log that begins above this speed holds no start until the engine stood. [1/min]

    Returns
    -------
    tuple of StartWindow
        One without `crank_s` if the engine never turned.

    Raises
    ------
    NoStartError
        If there is no speed, or the engine runs throughout.
    """
    return starts_in(mended(trace), crank_to_run_rpm)


def mended(trace: Trace) -> Mended:
    """Return a log as it can be judged, see :func:`.gaps.mend`.

    Raises
    ------
    NoStartError
        If there is no speed.
    """
    if trace.get("rpm") is None:
        raise NoStartError("The log has no engine speed; a start cannot be judged without it.")
    return mend(trace)


def starts_in(log: Mended, crank_to_run_rpm: float) -> tuple[StartWindow, ...]:
    """Return every start of a mended log, see :func:`find_starts`."""
    trace, time, speed = log.trace, log.trace.time_s, log.trace["rpm"]
    begins = _turning_begins(time, speed)
    begins = sorted([*begins, *_begins_after_gaps(log, crank_to_run_rpm)])
    if begins and speed[0] > crank_to_run_rpm and begins[0] <= time[0] + TURNING_FOR_S:
        begins = begins[1:]
        if not begins:
            raise NoStartError(
                f"The log begins with the engine running at {speed[0]:.0f} rpm: there is no "
                "start in it. Begin the log before the key is turned."
            )
    dips = _battery_dips(trace)
    if not begins:
        if dips:
            return (StartWindow(float(time[0]), float(time[-1]) + 1e-9, dips[0]),)
        return (StartWindow(float(time[0]), float(time[-1]) + 1e-9, None),)
    windows: list[StartWindow] = []
    for number, crank in enumerate(begins):
        stood_since = begins[number - 1] if number else float(time[0])
        before = [dip for dip in dips if max(stood_since, crank - _BEFORE_S) <= dip < crank]
        # A dip seconds before the first speed means the controller did not see the crank.
        seen = (
            before[-1] if before and not _turned_between(time, speed, before[-1], crank) else None
        )
        start = seen if seen is not None else crank
        begin = max(float(time[0]), start - _BEFORE_S)
        if number:
            begin = max(begin, windows[-1].end_s)
        following = begins[number + 1] if number + 1 < len(begins) else None
        end = float(time[-1]) + 1e-9 if following is None else _stands_from(time, speed, following)
        windows.append(StartWindow(begin, min(end, start + JUDGED_FOR_S), start))
    return tuple(windows)


def _turning_begins(time: FloatArray, speed: FloatArray) -> list[float]:
    """Return the times at which the shaft begins to turn for at least 0.15 s."""
    turning = speed > TURNING_RPM
    edges = np.flatnonzero(np.diff(turning.astype(int)))
    runs: list[tuple[int, int]] = []
    first = 0
    for edge in [*edges.tolist(), len(turning) - 1]:
        if turning[edge]:
            runs.append((first, edge))
        first = edge + 1
    begins: list[float] = []
    last_end = -np.inf
    for first, last in runs:
        until = time[min(last + 1, len(time) - 1)]
        if until - time[first] < TURNING_FOR_S:
            continue
        # Dropped samples while it turns do not make a second start.
        if time[first] - last_end >= _STANDS_FOR_S or not begins:
            begins.append(float(time[first]))
        last_end = float(time[last])
    return begins


def _begins_after_gaps(log: Mended, crank_to_run_rpm: float) -> list[float]:
    """Return where the engine is cranked after a gap before which it ran. [s]"""
    time, speed = log.trace.time_s, log.trace["rpm"]
    begins = []
    for gap in log.gaps:
        after = int(np.searchsorted(time, gap.end_s))
        ran = speed[after - 1] > crank_to_run_rpm
        soon = speed[(time > gap.end_s) & (time <= gap.end_s + _SOON_S)]
        # An engine that runs down is not cranked.
        holds = soon.size > 0 and float(soon.min()) > 0.7 * speed[after]
        if ran and holds and TURNING_RPM < speed[after] < crank_to_run_rpm:
            begins.append(gap.end_s)
    return begins


def _battery_dips(trace: Trace) -> list[float]:
    """Return the times at which the battery falls by more than 0.8 V within half a second."""
    volts = trace.get("battery_v")
    if volts is None:
        return []
    time = trace.time_s
    volts = np.interp(time, time[np.isfinite(volts)], volts[np.isfinite(volts)])
    fell = _highest_since(volts, np.searchsorted(time, time - 0.5)) - volts > BATTERY_DIP_V
    begins = np.flatnonzero(fell & ~np.r_[False, fell[:-1]])
    return [float(time[i]) for i in begins]


def _highest_since(values: FloatArray, since: NDArray[np.intp]) -> FloatArray:
    """Return the highest value from an index up to each sample, by maxima over powers of two."""
    length = np.arange(values.size) - since + 1
    power = np.floor(np.log2(length)).astype(int)
    highest = np.empty_like(values)
    level = values
    for step in range(int(power.max()) + 1):
        here = np.flatnonzero(power == step)
        width = 1 << step
        highest[here] = np.maximum(level[since[here]], level[here - width + 1])
        level = np.maximum(level[:-width], level[width:]) if level.size > width else level
    return highest


def _turned_between(time: FloatArray, speed: FloatArray, start_s: float, end_s: float) -> bool:
    inside = (time >= start_s) & (time < end_s - TURNING_FOR_S)
    return bool((speed[inside] > TURNING_RPM).any())


def _stands_from(time: FloatArray, speed: FloatArray, next_crank_s: float) -> float:
    """Return the moment half-way through the standstill before the next start. [s]"""
    before = (time < next_crank_s) & (speed > TURNING_RPM)
    stopped = float(time[np.flatnonzero(before)[-1]]) if before.any() else float(time[0])
    return 0.5 * (stopped + next_crank_s)

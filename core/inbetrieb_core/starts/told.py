"""What a log tells of a start, and what it hides: its end at a long gap, and what is said of it."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

import numpy as np

from ..logs.gaps import Gap, Mended
from ..logs.pedal import BoolArray
from ..logs.trace import Trace
from ..sentences import number
from .model import Finding
from .phases import Moments
from .window import TURNING_RPM, NoStartError, StartWindow

_SLOW_LOG_HZ = 8.0


def told(
    log: Mended, window: StartWindow, crank_to_run_rpm: float
) -> tuple[StartWindow, Gap | None]:
    """Return the part of a start that the log tells, and the long gap that ends it.

    Parameters
    ----------
    log : Mended
        The whole log.
    window : StartWindow
        One start of it.
    crank_to_run_rpm : float
        Speed at which the engine runs. [1/min]

    Raises
    ------
    NoStartError
        If what became of the start lies in a gap.
    """
    time, speed = log.trace.time_s, log.trace["rpm"]
    crank = window.begin_s if window.crank_s is None else window.crank_s
    for gap in log.gaps:
        if gap.end_s <= crank or gap.start_s >= window.end_s:
            continue
        inside = (time >= crank) & (time <= gap.start_s)
        ran = bool((speed[inside] > crank_to_run_rpm).any())
        after = float(speed[np.searchsorted(time, gap.end_s)])
        if ran:
            return replace(window, end_s=gap.start_s + 1e-6), gap
        if after <= TURNING_RPM and inside.any() and float(speed[inside][-1]) > TURNING_RPM:
            raise NoStartError(
                f"What became of this start is not told: nothing was logged from "
                f"{number(gap.start_s, 3)} s to {number(gap.end_s, 3)} s, while it was "
                "cranked. Note what happened as an observation instead."
            )
    return window, None


def about_the_log(
    log: Mended,
    part: Trace,
    window: StartWindow,
    cut: Gap | None,
    starts: int,
    which: int,
    moments: Moments,
    rests: BoolArray,
) -> Iterator[Finding]:
    """Yield what has to be known of the log to understand the judgement.

    Parameters
    ----------
    log, part : Mended, Trace
        The whole log, and the part of this start.
    window : StartWindow
        The start.
    cut : Gap or None
        The long gap that ended it.
    starts, which : int
        Starts in the log, and which of them this is.
    moments : Moments
        Its moments.
    rests : ndarray of bool
        Where the pedal rests.
    """
    if starts > 1:
        yield Finding(
            "several-starts",
            "note",
            f"The log holds {starts} starts; this is number {which}. Each is a trial of its own.",
        )
    if part.rate_hz < _SLOW_LOG_HZ:
        yield Finding(
            "slow-log",
            "note",
            f"Logged only {part.rate_hz:.1f} times a second: short events may be missed.",
        )
    if log.bridged:
        yield Finding(
            "bridged",
            "note",
            f"{log.bridged} missing or impossible sample(s) of speed in the log were bridged.",
        )
    if cut is not None:
        yield Finding(
            "gap",
            "attention",
            f"Nothing was logged for {number(cut.length_s, 2)} s, from "
            f"{number(cut.start_s, 3)} s on: the start is judged up to there.",
        )
    earlier = [gap for gap in log.gaps if _hides_the_firing(gap, moments)]
    if earlier:
        yield Finding(
            "gap-while-cranking",
            "attention",
            f"Nothing was logged for {number(earlier[0].length_s, 2)} s while it was cranked: "
            "how soon it ran is not told.",
        )
    yield from _pedal(part, moments, rests)


def _hides_the_firing(gap: Gap, m: Moments) -> bool:
    return (
        m.run_s is not None
        and m.crank_s is not None
        and gap.start_s < m.run_s
        and gap.end_s > m.crank_s - 0.5
    )


def _pedal(part: Trace, m: Moments, rests: BoolArray) -> Iterator[Finding]:
    if m.run_s is None:
        return
    moved = np.flatnonzero(~rests & (part.time_s > m.run_s))
    if not moved.size:
        return
    after = float(part.time_s[moved[0]]) - m.run_s
    yield Finding(
        "pedal",
        "note",
        f"The pedal moved or the car rolled {number(after, 2)} s after it ran: from there "
        "on idle is judged only where it rests again. What it hides is not told from here.",
    )

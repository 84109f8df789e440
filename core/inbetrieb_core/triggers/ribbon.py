"""A stretch of a capture as it is drawn: every edge with what it was taken for."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from .followed import Capture, Followed

MarkKind = Literal["tooth", "first", "lost", "extra", "cam"]
MOST_MARKS = 900


@dataclass(frozen=True)
class RibbonMark:
    """One edge: when [s], and what it is."""

    at_s: float
    kind: MarkKind


@dataclass(frozen=True)
class Ribbon:
    """A stretch of a capture.

    Attributes
    ----------
    start_s, end_s : float
        What it covers. [s]
    marks : tuple of RibbonMark
        In the order of time.
    speed : tuple of (time [s], speed [1/min])
        From tooth to tooth.
    faults_at_s : tuple of float
        Lost and extra edges of the whole capture, at most 200. [s]
    length_s : float
        Of the whole capture. [s]
    """

    start_s: float
    end_s: float
    marks: tuple[RibbonMark, ...]
    speed: tuple[tuple[float, float], ...]
    faults_at_s: tuple[float, ...]
    length_s: float


def ribbon_of(capture: Capture, followed: Followed, start_s: float, span_s: float) -> Ribbon:
    """Return a stretch of a capture, cut where it would hold too many edges.

    Parameters
    ----------
    capture : Capture
        As read.
    followed : Followed
        The same, followed on its wheel.
    start_s, span_s : float
        Where it begins and how long it is. [s]
    """
    times = capture.crank_s[followed.kept]
    length = float(times[-1])
    start = min(max(start_s, 0.0), max(0.0, length - 1e-3))
    end = min(length, start + max(span_s, 1e-3))
    inside = np.flatnonzero((times >= start) & (times <= end))
    if inside.size > MOST_MARKS:
        inside = inside[:MOST_MARKS]
        end = float(times[inside[-1]])
    wheel = followed.wheel
    angles = np.round(followed.angle_deg % wheel.turn_deg, 4)
    is_first = wheel.finds_itself & (
        np.minimum(angles, wheel.turn_deg - angles) < 0.25 * min(wheel.steps_deg)
    )
    marks = [
        RibbonMark(round(float(times[i]), 7), "first" if is_first[i] else "tooth")
        for i in inside.tolist()
    ]
    others: tuple[tuple[np.ndarray, MarkKind], ...] = (
        (followed.lost_at_s, "lost"),
        (followed.extra_at_s, "extra"),
        (capture.cam_s, "cam"),
    )
    for at, kind in others:
        some = at[(at >= start) & (at <= end)][:MOST_MARKS]
        marks += [RibbonMark(round(float(t), 7), kind) for t in some]
    marks.sort(key=lambda mark: mark.at_s)
    pairs = inside[inside > 0]
    speed = tuple(
        (
            round(float(0.5 * (times[i] + times[i - 1])), 7),
            round(
                float(
                    (followed.angle_deg[i] - followed.angle_deg[i - 1]) / (times[i] - times[i - 1])
                )
                / 6.0,
                2,
            ),
        )
        for i in pairs.tolist()
    )
    faults = np.sort(np.concatenate([followed.lost_at_s, followed.extra_at_s]))[:200]
    return Ribbon(
        start, end, tuple(marks), speed, tuple(round(float(t), 6) for t in faults), length
    )

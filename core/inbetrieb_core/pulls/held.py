"""Load points on a brake: which of a plan a log has held, what it read there, and which gaps are left."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..logs import Trace
from ..quantities import FloatArray
from .checks import BrakePoint

#: A point is held within this of its speed and throttle; the first of it settles. [–, %, s]
_SPEED, _THROTTLE_PCT, _SETTLES_S = 0.025, 3.0, 2.0
#: A pause of the log parts two holds. [s]
_PAUSE_S = 1.0


@dataclass(frozen=True)
class HeldPoint:
    """A point of the plan as logs have it.

    Attributes
    ----------
    rpm, throttle_pct, hold_s : float
        As planned. [1/min, %, s]
    held_s : float
        Longest hold, what settles left out. [s]
    torque_nm, lambda_read, map_kpa : float or None
        Means of this hold. [N·m, –, kPa]
    is_gap : bool
        Whether it was not held for long enough.
    """

    rpm: float
    throttle_pct: float
    hold_s: float
    held_s: float
    torque_nm: float | None
    lambda_read: float | None
    map_kpa: float | None
    is_gap: bool


def held_points(plan: Sequence[BrakePoint], traces: Sequence[Trace]) -> tuple[HeldPoint, ...]:
    """Return each point of a plan with its longest hold.

    Parameters
    ----------
    plan : sequence of BrakePoint
    traces : sequence of Trace
    """
    return tuple(_held(point, traces) for point in plan)


def _held(point: BrakePoint, traces: Sequence[Trace]) -> HeldPoint:
    longest, found, at = 0.0, None, np.empty(0, dtype=int)
    for trace in traces:
        throttle = trace.get("throttle_pct")
        if throttle is None:
            continue
        inside = np.abs(trace["rpm"] - point.rpm) <= _SPEED * point.rpm
        inside &= np.abs(throttle - point.throttle_pct) <= _THROTTLE_PCT
        for places in _runs(inside, trace.time_s):
            settled = places[trace.time_s[places] >= trace.time_s[places[0]] + _SETTLES_S]
            seconds = float(np.ptp(trace.time_s[settled])) if settled.size > 1 else 0.0
            if seconds > longest:
                longest, found, at = seconds, trace, settled

    def mean(name: str) -> float | None:
        return None if found is None else _mean(found.get(name), at)

    needed = max(1.0, point.hold_s - _SETTLES_S)
    return HeldPoint(
        point.rpm, point.throttle_pct, point.hold_s, round(longest, 1),
        mean("torque_nm"), mean("lambda"), mean("map_kpa"), longest < 0.95 * needed,
    )  # fmt: skip


def _runs(inside: np.ndarray, time_s: FloatArray) -> list[np.ndarray]:
    """Return the unbroken stretches of what is inside."""
    places = np.flatnonzero(inside)
    if not places.size:
        return []
    cuts = (np.diff(places) > 1) | (np.diff(time_s[places]) > _PAUSE_S)
    return np.split(places, np.flatnonzero(cuts) + 1)


def _mean(values: FloatArray | None, places: np.ndarray) -> float | None:
    if values is None or not np.isfinite(values[places]).any():
        return None
    mean = float(np.nanmean(values[places]))
    return round(mean, 3) if math.isfinite(mean) else None


def gaps_told(points: Sequence[HeldPoint]) -> str:
    """Return what is left of a plan, in words.

    Parameters
    ----------
    points : sequence of HeldPoint
    """
    gaps = [p for p in points if p.is_gap]
    if not points or not gaps:
        return "Every point was held." if points else "No point is planned."
    first = ", ".join(f"{p.rpm:.0f} rpm at {p.throttle_pct:.0f} %" for p in gaps[:4])
    more = f", and {len(gaps) - 4} more" if len(gaps) > 4 else ""
    return (
        f"{len(points) - len(gaps)} of {len(points)} points were held. Still open: {first}{more}."
    )

"""Trims per cylinder, where each cylinder's lambda is logged."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..logs import Trace
from ..provenance import Provenance
from ..sentences import fixed
from ..tables import DEFINITIONS, Axis, Table
from .layers import stack

MOST_CYLINDERS = 12
#: Good sensors read so far apart (common practice, no source); what is less than this apart is alike. [–, –]
_SENSORS, _ALIKE = 0.012, 0.02
#: Least of steady running that tells; seconds that go together. [s, s]
_LEAST_S, _TOGETHER_S = 20.0, 6.0
_BAND = 1.645
#: A cylinder that asks for more than this has a fault (common practice, no source). [%]
_MOST_PCT = 8.0
#: Table of the trims.
CYLINDER_TRIM = "cylinder_trim"


@dataclass(frozen=True)
class CylinderTold:
    """What one cylinder asks for beyond the mean of all, with its 90 % band, and whether it stands out. [%]"""

    cylinder: int
    percent: float
    low: float
    high: float
    stands_out: bool
    sentence: str


def cylinder_channel(number: int) -> str:
    """Return the channel of one cylinder's lambda. (`number` from 1)"""
    return f"lambda_cylinder_{number}"


def cylinders_of(traces: Sequence[Trace]) -> tuple[CylinderTold, ...]:
    """Return the trims of cylinders; none where fewer than two are logged, or hardly steady.

    Parameters
    ----------
    traces : sequence of Trace
    """
    logged = [
        number
        for number in range(1, MOST_CYLINDERS + 1)
        if traces and all(t.get(cylinder_channel(number)) is not None for t in traces)
    ]
    if len(logged) < 2:
        return ()
    rows, seconds = [], 0.0
    for trace in traces:
        counts, _ = stack(trace)
        reading = np.array([trace[cylinder_channel(number)] for number in logged])
        usable = counts & (np.abs(reading - 1.0) < 0.35).all(axis=0)
        ratio = np.log(reading[:, usable])
        rows.append(ratio - ratio.mean(axis=0))
        seconds += float(usable.mean()) * float(np.ptp(trace.time_s))
    if seconds < _LEAST_S:
        return ()
    apart = np.concatenate(rows, axis=1)
    middle = np.median(apart, axis=1)
    scatter = 1.4826 * np.median(np.abs(apart - middle[:, None]), axis=1)
    error = np.hypot(_SENSORS, scatter / np.sqrt(seconds / _TOGETHER_S))
    return tuple(
        _told(number, *one)
        for number, one in zip(logged, zip(middle, error, strict=True), strict=True)
    )


def _told(number: int, off: float, error: float) -> CylinderTold:
    low, percent, high = (100.0 * np.expm1(off + side * _BAND * error) for side in (-1.0, 0.0, 1.0))
    out = abs(off) > _ALIKE and abs(off) > _BAND * error
    words = "stands out" if out else "is as the others are, as far as sensors tell"
    if out and abs(percent) > _MOST_PCT:
        words += ", too far for a trim: look at its injector, its port and its plug first"
    return CylinderTold(
        number, float(percent), float(low), float(high), bool(out),
        f"Cylinder {number} asks for {fixed(float(percent), 1, signed=True)} % against the mean of all: it {words}.",
    )  # fmt: skip


def trims_of(
    told: Sequence[CylinderTold], chambers: int, before: Table | None, source: str
) -> Table | None:
    """Return the trims that cylinders ask for; None where none stands out by as much as a trim is for.

    A cylinder that is as the others keeps its own. One that is far off has a fault that no table mends: then nothing is
    trimmed, for the mean that all are held against is off with it.

    Parameters
    ----------
    told : sequence of CylinderTold
        Of one reading, beyond the trims in force.
    chambers : int
        Cylinders of the engine. [–]
    before : Table or None
        In force.
    source : str
        For the provenance.
    """
    known = [one for one in told if 1 <= one.cylinder <= chambers]
    asked = [one for one in known if one.stands_out]
    if chambers < 2 or not asked or any(abs(one.percent) > _MOST_PCT for one in asked):
        return None
    points = tuple(float(number) for number in range(1, chambers + 1))
    definition = DEFINITIONS[CYLINDER_TRIM]
    values = np.full(chambers, definition.neutral)
    marks = np.empty(chambers, dtype=object)
    marks[:] = Provenance("assumed", "No trim.", "")
    if before is not None:
        for place, number in enumerate(before.axes[0].points):
            if number in points:
                values[points.index(number)] = before.values[place]
                marks[points.index(number)] = before.mark((place,))
    for one in asked:
        values[one.cylinder - 1] *= 1.0 + one.percent / 100.0
        marks[one.cylinder - 1] = Provenance("measured", one.sentence, source)
    values = np.clip(np.round(values, 1), definition.lower, definition.upper)
    return Table(CYLINDER_TRIM, (Axis("cylinder", "", points),), values, marks)

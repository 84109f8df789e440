"""Holes in the torque, set beside mixture, spark, knock, boost and slip at the same speed, with the test that tells."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..quantities import FloatArray
from .pull import SLIPS, STEP_RPM, PullRecord

DipCause = Literal["lean", "rich", "knock", "spark", "boost", "slip", "resonance"]

#: A hole is so deep, and so wide. [–, 1/min]
_DEEP, _WIDE_RPM = 0.025, (200.0, 2200.0)
#: What counts at the hole against its shoulders. [ln, ln, °, °, –]
_LEAN, _RICH, _SPARK_DEG, _KNOCK_DEG, _BOOST = 0.045, 0.07, 3.0, 1.0, 0.03
#: Events of a bin at the hole beyond those at its shoulders. [–]
_KNOCK_EVENTS = 0.5
_TESTS: dict[DipCause, str] = {
    "lean": "Add the fuel that is missing there and pull again: the hole fills if it is lean.",
    "rich": "Take fuel out there in steps of 3 % and pull again, no leaner than the limit.",
    "knock": "Take two degrees out there, or pull on better fuel: the hole fills if it knocks.",
    "spark": "Lay the spark straight through the hole and pull again, listening for knock.",
    "boost": "Press the charge pipes up with air and soap water; compare its duty with a pull without the hole.",
    "slip": "Look at marks on tyre, belt or clutch; pull in a higher gear, where it holds.",
    "resonance": "It is a wave in the pipes: another length of intake or primary moves it; no table mends it.",
}
_WORDS: dict[DipCause, str] = {
    "lean": "too lean", "rich": "too rich", "knock": "knock takes spark out", "spark": "the spark table dips",
    "boost": "manifold pressure dips", "slip": "something slips", "resonance": "nothing that is logged: a resonance",
}  # fmt: skip


@dataclass(frozen=True)
class Dip:
    """A hole.

    Attributes
    ----------
    rpm, from_rpm, to_rpm : float
        Its deepest place, and its shoulders. [1/min]
    depth_pct : float
        Below the line between its shoulders. [%]
    cause : str
    sentence, test : str
    not_logged : tuple of str
        Channels that would tell and are missing.
    """

    rpm: float
    from_rpm: float
    to_rpm: float
    depth_pct: float
    cause: DipCause
    sentence: str
    test: str
    not_logged: tuple[str, ...]


def find_dips(pulls: Sequence[PullRecord]) -> list[Dip]:
    """Return the holes of the mean torque of some pulls.

    Parameters
    ----------
    pulls : sequence of PullRecord
        Of one kind.
    """
    if not pulls:
        return []
    rpm = np.arange(max(p.rpm[0] for p in pulls), min(p.rpm[-1] for p in pulls) + 1.0, STEP_RPM)
    if len(rpm) < 8:
        return []

    def mean(name: str) -> FloatArray:
        rows = np.array(
            [np.interp(rpm, p.speed, _channel(p, name), left=np.nan, right=np.nan) for p in pulls]
        )
        known = np.isfinite(rows)
        return np.asarray(
            np.where(known, rows, 0.0).sum(axis=0)
            / np.where(known.sum(axis=0) > 0, known.sum(axis=0), np.nan)
        )

    torque = mean("torque_nm")
    known = np.isfinite(torque)
    if known.sum() < 8:
        return []
    held = np.interp(rpm, rpm[known], torque[known])
    smooth = np.convolve(np.pad(held, 1, mode="edge"), np.ones(3) / 3.0, "valid")
    slips = any(SLIPS in p.doubts for p in pulls)
    dips, spans = [], _spans(rpm, smooth)
    for left, low, right in spans:
        line = np.interp(rpm[low], [rpm[left], rpm[right]], [smooth[left], smooth[right]])
        depth = 1.0 - smooth[low] / line
        cause, missing = _cause(left, low, right, mean, slips)
        dips.append(Dip(
            float(rpm[low]), float(rpm[left]), float(rpm[right]), round(100.0 * float(depth), 1), cause,
            f"Torque is {100 * depth:.0f} % low at {rpm[low]:.0f} rpm, between {rpm[left]:.0f} and {rpm[right]:.0f}: {_WORDS[cause]}.",
            _TESTS[cause], missing,
        ))  # fmt: skip
    return dips


def _channel(pull: PullRecord, name: str) -> FloatArray:
    """Return a channel of a pull; of the knock counter its events, or every later bin would knock."""
    return pull.knock_events if name == "knock_count" else pull.channel(name)


def _spans(rpm: FloatArray, torque: FloatArray) -> list[tuple[int, int, int]]:
    """Return (left shoulder, bottom, right shoulder) of the holes, the deepest first, none inside another."""
    upper = _hull(rpm, torque)
    taken = np.zeros(len(rpm), dtype=bool)
    found = []
    gap = 1.0 - torque / upper
    for low in np.argsort(-gap).tolist():
        if gap[low] < _DEEP or taken[low]:
            continue
        left = right = low
        while left > 0 and gap[left - 1] > 0.15 * gap[low]:
            left -= 1
        while right < len(rpm) - 1 and gap[right + 1] > 0.15 * gap[low]:
            right += 1
        left, right = max(0, left - 1), min(len(rpm) - 1, right + 1)
        taken[left : right + 1] = True
        width = rpm[right] - rpm[left]
        if _WIDE_RPM[0] <= width <= _WIDE_RPM[1] and low > 0 and low < len(rpm) - 1:
            found.append((left, low, right))
    return sorted(found)


def _hull(rpm: FloatArray, torque: FloatArray) -> FloatArray:
    """Return the upper hull of a curve: what is concave has no holes. (monotone chain)"""
    kept: list[int] = []
    for i in range(len(rpm)):
        while len(kept) > 1:
            a, b = kept[-2], kept[-1]
            if (torque[b] - torque[a]) * (rpm[i] - rpm[a]) <= (torque[i] - torque[a]) * (
                rpm[b] - rpm[a]
            ):
                kept.pop()
            else:
                break
        kept.append(i)
    return np.asarray(np.interp(rpm, rpm[kept], torque[kept]))


def _cause(
    left: int, low: int, right: int, mean: Callable[[str], FloatArray], slips: bool
) -> tuple[DipCause, tuple[str, ...]]:
    """Return what stands at a hole and not at its shoulders, the strongest against its own measure."""
    missing: list[str] = []

    def dent(name: str) -> float | None:
        values = mean(name)
        ends, bottom = values[[left, right]], values[max(0, low - 1) : low + 2]
        if not np.isfinite(ends).all() or not np.isfinite(bottom).any():
            missing.append(name)
            return None
        share = (low - left) / max(1, right - left)
        return float(np.nanmean(bottom) - (ends[0] + share * (ends[1] - ends[0])))

    scores: dict[DipCause, float] = {}
    target = mean("lambda_target")
    reading = mean("lambda")
    if np.isfinite(reading[low]):
        wanted = target[low] if np.isfinite(target[low]) else 0.5 * (reading[left] + reading[right])
        away = (
            float(np.log(np.nanmean(reading[max(0, low - 1) : low + 2]) / wanted))
            if np.isfinite(wanted)
            else 0.0
        )
        scores["lean"], scores["rich"] = away / _LEAN, -away / _RICH
    else:
        missing.append("lambda")
    retard = dent("knock_deg")
    count = dent("knock_count")
    if retard is not None:
        scores["knock"] = abs(retard) / _KNOCK_DEG
    if count is not None and count > _KNOCK_EVENTS:
        # Events say that it knocks, not what that costs: enough to count, no more.
        scores["knock"] = max(1.5, scores.get("knock", 0.0))
    spark = dent("spark_deg")
    if spark is not None:
        scores["spark"] = -spark / _SPARK_DEG
    pressure = dent("map_kpa")
    if pressure is not None:
        scores["boost"] = -pressure / (_BOOST * float(mean("map_kpa")[low]))
    # Spark that knock took out is knock's.
    if scores.get("knock", 0.0) >= 1.0:
        scores["spark"] = 0.0
    best = max(scores, key=lambda key: scores[key], default=None)
    if best is not None and scores[best] >= 1.0:
        return best, tuple(dict.fromkeys(missing))
    return ("slip" if slips else "resonance"), tuple(dict.fromkeys(missing))

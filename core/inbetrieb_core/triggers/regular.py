"""Faults that return at the same place in every turn: a gap or a tooth of the wheel, no spoilt signal."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from ..quantities import FloatArray
from .followed import Followed
from .wheel import Wheel

#: Fewer turns of the wheel prove no rule; so large a share of the turns has to show the same place, and
#: so large a share of all faults has to lie there. [–, –, –]
_LEAST_TURNS, _IN_TURNS, _OF_FAULTS = 4.0, 0.75, 0.7
#: Spare edges this near to each other are the same place, seen from the least step. [–]
_SAME_PLACE = 0.25


@dataclass(frozen=True)
class Regular:
    """Places of the wheel at which every turn shows the same fault.

    Attributes
    ----------
    lost_deg, extra_deg : tuple of float
        Teeth that are never there, and edges that always are, from the wheel's first edge. [°]
    wheel : Wheel
        The wheel without the one and with the other.
    """

    lost_deg: tuple[float, ...]
    extra_deg: tuple[float, ...]
    wheel: Wheel


def regular_faults(followed: Followed, times_s: FloatArray) -> Regular | None:
    """Return faults that return in every turn; None where most of them come and go.

    Parameters
    ----------
    followed : Followed
        On the wheel that is believed.
    times_s : ndarray
        Edges of the fast signal that were followed. [s]
    """
    wheel = followed.wheel
    turns = (followed.angle_deg[-1] - followed.angle_deg[0]) / wheel.turn_deg
    faults = followed.lost_at_s.size + followed.extra_at_s.size
    if turns < _LEAST_TURNS or not faults or not wheel.finds_itself:
        return None
    kept_s = times_s[followed.kept]
    least = _IN_TURNS * turns
    lost = _places(followed.lost_at_s, kept_s, followed.angle_deg, wheel, least)
    teeth = np.array(wheel.edges_deg)
    lost = {_nearest(teeth, angle): count for angle, count in lost.items()}
    extra = _places(followed.extra_at_s, kept_s, followed.angle_deg, wheel, least)
    if sum(lost.values()) + sum(extra.values()) < _OF_FAULTS * faults:
        return None
    kept = [a for a in wheel.edges_deg if a not in lost]
    edges = sorted({*kept, *(round(a, 1) for a in extra)})
    if not kept or not edges:
        return None
    first = edges[0]
    changed = replace(
        wheel,
        name=f"{wheel.name} changed",
        edges_deg=tuple(a - first for a in edges),
        cam_edges_deg=tuple(sorted((a - first) % 720.0 for a in wheel.cam_edges_deg)),
    )
    return Regular(tuple(sorted(lost)), tuple(sorted(extra)), changed)


def _places(
    at_s: FloatArray, kept_s: FloatArray, angle_deg: FloatArray, wheel: Wheel, least: float
) -> dict[float, int]:
    """Return the places at which at least so many turns show a fault, with how many do. [° → –]"""
    angles = np.sort(np.interp(at_s, kept_s, angle_deg) % wheel.turn_deg)
    groups: list[list[float]] = []
    near = _SAME_PLACE * min(wheel.steps_deg)
    for angle in angles.tolist():
        if groups and angle - groups[-1][-1] < near:
            groups[-1].append(angle)
        else:
            groups.append([angle])
    return {float(np.median(g)): len(g) for g in groups if len(g) >= least}


def _nearest(teeth: FloatArray, angle: float) -> float:
    return float(teeth[int(np.argmin(np.abs(teeth - angle)))])


def told_of(regular: Regular, name: str) -> str:
    """Return the sentence that says what a regular fault is.

    Parameters
    ----------
    regular : Regular
        Found.
    name : str
        Of the wheel that was believed.
    """
    parts = []
    if regular.lost_deg:
        parts.append(
            f"the tooth at {_listed(regular.lost_deg)} behind the first edge is missing in every turn: "
            "a gap of the wheel or a broken tooth, no weak signal"
        )
    if regular.extra_deg:
        parts.append(
            f"there is an edge at {_listed(regular.extra_deg)} in every turn that {name} does not have: a "
            "tooth of another wheel, a nick or a bolt head, no interference"
        )
    return f"This is no whole {name}: {', and '.join(parts)}. Enter the wheel as it is, or mend it."


def _listed(angles: tuple[float, ...]) -> str:
    return ", ".join(f"{angle:.0f}°" for angle in angles[:6])

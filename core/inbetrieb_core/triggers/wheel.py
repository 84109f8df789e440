"""Trigger wheels: where the edges of the crank and cam signals lie."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace

from ..errors import field_refused

CYCLE_DEG = 720.0
MOST_EDGES = 720


@dataclass(frozen=True)
class Wheel:
    """A pattern by the angles of its edges, all in crank degrees.

    Attributes
    ----------
    name : str
        Plain name, such as 36−1.
    edges_deg : tuple of float
        Edges of the fast signal in one turn of its shaft, the first at 0. [°]
    turn_deg : float
        That turn in crank degrees: 360 on the crankshaft, 720 on the cam. [°]
    cam_edges_deg : tuple of float
        Edges of the second signal in one cycle of 720°; empty without one. [°]

    Raises
    ------
    InputRefused
        If edges are missing, do not rise or lie outside the turn.
    """

    name: str
    edges_deg: tuple[float, ...]
    turn_deg: float = 360.0
    cam_edges_deg: tuple[float, ...] = ()

    def __post_init__(self) -> None:
        if self.turn_deg not in (360.0, CYCLE_DEG):
            raise field_refused("turn_deg", "A turn is 360° on the crankshaft or 720° on the cam.")
        _check_rising(self.edges_deg, self.turn_deg, "edges_deg", least=1)
        _check_rising(self.cam_edges_deg, CYCLE_DEG, "cam_edges_deg", least=0)

    @property
    def steps_deg(self) -> tuple[float, ...]:
        """Angle from each edge to the next, round the turn. [°]"""
        after = (*self.edges_deg[1:], self.edges_deg[0] + self.turn_deg)
        return tuple(b - a for a, b in zip(self.edges_deg, after, strict=True))

    @property
    def finds_itself(self) -> bool:
        """Whether the fast signal alone tells where the shaft is: it has a gap."""
        steps = self.steps_deg
        return max(steps) > 1.05 * min(steps)

    def between(self) -> Wheel:
        """Return the pattern of an inductive sensor with its wires swapped.

        Its zero crossings then lie half-way between the teeth, one in the middle of each gap.
        """
        middles = [a + 0.5 * s for a, s in zip(self.edges_deg, self.steps_deg, strict=True)]
        first = min(m % self.turn_deg for m in middles)
        return replace(
            self,
            name=f"{self.name}, polarity wrong",
            edges_deg=tuple(sorted((m - first) % self.turn_deg for m in middles)),
        )


def _check_rising(angles: Sequence[float], turn_deg: float, field: str, least: int) -> None:
    if not least <= len(angles) <= MOST_EDGES:
        raise field_refused(field, f"A wheel has {least} to {MOST_EDGES} edges, not {len(angles)}.")
    if not all(math.isfinite(a) and 0.0 <= a < turn_deg for a in angles):
        raise field_refused(field, f"Every edge must lie between 0 and {turn_deg:g}°.")
    for before, after in zip(angles, angles[1:], strict=False):
        if after <= before:
            raise field_refused(field, f"Edges must rise: {after:g}° follows {before:g}°.")


def toothed(
    name: str,
    slots: int,
    missing: Iterable[int] = (),
    *,
    on_cam: bool = False,
    cam_edges_deg: tuple[float, ...] = (),
) -> Wheel:
    """Return an even wheel with some teeth missing, its first tooth behind the last gap at 0°.

    Parameters
    ----------
    name : str
        Plain name.
    slots : int
        Teeth if none were missing.
    missing : iterable of int
        Places without a tooth, from 0.
    on_cam : bool
        Whether the wheel turns with the cam.
    cam_edges_deg : tuple of float
        Of the second signal. [°]

    Raises
    ------
    InputRefused
        If there are no teeth left.
    """
    gone = set(missing)
    if not 1 <= slots <= MOST_EDGES or not gone < set(range(slots)):
        raise field_refused(
            "slots", "A wheel needs at least one tooth, and gaps where teeth could be."
        )
    turn = CYCLE_DEG if on_cam else 360.0
    present = [slot for slot in range(slots) if slot not in gone]
    first = present[0]
    angles = tuple((slot - first) * turn / slots for slot in present)
    return Wheel(name, angles, turn, cam_edges_deg)


def _gap(slots: int, count: int) -> range:
    """Return the last places of a wheel."""
    return range(slots - count, slots)


#: The common patterns by their plain names. Cam edges stand where they often do; a capture
#: tells where they really are.
PATTERNS: dict[str, Wheel] = {
    wheel.name: wheel
    for wheel in (
        toothed("12−1", 12, _gap(12, 1)),
        toothed("24−1", 24, _gap(24, 1)),
        toothed("30−1", 30, _gap(30, 1)),
        toothed("36−1", 36, _gap(36, 1)),
        toothed("60−1", 60, _gap(60, 1)),
        toothed("24−2", 24, _gap(24, 2)),
        toothed("36−2", 36, _gap(36, 2)),
        toothed("60−2", 60, _gap(60, 2)),
        toothed("36−2−2−2", 36, (13, 14, 17, 18, 34, 35)),
        toothed("36−1−1", 36, (17, 35)),
        toothed("12−1 on the cam", 12, _gap(12, 1), on_cam=True),
        toothed("36−1 with cam", 36, _gap(36, 1), cam_edges_deg=(200.0,)),
        toothed("60−2 with cam", 60, _gap(60, 2), cam_edges_deg=(200.0,)),
        toothed("24+1", 24, on_cam=True, cam_edges_deg=(15.0,)),
        toothed("12+1", 12, on_cam=True, cam_edges_deg=(30.0,)),
        toothed("8+1", 8, on_cam=True, cam_edges_deg=(45.0,)),
        toothed("4+1", 4, on_cam=True, cam_edges_deg=(90.0,)),
        toothed("4 alone", 4, on_cam=True),
    )
}  # fmt: skip

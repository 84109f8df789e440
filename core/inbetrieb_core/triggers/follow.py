"""Following the edges of the fast signal on a wheel: each is the next tooth, a later one, or none."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ..errors import LogRefused
from ..quantities import FloatArray
from .wheel import Wheel

#: The most edges that are followed.
MOST_EDGES = 40_000
#: Turns of the wheel that are looked at to find the place on it.
_PROBE_TURNS = 1.3
#: Logarithm of the speed ratio between neighbouring steps that cranking still explains.
_RIPPLE = 0.34
_MOST_LOST = 4
#: Ways of reading the edges that are kept side by side; more where faults were met, tried on
#: the first edges alone.
_BEAM = 8
_CAREFUL_BEAM, _CAREFUL_EDGES = 64, 2500
_COST_LOST, _COST_EXTRA = 1.0, 1.0
#: Faults per tooth below which a pattern counts as agreeing.
AGREES = 0.006


@dataclass(frozen=True, eq=False)
class Capture:
    """Times at which the signals crossed their threshold in the wanted direction.

    Attributes
    ----------
    crank_s : ndarray
        Edges of the fast signal, rising times. [s]
    cam_s : ndarray
        Edges of the second signal; empty without one. [s]

    Raises
    ------
    LogRefused
        If there are too few edges, or times do not rise.
    """

    crank_s: FloatArray
    cam_s: FloatArray

    def __post_init__(self) -> None:
        for name, least in (("crank_s", 12), ("cam_s", 0)):
            times = np.asarray(getattr(self, name), dtype=float)
            if times.ndim != 1 or times.size < least:
                raise LogRefused(f"At least {least} edges of the crank signal are needed.")
            if not np.isfinite(times).all() or (np.diff(times) <= 0).any():
                raise LogRefused("The times of the edges do not rise from edge to edge.")
            object.__setattr__(self, name, times)


@dataclass(frozen=True, eq=False)
class Followed:
    """A capture followed on one wheel.

    Attributes
    ----------
    wheel : Wheel
    kept : ndarray of int
        Numbers of the crank edges that are teeth.
    angle_deg : ndarray
        Crank angle of each kept edge, counted on from the wheel's first edge. [°]
    lost_at_s, extra_at_s : ndarray
        When a tooth was missed, and edges that are none. [s]
    cost : float
        Faults per tooth. [–]
    """

    wheel: Wheel
    kept: np.ndarray
    angle_deg: FloatArray
    lost_at_s: FloatArray
    extra_at_s: FloatArray
    cost: float


def follow(times_s: FloatArray, wheel: Wheel, beam_width: int = _BEAM) -> Followed:
    """Follow the edges of the fast signal on a wheel.

    Parameters
    ----------
    times_s : ndarray
        Edge times, rising. [s]
    wheel : Wheel
        The pattern believed.
    beam_width : int
        Ways of reading that are kept side by side. [–]

    Notes
    -----
    A beam search. Every edge is the next tooth, a later one (teeth were lost) or none at all
    (an extra edge); each costs as much as it is unlikely: a lost or extra edge 1, a change of
    speed from tooth to tooth by a factor f (ln f/0.34)²/4. All places on the wheel begin, the
    cheapest few go on.
    """
    times = times_s[:MOST_EDGES].tolist()
    steps = wheel.steps_deg
    size = len(steps)
    beam = [
        _Way(0.0, place, _first_speed(times, steps, place), times[0], 0, None, 0, False)
        for place in (range(size) if wheel.finds_itself else range(1))
    ]
    wide_until = int(_PROBE_TURNS * size) + 8
    for number in range(1, len(times)):
        best: dict[tuple[int, float], _Way] = {}
        for way in beam:
            for after in _branches(way, times[number], number, steps):
                key = (after.place, after.last_s)
                other = best.get(key)
                if other is None or after.cost < other.cost:
                    best[key] = after
        width = max(size, beam_width) if number < wide_until else beam_width
        beam = sorted(best.values(), key=lambda w: w.cost)[:width]
    return _traced(beam[0], times, wheel)


def follow_carefully(times_s: FloatArray, wheel: Wheel) -> Followed:
    """Follow edges on a wheel, once more with more ways side by side where faults were met.

    Parameters
    ----------
    times_s : ndarray
        Edge times, rising. [s]
    wheel : Wheel
        The pattern believed.

    Notes
    -----
    A tooth missed near the gap can lead the narrow search onto the wrong place for good. The
    wide one costs three times as much, so it is tried on the first edges alone before it is
    let loose on all of them.
    """
    quick = follow(times_s, wheel)
    if quick.cost <= AGREES:
        return quick
    head = times_s[:_CAREFUL_EDGES]
    start = quick if head.size == times_s[:MOST_EDGES].size else follow(head, wheel)
    careful = follow(head, wheel, _CAREFUL_BEAM)
    if careful.cost >= 0.9 * start.cost:
        return quick
    if start is not quick:
        careful = follow(times_s, wheel, _CAREFUL_BEAM)
    return min(quick, careful, key=lambda f: f.cost)


@dataclass(slots=True)
class _Way:
    """One way to read the edges so far: a chain, each link one edge."""

    cost: float
    place: int
    speed: float
    last_s: float
    number: int
    before: _Way | None
    teeth: int
    extra: bool


def _first_speed(times: list[float], steps: tuple[float, ...], place: int) -> float:
    """Return a starting speed that fits the first few edges best. [°/s]"""
    count = min(6, len(times) - 1)
    speeds = [steps[(place + i) % len(steps)] / (times[i + 1] - times[i]) for i in range(count)]
    return float(np.median(speeds))


def _branches(way: _Way, at_s: float, number: int, steps: tuple[float, ...]) -> list[_Way]:
    """Return what an edge may be after a way: the next teeth, or none."""
    dt = at_s - way.last_s
    ways = [_Way(way.cost + _COST_EXTRA, way.place, way.speed, way.last_s, number, way, 0, True)]
    reach, size = 0.0, len(steps)
    expected = dt * way.speed
    for ahead in range(_MOST_LOST):
        reach += steps[(way.place + ahead) % size]
        if reach < 0.5 * expected:
            continue
        if reach > 2.0 * expected:
            break
        off = math.log(reach / expected)
        now = reach / dt
        ways.append(
            _Way(
                way.cost + ahead * _COST_LOST + min(4.0, 0.25 * (off / _RIPPLE) ** 2),
                (way.place + ahead + 1) % size,
                way.speed * (now / way.speed) ** (0.7 if abs(off) < _RIPPLE else 0.35),
                at_s,
                number,
                way,
                ahead + 1,
                False,
            )
        )
    return ways


def _traced(way: _Way, times: list[float], wheel: Wheel) -> Followed:
    """Return the whole of the cheapest way."""
    chain: list[_Way] = []
    link: _Way | None = way
    while link is not None:
        chain.append(link)
        link = link.before
    chain.reverse()
    steps, size = wheel.steps_deg, len(wheel.steps_deg)
    place, angle, last = chain[0].place, wheel.edges_deg[chain[0].place], times[0]
    kept, angles = [0], [angle]
    lost: list[float] = []
    extra: list[float] = []
    for link in chain[1:]:
        at_s = times[link.number]
        if link.extra:
            extra.append(at_s)
            continue
        lost += [last + (at_s - last) * (i + 1) / link.teeth for i in range(link.teeth - 1)]
        angle += sum(steps[(place + i) % size] for i in range(link.teeth))
        place, last = link.place, at_s
        kept.append(link.number)
        angles.append(angle)
    return Followed(
        wheel,
        np.array(kept),
        np.array(angles),
        np.array(lost),
        np.array(extra),
        way.cost / len(kept),
    )

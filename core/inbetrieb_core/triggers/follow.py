"""Following the edges of the fast signal on a wheel: each is the next tooth, a later one, or none."""

from __future__ import annotations

import math
from dataclasses import dataclass
from operator import attrgetter

import numpy as np

from ..quantities import FloatArray
from .followed import Followed
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
        _Way(0.0, place, _first_speed(times, steps, place), times[0], 0, None, 0)
        for place in (range(size) if wheel.finds_itself else range(1))
    ]
    wide_until = int(_PROBE_TURNS * size) + 8
    for number in range(1, len(times)):
        at_s = times[number]
        # Two ways that meet at a tooth go on as one; those for which the edge is none never meet.
        teeth: dict[int, _Branch] = {}
        for way in beam:
            _reach_teeth(way, at_s, steps, teeth)
        branches = [_Branch(way.cost + _COST_EXTRA, way.place, 0, 0.0, way) for way in beam]
        branches += teeth.values()
        width = max(size, beam_width) if number < wide_until else beam_width
        branches.sort(key=_cost)
        beam = [_after(branch, at_s, number) for branch in branches[:width]]
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
    """One way to read the edges so far: a chain, each link one edge; one of no teeth is none."""

    cost: float
    place: int
    speed: float
    last_s: float
    number: int
    before: _Way | None
    teeth: int


class _Branch:
    """What an edge may be after a way: so many teeth on, over an angle, or none. Few branches go on as ways."""

    __slots__ = ("cost", "place", "teeth", "reach_deg", "way")

    def __init__(self, cost: float, place: int, teeth: int, reach_deg: float, way: _Way) -> None:
        self.cost, self.place, self.teeth = cost, place, teeth
        self.reach_deg, self.way = reach_deg, way


_cost = attrgetter("cost")


def _first_speed(times: list[float], steps: tuple[float, ...], place: int) -> float:
    """Return a starting speed that fits the first few edges best. [°/s]"""
    count = min(6, len(times) - 1)
    speeds = [steps[(place + i) % len(steps)] / (times[i + 1] - times[i]) for i in range(count)]
    return float(np.median(speeds))


def _reach_teeth(
    way: _Way, at_s: float, steps: tuple[float, ...], best: dict[int, _Branch]
) -> None:
    """Add what teeth an edge may be after a way, where no other way reaches the place at less cost."""
    reach, size = 0.0, len(steps)
    expected = (at_s - way.last_s) * way.speed
    for ahead in range(_MOST_LOST):
        reach += steps[(way.place + ahead) % size]
        if reach < 0.5 * expected:
            continue
        if reach > 2.0 * expected:
            break
        off = math.log(reach / expected) / _RIPPLE
        cost = way.cost + ahead * _COST_LOST + min(4.0, 0.25 * off * off)
        place = (way.place + ahead + 1) % size
        other = best.get(place)
        if other is None or cost < other.cost:
            best[place] = _Branch(cost, place, ahead + 1, reach, way)


def _after(branch: _Branch, at_s: float, number: int) -> _Way:
    """Return the way that a branch makes of the one it leaves."""
    way = branch.way
    if not branch.teeth:
        return _Way(branch.cost, way.place, way.speed, way.last_s, number, way, 0)
    faster = branch.reach_deg / ((at_s - way.last_s) * way.speed)
    # What ripple does not explain is believed less.
    speed = way.speed * faster ** (0.7 if abs(math.log(faster)) < _RIPPLE else 0.35)
    return _Way(branch.cost, branch.place, speed, at_s, number, way, branch.teeth)


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
        if not link.teeth:
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

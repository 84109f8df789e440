"""From edge times to crank position: which edge is which, what is missing, what is too many."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from ..errors import LogRefused
from ..quantities import FloatArray
from .measured import measured_wheel
from .wheel import CYCLE_DEG, PATTERNS, Wheel

Verdict = Literal["agrees", "other", "polarity", "noise", "weak", "cam", "unknown"]

#: Turns of the wheel that are looked at to find the place on it, edges that are enough to tell
#: a pattern, and the most that are followed.
_PROBE_TURNS = 1.3
_TELLING_EDGES = 400
MOST_EDGES = 40_000
#: Logarithm of the speed ratio between neighbouring steps that cranking still explains.
_RIPPLE = 0.34
_MOST_LOST = 4
#: Ways of reading the edges that are kept side by side.
_BEAM = 8
_CAREFUL_BEAM, _CAREFUL_EDGES = 64, 2500
_COST_LOST, _COST_EXTRA, _UNSEEN = 1.0, 1.0, 0.02
#: Faults per tooth below which a pattern counts as agreeing.
_AGREES = 0.006
#: Faults per tooth above which another pattern explains nothing either.
_EXPLAINS = 0.02
#: A cam edge that moves more than this from cycle to cycle is not where it should be (assumed). [°]
_CAM_WANDERS_DEG = 5.0


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
    if quick.cost <= _AGREES:
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


@dataclass(frozen=True, eq=False)
class CamPlace:
    """Where the second signal's edges lie.

    Attributes
    ----------
    angles_deg : tuple of float
        Mean crank angle of each edge in the cycle, from the wheel's first edge. [°]
    jitter_deg : float
        Standard deviation about them. [°]
    edges_per_cycle : float
        Found. [–]
    """

    angles_deg: tuple[float, ...]
    jitter_deg: float
    edges_per_cycle: float


def place_cam(capture: Capture, followed: Followed) -> CamPlace | None:
    """Return where the cam edges lie in the cycle; None without a second signal."""
    times = capture.crank_s[followed.kept]
    inside = (capture.cam_s > times[0]) & (capture.cam_s < times[-1])
    if inside.sum() < 2:
        return None
    angles = np.interp(capture.cam_s[inside], times, followed.angle_deg)
    cycles = (followed.angle_deg[-1] - followed.angle_deg[0]) / CYCLE_DEG
    groups: list[list[float]] = []
    for angle in np.sort(angles % CYCLE_DEG):
        if groups and angle - groups[-1][-1] < 12.0:
            groups[-1].append(float(angle))
        else:
            groups.append([float(angle)])
    if len(groups) > 1 and groups[0][0] + CYCLE_DEG - groups[-1][-1] < 12.0:
        groups[0] = [a - CYCLE_DEG for a in groups.pop()] + groups[0]
    means = [float(np.mean(group)) for group in groups]
    spread = [a - m for group, m in zip(groups, means, strict=True) for a in group]
    return CamPlace(
        tuple(sorted(m % CYCLE_DEG for m in means)),
        float(np.std(spread)),
        float(inside.sum() / max(cycles, 0.5)),
    )


@dataclass(frozen=True, eq=False)
class Decoded:
    """What a capture says of the wheel.

    Attributes
    ----------
    followed : Followed
        On the pattern that fits best.
    cam : CamPlace or None
    verdict : {"agrees", "other", "polarity", "noise", "weak", "cam", "unknown"}
        Against the wheel that was believed.
    sentence : str
    speed_rpm : float
        Mean over the capture. [1/min]
    lost_share, extra_share : float
        Of all teeth. [–]
    """

    followed: Followed
    cam: CamPlace | None
    verdict: Verdict
    sentence: str
    speed_rpm: float
    lost_share: float
    extra_share: float


def recognise(capture: Capture, also: Sequence[Wheel] = ()) -> Followed:
    """Return the pattern that a capture fits best.

    Tried are the common patterns, those given, the swapped polarity of each, and the wheel that
    the edges tell by themselves.

    Parameters
    ----------
    capture : Capture
        Edges while cranking or running.
    also : sequence of Wheel
        Tried beside the common patterns.
    """
    has_cam = capture.cam_s.size >= 2
    known = [*PATTERNS.values(), *(w for w in also if w not in PATTERNS.values())]
    candidates = [w for w in known if has_cam or not w.cam_edges_deg]
    candidates += [w.between() for w in candidates if w.finds_itself]
    probe = capture.crank_s[:_TELLING_EDGES]
    own = measured_wheel(capture.crank_s[:MOST_EDGES])
    if own is not None and all(own.edges_deg != w.edges_deg for w in candidates):
        candidates.append(_with_found_cam(capture, own))
    tried = [_scored(capture, follow(probe, wheel)) for wheel in candidates]
    return min(tried, key=lambda pair: pair[0])[1]


def _with_found_cam(capture: Capture, wheel: Wheel) -> Wheel:
    """Return a wheel with the cam edges where the capture has them."""
    place = place_cam(capture, follow(capture.crank_s[:_TELLING_EDGES], wheel))
    if place is None or place.edges_per_cycle > 40.0:
        return wheel
    angles = tuple(sorted({round(a, 1) % CYCLE_DEG for a in place.angles_deg}))
    return replace(wheel, name=f"{wheel.name} with cam", cam_edges_deg=angles)


def _scored(capture: Capture, followed: Followed) -> tuple[float, Followed]:
    """Return faults per tooth, those of the second signal too, with what was followed."""
    cost = followed.cost
    if followed.wheel.finds_itself and followed.kept.size < 2 * len(followed.wheel.edges_deg):
        cost += _UNSEEN  # a gap that cannot have been seen twice is no evidence of a gap
    wanted = len(followed.wheel.cam_edges_deg)
    place = place_cam(capture, followed) if capture.cam_s.size >= 2 else None
    if place is not None:
        teeth = CYCLE_DEG / followed.wheel.turn_deg * len(followed.wheel.edges_deg)
        cost += abs(place.edges_per_cycle - wanted) / teeth
        cost += min(1.0, place.jitter_deg / 20.0) / teeth
    return cost, followed


def decode(capture: Capture, believed: Wheel) -> Decoded:
    """Return what a capture says of the wheel that is believed to be fitted.

    Parameters
    ----------
    capture : Capture
        Edges while cranking or running.
    believed : Wheel
        As entered.
    """
    followed = follow_carefully(capture.crank_s, believed)
    verdict: Verdict = "agrees"
    best = followed
    cost = _scored(capture, followed)[0]
    if cost > _AGREES:
        other = recognise(capture, [believed])
        other_cost = _scored(capture, other)[0]
        if other_cost < min(0.6 * cost, _EXPLAINS):
            best = follow_carefully(capture.crank_s, other.wheel)
            verdict = "polarity" if other.wheel == believed.between() else "other"
        else:
            verdict = _nature(capture, followed)
    return _decoded(capture, best, verdict, believed)


def _nature(capture: Capture, followed: Followed) -> Literal["agrees", "noise", "weak", "unknown"]:
    """Say what spoils a pattern that is right: edges too many, or teeth too few."""
    teeth = max(1, followed.kept.size)
    lost, extra = followed.lost_at_s.size / teeth, followed.extra_at_s.size / teeth
    # Missed and spare edges together: it is another wheel, and none that is known.
    if max(lost, extra) > 0.25 or min(lost, extra) > max(0.012, 0.5 * max(lost, extra)):
        return "unknown"
    if max(lost, extra) < 0.004:
        return "agrees"
    return "noise" if extra >= lost else "weak"


def _cam_problem(believed: Wheel, cam: CamPlace | None) -> str:
    """Return what is wrong with the second signal of a wheel that is right; empty if nothing is."""
    wanted = len(believed.cam_edges_deg)
    if not wanted:
        return ""
    if cam is None:
        return (
            "the cam signal is missing: look at its channel, supply, pull-up and air gap. Without it "
            "the controller cannot tell the two turns of a cycle apart."
        )
    if abs(cam.edges_per_cycle - wanted) > 0.25 * wanted:
        return (
            f"the cam gives {cam.edges_per_cycle:.1f} edges in a cycle instead of {wanted}: another cam "
            "wheel, the wrong edge, or interference."
        )
    if cam.jitter_deg > _CAM_WANDERS_DEG:
        return f"the cam edge wanders by {cam.jitter_deg:.0f}°: a slack chain or belt, or interference."
    return ""


def _decoded(
    capture: Capture,
    followed: Followed,
    verdict: Verdict,
    believed: Wheel,
) -> Decoded:
    times = capture.crank_s[followed.kept]
    turned = float(followed.angle_deg[-1] - followed.angle_deg[0])
    speed = turned / 6.0 / max(float(times[-1] - times[0]), 1e-9)
    teeth = max(1, followed.kept.size)
    lost, extra = followed.lost_at_s.size / teeth, followed.extra_at_s.size / teeth
    name = followed.wheel.name
    sentences: dict[Verdict, str] = {
        "agrees": f"The signal is that of {believed.name}, at {speed:.0f} rpm.",
        "other": f"This is no {believed.name}: the edges are those of {name}.",
        "polarity": (
            f"{believed.name}, but with the sensor's wires swapped or on the wrong edge: the gap is "
            "split in two. Swap the wires of an inductive sensor, or choose the other edge."
        ),
        "noise": (
            f"{believed.name}, but {100 * extra:.1f} % of the edges are none: interference. Look at "
            "shield, ground and filter before anything else."
        ),
        "weak": (
            f"{believed.name}, but {100 * lost:.1f} % of its teeth are missed: a weak signal. Look at "
            "the air gap, the sensor and its threshold."
        ),
        "unknown": "No known pattern explains these edges. Look at wiring, threshold and channel.",
    }
    cam = place_cam(capture, followed)
    problem = _cam_problem(believed, cam) if verdict == "agrees" else ""
    if problem:
        verdict = "cam"
    sentences["cam"] = f"The crank signal is that of {believed.name}, but {problem}"
    return Decoded(followed, cam, verdict, sentences[verdict], speed, lost, extra)

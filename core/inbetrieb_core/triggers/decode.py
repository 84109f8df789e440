"""What the edges of a capture say: which wheel, which fault, and where the cam edge lies."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from ..sentences import number
from .follow import AGREES, MOST_EDGES, follow, follow_carefully
from .followed import Capture, Followed
from .measured import measured_wheel
from .regular import regular_faults, told_of
from .wheel import CYCLE_DEG, PATTERNS, Wheel

Verdict = Literal["agrees", "other", "polarity", "noise", "weak", "cam", "unknown"]
Level = Literal["good", "attention", "stop"]
#: How grave each verdict is: a spoilt signal is looked at, a wrong one stops.
LEVELS: dict[Verdict, Level] = {
    "agrees": "good", "noise": "attention", "weak": "attention",
    "other": "stop", "polarity": "stop", "cam": "stop", "unknown": "stop",
}  # fmt: skip

#: Edges that are enough to tell a pattern.
_TELLING_EDGES = 400
#: Held against a gap that cannot have been seen twice. [faults per tooth]
_UNSEEN = 0.02
#: Another pattern explains the edges if it costs this share of what the believed one does, and little
#: in all; or hardly misses an edge, whatever a rough cranking speed costs. [–, per tooth ×3]
_CHEAPER, _EXPLAINS, _FAULTLESS, _ROUGH = 0.6, 0.02, 0.01, 0.08
#: So few faults in so few turns of the crankshaft tell nothing. [–, –]
_FEW_FAULTS, _FEW_TURNS = 2, 4.0
#: Speeds of no engine: then the unit of the time is wrong. [1/min]
_NO_ENGINE_RPM = (12.0, 25_000.0)
#: No starter turns an engine slower than this; what each halving below it costs. [1/min, per tooth]
_SLOWEST_RPM, _TOO_SLOW = 55.0, 0.02
#: A cam edge this far from where it was entered lies elsewhere (assumed: half a chain tooth). [°]
_CAM_ELSEWHERE_DEG = 10.0
#: A cam edge that moves more than this from cycle to cycle is not where it should be (assumed). [°]
_CAM_WANDERS_DEG = 5.0


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
    if _is_short(followed):
        cost += _UNSEEN
    cost += _TOO_SLOW * max(0.0, math.log2(_SLOWEST_RPM / max(_speed_rpm(capture, followed), 1.0)))
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
    if cost > AGREES:
        other = recognise(capture, [believed])
        other_cost = _scored(capture, other)[0]
        if other_cost < _CHEAPER * cost and _explains(other, other_cost):
            best = follow_carefully(capture.crank_s, other.wheel)
            verdict = "polarity" if other.wheel == believed.between() else "other"
        elif other_cost < _CHEAPER * cost or (_is_short(other) and not _is_short(followed)):
            verdict = "unknown"  # another is likelier, and none is proven
        else:
            verdict = _nature(capture, followed)
    if verdict in ("weak", "noise", "unknown"):
        regular = regular_faults(followed, capture.crank_s)
        if regular is not None:
            again = follow_carefully(capture.crank_s, regular.wheel)
            if again.cost < _CHEAPER * followed.cost:
                found = _decoded(capture, again, "other", believed)
                return replace(found, sentence=told_of(regular, believed.name))
    return _decoded(capture, best, verdict, believed)


def _explains(followed: Followed, cost: float) -> bool:
    """Say whether a pattern explains the edges, or is only the least wrong of many."""
    faults = (followed.lost_at_s.size + followed.extra_at_s.size) / max(1, followed.kept.size)
    return cost < _EXPLAINS or (faults < _FAULTLESS and cost < _ROUGH)


def _speed_rpm(capture: Capture, followed: Followed) -> float:
    """Return the mean speed over what was followed. [1/min]"""
    times = capture.crank_s[followed.kept]
    turned = float(followed.angle_deg[-1] - followed.angle_deg[0])
    return turned / 6.0 / max(float(times[-1] - times[0]), 1e-9)


def _is_short(followed: Followed) -> bool:
    """Say whether the gap of a wheel cannot have been seen twice: nothing is proven by it."""
    wheel = followed.wheel
    return wheel.finds_itself and followed.kept.size < 2 * len(wheel.edges_deg)


def _tells_little(followed: Followed) -> bool:
    """Say whether a single fault in a few turns is all there is: it may be anything."""
    turned = float(followed.angle_deg[-1] - followed.angle_deg[0])
    faults = followed.lost_at_s.size + followed.extra_at_s.size
    return 0 < faults <= _FEW_FAULTS and turned < _FEW_TURNS * 360.0


def _nature(capture: Capture, followed: Followed) -> Literal["agrees", "noise", "weak", "unknown"]:
    """Say what spoils a pattern that is right: edges too many, or teeth too few."""
    if _is_short(followed) or _tells_little(followed):
        return "unknown"
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
    off = _cam_off_deg(believed, cam)
    if believed not in PATTERNS.values() and abs(off) > _CAM_ELSEWHERE_DEG:
        return (
            f"the cam edge lies at {_angles(cam.angles_deg)}, {abs(off):.0f}° from where it is entered "
            f"({_angles(believed.cam_edges_deg)}): enter where it is, or look at the cam wheel and at the "
            "teeth of chain or belt."
        )
    return ""


def _cam_off_deg(believed: Wheel, cam: CamPlace) -> float:
    """Return how far the cam edges lie from where they are entered, at the most; 0 where unknown. [°]

    A wheel on the crankshaft does not know its two turns apart: half a cycle is no difference.
    """
    wanted = believed.cam_edges_deg
    if not believed.finds_itself or len(cam.angles_deg) != len(wanted):
        return 0.0
    whole = believed.turn_deg
    off = [
        min(((a - w + 0.5 * whole) % whole - 0.5 * whole for w in wanted), key=abs)
        for a in cam.angles_deg
    ]
    return max(off, key=abs)


def _angles(angles_deg: Sequence[float]) -> str:
    return ", ".join(f"{angle:.0f}°" for angle in angles_deg)


def _shaft_doubt(wheel: Wheel, speed_rpm: float, *, seen_cam: bool) -> str:
    """Return what the speed has to tell of a pattern that is also one of the other shaft; else empty."""
    for twin in () if seen_cam else PATTERNS.values():
        if twin.turn_deg == wheel.turn_deg or twin.cam_edges_deg or not wheel.finds_itself:
            continue
        scale = twin.turn_deg / wheel.turn_deg
        if len(twin.edges_deg) == len(wheel.edges_deg) and np.allclose(
            np.array(wheel.edges_deg) * scale, twin.edges_deg, atol=0.1
        ):
            return (
                f" Turning at {speed_rpm:.0f} rpm; at {speed_rpm * scale:.0f} rpm it is {twin.name}: the "
                "edges alone cannot tell, the speed of the starter does."
            )
    return ""


def _decoded(
    capture: Capture,
    followed: Followed,
    verdict: Verdict,
    believed: Wheel,
) -> Decoded:
    speed = _speed_rpm(capture, followed)
    teeth = max(1, followed.kept.size)
    lost, extra = followed.lost_at_s.size / teeth, followed.extra_at_s.size / teeth
    name = followed.wheel.name
    sentences: dict[Verdict, str] = {
        "agrees": f"The signal is that of {believed.name}, at {speed:.0f} rpm.",
        "other": f"This is no {believed.name}: the edges are those of {name}."
        + _shaft_doubt(followed.wheel, speed, seen_cam=capture.cam_s.size > 1),
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
    if verdict == "unknown" and _tells_little(followed):
        sentences["unknown"] = (
            f"Nearly {believed.name}, but so short a capture does not tell whether signal or wheel is wrong: "
            "crank longer."
        )
    if verdict == "unknown" and _is_short(followed):
        sentences["unknown"] = (
            f"Less than two turns of {believed.name} are in this capture, which proves nothing: "
            "crank longer, so that its gap is seen twice."
        )
    if not _NO_ENGINE_RPM[0] <= speed <= _NO_ENGINE_RPM[1]:
        verdict = "unknown"
        sentences["unknown"] = (
            f"At these times the shaft would turn at {number(speed)} rpm, which no engine does: the time is "
            "in another unit. Choose the unit, or the length of a tick, and read the file again."
        )
    cam = place_cam(capture, followed)
    problem = _cam_problem(believed, cam) if verdict == "agrees" else ""
    if verdict == "agrees" and cam is not None and believed in PATTERNS.values():
        off = _cam_off_deg(believed, cam)
        if abs(off) > _CAM_ELSEWHERE_DEG:
            sentences["agrees"] += (
                f" Its cam edge lies at {_angles(cam.angles_deg)}; {_angles(believed.cam_edges_deg)} is "
                "only where it often does."
            )
    if problem:
        verdict = "cam"
    sentences["cam"] = f"The crank signal is that of {believed.name}, but {problem}"
    return Decoded(followed, cam, verdict, sentences[verdict], speed, lost, extra)

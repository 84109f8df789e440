"""Relative compression of the cylinders, from how much the starter slows at each of them."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..quantities import FloatArray
from .decode import CamPlace
from .followed import Capture, Followed
from .strokes import fit_strokes
from .wheel import CYCLE_DEG, Wheel

#: Fewer edges than this between two compressions cannot show the dip. [–]
_LEAST_EDGES = 5
_LEAST_CYCLES = 3
_CRANKING_RPM = 450.0
#: A cylinder this far below the best is worth a look, or a stop (common practice, no source). [%]
_LOW_PCT, _BAD_PCT = 88.0, 75.0
_SURE = 3.0
#: A fit that explains less of the unevenness is none, and errors above this part no cylinders. [–, –]
_LEAST_EXPLAINED, _WORST_ERROR = 0.5, 0.12
#: What no capture shows: engines differ in rod, valves and starter from the form that is fitted; more
#: where more strokes overlap, by the root of their number against four. [–]
_FORM = 0.03
#: The slowest place lies near top dead centre; farther away the entered offset is doubtful. [°]
_NEAR_TDC_DEG = 25.0


@dataclass(frozen=True)
class CylinderCompression:
    """One compression in the order of rotation.

    Attributes
    ----------
    place : int
        From 1, in the order in which they come.
    cylinder : int or None
        None where the cam does not tell which is which.
    relative_pct, error_pct : float
        Against the best, and its standard error. [%]
    """

    place: int
    cylinder: int | None
    relative_pct: float
    error_pct: float


@dataclass(frozen=True)
class Compression:
    """Relative compression of an engine.

    Attributes
    ----------
    cylinders : tuple of CylinderCompression
        Empty where the capture cannot tell.
    cycles : int
        Seen. [–]
    level : {"good", "attention", "stop", "unknown"}
    sentences : tuple of str
    """

    cylinders: tuple[CylinderCompression, ...]
    cycles: int
    level: Literal["good", "attention", "stop", "unknown"]
    sentences: tuple[str, ...]


def phase_shift_deg(wheel: Wheel, cam: CamPlace | None) -> float | None:
    """Return what to add to a followed angle so that it counts from the wheel's own zero.

    Without a cam signal a wheel on the crankshaft cannot tell its two turns apart. [°]

    Parameters
    ----------
    wheel : Wheel
        That was followed.
    cam : CamPlace or None
        Where the cam edges were found.
    """
    if wheel.finds_itself and wheel.turn_deg == CYCLE_DEG:
        return 0.0
    if cam is None or not wheel.cam_edges_deg:
        return None
    if wheel.finds_itself:
        shifts: Sequence[float] = (0.0, 360.0)
    else:
        step = wheel.turn_deg / len(wheel.edges_deg)
        shifts = [i * step for i in range(round(CYCLE_DEG / step))]
    found = np.array(cam.angles_deg)

    def away(shift: float) -> float:
        off = (found[:, None] + shift - np.array(wheel.cam_edges_deg)[None, :]) % CYCLE_DEG
        return float(np.minimum(off, CYCLE_DEG - off).min(axis=1).mean())

    return min(shifts, key=away)


def relative_compression(
    capture: Capture,
    followed: Followed,
    chambers: int,
    *,
    cam: CamPlace | None = None,
    offset_deg: float | None = None,
    firing_order: Sequence[int] = (),
) -> Compression:
    """Return the relative compression of each cylinder.

    Parameters
    ----------
    capture : Capture
        While the starter turns the engine and nothing fires.
    followed : Followed
        The same, followed on its wheel.
    chambers : int
        Compressions in 720° of the crankshaft. [–]
    cam : CamPlace or None
        Where the cam edges were found.
    offset_deg : float or None
        From the wheel's first edge to top dead centre of cylinder 1's compression. [°]
    firing_order : sequence of int
        Cylinders as they fire; empty where it is not known.

    Notes
    -----
    The starter's pull is nearly even, so the work of a compression is taken from the flywheel:
    the square of the speed falls towards top dead centre by an amount in proportion to it. All
    cylinders are fitted together, see :mod:`.strokes`; the error is the spread over the cycles and
    what the form of the fit leaves.
    """
    teeth = followed.angle_deg.size
    turned = float(followed.angle_deg[-1] - followed.angle_deg[0])
    times = capture.crank_s[followed.kept]
    rpm = turned / 6.0 / max(float(times[-1] - times[0]), 1e-9)
    step = CYCLE_DEG / max(chambers, 1)
    if teeth / max(turned, 1.0) * step < _LEAST_EDGES:
        return _unknown("The wheel has too few edges to show how the speed dips.")
    if rpm > _CRANKING_RPM:
        return _unknown(f"At {rpm:.0f} rpm the engine runs: compression is told while cranking.")
    cycles = int(turned // CYCLE_DEG)
    if cycles < _LEAST_CYCLES:
        return _unknown(
            f"Crank for at least {_LEAST_CYCLES * 2} turns; this was {turned / 360:.1f}."
        )
    angle = 0.5 * (followed.angle_deg[1:] + followed.angle_deg[:-1])
    energy = (np.diff(followed.angle_deg) / np.diff(times)) ** 2
    slowest = _slowest_deg(angle, energy, step)
    shift = phase_shift_deg(followed.wheel, cam)
    first = math.ceil((angle[0] + (shift or 0.0)) / CYCLE_DEG) * CYCLE_DEG - (shift or 0.0)
    found = fit_strokes(followed.angle_deg, times, chambers, slowest, first)
    if found is None or len(found.by_cycle) < _LEAST_CYCLES:
        return _unknown("Too few whole cycles to tell compression.")
    phase = found.top_deg % step
    # The first column belongs to the top dead centre that was fitted; they are told from the wheel's zero.
    turn = round((phase_from(phase, shift or 0.0, step) - (found.top_deg + (shift or 0.0))) / step)
    order = [(i + turn) % chambers for i in range(chambers)]
    mean = found.mean[order]
    best = float(mean.max())
    error = np.hypot(found.error[order], _FORM * math.sqrt(max(chambers, 4) / 4.0) * best)
    noise = float(found.by_cycle.std(axis=0, ddof=1).mean()) / math.sqrt(len(found.by_cycle))
    if best <= 0.0 or best < 4.0 * noise or found.explained < _LEAST_EXPLAINED:
        return _unknown("The speed hardly dips: plugs are out, or the engine spins freely.")
    if float(np.median(error)) / best > _WORST_ERROR:
        return _unknown(
            "The cylinders cannot be told apart in this capture: crank longer, with a wheel of more teeth."
        )
    names = _names(phase, step, chambers, shift, offset_deg, firing_order)
    cylinders = tuple(
        CylinderCompression(
            i + 1, names[i], round(100.0 * float(mean[i]) / best, 1),
            round(100.0 * float(error[i]) / best, 1),
        )
        for i in range(chambers)
    )  # fmt: skip
    return _judged(cylinders, len(found.by_cycle), phase, step, offset_deg, shift)


def _unknown(sentence: str) -> Compression:
    return Compression((), 0, "unknown", (sentence,))


def _slowest_deg(angle: FloatArray, energy: FloatArray, step: float) -> float:
    """Return the angle, within one step, at which the shaft is slowest."""
    turn = 2.0 * math.pi * angle / step
    level = energy - np.interp(angle, angle[:: max(1, angle.size // 50)], _smooth(angle, energy))
    largest = -float(np.angle(np.mean(level * np.exp(-1j * turn)))) * step / (2.0 * math.pi)
    return (largest + step / 2.0) % step


def _smooth(angle: FloatArray, energy: FloatArray) -> FloatArray:
    """Return the slow change of ω² over the capture at a few places."""
    places = angle[:: max(1, angle.size // 50)]
    return np.array(
        [float(energy[np.abs(angle - place) <= CYCLE_DEG / 2.0].mean()) for place in places]
    )


def phase_from(phase: float, shift: float, step: float) -> float:
    """Return the first slowest place behind the wheel's zero. [°]

    Parameters
    ----------
    phase, shift, step : float
        Slowest place in followed angles, shift to the wheel's zero, and angle between two
        compressions. [°]
    """
    return (phase + shift) % step


def _names(
    phase: float, step: float, chambers: int, shift: float | None,
    offset_deg: float | None, firing_order: Sequence[int],
) -> list[int | None]:  # fmt: skip
    """Return which cylinder each dip belongs to; the dip nearest the offset is cylinder 1."""
    if shift is None or offset_deg is None or len(firing_order) != chambers:
        return [None] * chambers
    first = phase_from(phase, shift, step)
    off = [((first + i * step - offset_deg + 360.0) % CYCLE_DEG) - 360.0 for i in range(chambers)]
    start = min(range(chambers), key=lambda i: abs(off[i]))
    return [firing_order[(i - start) % chambers] for i in range(chambers)]


def _judged(
    cylinders: tuple[CylinderCompression, ...], cycles: int, phase: float, step: float,
    offset_deg: float | None, shift: float | None,
) -> Compression:  # fmt: skip
    sentences: list[str] = []
    level: Literal["good", "attention", "stop"] = "good"
    best = max(cylinders, key=lambda c: c.relative_pct)
    for entry in cylinders:
        below = best.relative_pct - entry.relative_pct
        noise = math.hypot(entry.error_pct, best.error_pct)
        if entry.relative_pct >= _LOW_PCT:
            continue
        name = (
            f"Cylinder {entry.cylinder}"
            if entry.cylinder is not None
            else f"The compression number {entry.place} in the order of rotation"
        )
        if below < _SURE * noise:
            sentences.append(f"{name} reads low, but within the error of this capture.")
            continue
        is_bad = entry.relative_pct < _BAD_PCT
        level = "stop" if is_bad else ("attention" if level == "good" else level)
        sentences.append(
            f"{name} has {entry.relative_pct:.0f} ± {entry.error_pct:.0f} % of the best: measure its "
            "compression or leakage before the first start."
        )
    if not sentences:
        worst = min(entry.relative_pct for entry in cylinders)
        sentences.append(
            f"Even compression over {cycles} cycles: the lowest has {worst:.0f} % of the best."
        )
    if offset_deg is not None and shift is not None:
        away = ((phase_from(phase, shift, step) - offset_deg + step / 2.0) % step) - step / 2.0
        if abs(away) > _NEAR_TDC_DEG:
            level = "attention" if level == "good" else level
            sentences.append(
                f"The shaft is slowest {abs(away):.0f}° {'after' if away > 0 else 'before'} the entered "
                "top dead centre: look at the trigger offset."
            )
    if cylinders[0].cylinder is None:
        sentences.append(
            "Which cylinder is which cannot be told: it needs cam edge, offset and firing order."
        )
    return Compression(cylinders, cycles, level, tuple(sentences))

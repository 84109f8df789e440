"""Edges of a cranked or running bench engine's trigger wheel, with the faults real ones have."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..triggers import Capture, Wheel

#: So far from its top dead centre a compression moves the speed. [°]
_STROKE_DEG = 120.0


@dataclass(frozen=True)
class EdgeConditions:
    """How the wheel turns and what spoils its signal.

    Attributes
    ----------
    rpm : float
        Mean speed. [1/min]
    chambers : int
        Compressions in a cycle of 720°, which the speed dips at. [–]
    ripple : float
        What one compression takes of the mean speed at its top dead centre, as a share; about 0.25 while
        cranking. Strokes overlap: with many chambers the speed dips by less. [–]
    turns : float
        Length. [turns of the crankshaft]
    jitter_us : float
        Standard deviation of an edge's time. [µs]
    lost_share, extra_share : float
        Edges missed, and edges that are none, of all teeth. [–]
    swapped : bool
        Whether the sensor's wires are swapped.
    weak : tuple of float
        Strength of each compression against the mean, in the order of rotation from the first
        top dead centre. [–]
    top_deg : float or None
        Top dead centre of the first of them, from the wheel's zero; None half-way into the first
        stretch. [°]
    profile : tuple of (angle [°], speed [1/min])
        Speed over the angle turned since the beginning; empty for `rpm` throughout.
    seed : int
        [–]
    """

    rpm: float = 200.0
    chambers: int = 4
    ripple: float = 0.2
    turns: float = 10.0
    jitter_us: float = 20.0
    lost_share: float = 0.0
    extra_share: float = 0.0
    swapped: bool = False
    weak: tuple[float, ...] = ()
    top_deg: float | None = None
    profile: tuple[tuple[float, float], ...] = ()
    seed: int = 0


def simulate_edges(wheel: Wheel, conditions: EdgeConditions) -> Capture:
    """Return the capture of a turning wheel that begins at no particular place.

    Parameters
    ----------
    wheel : Wheel
        Really fitted.
    conditions : EdgeConditions
        How it turns.
    """
    random = np.random.default_rng([conditions.seed, 0x6D])
    fitted = wheel.between() if conditions.swapped else wheel
    begin = float(random.uniform(0.0, 720.0))
    end = begin + 360.0 * conditions.turns
    crank = _angles(fitted.edges_deg, fitted.turn_deg, begin, end)
    cam = _angles(fitted.cam_edges_deg, 720.0, begin, end)
    kept = random.random(crank.size) >= conditions.lost_share
    crank_s = _times(crank[kept], conditions, begin, end)
    cam_s = _times(cam, conditions, begin, end)
    stray = random.uniform(crank_s[0], crank_s[-1], int(conditions.extra_share * crank.size))
    noise = 1e-6 * conditions.jitter_us
    crank_s = np.concatenate([crank_s + noise * random.standard_normal(crank_s.size), stray])
    cam_s = cam_s + noise * random.standard_normal(cam_s.size)
    return Capture(np.unique(crank_s), np.unique(cam_s))


def _angles(edges_deg: tuple[float, ...], turn_deg: float, begin: float, end: float) -> np.ndarray:
    if not edges_deg:
        return np.array([])
    turns = np.arange(np.floor(begin / turn_deg), np.ceil(end / turn_deg) + 1) * turn_deg
    angles = (turns[:, None] + np.array(edges_deg)[None, :]).ravel()
    return np.sort(angles[(angles >= begin) & (angles <= end)])


def _times(angles: np.ndarray, conditions: EdgeConditions, begin: float, end: float) -> np.ndarray:
    """Return when the shaft reaches angles, its speed dipping at every compression. [s]"""
    grid = np.arange(begin, end + 1.0, 0.5)
    step = 720.0 / conditions.chambers
    top = 0.5 * step if conditions.top_deg is None else conditions.top_deg
    dip = np.zeros_like(grid)
    for i in range(conditions.chambers):
        weak = conditions.weak[i] if i < len(conditions.weak) else 1.0
        away = np.abs((grid - top - i * step + 360.0) % 720.0 - 360.0)
        # A compression takes speed before its top dead centre and gives it back: strokes overlap.
        dip += weak * np.where(
            away < _STROKE_DEG, np.cos(0.5 * np.pi * away / _STROKE_DEG) ** 3, 0.0
        )
    mean: float | np.ndarray = 6.0 * conditions.rpm
    if conditions.profile:
        turned, rpm = np.array(conditions.profile).T
        mean = 6.0 * np.interp(grid - begin, turned, rpm)
    speed = mean * (1.0 + conditions.ripple * (float(dip.mean()) - dip))
    elapsed = np.concatenate([[0.0], np.cumsum(0.5 / speed[:-1])])
    return np.asarray(np.interp(angles, grid, elapsed))

"""What each cylinder's compression does to the speed of a cranked engine, all of them fitted together.

From six cylinders on strokes overlap: while one is compressed its neighbours expand, and the dip at one top
dead centre is the work of several. The square of the speed is kinetic energy: it falls by the work that the
gas of every cylinder takes and rises by what it gives back, while the starter's falling torque line draws
it towards an even speed. All this is linear in the cylinders' pressures, so that a least-squares fit parts
them. Slider crank and polytropic compression: Heywood, ch. 2 and 4 (from memory).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from ..quantities import FloatArray
from .wheel import CYCLE_DEG

#: A usual engine: compression ratio, connecting rod ÷ crank radius, exponent, and where valves are shut.
#: The share of one cylinder to another hardly depends on them. [–, –, –, °]
_RATIO, _ROD, _EXPONENT, _SHUT_DEG = 9.5, 3.3, 1.25, 140.0
#: How fast the starter draws speed back to its own, tried. [1/rad]
_DRAWS_BACK = (0.05, 0.2, 0.5, 1.0, 2.0)
_GRID_DEG = 1.0
#: Phases are tried around the slowest place, these shares of a step. [–]
_PHASES = np.linspace(-0.45, 0.45, 19)


@dataclass(frozen=True)
class Strokes:
    """The cylinders' pressures as the speed shows them.

    Attributes
    ----------
    top_deg : float
        Top dead centre of the first, in followed angles, within one step. [°]
    by_cycle : ndarray, shape (cycles, cylinders)
        Pressure in every cycle, in the order of rotation. [any unit, the same for all]
    mean, error : ndarray, shape (cylinders,)
        Over all cycles, and its standard error.
    explained : float
        Share of the speed's unevenness that the fit explains. [–]
    """

    top_deg: float
    by_cycle: FloatArray
    mean: FloatArray
    error: FloatArray
    explained: float


def fit_strokes(
    angle_deg: FloatArray, time_s: FloatArray, chambers: int, slowest_deg: float, first_deg: float
) -> Strokes | None:
    """Return the pressures of all cylinders fitted together, None where cycles are too few.

    Parameters
    ----------
    angle_deg, time_s : ndarray, shape (n,)
        Angle and time of every edge. [°, s]
    chambers : int
        Compressions in 720°. [–]
    slowest_deg : float
        Where the shaft is slowest, within one step, in followed angles. [°]
    first_deg : float
        Where a cycle begins: the wheel's own zero. [°]
    """
    step = CYCLE_DEG / chambers
    widths = np.diff(angle_deg)
    energy = (widths / np.diff(time_s)) ** 2
    middle = 0.5 * (angle_deg[1:] + angle_deg[:-1])
    count = int((angle_deg[-1] - first_deg) // CYCLE_DEG)
    inside = (middle >= first_deg) & (middle < first_deg + count * CYCLE_DEG)
    if count < 2 or inside.sum() < 3 * chambers:
        return None
    low, high, energy, middle = (v[inside] for v in (angle_deg[:-1], angle_deg[1:], energy, middle))
    trend = _trend(middle, first_deg, count)
    level = energy - trend @ np.linalg.lstsq(trend, energy, rcond=None)[0]
    best: tuple[float, float, FloatArray] | None = None
    for draws_back in _DRAWS_BACK:
        course = _course(draws_back)
        for share in _PHASES:
            top = slowest_deg + share * step
            columns = _columns(low, high, top, step, chambers, course)
            design = np.hstack([columns, trend])
            solution = np.linalg.lstsq(design, energy, rcond=None)[0]
            left = float(((energy - design @ solution) ** 2).sum())
            # Pressures below none are no engine's: such a phase is the wrong one.
            left *= 1.0 + float((solution[:chambers] < 0.0).mean())
            if best is None or left < best[0]:
                best = left, top, columns
    assert best is not None
    _, top, columns = best
    rows = []
    for number in range(count):
        begin = first_deg + number * CYCLE_DEG
        one = (middle >= begin) & (middle < begin + CYCLE_DEG)
        if one.sum() > chambers + 3:
            away = (middle[one] - begin) / CYCLE_DEG
            design = np.hstack([columns[one], np.stack([np.ones_like(away), away], axis=1)])
            rows.append(np.linalg.lstsq(design, energy[one], rcond=None)[0][:chambers])
    if len(rows) < 2:
        return None
    by_cycle = np.array(rows)
    design = np.hstack([columns, trend])
    solution = np.linalg.lstsq(design, energy, rcond=None)[0]
    off = energy - design @ solution
    spread = by_cycle.std(axis=0, ddof=1) / math.sqrt(len(rows))
    # What the fit leaves is no noise but form: it counts as far as it could hide in each cylinder.
    form = math.sqrt(float((off**2).mean())) * np.sqrt(
        np.diag(np.linalg.pinv(design.T @ design))[:chambers] * count
    )
    explained = 1.0 - float((off**2).sum()) / max(float((level**2).sum()), 1e-12)
    error: FloatArray = np.asarray(np.hypot(spread, form), dtype=float)
    return Strokes(top, by_cycle, np.asarray(solution[:chambers], dtype=float), error, explained)


def _trend(middle: FloatArray, first_deg: float, count: int) -> FloatArray:
    """Return columns of a slow change: straight between the beginnings of cycles."""
    knots = first_deg + CYCLE_DEG * np.arange(count + 1)
    return np.stack([np.interp(middle, knots, unit) for unit in np.eye(count + 1)], axis=1)


def _course(draws_back: float) -> FloatArray:
    """Return what the work of one cylinder does to ω² over its cycle, from its top dead centre on.

    On a grid of one degree over 720°, as the running integral, so that means over any interval follow.
    """
    angle = np.arange(-CYCLE_DEG / 2.0, CYCLE_DEG / 2.0, _GRID_DEG)
    x = np.radians(angle)
    travel = 0.5 * (1.0 + _ROD - np.cos(x) - np.sqrt(_ROD**2 - np.sin(x) ** 2))
    volume = 1.0 / (_RATIO - 1.0) + travel
    shut = np.abs(angle) < _SHUT_DEG
    begin = float(np.interp(_SHUT_DEG, angle, volume))
    work = (
        np.where(shut, (begin / volume) ** (_EXPONENT - 1.0) - 1.0, 0.0) * begin / (_EXPONENT - 1.0)
    )
    work += np.where(shut, volume - begin, 0.0)  # the outside air helps to compress
    spectrum = np.fft.rfft(np.roll(work, angle.size // 2))
    order = 1j * np.arange(spectrum.size) / 2.0  # per radian: the period is two turns
    gone = -spectrum * order / (order + draws_back)
    gone[0] = 0.0
    response = np.fft.irfft(gone, angle.size)
    return np.concatenate([[0.0], np.cumsum(0.5 * (response + np.roll(response, -1)))]) * _GRID_DEG


def _columns(
    low: FloatArray, high: FloatArray, top: float, step: float, chambers: int, course: FloatArray
) -> FloatArray:
    """Return the mean response over every interval to each cylinder, shape (n, cylinders)."""
    grid = np.arange(course.size) * _GRID_DEG
    columns = []
    for i in range(chambers):
        ends = []
        for edge in (low, high):
            at = edge - top - i * step
            turns = np.floor(at / CYCLE_DEG)
            ends.append(np.interp(at - turns * CYCLE_DEG, grid, course) + turns * course[-1])
        columns.append((ends[1] - ends[0]) / (high - low))
    return np.stack(columns, axis=1)

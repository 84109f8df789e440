"""Fuel on the walls: the film model of the trade, and its two figures from throttle steps.

Of every injection a share X lands on the walls, and what lies there evaporates with a time constant τ:

    dm/dt = X f − m/τ,   into the cylinder goes (1 − X) f + m/τ

Source: C. F. Aquino, "Transient A/F Control Characteristics of the 5 Liter Central Fuel Injection Engine", SAE 810494
(from memory).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy
from scipy.optimize import least_squares

from ..quantities import FloatArray
from .steps import BEFORE_S, Drive, ThrottleStep

#: Bounds of share, time constant, lag of the reading, and how much later than thought it comes. [–, s, s, s]
_BOUNDS = ((0.005, 0.05, 0.0, -0.9), (0.9, 5.0, 0.8, 0.9))
_STARTS = ((0.1, 0.3, 0.2, 0.0), (0.3, 0.4, 0.2, -0.5), (0.2, 1.5, 0.2, -0.2))
#: Fuel must move by so much in a step, and so many steps make a fit. [–]
_MOVES, _LEAST_STEPS, _MOST_STEPS = 0.15, 3, 40
#: Neighbouring samples of a step err alike for so long; a step has so many at least. [s, –]
_ALIKE_S, _LEAST_SAMPLES = 0.4, 30
_EVERY = 3
#: Share and time are never surer than this. [–, –, s]
_KNOWN_SHARE, _KNOWN_TIME, _KNOWN_S = 0.01, 0.05, 0.02


@dataclass(frozen=True)
class Film:
    """What walls do.

    Attributes
    ----------
    share, share_error : float or None
        Share of the injected fuel that lands on them, and its standard error; None where too few steps were read. [–]
    time_s, time_error_s : float or None
        In which what lies there goes, and its standard error. [s]
    steps : int
        That told it.
    is_told : bool
        Whether they tell it at all.
    sentence : str
    """

    share: float | None
    share_error: float | None
    time_s: float | None
    time_error_s: float | None
    steps: int
    is_told: bool
    sentence: str


def into_cylinder(fuel: FloatArray, step_s: float, share: float, time_s: float) -> FloatArray:
    """Return what of an injected fuel goes into the cylinder.

    Parameters
    ----------
    fuel : ndarray
        Injected, on an even clock; before it the first value was held for long. [any unit]
    step_s : float
        Of the clock. [s]
    share, time_s : float
        X and τ. [–, s]
    """
    stays = math.exp(-step_s / time_s)
    # Film over τ, in the unit of the fuel: m/τ; held fuel is in balance with it.
    gives = scipy.signal.lfilter(
        [0.0, share * (1.0 - stays)], [1.0, -stays], fuel, zi=[share * fuel[0]]
    )[0]
    return np.asarray((1.0 - share) * fuel + gives)


def film_response(elapsed_s: FloatArray, share: float, time_s: float) -> FloatArray:
    """Return what goes into the cylinder after a unit step of fuel: 1 − X e^(−t/τ).

    Parameters
    ----------
    elapsed_s : ndarray
        Since the step. [s]
    share, time_s : float
        X and τ. [–, s]
    """
    return np.asarray(1.0 - share * np.exp(-elapsed_s / time_s))


@dataclass(frozen=True)
class _Window:
    """One step as it is fitted: log fuel, log air, share of the way between its ends, and the error read about it."""

    time_s: FloatArray
    fuel: FloatArray
    air: FloatArray
    way: FloatArray
    step_s: float
    drive: Drive


def fit_film(drives: Sequence[tuple[Drive, Sequence[ThrottleStep]]]) -> Film:
    """Return share and time constant from the steps of drives; not told where they do not tell.

    Parameters
    ----------
    drives : sequence of (Drive, sequence of ThrottleStep)
        Steps of one warmth together.
    """
    windows = [
        window
        for drive, steps in drives
        for step in steps
        if (window := _window(drive, step)) is not None
    ][:_MOST_STEPS]
    if len(windows) < _LEAST_STEPS:
        return _untold(
            len(windows), f"{len(windows)} steps can be read; {_LEAST_STEPS} at least tell the film on the walls."
        )  # fmt: skip
    best = min(
        (least_squares(_rest, start, bounds=_BOUNDS, args=(windows,), x_scale=(0.1, 0.3, 0.1, 0.1)) for start in _STARTS),
        key=lambda found: float(found.cost),
    )  # fmt: skip
    share, time_s, *_ = (float(v) for v in best.x)
    free = max(1, len(best.fun) - 4 - 2 * len(windows))
    alike = max(1.0, _ALIKE_S / windows[0].step_s)
    variance = 2.0 * float(best.cost) / free * alike
    jacobian = np.asarray(best.jac, dtype=float)
    # A reading without lag stands on its bound, and has no say there.
    covariance = np.linalg.pinv(jacobian.T @ jacobian) * variance
    # What no fit knows: that walls, pulse and sensor are quite as the model has them.
    kept = (_KNOWN_SHARE, _KNOWN_TIME * time_s + _KNOWN_S)
    errors = [math.hypot(math.sqrt(max(0.0, float(covariance[i, i]))), kept[i]) for i in (0, 1)]
    is_told = errors[0] < 0.5 * share and errors[1] < 0.7 * time_s and share > 0.02
    if not is_told:
        return Film(share, errors[0], time_s, errors[1], len(windows), False, f"{len(windows)} steps do not tell share and time constant apart: larger and quicker steps do.")  # fmt: skip
    return Film(
        share, errors[0], time_s, errors[1], len(windows), True,
        f"{100 * share:.0f} ± {100 * errors[0]:.0f} % of the fuel lands on the walls and goes in {time_s:.2f} ± {errors[1]:.2f} s, by {len(windows)} steps.",
    )  # fmt: skip


def _untold(steps: int, sentence: str) -> Film:
    return Film(None, None, None, None, steps, False, sentence)


def _window(drive: Drive, step: ThrottleStep) -> _Window | None:
    part = drive.between(step.time_s - BEFORE_S, step.until_s)
    part = slice(part.start, part.stop, _EVERY)
    fuel, air = np.log(np.maximum(drive.fuel[part], 0.05)), np.log(drive.air[part])
    if np.ptp(fuel) < _MOVES or len(fuel) < _LEAST_SAMPLES:
        return None
    ends = air[0], float(np.median(air[-20:]))
    way = np.clip((air - ends[0]) / (ends[1] - ends[0]), 0.0, 1.0) if abs(ends[1] - ends[0]) > 0.05 else np.zeros(air.shape)  # fmt: skip
    step_s = float(drive.time_s[1] - drive.time_s[0]) * _EVERY
    return _Window(drive.time_s[part], fuel, air, way, step_s, drive)


def _rest(figures: FloatArray, windows: Sequence[_Window]) -> FloatArray:
    """Return what is left of every window between reading and model, its two ends set free."""
    share, time_s, lag_s, late_s = figures
    left = []
    for window in windows:
        burnt = np.log(into_cylinder(np.exp(window.fuel), window.step_s, share, time_s))
        lean = window.air - burnt
        if lag_s > 1e-3:
            stays = math.exp(-window.step_s / lag_s)
            lean = scipy.signal.lfilter([1.0 - stays], [1.0, -stays], lean, zi=[stays * lean[0]])[0]
        read = np.interp(window.time_s + late_s, window.drive.time_s, window.drive.error)
        away = read - lean
        # The map misses by one figure at each end: they are no film.
        basis = np.column_stack([1.0 - window.way, window.way])
        level, *_ = np.linalg.lstsq(basis, away, rcond=None)
        left.append(away - basis @ level)
    return np.concatenate(left)

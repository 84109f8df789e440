"""Unknown injectors: true flow, and dead time, from the mixture the engine really ran.

The controller believes that one injection delivers q·(t − d): q the entered flow, t the
pulse, d the entered dead time. It chose t so that this would give lambda_target, times its
trim. The engine ran lambda. With air unchanged, what was really delivered is what was
believed times

    r = lambda_target / (lambda · (1 + trim)) / √(Δp / Δp_believed)

and it is also s·(x − δ)/x of it, where x = t − d, s is true over entered flow and δ true
minus entered dead time. So r = s − s·δ·(1/x): a straight line over 1/x, whose height is the
flow and whose slope is the dead time. It holds where the volumetric efficiency of the table
is believed: its error is in the result's, and cannot be told from the flow's.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..errors import FieldProblem, InputRefused, field_refused
from ..sentences import injector_flow, kilopascal, quantity
from .dead_time import DeadTimeCurve

#: What is believed of a point and of the table (assumed; standard deviations).
LAMBDA_ERROR = 0.01
VE_POINT_ERROR = 0.02
VE_COMMON_ERROR = 0.05
#: A table may be this much better at one end of the load range than at the other.
VE_TILT_ERROR = 0.03
#: A dead time is only told when its error is below this; else it is believed to this. [ms]
DEAD_TIME_TOLD_MS = 0.12
DEAD_TIME_BELIEF_MS = 0.15


@dataclass(frozen=True)
class OperatingPoint:
    """One steady warm state of the engine.

    Attributes
    ----------
    lambda_measured, lambda_target : float
        [–]
    pulse_ms : float
        Whole pulse as the controller shows it, dead time included. [ms]
    battery_v : float
        [V]
    trim_pct : float
        Closed-loop correction in force; 0 in open loop. [%]
    pressure_kpa : float or None
        Measured across the injector; None where it is believed. [kPa]
    rpm, map_kpa : float or None
        Where the engine was. [1/min, kPa]
    """

    lambda_measured: float
    lambda_target: float
    pulse_ms: float
    battery_v: float
    trim_pct: float = 0.0
    pressure_kpa: float | None = None
    rpm: float | None = None
    map_kpa: float | None = None


@dataclass(frozen=True)
class InferredInjectors:
    """True injectors as the mixture tells them.

    Attributes
    ----------
    flow_scale, flow_error : float
        True over entered flow and its standard error, as a share. [–]
    flow_cm3_min, flow_low, flow_high : float
        Flow at the rated pressure, and about where it lies with 95 %. [cm³/min]
    flow_told : bool
        Whether the points agree with one flow that an injector can be wrong by.
    dead_time_told : bool
        Whether the points span enough pulse width to tell the dead time.
    dead_time_offset_ms, dead_time_error_ms : float or None
        True minus entered dead time, and its standard error; None where not told. [ms]
    residuals_pct : tuple of float
        Delivered against fitted, per point. [%]
    sentences : tuple of str
        What it rests on and what to do.
    """

    flow_scale: float
    flow_error: float
    flow_cm3_min: float
    flow_low: float
    flow_high: float
    flow_told: bool
    dead_time_told: bool
    dead_time_offset_ms: float | None
    dead_time_error_ms: float | None
    residuals_pct: tuple[float, ...]
    sentences: tuple[str, ...]


def infer_injectors(
    points: Sequence[OperatingPoint],
    *,
    flow_cm3_min: float,
    dead_time: DeadTimeCurve,
    believed_kpa: float,
    filling_error: float = VE_COMMON_ERROR,
) -> InferredInjectors:
    """Return true flow, and dead time where the points can tell it.

    Parameters
    ----------
    points : sequence of OperatingPoint
        One or more, warm and steady, without enrichment.
    flow_cm3_min : float
        Flow entered in the controller, at the rated pressure. [cm³/min]
    dead_time : DeadTimeCurve
        Dead time in the controller.
    believed_kpa : float
        Pressure across the injector that the controller believes. [kPa]
    filling_error : float
        What the filling in the table may be off as a whole, as a standard deviation: little where it was
        measured, much where it was computed. [–]

    Raises
    ------
    InputRefused
        If a point cannot be.

    Notes
    -----
    Weighted least squares of r on (1, −1/x), see the module. Each point carries the errors of
    lambda (1 %) and of its own cell (2 %), enlarged to the scatter found. The error of the
    whole table is added to the flow's, a tilt of the table over load (3 %) to the dead
    time's.
    """
    _refuse_bad(points, dead_time)
    x = np.array([p.pulse_ms - dead_time.on_axis((p.battery_v,))[0][0] for p in points])
    r = np.array([_delivered(p, believed_kpa) for p in points])
    own = np.hypot(LAMBDA_ERROR, VE_POINT_ERROR) * r
    line = _fit_line(x, r, own) if len(points) >= 2 else None
    offset: float | None = None
    offset_error: float | None = None
    if line is not None and line.dead_time_error_ms <= DEAD_TIME_TOLD_MS:
        scale, relative = line.scale, math.hypot(line.scale_error / line.scale, filling_error)
        offset, offset_error = line.offset_ms, line.dead_time_error_ms
        fitted = scale * (1.0 - line.offset_ms / x)
    else:
        # The dead time is believed; what it may be off shows at short pulses.
        belief = DEAD_TIME_BELIEF_MS / x * r
        weight = 1.0 / (own**2 + belief**2)
        scale = float((weight * r).sum() / weight.sum())
        error = math.hypot(
            float(weight.sum()) ** -0.5, DEAD_TIME_BELIEF_MS / float(x.max()) * scale
        )
        relative = math.hypot(error / scale, filling_error)
        fitted = np.full_like(r, scale)
    flow = flow_cm3_min * scale
    residuals = r / fitted - 1.0
    untold = _untold(scale, relative, residuals)
    return InferredInjectors(
        scale,
        relative,
        flow,
        flow * (1.0 - 2.0 * relative),
        flow * (1.0 + 2.0 * relative),
        not untold,
        offset is not None,
        offset,
        offset_error,
        tuple(float(v) for v in 100.0 * residuals),
        tuple(
            untold
            + _sentences(x, flow, flow_cm3_min, relative, offset, offset_error, filling_error)
            + _pressure_sentences(points, believed_kpa)
        ),
    )


#: More than this is no error of an injector alone, and points that scatter more agree with no flow; a
#: flow that is known worse than this is not told. [–]
_MOST_SCALE, _MOST_SCATTER, _WORST = (0.55, 1.8), 0.09, 0.13


def _untold(scale: float, relative: float, residuals: np.ndarray) -> list[str]:
    """Return why the flow is not told, in a sentence; nothing where it is."""
    low, high = _MOST_SCALE
    scatter = float(np.std(residuals)) if residuals.size > 2 else 0.0
    if not low < scale < high:
        return [
            f"Flow is not told: {100 * (scale - 1):+.0f} % is more than an injector is wrong by. Look at fuel "
            "pressure, the sensors and the fuel map first."
        ]
    if scatter > _MOST_SCATTER:
        return [
            f"Flow is not told: the points contradict each other by ± {100 * scatter:.0f} %, which no flow and no "
            "dead time explain. The fuel map, or a sensor, is off from place to place."
        ]
    if relative > _WORST:
        return [
            f"Flow is not told better than ± {200 * relative:.0f} %: add points, or measure the fuel map first."
        ]
    return []


def _delivered(point: OperatingPoint, believed_kpa: float) -> float:
    """Return fuel really delivered over fuel believed to be, at the believed pressure. [–]"""
    trim = 1.0 + point.trim_pct / 100.0
    pressure = 1.0 if point.pressure_kpa is None else math.sqrt(point.pressure_kpa / believed_kpa)
    return point.lambda_target / (point.lambda_measured * trim) / pressure


@dataclass(frozen=True)
class _Line:
    """The fitted line: scale [–] with its error, and the dead-time offset [ms] with its error."""

    scale: float
    scale_error: float
    offset_ms: float
    dead_time_error_ms: float


def _fit_line(x: np.ndarray, r: np.ndarray, own: np.ndarray) -> _Line | None:
    design = np.column_stack([np.ones_like(x), -1.0 / x]) / own[:, None]
    normal = design.T @ design
    if np.linalg.cond(normal) > 1e10:
        return None
    covariance = np.linalg.inv(normal)
    scale, product = covariance @ design.T @ (r / own)
    if not scale > 0.05:
        return None
    freedom = len(x) - 2
    misfit = (r - scale + product / x) / own
    # Scatter beyond what was assumed enlarges every error; less scatter proves nothing.
    stretch = max(1.0, float((misfit**2).sum()) / freedom) if freedom > 0 else 1.0
    covariance = covariance * stretch
    offset = product / scale
    gradient = np.array([-product / scale**2, 1.0 / scale])
    random_error = float(gradient @ covariance @ gradient) ** 0.5
    span = float(1.0 / x.min() - 1.0 / x.max())
    tilt = VE_TILT_ERROR / span if span > 1e-9 else math.inf
    return _Line(
        float(scale),
        math.hypot(float(covariance[0, 0]) ** 0.5, tilt / float(x.max()) * float(scale)),
        float(offset),
        math.hypot(random_error, tilt),
    )


def _refuse_bad(points: Sequence[OperatingPoint], dead_time: DeadTimeCurve) -> None:
    if not points:
        raise field_refused("points", "At least one operating point is needed.")
    bounds = {
        "lambda_measured": (0.5, 1.6, "Measured lambda"),
        "lambda_target": (0.5, 1.6, "The lambda target"),
        "pulse_ms": (0.1, 100.0, "The pulse (ms)"),
        "battery_v": (6.0, 18.0, "Battery voltage"),
        "trim_pct": (-60.0, 60.0, "The correction (%)"),
        "pressure_kpa": (30.0, 1200.0, "Pressure (kPa)"),
        "rpm": (100.0, 20_000.0, "Engine speed"),
        "map_kpa": (5.0, 600.0, "Manifold pressure (kPa)"),
    }
    problems = []
    for number, point in enumerate(points):
        for field, (low, high, name) in bounds.items():
            value = getattr(point, field)
            if value is not None and not low <= value <= high:
                hint = " Is it AFR?" if field.startswith("lambda") and 8 < value < 25 else ""
                problems.append(
                    FieldProblem(
                        f"points.{number}.{field}",
                        f"Point {number + 1}: {name} must be between {low:g} and {high:g}, not "
                        f"{value:g}.{hint}",
                    )
                )
        if not problems:
            entered = dead_time.on_axis((point.battery_v,))[0][0]
            if point.pulse_ms <= entered + 0.05:
                problems.append(
                    FieldProblem(
                        f"points.{number}.pulse_ms",
                        f"Point {number + 1}: the pulse of {point.pulse_ms:g} ms is hardly longer "
                        f"than the entered dead time of {entered:.2f} ms. Enter the whole pulse.",
                    )
                )
    if problems:
        raise InputRefused(problems)


def _pressure_sentences(points: Sequence[OperatingPoint], believed_kpa: float) -> list[str]:
    if any(point.pressure_kpa is not None for point in points):
        return []
    return [
        f"The pressure across the injectors is believed to be {kilopascal(believed_kpa)} at every point: "
        "type it where it was measured."
    ]


def _sentences(
    x: np.ndarray,
    flow: float,
    entered: float,
    relative: float,
    offset: float | None,
    offset_error: float | None,
    filling_error: float,
) -> list[str]:
    change = 100.0 * (flow / entered - 1.0)
    within = 200.0 * relative
    if abs(change) <= within:
        first = (
            f"The entered {quantity(entered, 'cm³/min')} agree with the mixture: {injector_flow(flow)} "
            f"± {within:.0f} % fits."
        )
    else:
        first = (
            f"The injectors flow about {injector_flow(flow)} ± {within:.0f} %, not {quantity(entered, 'cm³/min', bare=True)}: "
            f"{change:+.0f} %."
        )
    sentences = [first]
    if offset is not None and offset_error is not None:
        if abs(offset) <= 2.0 * offset_error:
            sentences.append(
                f"Their dead time agrees with the entered one: {offset:+.2f} ± {2 * offset_error:.2f} ms."
            )
        else:
            sentences.append(
                f"Their dead time is {offset:+.2f} ± {2 * offset_error:.2f} ms against the entered "
                "one: shift the whole curve."
            )
    else:
        sentences.append(
            f"Dead time cannot be told: without it the pulses are {x.min():.1f} to {x.max():.1f} ms. "
            "Add points from a bare idle up to heavy load."
        )
    sentences.append(
        f"True only as far as the volumetric efficiency in the table is believed (± {100 * filling_error:.0f} %, "
        "one standard error)."
    )
    return sentences

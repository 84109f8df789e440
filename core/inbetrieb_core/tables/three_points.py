"""A curve over coolant temperature as the three values that some controllers hold."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..errors import CoreError
from ..quantities import FloatArray
from .controller_form import ControllerForm
from .weights import weight_matrix


@dataclass(frozen=True)
class ThreePointResidual:
    """What the three values give at a temperature, against the curve.

    Attributes
    ----------
    at_c : float
        Coolant temperature. [°C]
    wanted, given : float
        Of the curve, and of the straight lines between the three values; canonical.
    error : float
        given − wanted. [unit of the table]
    """

    at_c: float
    wanted: float
    given: float
    error: float


@dataclass(frozen=True)
class ThreePointFit:
    """Three values fitted to a curve.

    Attributes
    ----------
    points_c : tuple of float
        Temperatures of the values. [°C]
    values : tuple of float
        Canonical, on the controller's step. [unit of the table]
    residuals : tuple of ThreePointResidual
        At every breakpoint of the curve.
    worst : ThreePointResidual
    """

    points_c: tuple[float, ...]
    values: tuple[float, ...]
    residuals: tuple[ThreePointResidual, ...]
    worst: ThreePointResidual


#: Weight of the curve beyond the controller's outer temperatures (our own choice). [–]
_BEYOND_SHARE = 0.05


def fit_points(
    curve_c: Sequence[float], values: FloatArray, points_c: Sequence[float], form: ControllerForm
) -> ThreePointFit:
    """Return the values at few temperatures that come nearest to a curve.

    Parameters
    ----------
    curve_c : sequence of float
        Breakpoints of a curve over coolant temperature, rising. [°C]
    values : ndarray
        Its values. [unit of the table]
    points_c : sequence of float
        Temperatures at which the controller holds a value, rising. [°C]
    form : ControllerForm
        Its unit and step.

    Raises
    ------
    CoreError
        If there are fewer than two temperatures.

    Notes
    -----
    Least squares over the curve, each breakpoint weighing as many kelvin as lie nearest to it,
    of straight lines whose ends hold; beyond the outer temperatures, where nothing can be fitted
    without spoiling what lies within, they weigh a twentieth. Then each value is put on the controller's step.
    """
    if len(points_c) < 2:
        raise CoreError("A curve needs at least two temperatures.")
    at = np.array(curve_c)
    wanted = np.asarray(values, dtype=float)
    nodes = np.array(points_c, dtype=float)
    basis = weight_matrix([points_c], [at]).toarray()
    edges = np.concatenate(([at[0]], (at[1:] + at[:-1]) / 2.0, [at[-1]]))
    kelvin_near = np.maximum(np.diff(edges), 1.0)
    beyond = (at < nodes[0]) | (at > nodes[-1])
    weight = np.sqrt(np.where(beyond, _BEYOND_SHARE * kelvin_near, kelvin_near))
    # Held lightly near the curve itself, for a node that no breakpoint lies beside.
    start = np.interp(nodes, at, wanted)
    faint = 1e-3 * np.eye(nodes.size)
    solved = np.linalg.lstsq(
        np.vstack([basis * weight[:, None], faint]),
        np.concatenate([wanted * weight, faint @ start]),
        rcond=None,
    )[0]
    # Between the curve's own ends: a fitted value outside them would be one nobody proposed.
    low, high = float(wanted.min()), float(wanted.max())
    fitted = [form.stored(min(max(float(v), low), high)) for v in solved]
    given = basis @ np.array(fitted)
    residuals = tuple(
        ThreePointResidual(float(t), float(w), float(g), float(g - w))
        for t, w, g in zip(at, wanted, given, strict=True)
    )
    worst = max(residuals, key=lambda r: abs(r.error))
    return ThreePointFit(tuple(map(float, nodes)), tuple(fitted), residuals, worst)

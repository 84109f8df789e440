"""Where logs have been in a table: how many samples each cell had a share in."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..quantities import FloatArray
from .axis import Axis


def hits(axes: Sequence[Axis], samples: Sequence[FloatArray]) -> FloatArray:
    """Return how many samples each cell took part in, by the weights a controller blends with.

    Parameters
    ----------
    axes : sequence of Axis
        One or two.
    samples : sequence of ndarray
        One array for each axis, equally long; NaN where missing. [unit of each axis]

    Returns
    -------
    ndarray
        Shape of the table; sums to the number of samples that lie within the axes' ends. [–]
    """
    shape = tuple(len(axis.points) for axis in axes)
    result = np.zeros(shape)
    if not samples or not len(samples[0]):
        return result
    inside = np.all([np.isfinite(s) for s in samples], axis=0)
    for axis, values in zip(axes, samples, strict=True):
        reach = (axis.points[-1] - axis.points[0]) * 0.02
        inside &= (values >= axis.points[0] - reach) & (values <= axis.points[-1] + reach)
    corners = [_corners(axis, values[inside]) for axis, values in zip(axes, samples, strict=True)]
    if len(corners) == 1:
        for index, weight in corners[0]:
            np.add.at(result, index, weight)
        return result
    for down, weight in corners[0]:
        for across, share in corners[1]:
            np.add.at(result, (down, across), weight * share)
    return result


def _corners(axis: Axis, values: FloatArray) -> list[tuple[np.ndarray, FloatArray]]:
    """Return the two breakpoints around each value and their weights."""
    points = np.array(axis.points)
    if points.size == 1:
        return [(np.zeros(values.size, dtype=int), np.ones(values.size))]
    held = np.clip(values, points[0], points[-1])
    low = np.clip(np.searchsorted(points, held, side="right") - 1, 0, points.size - 2)
    share = (held - points[low]) / (points[low + 1] - points[low])
    return [(low, 1.0 - share), (low + 1, share)]

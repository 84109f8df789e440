"""How a controller blends breakpoints: linear between them, the ends hold. The one definition.

Whatever reads a table, counts where logs have been in it, or fits values to it, takes its weights
from here: the value at a place is the weights times the cells.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Sequence

import numpy as np
from scipy import sparse

from ..quantities import FloatArray


def locate(points: Sequence[float], value: float) -> tuple[int, float]:
    """Return the breakpoint left of a value and the share of the right one.

    Parameters
    ----------
    points : sequence of float
        Rising breakpoints, at least one.
    value : float
        Place on the axis, finite. [unit of the axis]

    Returns
    -------
    tuple of int and float
        Index, at most the last but one, and share from 0 to 1; beyond the ends 0 or 1.
    """
    if value <= points[0] or len(points) == 1:
        return 0, 0.0
    if value >= points[-1]:
        return len(points) - 2, 1.0
    left = bisect_right(points, value) - 1
    return left, (value - points[left]) / (points[left + 1] - points[left])


def located(points: Sequence[float], values: FloatArray) -> tuple[np.ndarray, FloatArray]:
    """Return :func:`locate` of many values at once; where a value is missing the share is NaN.

    Parameters
    ----------
    points : sequence of float
        Rising breakpoints, at least one.
    values : ndarray
        Places on the axis, any number; NaN where missing. [unit of the axis]
    """
    known = np.asarray(points, dtype=float)
    values = np.asarray(values, dtype=float)
    if known.size == 1:
        return np.zeros(values.size, dtype=int), np.where(np.isnan(values), np.nan, 0.0)
    held = np.clip(values, known[0], known[-1])
    left = np.clip(np.searchsorted(known, held, side="right") - 1, 0, known.size - 2)
    return left, (held - known[left]) / (known[left + 1] - known[left])


def weight_matrix(
    axes: Sequence[Sequence[float]], places: Sequence[FloatArray]
) -> sparse.csr_matrix:
    """Return the weights of the cells of a table at many places.

    Parameters
    ----------
    axes : sequence of sequence of float
        The breakpoints of each axis, one or two.
    places : sequence of ndarray
        One array for each axis, equally long; NaN where missing. [unit of each axis]

    Returns
    -------
    csr_matrix
        One row for each place, one column for each cell (the last axis runs fastest). A row sums
        to 1, or is empty where a coordinate is missing; it has at most 2 to the number of axes
        entries. [–]
    """
    count = np.asarray(places[0]).size
    columns, weights = np.zeros((count, 1), dtype=int), np.ones((count, 1))
    for points, values in zip(axes, places, strict=True):
        left, share = located(points, values)
        right = np.minimum(left + 1, len(points) - 1)
        ends = np.stack([left, right], axis=1)
        parts = np.stack([1.0 - share, share], axis=1)
        corners = 2 * columns.shape[1]
        columns = columns[:, :, None] * len(points) + ends[:, None, :]
        columns = columns.reshape(count, corners)
        weights = (weights[:, :, None] * parts[:, None, :]).reshape(count, corners)
    weights = np.nan_to_num(weights)
    rows = np.repeat(np.arange(count), columns.shape[1])
    cells = int(np.prod([len(points) for points in axes]))
    matrix = sparse.csr_matrix((weights.ravel(), (rows, columns.ravel())), (count, cells))
    matrix.eliminate_zeros()
    return matrix

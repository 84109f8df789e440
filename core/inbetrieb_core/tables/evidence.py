"""Where logs have been in a table: how many samples each cell had a share in."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..quantities import FloatArray
from .axis import Axis
from .weights import weight_matrix


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
    if not samples or not len(samples[0]):
        return np.zeros(shape)
    inside = np.all([np.isfinite(s) for s in samples], axis=0)
    for axis, values in zip(axes, samples, strict=True):
        reach = (axis.points[-1] - axis.points[0]) * 0.02
        inside &= (values >= axis.points[0] - reach) & (values <= axis.points[-1] + reach)
    kept = [values[inside] for values in samples]
    weights = weight_matrix([axis.points for axis in axes], kept)
    return np.asarray(weights.sum(axis=0), dtype=float).reshape(shape)

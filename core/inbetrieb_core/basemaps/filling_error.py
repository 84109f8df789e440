"""What the filling of a fuel table may be off as a whole, by where its cells come from."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..injectors import OperatingPoint
from ..tables import Calibration

#: What a filling may be off as a whole, by where its cells come from: measured, brought in, computed. [–]
_MEASURED, _BROUGHT, _COMPUTED = 0.03, 0.05, 0.10


def filling_error(calibration: Calibration, points: Sequence[OperatingPoint]) -> float:
    """Return what the filling of the fuel table may be off as a whole where an engine was looked at.

    Parameters
    ----------
    calibration : Calibration
        In force.
    points : sequence of OperatingPoint
        Where it was; those without speed and pressure say nothing.

    Returns
    -------
    float
        Standard deviation, by the origin of the nearest cells: the worst counts. [–]
    """
    table, worst = calibration["ve"], 0.0
    for point in points:
        if point.rpm is None or point.map_kpa is None or table.by_throttle:
            return _COMPUTED
        index = tuple(
            int(np.argmin(np.abs(np.array(axis.points) - value)))
            for axis, value in zip(table.axes, (point.rpm, point.map_kpa), strict=True)
        )
        kind = table.mark(index).kind
        worst = max(worst, {"measured": _MEASURED, "carried_over": _BROUGHT}.get(kind, _COMPUTED))
    return worst or _COMPUTED

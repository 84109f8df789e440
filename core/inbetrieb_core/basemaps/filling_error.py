"""What the filling of a fuel table may be off as a whole, by where its cells come from."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..tables import Calibration

#: What a filling may be off as a whole, by where its cells come from: measured, brought in, computed. [–]
_MEASURED, _BROUGHT, _COMPUTED = 0.03, 0.05, 0.10


def filling_error(
    calibration: Calibration, places: Sequence[tuple[float | None, float | None]]
) -> float:
    """Return what the filling of the fuel table may be off as a whole where an engine was looked at.

    Parameters
    ----------
    calibration : Calibration
        In force.
    places : sequence of (float or None, float or None)
        Speed and manifold pressure where it was; None where they are not known. [1/min, kPa]

    Returns
    -------
    float
        Standard deviation, by the origin of the nearest cells: the worst counts. [–]
    """
    table, worst = calibration["ve"], 0.0
    for rpm, map_kpa in places:
        if rpm is None or map_kpa is None or table.by_throttle:
            return _COMPUTED
        index = tuple(
            int(np.argmin(np.abs(np.array(axis.points) - value)))
            for axis, value in zip(table.axes, (rpm, map_kpa), strict=True)
        )
        kind = table.mark(index).kind
        worst = max(worst, {"measured": _MEASURED, "carried_over": _BROUGHT}.get(kind, _COMPUTED))
    return worst or _COMPUTED

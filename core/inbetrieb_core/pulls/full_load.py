"""Full-load mixture: pulls as readings of the fuel map, solved like a drive, with the bands of a pull."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from ..fuelling import Readings
from ..tables import Table
from .pull import PullRecord

#: Bins of one pull go together; a pull is as sure as this. [ln]
_SPREAD = 0.02
#: Trim of the loop counts only where it is known; full load is open loop else.
_LAMBDA = (0.6, 1.3)


def readings_of_pulls(pulls: Sequence[PullRecord], table: Table) -> Readings:
    """Return what pulls say of a fuel map, one reading for each bin of speed.

    Parameters
    ----------
    pulls : sequence of PullRecord
        Their lambda is brought back by the delay of the sensor already; the first half second is left out.
    table : Table
        Fuel map by manifold pressure or throttle.
    """
    load_name = "throttle_pct" if table.by_throttle else "map_kpa"
    columns: list[list[np.ndarray]] = []
    for pull in pulls:
        reading, target, load = (pull.channel(n) for n in ("lambda", "lambda_target", load_name))
        trim = np.nan_to_num(pull.channel("lambda_correction_pct"))
        with np.errstate(invalid="ignore", divide="ignore"):
            need = np.log(reading / target) + np.log1p(trim / 100.0)
        points = table.axes[1].points
        # Above the last column the map holds its value: the reading is the last cell's.
        load = np.minimum(load, points[-1])
        known = (
            np.isfinite(need) & np.isfinite(load) & (reading > _LAMBDA[0]) & (reading < _LAMBDA[1])
        )
        known &= (pull.speed >= table.axes[0].points[0]) & (pull.speed <= table.axes[0].points[-1])
        columns.append([pull.speed[known], load[known], need[known], pull.channel("map_kpa")[known], pull.channel("intake_c")[known], pull.channel("fuel_pressure_kpa")[known], target[known]])  # fmt: skip
    joined = [np.concatenate([c[i] for c in columns]) if columns else np.empty(0) for i in range(7)]
    rpm, load, need, pressure, intake, fuel, target = joined
    unknown = np.full(rpm.shape, np.nan)
    return Readings(rpm, load, rpm, load, need, np.full(rpm.shape, _SPREAD), pressure, unknown, intake, fuel, target, unknown)  # fmt: skip

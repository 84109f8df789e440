"""What to drive next: the places whose readings are worth most, as a driver can follow them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..tables import Table
from .proposal import DONE, IDLE_RPM, LEAST_HITS_S, UNDER_LOAD_KPA
from .solve import MapFit

_MOST = 8
_HOLD_S = 8.0
#: Lighter than an idle stands no engine unless the car drags it: nobody holds that (common practice, no source). [kPa]
_LIGHTEST_KPA = 30.0
#: A place beside what was driven can be reached; one far from it is a guess. [cells]
_NEAR = 2
#: Where a first drive begins. [1/min; kPa or %]
_BEGIN_RPM, _BEGIN_LOAD = 2400.0, 45.0


@dataclass(frozen=True)
class DrivePoint:
    """A place to hold.

    Attributes
    ----------
    rpm, load : float
        [1/min], [kPa] or [%]
    seconds : float
        To hold it. [s]
    why : str
    """

    rpm: float
    load: float
    seconds: float
    why: str


def plan_drive(table: Table, fit: MapFit) -> tuple[DrivePoint, ...]:
    """Return the places that are worth most, from slow to fast.

    Parameters
    ----------
    table : Table
    fit : MapFit
    """
    if len(table.axes) < 2:
        return ()  # nobody holds a signal of a meter: any drive goes through all of them
    rpm, load = table.axes[0].points, table.axes[1].points
    seen = np.argwhere(fit.hits >= LEAST_HITS_S)
    if not len(seen):
        # Nothing was driven yet: begin where every engine gets along.
        seen = np.array([[np.abs(np.array(p) - at).argmin() for p, at in ((rpm, _BEGIN_RPM), (load, _BEGIN_LOAD))]])  # fmt: skip
    worth = []
    for row, column in np.ndindex(fit.hits.shape):
        hits, error = float(fit.hits[row, column]), float(fit.error[row, column])
        if rpm[row] < IDLE_RPM or hits >= 3.0 * LEAST_HITS_S and error < 0.5 * DONE:
            continue
        if not table.by_throttle and load[column] < _LIGHTEST_KPA:
            continue
        away = np.abs(seen - (row, column)).max(axis=1).min()
        if away > _NEAR:
            continue
        worth.append((error / (1.0 + away), row, column, hits))
    worth.sort(reverse=True)
    chosen: list[DrivePoint] = []
    for _, row, column, hits in worth:
        heavy = not table.by_throttle and load[column] >= UNDER_LOAD_KPA
        why = "not visited yet" if hits < LEAST_HITS_S else "its band is still wide"
        if heavy:
            why += "; heavy load: on a brake or rollers, in short holds"
        chosen.append(DrivePoint(rpm[row], load[column], 4.0 if heavy else _HOLD_S, why))
        if len(chosen) == _MOST:
            break
    return tuple(sorted(chosen, key=lambda point: (point.rpm, point.load)))

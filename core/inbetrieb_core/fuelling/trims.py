"""What a controller has learned by itself, read as evidence like a log."""

from __future__ import annotations

import numpy as np

from ..errors import LogRefused
from ..tables import Table
from .samples import Readings

#: A learned trim is as sure as this; one of nothing was not learned. [ln, %]
_SPREAD, _LEARNED_PCT = 0.015, 0.05


def readings_of_trims(trims: Table, target: Table) -> Readings:
    """Return learned trims as readings of a fuel map, one at each of their cells.

    Parameters
    ----------
    trims : Table
        Of speed and load. [%]
    target : Table
        The map that is corrected; its load must be that of the trims.

    Raises
    ------
    LogRefused
        If their loads differ, or nothing was learned.
    """
    if [a.name for a in trims.axes] != [a.name for a in target.axes]:
        raise LogRefused("The learned trims stand over another load than the map.")
    rpm, load = np.meshgrid(trims.axes[0].points, trims.axes[1].points, indexing="ij")
    percent = np.asarray(trims.values, dtype=float)
    # A cell that never learned is nought to the last digit: it is no evidence that the map is right.
    learned = np.abs(percent) >= _LEARNED_PCT
    if not learned.any():
        raise LogRefused("Every learned trim is 0: the controller has learned nothing yet.")
    rpm, load, need = rpm[learned], load[learned], np.log1p(percent[learned] / 100.0)
    unknown = np.full(rpm.shape, np.nan)
    pressure = unknown if target.by_throttle else load
    return Readings(
        rpm, load, rpm, load, need, np.full(rpm.shape, _SPREAD), pressure, unknown, unknown, unknown,
        np.ones(rpm.shape), unknown,
    )  # fmt: skip

"""Which earlier drives tell what a map is off by itself: those whose fuel was reckoned alike."""

from __future__ import annotations

import numpy as np

from ..tables import Calibration, Table
from .places import MAPS, MapKey

#: What the fuel of a warm, steady engine depends on beside the maps.
_BESIDE = ("dead_time", "charge_temperature_correction", "barometric_correction", "cylinder_trim", "cam_switch_rpm")  # fmt: skip


def reckoned_alike(then: Calibration, now: Calibration, key: MapKey) -> bool:
    """Return whether two calibrations give a warm, steady engine the same fuel but for one map.

    Parameters
    ----------
    then, now : Calibration
    key : str
        The map that may differ in its values.
    """
    others = (*(other for other in MAPS if other != key), *_BESIDE)
    return all(_same(then.tables.get(other), now.tables.get(other)) for other in others)


def _same(one: Table | None, other: Table | None) -> bool:
    if one is None or other is None:
        return one is other
    return one.axes == other.axes and np.array_equal(one.values, other.values)

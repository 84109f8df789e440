"""Which earlier drives tell what a map is off by itself: those whose fuel was reckoned alike."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from ..tables import Calibration, Table
from .places import MAPS, MapKey

#: What the fuel of a warm, steady engine depends on beside the maps.
_BESIDE = ("dead_time", "charge_temperature_correction", "barometric_correction", "cylinder_trim", "cam_switch_rpm")  # fmt: skip


@dataclass(frozen=True)
class PastPass:
    """A pass over a map that was made before.

    Attributes
    ----------
    number : int
    table : str
        That it corrected.
    engine : str
        Digest of the engine data that were in force.
    blocks, taken, is_mended : bool
        Whether a cause spoke against it, whether it was taken all the same, and whether a mended cause was taken off its
        logs.
    """

    number: int
    table: str
    engine: str
    blocks: bool
    taken: bool
    is_mended: bool


def that_tell(passes: Sequence[PastPass], table: str, engine: str) -> list[int]:
    """Return the numbers of passes whose drives tell what a map is off by itself, newest first.

    Where a cause spoke against a pass, or was taken off its logs, they tell nothing; where it was taken with a reason all
    the same, the engine has been like that since, and what is older tells nothing. Nor does what was driven before the
    engine data were others.

    Parameters
    ----------
    passes : sequence of PastPass
        Newest first.
    table : str
        The map.
    engine : str
        Digest of the engine data in force.
    """
    found = []
    for one in passes:
        if one.table != table or one.is_mended or (one.blocks and not one.taken):
            continue
        if one.engine != engine:
            break
        found.append(one.number)
        if one.blocks:
            break
    return found


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

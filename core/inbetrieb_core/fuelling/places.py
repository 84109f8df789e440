"""Which table a drive corrects, and where on it each sample stands: fuel map of a cam profile, or air-meter curve."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..logs import Trace
from ..quantities import FloatArray
from ..tables import Calibration, Table
from ..tables.weights import weight_matrix

MapKey = Literal["ve", "ve_second_cam", "air_meter"]
#: Tables that logs correct, in words.
MAPS: dict[MapKey, str] = {
    "ve": "fuel map",
    "ve_second_cam": "fuel map of the second cam profile",
    "air_meter": "curve of the air meter",
}
#: Around the speed at which the cams change nobody knows which profile it is. [1/min]
_SWITCHES_RPM = 75.0


@dataclass(frozen=True)
class Places:
    """Places of samples on a table, and the channels they come from; rows of a curve are all 0."""

    row: FloatArray
    column: FloatArray
    channels: tuple[str, ...]


def grid_of(table: Table) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """Return rows and columns of a table; a curve is a map of one row, at 0. [units of its axes]"""
    points = [tuple(axis.points) for axis in table.axes]
    return (points[0], points[1]) if len(points) == 2 else ((0.0,), points[0])


def alike(first: Table, second: Table) -> bool:
    """Return whether two tables stand on axes of the same quantities."""
    return [axis.name for axis in first.axes] == [axis.name for axis in second.axes]


def places_on(table: Table, trace: Trace) -> Places:
    """Return where on a table each sample stands; NaN where its channel is missing."""
    channels = tuple(axis.name for axis in table.axes)
    columns = [_or_nothing(trace, name) for name in channels]
    row = columns[0] if len(columns) == 2 else np.zeros(trace.time_s.shape)
    return Places(row, columns[-1], channels)


def _or_nothing(trace: Trace, name: str) -> FloatArray:
    values = trace.get(name)
    return np.full(trace.time_s.shape, np.nan) if values is None else values


def in_profile(calibration: Calibration, trace: Trace, key: MapKey) -> NDArray[np.bool_]:
    """Return which samples ran on the cam profile whose map is corrected: as logged, else by the switch-over speed."""
    everything = np.ones(trace.time_s.shape, dtype=bool)
    if "ve_second_cam" not in calibration.tables or key == "air_meter":
        return everything
    second = key == "ve_second_cam"
    logged = trace.get("cam_profile")
    if logged is not None and np.isfinite(logged).any():
        # Whatever numbers a controller has for its profiles, the second is the greater one.
        high = logged > 0.5 * (np.nanmin(logged) + np.nanmax(logged)) if np.nanmin(logged) < np.nanmax(logged) else logged > 0.5  # fmt: skip
        return np.asarray(np.isfinite(logged) & (high == second))
    switch = calibration.tables.get("cam_switch_rpm")
    if switch is None:
        return everything if not second else ~everything
    at, rpm = float(switch.values), np.nan_to_num(trace["rpm"])
    return np.asarray(rpm > at + _SWITCHES_RPM if second else rpm < at - _SWITCHES_RPM)


def held_at(table: Table, row: FloatArray, column: FloatArray) -> FloatArray:
    """Return what a table holds at many places, as a controller interpolates. [units of its axes → its unit]"""
    matrix = weight_matrix(grid_of(table), [row, column])
    return np.asarray(matrix @ np.asarray(table.values, dtype=float).ravel())


def looked_up(table: Table, rpm: FloatArray, load: FloatArray) -> FloatArray:
    """Return the values of a map at many places, as a controller interpolates. [1/min, unit of the load]"""
    return held_at(table, rpm, load)

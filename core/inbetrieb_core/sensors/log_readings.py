"""Key-on readings out of a log of a standing engine."""

from __future__ import annotations

import numpy as np

from ..errors import LogRefused
from ..logs import Trace
from .circumstances import KeyOnReading
from .functions import FUNCTIONS

_TURNING_RPM = 30.0
_PEDAL_MOVED_PCT = 20.0


def key_on_readings(trace: Trace) -> dict[str, KeyOnReading]:
    """Return the readings of a log, up to the moment at which the engine first turns.

    Throttle: the shut end is the 5th percentile, the open end the highest if the pedal moved.
    Fuel pressure: the highest, which the prime reached. All others: the median.

    Raises
    ------
    LogRefused
        If the engine turns from the first sample on, or there is no channel of a sensor.
    """
    rpm = trace.get("rpm")
    still = np.ones(len(trace.time_s), dtype=bool)
    if rpm is not None:
        turning = np.flatnonzero(np.nan_to_num(rpm) > _TURNING_RPM)
        if turning.size:
            still[turning[0] :] = False
    if not still.any():
        raise LogRefused("The engine turns from the first sample on: log with the key on, at rest.")
    readings: dict[str, KeyOnReading] = {}
    for key, function in FUNCTIONS.items():
        values = trace.get(function.channel)
        if values is None:
            continue
        values = values[still]
        values = values[np.isfinite(values)]
        if not values.size:
            continue
        readings[key] = _reading(key, values)
    if not readings:
        raise LogRefused("There is no sensor's channel in this log before the engine turns.")
    return readings


def _reading(key: str, values: np.ndarray) -> KeyOnReading:
    if key == "throttle":
        low, high = float(np.percentile(values, 5.0)), float(values.max())
        return KeyOnReading(low, high if high - low > _PEDAL_MOVED_PCT else None)
    if key == "fuel_pressure":
        return KeyOnReading(float(values.max()))
    return KeyOnReading(float(np.median(values)))

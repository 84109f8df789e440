"""Values that contradict what their column is said to be: told, never corrected in silence.

The ranges are those in which an engine with its sensors can be (common practice, no source).
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from ..quantities import FloatArray
from ..sentences import quantity
from .names import CHANNELS


@dataclass(frozen=True)
class _Range:
    """Where the middle of a channel can lie, and what it may be if it does not."""

    low: float
    high: float
    unit: str
    instead: str


_UNIT_OR_COLUMN = "is it another unit, or another quantity?"
_RANGES: dict[str, _Range] = {
    "rpm": _Range(0.0, 16_000.0, "rpm", _UNIT_OR_COLUMN),
    "map_kpa": _Range(8.0, 500.0, "kPa", "is it a gauge pressure, or another unit?"),
    "coolant_c": _Range(-45.0, 135.0, "°C", _UNIT_OR_COLUMN),
    "intake_c": _Range(-45.0, 65.0, "°C", "free air is not so: is it °F, or another sensor?"),
    "throttle_pct": _Range(-8.0, 105.0, "%", "is it a voltage or an angle?"),
    "lambda": _Range(0.55, 1.9, "lambda", "is it an air–fuel ratio or a voltage?"),
    "lambda_target": _Range(0.55, 1.4, "lambda", "is it an air–fuel ratio?"),
    "pulse_ms": _Range(0.0, 60.0, "ms", "is it another unit?"),
    "battery_v": _Range(4.0, 19.0, "V", "is it a 24 V system, or another voltage?"),
    "idle_valve_pct": _Range(-2.0, 102.0, "%", "is it steps of a stepper?"),
    "spark_deg": _Range(-30.0, 65.0, "°", _UNIT_OR_COLUMN),
    "fuel_pressure_kpa": _Range(0.0, 1500.0, "kPa", _UNIT_OR_COLUMN),
    "lambda_correction_pct": _Range(-40.0, 40.0, "%", "is it a share of one?"),
    "idle_target_rpm": _Range(300.0, 3000.0, "rpm", _UNIT_OR_COLUMN),
    "barometric_kpa": _Range(50.0, 110.0, "kPa", _UNIT_OR_COLUMN),
}
#: Channels that rest at the lower end of their range while nothing happens.
_MAY_REST = frozenset(["rpm", "pulse_ms", "fuel_pressure_kpa"])


def contradictions(channels: Mapping[str, FloatArray]) -> tuple[str, ...]:
    """Return a sentence for every channel whose values cannot be what it is said to be.

    Parameters
    ----------
    channels : mapping of str to ndarray
        Canonical channels; NaN is missing.
    """
    sentences = []
    for name, values in channels.items():
        limits = _RANGES.get(name)
        there = values[np.isfinite(values)]
        if limits is None or there.size < 3:
            continue
        if name in _MAY_REST:
            there = there[there > 0.0]
            if there.size < 3:
                continue
        middle = float(np.median(there))
        if limits.low <= middle <= limits.high:
            continue
        text = quantity(middle, limits.unit) if limits.unit != "lambda" else f"{middle:.4g}"
        sentences.append(
            f"{CHANNELS[name].title} reads {text} in the middle of the log, which cannot be: "
            f"{limits.instead}"
        )
    return tuple(sentences)

"""One cause behind several sensors: a sensor ground that is not the controller's."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from statistics import median

from .entry import SensorEntry
from .key_on_rules import SensorJudgement
from .thermistor import Thermistor

#: Offsets smaller than this are noise; offsets this alike have one cause. [V]
_LEAST_V, _ALIKE_V = 0.05, 0.03
#: A wideband in free air stands at its end and hides an offset; the battery has no sensor ground.
_HIDES_IT = frozenset({"wideband", "battery"})


def name_shared_ground(
    judgements: Sequence[SensorJudgement], entered: Mapping[str, SensorEntry]
) -> list[SensorJudgement]:
    """Return the judgements, those off by one and the same voltage told so.

    Parameters
    ----------
    judgements : sequence of SensorJudgement
        Of one check.
    entered : mapping of str to SensorEntry
        Sensors by function.
    """
    offsets = {j.function: v for j in judgements if (v := _offset_v(j, entered)) is not None}
    if len(offsets) < 2:
        return list(judgements)
    shared = median(offsets.values())
    if abs(shared) < _LEAST_V or any(abs(v - shared) > _ALIKE_V for v in offsets.values()):
        return list(judgements)
    reason = (
        f" {len(offsets)} sensors are off by the same {1000.0 * shared:+.0f} mV: look at the "
        "sensor ground first."
    )
    return [
        replace(
            j,
            sentence=j.sentence + reason,
            look_at=("sensor ground, from the sensors to the controller", *j.look_at),
        )
        if j.function in offsets and j.state != "pass"
        else j
        for j in judgements
    ]


def _offset_v(judgement: SensorJudgement, entered: Mapping[str, SensorEntry]) -> float | None:
    """Return how far the signal of a three-wire sensor is from where it should be. [V]"""
    sensor = entered.get(judgement.function)
    if sensor is None or judgement.function in _HIDES_IT:
        return None
    if judgement.reading is None or judgement.expected is None:
        return None
    transfer = sensor.made()
    if transfer.signal_unit != "V" or isinstance(transfer, Thermistor):
        return None
    return transfer.signal(judgement.reading) - transfer.signal(judgement.expected)

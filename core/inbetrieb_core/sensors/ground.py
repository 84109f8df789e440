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
#: Of a thermistor's ground this share has to come through. [–]
_LEAST_THROUGH = 0.35
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
    off = {j.function for j in judgements if j.state != "pass"} & set(offsets)
    shared, alike = _largest_group(offsets, off)
    # Those that contradict: off by another voltage, or not off though they would show it.
    against = set(offsets) - alike
    if len(alike) < 2 or len(against) >= len(alike):
        return list(judgements)
    reason = (
        f" {len(alike)} sensors are off by the same {1000.0 * shared:+.0f} mV: look at the "
        "sensor ground first."
    )
    return [
        replace(
            j,
            sentence=j.sentence + reason,
            look_at=("sensor ground, from the sensors to the controller", *j.look_at),
        )
        if j.function in alike and j.state != "pass"
        else j
        for j in judgements
    ]


def _largest_group(offsets: Mapping[str, float], off: set[str]) -> tuple[float, set[str]]:
    """Return the offset that most sensors share, one that is off among them, and who they are. [V]"""
    best: tuple[float, set[str]] = (0.0, set())
    for function in sorted(off):
        centre = offsets[function]
        alike = {f for f, v in offsets.items() if abs(v - centre) <= _ALIKE_V}
        if abs(centre) >= _LEAST_V and len(alike) > len(best[1]):
            best = (median(offsets[f] for f in alike), alike)
    return best


def _offset_v(judgement: SensorJudgement, entered: Mapping[str, SensorEntry]) -> float | None:
    """Return the ground offset behind a reading; None where a sensor cannot tell it. [V]

    A thermistor hangs between ground and its pull-up: the offset comes through divided.
    """
    sensor = entered.get(judgement.function)
    if sensor is None or judgement.function in _HIDES_IT:
        return None
    if judgement.reading is None or judgement.expected is None:
        return None
    transfer = sensor.made()
    if transfer.signal_unit != "V":
        return None
    now, right = transfer.signal(judgement.reading), transfer.signal(judgement.expected)
    if not isinstance(transfer, Thermistor):
        return now - right
    through = 1.0 - right / transfer.supply_v
    # A cold sensor's ground hardly shows, and one that stands warm is expected too cold.
    shows = through > _LEAST_THROUGH and judgement.state != "pass"
    return (now - right) / through if shows else None

"""The key-on check: is every sensor believable before anything is calibrated on it?"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Literal

from ..errors import FieldProblem, InputRefused
from .circumstances import Circumstances, KeyOnReading
from .entry import SensorEntry
from .functions import FUNCTIONS
from .ground import name_shared_ground
from .key_on_rules import SensorJudgement, State, judge_sensor


@dataclass(frozen=True)
class KeyOnResult:
    """The whole check.

    Attributes
    ----------
    state : {"pass", "suspicious", "fail"}
        Fail closes the gate of the first start.
    sentence : str
        The result in one sentence.
    judgements : tuple of SensorJudgement
        In the order of the functions.
    """

    state: Literal["pass", "suspicious", "fail"]
    sentence: str
    judgements: tuple[SensorJudgement, ...]


def check_key_on(
    sensors: Sequence[SensorEntry],
    readings: Mapping[str, KeyOnReading],
    circumstances: Circumstances,
) -> KeyOnResult:
    """Judge every sensor of a job, and those every engine needs, at key-on.

    Parameters
    ----------
    sensors : sequence of SensorEntry
        The sensors as entered.
    readings : mapping of str to KeyOnReading
        By function.
    circumstances : Circumstances
        Weather, soak, meter.

    Raises
    ------
    InputRefused
        If a reading is for no known function or is not a number.
    """
    _refuse_bad(readings)
    entered = {sensor.function: sensor for sensor in sensors}
    judgements = []
    for key, definition in FUNCTIONS.items():
        if key not in entered and key not in readings and definition.needed != "always":
            continue
        reading = readings.get(key, KeyOnReading(None))
        judgements.append(
            judge_sensor(definition, entered.get(key), reading, circumstances, readings)
        )
    judgements = name_shared_ground(judgements, entered)
    return KeyOnResult(_whole_state(judgements), _whole_sentence(judgements), tuple(judgements))


def _refuse_bad(readings: Mapping[str, KeyOnReading]) -> None:
    problems = []
    for key, reading in readings.items():
        if key not in FUNCTIONS:
            problems.append(
                FieldProblem(f"readings.{key}", f"There is no sensor function '{key}'.")
            )
            continue
        for number in (reading.value, reading.opened):
            if number is not None and not (math.isfinite(number) and abs(number) < 1e5):
                problems.append(
                    FieldProblem(f"readings.{key}", f"{FUNCTIONS[key].title}: this is no reading.")
                )
    if problems:
        raise InputRefused(problems)


def _whole_state(judgements: Sequence[SensorJudgement]) -> Literal["pass", "suspicious", "fail"]:
    states = {judgement.state for judgement in judgements}
    if states & {"fail", "not_read"}:
        return "fail"
    return "suspicious" if "suspicious" in states else "pass"


def _whole_sentence(judgements: Sequence[SensorJudgement]) -> str:
    def named(*states: State) -> list[str]:
        return [j.title.lower() for j in judgements if j.state in states]

    failed, doubtful = named("fail", "not_read"), named("suspicious")
    if failed:
        first = next(j for j in judgements if j.state in ("fail", "not_read"))
        more = f" Also to mend: {', '.join(failed[1:])}." if len(failed) > 1 else ""
        return f"{first.sentence}{more}"
    if doubtful:
        return f"All sensors read, but look at {' and '.join(doubtful)} before the first start."
    return "Every sensor reads what it should."

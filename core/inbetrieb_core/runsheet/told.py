"""What the readings of a step say beyond going on or stopping."""

from __future__ import annotations

from collections.abc import Mapping

from ..errors import InputRefused
from ..supply import judge_prime

#: Steps whose readings tell how long the pump has to run.
_KEY_ON = ("key_1", "key_2")


def told_of(step_key: str, values: Mapping[str, float], *, wanted_kpa: float) -> tuple[str, ...]:
    """Return what follows from the readings of a step, in sentences.

    Parameters
    ----------
    step_key : str
    values : mapping of str to float
        Readings by key, each in its unit.
    wanted_kpa : float
        Fuel pressure that is wanted. [kPa]
    """
    if step_key not in _KEY_ON or not {"rail_kpa", "to_pressure_s"} <= set(values):
        return ()
    built_s, rail_kpa = values["to_pressure_s"], values["rail_kpa"]
    if built_s <= 0.0:
        return ()
    try:
        found = judge_prime(((0.0, 0.0), (built_s, rail_kpa)), wanted_kpa)
    except InputRefused:
        return ()  # a pressure that is none has stopped the sheet already
    return (found.sentence,)

"""A reading of a run sheet: believed, wanted, or a stop in large type."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from ..bounds import out_of_bounds
from ..errors import InputRefused
from ..sentences import quantity
from .steps import Reading

#: More decimals tell nobody anything. [–]
_MOST_DECIMALS = 4


@dataclass(frozen=True)
class Judged:
    """What a reading says.

    Attributes
    ----------
    level : {"good", "stop"}
    sentence : str
        Names the limit and the reading where it stops.
    """

    level: Literal["good", "stop"]
    sentence: str


def _decimals(value: float) -> int:
    """Return how many decimals of a reading anybody wants to see."""
    return 2 if abs(value) < 3.0 else 1 if abs(value) < 30.0 else 0


def _beside(value: float, limit: float) -> int:
    """Return with how many decimals a reading differs from the limit that it misses."""
    decimals = _decimals(value)
    while decimals < _MOST_DECIMALS and round(value, decimals) == round(limit, decimals):
        decimals += 1
    return decimals


def judge_reading(reading: Reading, value: float) -> Judged:
    """Return whether a reading lets the work go on.

    Parameters
    ----------
    reading : Reading
        What was asked for.
    value : float
        What was read. [unit of the reading]

    Raises
    ------
    InputRefused
        If nobody can have read that.
    """
    problem = out_of_bounds(
        reading.key, value, reading.lower, reading.upper, reading.unit, reading.title
    )
    if problem is not None:
        raise InputRefused([problem])
    if reading.stop_below is not None and value < reading.stop_below:
        read = quantity(value, reading.unit, _beside(value, reading.stop_below))
        limit = quantity(reading.stop_below, reading.unit)
        return Judged(
            "stop", f"STOP. {reading.title} is {read}, at least {limit} is needed. {reading.stop}"
        )
    if reading.stop_above is not None and value > reading.stop_above:
        read = quantity(value, reading.unit, _beside(value, reading.stop_above))
        limit = quantity(reading.stop_above, reading.unit)
        return Judged(
            "stop", f"STOP. {reading.title} is {read}, at most {limit} is allowed. {reading.stop}"
        )
    read = quantity(value, reading.unit, _decimals(value))
    return Judged("good", f"{reading.title}: {read}.")

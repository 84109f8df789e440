"""Scenario files: open JSON, six that ship, and those that people write."""

from __future__ import annotations

from functools import cache
from pathlib import Path
from typing import Any

from inbetrieb_core.errors import CoreError, FieldProblem, InputRefused
from inbetrieb_core.json_text import json_of
from inbetrieb_core.trainer import Scenario, checked_scenario
from pydantic import ValidationError

from server.entries.kinds import Shape, problems_of

SHAPE: Shape[Scenario] = Shape(Scenario)
#: Keys of the scenarios that ship, in the order in which they are best played.
SHIPPED = ("tender", "weir-pump", "rotor-sled", "crane", "frost-ferry", "flood-gate")
_FILES = Path(__file__).parent / "scenarios"
_LONGEST = 20_000


def read_scenario(data: str | Any) -> Scenario:
    """Return the scenario of JSON text, or of what was read from it.

    Raises
    ------
    InputRefused
        With a sentence for everything that cannot be.
    """
    if isinstance(data, str):
        if len(data) > _LONGEST:
            raise CoreError("A scenario is a few lines of JSON; this is far more.")
        try:
            data = json_of(data)
        except ValueError:
            raise CoreError("The scenario is no JSON.") from None
    try:
        scenario = SHAPE.read(data)
    except ValidationError as error:
        problems = [FieldProblem(field, f"{text}.") for field, text in problems_of(error)[:20]]
        raise InputRefused(problems) from None
    return checked_scenario(scenario)


@cache
def shipped(key: str) -> Scenario:
    """Return a scenario that ships.

    Parameters
    ----------
    key : str
        One of :data:`SHIPPED`.

    Raises
    ------
    CoreError
        If there is none of that name.
    """
    if key not in SHIPPED:
        raise CoreError(f"There is no scenario '{key}'; known are {', '.join(SHIPPED)}.")
    return read_scenario((_FILES / f"{key}.json").read_text())

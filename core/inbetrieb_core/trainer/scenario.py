"""A training scenario: the engine as it was told, and how far the truth is from it."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..bench import FAULTS, Fault
from ..engine import EngineEntry, engine_of
from ..errors import FieldProblem, InputRefused

#: What a scenario may ask for. [–, ln, °C, K, days]
_BOUNDS = {
    "hidden": (0.0, 3.0),
    "off": (0.0, 1.0),
    "mean_c": (-25.0, 25.0),
    "width_k": (0.0, 15.0),
    "days": (1, 60),
    "seed": (0, 2**31 - 1),
}


@dataclass(frozen=True)
class Scenario:
    """A season to be played.

    Attributes
    ----------
    title, story : str
        What the trainee is told.
    engine : EngineEntry
        What is known of the engine.
    seed : int
        Chooses the hidden truth, the tables found and the weather.
    hidden : float
        How far the truth lies from the engine data, against what is usual. [–]
    off : float
        How far the start tables found in the car are off, as a standard deviation. [ln]
    mean_c, width_k : float
        Mornings: mean and spread. [°C, K]
    days : int
        Length. [days]
    faults : tuple of Fault
        Hidden under the bonnet.
    """

    title: str
    story: str
    engine: EngineEntry
    seed: int = 1
    hidden: float = 1.0
    off: float = 0.35
    mean_c: float = 2.0
    width_k: float = 6.0
    days: int = 14
    faults: tuple[Fault, ...] = ()


def checked_scenario(scenario: Scenario) -> Scenario:
    """Return the scenario if it can be played.

    Raises
    ------
    InputRefused
        With a sentence for everything that cannot be.
    """
    problems = []
    for field, (low, high) in _BOUNDS.items():
        value = float(getattr(scenario, field))
        if not (math.isfinite(value) and low <= value <= high):
            problems.append(FieldProblem(field, f"{field} must be between {low:g} and {high:g}."))
    if not scenario.title.strip():
        problems.append(FieldProblem("title", "Give the scenario a title."))
    for fault in scenario.faults:
        kind = FAULTS.get(fault.kind)
        if kind is None:
            known = ", ".join(FAULTS)
            problems.append(FieldProblem("faults", f"There is no fault '{fault.kind}': {known}."))
        elif fault.size is not None and not kind.lower <= fault.size <= kind.upper:
            problems.append(
                FieldProblem(
                    "faults", f"{kind.title}: {kind.lower:g} to {kind.upper:g} {kind.unit}."
                )
            )
    if problems:
        raise InputRefused(problems)
    engine_of(scenario.engine)  # refuses engines that cannot be
    return scenario

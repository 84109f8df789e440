"""Display units of a job. Values travel in canonical units; screens convert."""

from __future__ import annotations

from inbetrieb_core.errors import FieldProblem, InputRefused

CHOICES: dict[str, tuple[str, ...]] = {
    "temperature": ("°C", "°F"),
    "pressure": ("kPa", "psi", "bar"),
    "injector_flow": ("cm³/min", "lb/h"),
    "mixture": ("lambda", "AFR"),
}
DEFAULT: dict[str, str] = {dimension: choices[0] for dimension, choices in CHOICES.items()}


def checked(units: dict[str, str]) -> dict[str, str]:
    """Return display units completed with defaults.

    Raises
    ------
    InputRefused
        If a dimension or unit is unknown.
    """
    problems = [
        FieldProblem(f"units.{dimension}", f"'{unit}' is not offered for {dimension}.")
        for dimension, unit in units.items()
        if unit not in CHOICES.get(dimension, ())
    ]
    if problems:
        raise InputRefused(problems)
    return {**DEFAULT, **units}

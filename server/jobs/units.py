"""Display units of a job. Values travel in canonical units; screens convert."""

from __future__ import annotations

from inbetrieb_core.errors import FieldProblem, InputRefused
from inbetrieb_core.logs.mapping import PETROL_GAUGE_AFR
from inbetrieb_core.quantities import linear_conversion, recognise_unit

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


def shown(value: float, unit: str, units: dict[str, str]) -> tuple[str, float]:
    """Return (unit, value) as a job shows them; a unit without a choice stays as it is.

    Parameters
    ----------
    value : float
        Canonical value. [unit]
    unit : str
        Canonical unit as people write it.
    units : dict of str
        Display units of the job.
    """
    dimension = next((d for d, choices in CHOICES.items() if choices[0] == unit), None)
    chosen = unit if dimension is None else units.get(dimension, unit)
    if chosen == unit:
        return unit, value
    if chosen == "AFR":
        return chosen, value * PETROL_GAUGE_AFR
    known, wanted = recognise_unit(unit), recognise_unit(chosen)
    assert known and wanted  # every offered unit is in the table
    factor, offset = linear_conversion(known[1], wanted[1])
    return chosen, value * factor + offset

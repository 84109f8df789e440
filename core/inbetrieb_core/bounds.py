"""Bounds of entered fields: the sentence for a value that lies outside, with the likely unit."""

from __future__ import annotations

import math

from .errors import FieldProblem
from .quantities import PSI_KPA
from .sentences import kilopascal, quantity

#: Pressures that small are more likely bar than psi. [kPa as typed]
_MAYBE_BAR = 8.0


def out_of_bounds(
    field: str, value: float, lower: float, upper: float, unit: str, name: str
) -> FieldProblem | None:
    """Return what is wrong with an entered value, None where it is possible.

    Parameters
    ----------
    field : str
        Path of the field.
    value, lower, upper : float
        As typed, and between what it must lie. [unit]
    unit : str
        Empty for none. A pressure too small is asked whether it is psi or bar.
    name : str
        What the field is called at the beginning of a sentence.
    """
    if math.isfinite(value) and lower <= value <= upper:
        return None
    hint = ""
    if field.endswith("pressure_kpa") and 0.0 < value < lower:
        hint = f" If {value:g} is psi, enter {kilopascal(value * PSI_KPA)}."
        if value < _MAYBE_BAR:
            hint = f" If {value:g} is bar, enter {kilopascal(value * 100.0)}."
    bounds = f"{quantity(lower, unit, bare=True)} and {quantity(upper, unit)}".rstrip()
    return FieldProblem(
        field, f"{name} must be between {bounds}, not {quantity(value, unit, bare=True)}.{hint}"
    )

"""Display units of a job. Values travel in canonical units; screens convert."""

from __future__ import annotations

import functools
from dataclasses import dataclass

from inbetrieb_core.errors import FieldProblem, InputRefused
from inbetrieb_core.fuel import PETROL_KG_M3
from inbetrieb_core.injectors import pounds_per_hour
from inbetrieb_core.quantities import linear_conversion, recognise_unit
from inbetrieb_core.trade import PETROL_GAUGE_AFR

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


@dataclass(frozen=True)
class Conversion:
    """How a canonical value is shown: value · factor + offset, both in units of the shown one."""

    factor: float
    offset: float


def conversion(unit: str, chosen: str) -> Conversion:
    """Return how a canonical unit is shown in another one that is offered for it."""
    if chosen == unit:
        return Conversion(1.0, 0.0)
    if chosen == "AFR":
        return Conversion(PETROL_GAUGE_AFR, 0.0)
    if chosen == "lb/h":  # a flow of injectors is rated with petrol unless something else is said
        return Conversion(pounds_per_hour(1.0, PETROL_KG_M3), 0.0)
    known, wanted = recognise_unit(unit), recognise_unit(chosen)
    assert known and wanted  # every other offered unit is in the table
    return Conversion(*linear_conversion(known[1], wanted[1]))


@functools.cache  # on first use: what knows the units takes half a second to start
def conversions() -> dict[str, dict[str, Conversion]]:
    """Return dimension -> shown unit -> conversion from the canonical one."""
    return {
        dimension: {chosen: conversion(choices[0], chosen) for chosen in choices}
        for dimension, choices in CHOICES.items()
    }


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
    if dimension is None:
        return unit, value
    chosen = units.get(dimension, unit)
    how = conversions()[dimension][chosen]
    return chosen, value * how.factor + how.offset

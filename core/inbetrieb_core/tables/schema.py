"""The published JSON Schema of calibration files, made of the definitions: what a file of another hand has to hold."""

from __future__ import annotations

from typing import Any

from ..provenance import KINDS
from .definitions import AXES, DEFINITIONS
from .files import FORMAT_NAME, FORMAT_VERSION
from .table_definition import TableDefinition

DRAFT = "https://json-schema.org/draft/2020-12/schema"
_NUMBER = {"type": "number"}
#: One dimension of values, and of the numbers of their origins. [–]
_LINE, _INDICES = {"type": "array", "items": _NUMBER}, {"type": "integer", "minimum": 0}


def calibration_schema() -> dict[str, Any]:
    """Return the schema of a calibration file, JSON Schema draft 2020-12."""
    tables = {key: d for key, d in DEFINITIONS.items() if d.axes}
    settings = {key: d for key, d in DEFINITIONS.items() if not d.axes}
    return {
        "$schema": DRAFT,
        "title": "Calibration of Inbetrieb",
        "description": "Tables over their axes and single numbers, each value with its origin. Bounds of a value hold "
        "for generating and editing; a file as found may hold any finite number.",
        "type": "object",
        "required": ["format", "version", "tables"],
        "properties": {
            "format": {"const": FORMAT_NAME},
            "version": {"const": FORMAT_VERSION},
            "tables": {
                "type": "object",
                "additionalProperties": False,
                "properties": {key: _table(d) for key, d in tables.items()},
            },
            "settings": {
                "type": "object",
                "additionalProperties": False,
                "properties": {key: _setting(d) for key, d in settings.items()},
            },
        },
        "$defs": {
            "origin": {
                "type": "object",
                "description": "Where a value comes from.",
                "required": ["kind"],
                "properties": {
                    "kind": {"enum": list(KINDS)},
                    "reason": {"type": "string"},
                    "source": {"type": "string"},
                },
            },
        },
    }


def _axis(names: tuple[str, ...]) -> dict[str, Any]:
    """Return an axis, which may be one of several."""
    choices = [
        {
            "type": "object",
            "title": AXES[name].title,
            "required": ["name", "points"],
            "properties": {
                "name": {"const": name},
                "unit": {"const": AXES[name].unit},
                "points": {
                    "description": "Rising breakpoints.",
                    "type": "array",
                    "minItems": 1,
                    "items": {"type": "number", "minimum": AXES[name].lower, "maximum": AXES[name].upper},
                },
            },
        }
        for name in names
    ]  # fmt: skip
    return choices[0] if len(choices) == 1 else {"oneOf": choices}


def _table(definition: TableDefinition) -> dict[str, Any]:
    ways = (definition.axes, *definition.alternatives)
    dimensions = len(definition.axes)
    axes = [_axis(tuple(dict.fromkeys(way[i] for way in ways))) for i in range(dimensions)]
    values: dict[str, Any] = _LINE if dimensions == 1 else {"type": "array", "items": _LINE}
    return {
        "type": "object",
        **_said(definition),
        "required": ["axes", "values"],
        "properties": {
            "unit": {"const": definition.unit},
            "axes": {"type": "array", "prefixItems": axes, "minItems": dimensions, "items": False},
            "values": values,
            "provenance": _origins(dimensions),
        },
    }


def _setting(definition: TableDefinition) -> dict[str, Any]:
    return {
        "type": "object",
        **_said(definition),
        "required": ["value"],
        "properties": {
            "unit": {"const": definition.unit},
            "value": _NUMBER,
            "provenance": _origins(0),
        },
    }


def _said(definition: TableDefinition) -> dict[str, str]:
    bounds = f"{definition.lower:g} to {definition.upper:g} {definition.unit}".strip()
    return {"title": definition.title, "description": f"{definition.meaning} Bounds: {bounds}."}


def _origins(dimensions: int) -> dict[str, Any]:
    """Return origins as a legend, and for each cell a number in it."""
    cells: dict[str, Any] = _INDICES
    for _ in range(dimensions):
        cells = {"type": "array", "items": cells}
    return {
        "type": "object",
        "required": ["legend", "cells"],
        "properties": {
            "legend": {"type": "array", "items": {"$ref": "#/$defs/origin"}},
            "cells": cells,
        },
    }

"""A calibration: all tables of one engine at one moment, and its plain-data form."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType
from typing import Any

import numpy as np

from ..errors import FieldProblem, InputRefused
from .assumed_dwell import assumed_dwell
from .definitions import DEFINITIONS
from .edits import CellChange, difference
from .provenance import KINDS, Provenance
from .table import Table, TableError, filled, make_axis


@dataclass(frozen=True, eq=False)
class Calibration:
    """All tables, by key.

    Attributes
    ----------
    tables : mapping of str to Table
        Every key of :data:`DEFINITIONS`.
    """

    tables: Mapping[str, Table]

    def __post_init__(self) -> None:
        missing = [key for key in DEFINITIONS if key not in self.tables]
        if missing:
            raise TableError(f"the calibration lacks {', '.join(missing)}")
        object.__setattr__(self, "tables", MappingProxyType(dict(self.tables)))

    def __getitem__(self, key: str) -> Table:
        return self.tables[key]

    def with_table(self, table: Table) -> Calibration:
        """Return the calibration with one table replaced."""
        return Calibration({**self.tables, table.key: table})

    def at_coolant(self, key: str, coolant_c: float) -> float:
        """Return a start table's interpolated value at a coolant temperature. [°C]"""
        return self.tables[key].at(coolant_c)


def calibration_difference(
    before: Calibration, after: Calibration
) -> dict[str, tuple[CellChange, ...]]:
    """Return the changed cells of every table that differs."""
    changes = {key: difference(before[key], after[key]) for key in DEFINITIONS}
    return {key: cells for key, cells in changes.items() if cells}


def to_plain(calibration: Calibration) -> dict[str, Any]:
    """Return a calibration as plain lists and strings, provenance as a legend plus indices."""
    tables: dict[str, Any] = {}
    for key, table in calibration.tables.items():
        legend: list[Provenance] = []
        numbers: dict[Provenance, int] = {}
        cells = np.empty(table.values.shape, dtype=int)
        for index in np.ndindex(table.values.shape):
            mark = table.mark(index)
            if mark not in numbers:
                numbers[mark] = len(legend)
                legend.append(mark)
            cells[index] = numbers[mark]
        tables[key] = {
            "unit": table.definition.unit,
            "axes": [
                {"name": axis.name, "unit": axis.unit, "points": list(axis.points)}
                for axis in table.axes
            ],
            "values": table.values.tolist(),
            "provenance": {
                "legend": [
                    {"kind": mark.kind, "reason": mark.reason, "source": mark.source}
                    for mark in legend
                ],
                "cells": cells.tolist(),
            },
        }
    return tables


def expanded_provenance(plain: dict[str, Any]) -> Any:
    """Return a legend-and-indices provenance as one object per cell, nested as the values."""
    legend = plain["legend"]

    def expand(cells: Any) -> Any:
        return [expand(cell) for cell in cells] if isinstance(cells, list) else legend[cells]

    return expand(plain["cells"])


def from_plain(tables: Mapping[str, Any]) -> Calibration:
    """Return the calibration of a plain form made by :func:`to_plain`, or written elsewhere.

    Raises
    ------
    InputRefused
        With one sentence per table that cannot be read. Provenance may be left out (cells
        then count as carried over), be a legend with indices, or one object per cell.
    """
    problems: list[FieldProblem] = []
    result: dict[str, Table] = {}
    for key in DEFINITIONS:
        entry = tables.get(key) if isinstance(tables, Mapping) else None
        if entry is None:
            problems.append(FieldProblem(f"tables.{key}", f"The table {key} is missing."))
            continue
        try:
            result[key] = _table_from_plain(key, entry)
        except (ValueError, TypeError, KeyError, IndexError, AttributeError) as error:
            sentence = (
                str(error) if isinstance(error, ValueError) else "it is not laid out as a table"
            )
            problems.append(FieldProblem(f"tables.{key}", f"{key}: {sentence}"))
    if [problem.field for problem in problems] == ["tables.dwell"] and "dwell" not in tables:
        # Written before the program knew dwell; the axis is that of the other battery table.
        result["dwell"] = assumed_dwell(result["dead_time"].axes[0])
        problems = []
    if problems:
        raise InputRefused(problems)
    return Calibration(result)


def _table_from_plain(key: str, entry: Mapping[str, Any]) -> Table:
    axes = tuple(
        make_axis(name, axis["points"])
        for name, axis in zip(DEFINITIONS[key].axes, entry["axes"], strict=True)
    )
    values = np.array(entry["values"], dtype=float)
    return Table(key, axes, values, _provenance_from_plain(entry.get("provenance"), values.shape))


def _provenance_from_plain(plain: Any, shape: tuple[int, ...]) -> np.ndarray:
    if plain is None:
        return filled(shape, Provenance("carried_over", "Imported without a stated origin."))
    if isinstance(plain, Mapping):
        plain = expanded_provenance(dict(plain))
    marks = np.empty(shape, dtype=object)
    for index in np.ndindex(shape):
        cell = plain
        for i in index:
            cell = cell[i]
        if cell["kind"] not in KINDS:
            raise TableError(f"unknown provenance '{cell['kind']}'")
        marks[index] = Provenance(
            cell["kind"], str(cell.get("reason", ""))[:500], str(cell.get("source", ""))[:100]
        )
    return marks

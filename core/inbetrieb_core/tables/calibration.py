"""A calibration: all tables of one engine at one moment, and its plain-data form."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from types import MappingProxyType
from typing import Any

import numpy as np

from ..errors import FieldProblem, InputRefused
from ..provenance import KINDS, Provenance
from .assumed_dwell import assumed_dwell
from .definitions import DEFINITIONS
from .edits import CellChange, difference
from .table import Table, TableError, axes_named, filled, make_axis


@dataclass(frozen=True, eq=False)
class Calibration:
    """All tables, by key.

    Attributes
    ----------
    tables : mapping of str to Table
        Every key of :data:`DEFINITIONS` that is not optional, and those others there are; kept
        in the order of the definitions.
    """

    tables: Mapping[str, Table]

    def __post_init__(self) -> None:
        missing = [
            key for key, d in DEFINITIONS.items() if not d.optional and key not in self.tables
        ]
        if missing:
            raise TableError(f"the calibration lacks {', '.join(missing)}")
        ordered = {key: self.tables[key] for key in DEFINITIONS if key in self.tables}
        object.__setattr__(self, "tables", MappingProxyType(ordered))

    def __getitem__(self, key: str) -> Table:
        return self.tables[key]

    def __contains__(self, key: str) -> bool:
        return key in self.tables

    def setting(self, key: str) -> float | None:
        """Return a single number, None where the calibration has none. [unit of the table]"""
        return float(self.tables[key].values) if key in self.tables else None

    def with_table(self, table: Table) -> Calibration:
        """Return the calibration with one table replaced."""
        return Calibration({**self.tables, table.key: table})

    def at_coolant(self, key: str, coolant_c: float) -> float:
        """Return a start table's interpolated value at a coolant temperature. [°C]"""
        return self.tables[key].at(coolant_c)


def calibration_difference(
    before: Calibration, after: Calibration
) -> dict[str, tuple[CellChange, ...]]:
    """Return the changed cells of every table that differs.

    A table that only one of them has, or whose axes differ, is not compared cell by cell; see
    :func:`reshaped_tables`.
    """
    shared = [key for key in before.tables if key in after and before[key].axes == after[key].axes]
    changes = {key: difference(before[key], after[key]) for key in shared}
    return {key: cells for key, cells in changes.items() if cells}


def reshaped_tables(before: Calibration, after: Calibration) -> tuple[str, ...]:
    """Return the keys of tables that only one of two calibrations has, or whose axes differ."""
    return tuple(
        key
        for key in DEFINITIONS
        if (key in before or key in after)
        and not (key in before and key in after and before[key].axes == after[key].axes)
    )


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


def split_settings(tables: Mapping[str, Any]) -> tuple[dict[str, Any], dict[str, Any]]:
    """Return (tables with axes, single numbers) of a plain form, as files and answers keep them."""
    settings = {
        key: {"unit": t["unit"], "value": t["values"], "provenance": t["provenance"]}
        for key, t in tables.items()
        if not t["axes"]
    }
    return {key: t for key, t in tables.items() if t["axes"]}, settings


def joined_settings(tables: Mapping[str, Any], settings: Any) -> dict[str, Any]:
    """Return the plain form of tables and single numbers that were kept apart."""
    joined = dict(tables)
    for key, entry in settings.items() if isinstance(settings, Mapping) else ():
        if isinstance(entry, Mapping):
            joined[key] = {
                "axes": [],
                "values": entry.get("value"),
                "provenance": entry.get("provenance"),
            }
    return joined


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
    given = dict(tables) if isinstance(tables, Mapping) else {}
    result, problems = tables_from_plain({k: t for k, t in given.items() if k in DEFINITIONS})
    for key, definition in DEFINITIONS.items():
        if key not in given and not definition.optional:
            problems.append(FieldProblem(f"tables.{key}", f"The table {key} is missing."))
    if [problem.field for problem in problems] == ["tables.dwell"] and "dwell" not in tables:
        # Written before the program knew dwell; the axis is that of the other battery table.
        result["dwell"] = assumed_dwell(result["dead_time"].axes[0])
        problems = []
    if problems:
        raise InputRefused(problems)
    return Calibration(result)


def tables_from_plain(tables: Mapping[str, Any]) -> tuple[dict[str, Table], list[FieldProblem]]:
    """Return the tables that a plain form holds, few or all, and what is wrong with the others."""
    result: dict[str, Table] = {}
    problems: list[FieldProblem] = []
    for key, entry in tables.items():
        if key not in DEFINITIONS:
            problems.append(FieldProblem(f"tables.{key}", f"There is no table '{str(key)[:40]}'."))
            continue
        try:
            result[key] = _table_from_plain(key, entry)
        except OverflowError:
            problems.append(FieldProblem(f"tables.{key}", f"{key}: a number is beyond any size."))
        except (ValueError, TypeError, KeyError, IndexError, AttributeError) as error:
            sentence = (
                str(error) if isinstance(error, ValueError) else "it is not laid out as a table"
            )
            problems.append(FieldProblem(f"tables.{key}", f"{key}: {sentence}"))
    return result, problems


def _table_from_plain(key: str, entry: Mapping[str, Any]) -> Table:
    names = axes_named(key, (axis.get("name") for axis in entry["axes"]))
    axes = tuple(
        make_axis(name, axis["points"]) for name, axis in zip(names, entry["axes"], strict=True)
    )
    values = np.array(entry["values"], dtype=float)
    return Table(key, axes, values, _provenance_from_plain(entry.get("provenance"), values.shape))


def _provenance_from_plain(plain: Any, shape: tuple[int, ...]) -> np.ndarray:
    if plain is None:
        return filled(shape, Provenance("carried_over", "Imported without a stated origin."))
    if isinstance(plain, Mapping) and "legend" in plain:
        plain = expanded_provenance(dict(plain))
    marks = np.empty(shape, dtype=object)
    for index in np.ndindex(shape):
        cell = plain
        for i in index:
            cell = cell[i]
        if not isinstance(cell, Mapping) or cell.get("kind") not in KINDS:
            raise TableError("a cell has an unknown provenance")
        marks[index] = Provenance(
            cell["kind"], str(cell.get("reason", ""))[:500], str(cell.get("source", ""))[:100]
        )
    return marks

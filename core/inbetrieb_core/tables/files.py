"""Calibrations as files: JSON, and CSV with one line per cell. Formats: docs/formats.md."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Sequence
from typing import Any

import numpy as np

from inbetrieb_core.sentences import plain

from ..errors import CoreError
from ..json_text import json_of
from .calibration import (
    Calibration,
    from_plain,
    joined_settings,
    split_settings,
    to_plain,
)
from .definitions import DEFINITIONS
from .table import Table

FORMAT_NAME = "inbetrieb-calibration"
FORMAT_VERSION = 1
LARGEST_FILE_BYTES = 4 * 1024 * 1024
_HEAD = (
    "table",
    "unit",
    "first_axis",
    "first_unit",
    "first",
    "second_axis",
    "second_unit",
    "second",
    "value",
    "provenance",
    "reason",
    "source",
)
#: A spreadsheet takes a text that begins like this for a formula.
_FORMULA = ("=", "+", "-", "@", "\t", "\r")


class CalibrationFileError(CoreError):
    """A file is not a calibration."""


def write_json(
    calibration: Calibration, about: dict[str, Any], only: Sequence[Table] | None = None
) -> bytes:
    """Return a calibration, or some tables of it, as JSON text; `about` is kept beside them."""
    tables = to_plain(calibration)
    if only is not None:
        tables = {table.key: tables[table.key] for table in only}
    with_axes, settings = split_settings(tables)
    document = {
        "format": FORMAT_NAME,
        "version": FORMAT_VERSION,
        **about,
        "tables": with_axes,
        "settings": settings,
    }
    return plain(json.dumps(document, ensure_ascii=False, indent=1)).encode()


def write_csv(calibration: Calibration) -> bytes:
    """Return a calibration as CSV text, one line per cell."""
    out = io.StringIO()
    writer = csv.writer(out)
    writer.writerow(_HEAD)
    for key, table in calibration.tables.items():
        for index in np.ndindex(table.values.shape):
            places: list[object] = []
            for axis, i in zip(table.axes, index, strict=True):
                places += [axis.name, axis.unit, _plain(axis.points[i])]
            places += [""] * (6 - len(places))
            mark = table.mark(index)
            writer.writerow(
                [
                    key,
                    table.definition.unit,
                    *places,
                    _plain(float(table.values[index])),
                    mark.kind,
                    harmless(plain(mark.reason)),
                    harmless(mark.source),
                ]
            )
    return out.getvalue().encode("utf-8-sig")


def _plain(value: float) -> str:
    return repr(float(value)).removesuffix(".0")


def harmless(text: str) -> str:
    """Return a text that no spreadsheet takes for a formula."""
    return f"'{text}" if text.startswith(_FORMULA) else text


def read_calibration(data: bytes) -> Calibration:
    """Return the calibration of a file written by :func:`write_json` or :func:`write_csv`.

    Raises
    ------
    CalibrationFileError
        If the file is too large, or neither of the two formats.
    InputRefused
        If a table in it cannot be used; one sentence each.
    """
    if len(data) > LARGEST_FILE_BYTES:
        raise CalibrationFileError("The file is larger than any calibration.")
    return from_plain(plain_tables(decoded(data)))


def decoded(data: bytes) -> str:
    """Return the text of a file.

    Raises
    ------
    CalibrationFileError
        If it is not UTF-8.
    """
    try:
        return data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise CalibrationFileError("The file is not UTF-8 text.") from error


def is_one_file(text: str) -> bool:
    """Return whether a text is a whole calibration in one file, JSON or CSV."""
    return text.lstrip().startswith("{") or set(_HEAD[:9]) <= set(
        text.split("\n", 1)[0].strip().split(",")
    )


def plain_tables(text: str) -> dict[str, Any]:
    """Return the tables of a calibration in one file, JSON or CSV, in their plain form.

    Raises
    ------
    CalibrationFileError
        If it is neither.
    """
    return _json_tables(text) if text.lstrip().startswith("{") else _csv_tables(text)


def _json_tables(text: str) -> dict[str, Any]:
    try:
        document = json_of(text)
    except ValueError as error:
        raise CalibrationFileError(
            "The file begins like JSON but cannot be read as JSON."
        ) from error
    if document.get("format") != FORMAT_NAME:
        raise CalibrationFileError(f'The file does not say "format": "{FORMAT_NAME}".')
    if document.get("version") != FORMAT_VERSION:
        raise CalibrationFileError(
            f"The file has version {document.get('version')}; this program reads version {FORMAT_VERSION}."
        )
    tables = document.get("tables")
    if not isinstance(tables, dict):
        raise CalibrationFileError("The file has no tables.")
    return joined_settings(tables, document.get("settings"))


def _csv_tables(text: str) -> dict[str, Any]:
    try:
        rows = list(csv.DictReader(io.StringIO(text)))
    except csv.Error as error:
        raise CalibrationFileError("The file is neither JSON nor CSV text.") from error
    if not rows or not set(_HEAD[:9]) <= set(rows[0]):
        raise CalibrationFileError(
            "The file is not a calibration: its first line must name " + ", ".join(_HEAD[:9]) + "."
        )
    tables: dict[str, Any] = {}
    for key, definition in DEFINITIONS.items():
        cells = [row for row in rows if row["table"] == key]
        if not cells:
            continue
        try:
            tables[key] = _table_of_cells(cells, len(definition.axes))
        except (ValueError, TypeError, KeyError) as error:
            raise CalibrationFileError(f"{key}: a cell is missing or not a number.") from error
    return tables


def _table_of_cells(cells: list[dict[str, str]], dimensions: int) -> dict[str, Any]:
    places = ("first", "second")[:dimensions]
    axes = [sorted({float(cell[place]) for cell in cells}) for place in places]
    names = [cells[0].get(f"{place}_axis") for place in places]
    by_place = {tuple(float(cell[place]) for place in places): cell for cell in cells}

    def value(place: tuple[float, ...]) -> float:
        return float(by_place[place]["value"])

    def mark(place: tuple[float, ...]) -> dict[str, str]:
        cell = by_place[place]
        return {
            "kind": cell.get("provenance") or "carried_over",
            "reason": (cell.get("reason") or "").removeprefix("'"),
            "source": (cell.get("source") or "").removeprefix("'"),
        }

    if dimensions == 0:
        return {"axes": [], "values": value(()), "provenance": mark(())}
    if dimensions == 1:
        values: Any = [value((x,)) for x in axes[0]]
        marks: Any = [mark((x,)) for x in axes[0]]
    else:
        values = [[value((x, y)) for y in axes[1]] for x in axes[0]]
        marks = [[mark((x, y)) for y in axes[1]] for x in axes[0]]
    named = [{"name": n, "points": points} for n, points in zip(names, axes, strict=True)]
    return {"axes": named, "values": values, "provenance": marks}

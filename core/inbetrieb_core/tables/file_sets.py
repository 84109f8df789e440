"""Calibrations as sets of files: one CSV for each table in an archive, and a workbook."""

from __future__ import annotations

import csv
import io
import struct
import zipfile
import zlib
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from inbetrieb_core.sentences import plain

from ..delimited import first_mark, rows_of
from ..errors import InputRefused
from ..provenance import Provenance
from .calibration import tables_from_plain
from .definitions import DEFINITIONS
from .files import (
    LARGEST_FILE_BYTES,
    CalibrationFileError,
    decoded,
    harmless,
    is_one_file,
    plain_tables,
)
from .grids import Cell, grid_of, read_grid_table
from .table import Index, Table

_MOST_MEMBERS = 80
_MOST_UNPACKED_BYTES = 24 * 1024 * 1024
_MOST_ROWS, _MOST_COLUMNS = 80, 80
_CONTENTS = "Contents"
_ORIGINS = "Origins"


def write_table_csv(table: Table) -> bytes:
    """Return one table as CSV text, laid out as :mod:`.grids` says."""
    out = io.StringIO()
    csv.writer(out).writerows(grid_of(table))
    return out.getvalue().encode("utf-8-sig")


def write_csv_set(tables: Iterable[Table]) -> bytes:
    """Return an archive with one CSV for each table, named by its key."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for table in tables:
            # A fixed date: the same calibration gives the same file.
            entry = zipfile.ZipInfo(f"{table.key}.csv", (2000, 1, 1, 0, 0, 0))
            entry.compress_type = zipfile.ZIP_DEFLATED
            archive.writestr(entry, write_table_csv(table))
    return out.getvalue()


def write_workbook(tables: Sequence[Table], title: str) -> bytes:
    """Return a spreadsheet workbook: contents, one sheet for each table, and where cells come from."""
    from openpyxl import Workbook

    book = Workbook()
    contents = book.active
    contents.title = _CONTENTS
    contents.append([harmless(title)])
    contents.append(["table", "title", "unit", "meaning"])
    origins = book.create_sheet(_ORIGINS)
    origins.append(["table", "place", "origin", "reason", "source"])
    for table in tables:
        definition = table.definition
        contents.append([table.key, definition.title, definition.unit, definition.meaning])
        sheet = book.create_sheet(table.key)
        for row in grid_of(table):
            sheet.append(row)
        if table.axes:
            sheet.freeze_panes = "B3"
        for index, mark in _marks(table):
            origin = (mark.kind, harmless(plain(mark.reason)), harmless(mark.source))
            origins.append([table.key, table.place(index), *origin])
    out = io.BytesIO()
    book.save(out)
    return out.getvalue()


def _marks(table: Table) -> Iterator[tuple[Index, Provenance]]:
    """Yield each origin of a table once, at the first cell that has it."""
    seen = set()
    for index in np.ndindex(table.values.shape):
        mark = table.mark(index)
        if mark not in seen:
            seen.add(mark)
            yield index, mark


@dataclass(frozen=True)
class FoundTables:
    """What a file holds of a calibration.

    Attributes
    ----------
    tables : tuple of Table
    understood, passed_over : tuple of str
        What was read, and what was not, each with its reason.
    """

    tables: tuple[Table, ...]
    understood: tuple[str, ...]
    passed_over: tuple[str, ...]


def find_tables(data: bytes, name: str = "") -> FoundTables:
    """Return every table of a file: JSON, CSV, an archive of CSV files, or a workbook.

    Parameters
    ----------
    data : bytes
        The file.
    name : str
        Its name, for the provenance of its cells.

    Raises
    ------
    CalibrationFileError
        If it is too large, or there is no table in it.
    """
    if len(data) > LARGEST_FILE_BYTES:
        raise CalibrationFileError("The file is larger than any calibration.")
    reason = f"Found in {name or 'a file'}."
    if is_packed(data):
        found = _from_archive(data, reason)
    else:
        found = _from_text(decoded(data), name, reason)
    if not found.tables:
        raise CalibrationFileError(
            "There is no table in it that could be read. " + " ".join(found.passed_over[:6])
        )
    return found


def is_packed(data: bytes) -> bool:
    """Return whether a file is an archive or a workbook."""
    return data[:4] == b"PK\x03\x04"


def _from_text(text: str, name: str, reason: str) -> FoundTables:
    if is_one_file(text):
        tables, problems = tables_from_plain(plain_tables(text))
        return FoundTables(
            tuple(tables.values()),
            (f"{len(tables)} tables in one file.",),
            tuple(problem.sentence for problem in problems),
        )
    stem = name.rsplit("/", 1)[-1].rsplit(".", 1)[0]
    return _found([(stem, _rows(text))], reason)


def _rows(text: str) -> list[list[Cell]]:
    """Return the cells of separated text; the separator is the one that is there."""
    lines = text.splitlines()[: _MOST_ROWS + 2]
    return [list(row) for row in rows_of(lines, first_mark(lines[:4], "\t;", ","))]


#: What the library raises over archives that are damaged, locked, or of a version to come.
_UNREADABLE = (
    zipfile.BadZipFile, RuntimeError, NotImplementedError, OSError, ValueError, EOFError, zlib.error,
    struct.error, OverflowError, IndexError,
)  # fmt: skip


def _from_archive(data: bytes, reason: str) -> FoundTables:
    try:
        archive = zipfile.ZipFile(io.BytesIO(data))
        members = [entry for entry in archive.infolist() if not entry.is_dir()]
    except _UNREADABLE as error:
        raise CalibrationFileError(
            "The archive is damaged, or packed in a way not known here."
        ) from error
    if len(members) > _MOST_MEMBERS or sum(m.file_size for m in members) > _MOST_UNPACKED_BYTES:
        raise CalibrationFileError("The archive holds more than any calibration.")
    if any(entry.filename.startswith("xl/") for entry in members):
        return _from_workbook(data, reason)
    grids = []
    passed = []
    for entry in members:
        if not entry.filename.lower().endswith(".csv"):
            passed.append(f"{entry.filename[:60]}: not a CSV file.")
            continue
        try:
            text = decoded(archive.read(entry))
        except (CalibrationFileError, *_UNREADABLE):
            passed.append(f"{entry.filename[:60]}: cannot be read as text.")
            continue
        grids.append((entry.filename.rsplit("/", 1)[-1][:-4], _rows(text)))
    found = _found(grids, reason)
    return FoundTables(found.tables, found.understood, (*passed, *found.passed_over))


def _from_workbook(data: bytes, reason: str) -> FoundTables:
    from openpyxl import load_workbook

    try:
        # Twice: once for the values that were last computed, once to see where formulas stand.
        values = load_workbook(io.BytesIO(data), read_only=True, data_only=True)
        formulas = load_workbook(io.BytesIO(data), read_only=True)
        grids = [(sheet.title, _sheet_rows(sheet)) for sheet in values.worksheets]
        written = {sheet.title: _sheet_rows(sheet) for sheet in formulas.worksheets}
    except MemoryError:
        raise  # that it is too large says whoever bounds the reading
    except Exception as error:  # the library raises whatever the broken part of the file makes it
        raise CalibrationFileError(
            "The workbook cannot be read; it is damaged or locked."
        ) from error
    said = []
    for title, rows in grids:
        computed = [
            (i, j)
            for i, row in enumerate(written.get(title, []))
            for j, cell in enumerate(row)
            if isinstance(cell, str) and cell.startswith("=")
        ]
        lost = sum(
            1 for i, j in computed if i < len(rows) and j < len(rows[i]) and rows[i][j] is None
        )
        if computed:
            said.append(
                f"{title}: {len(computed)} cells are formulas; the values they last had were taken"
                + (
                    f", {lost} of them have none: open the workbook, save it, try again."
                    if lost
                    else "."
                )
            )
    wanted = [(title, rows) for title, rows in grids if title not in (_CONTENTS, _ORIGINS)]
    found = _found(wanted, reason)
    return FoundTables(found.tables, (*found.understood, *said), found.passed_over)


def _sheet_rows(sheet: object) -> list[list[Cell]]:
    rows = sheet.iter_rows(max_row=_MOST_ROWS, max_col=_MOST_COLUMNS, values_only=True)  # type: ignore[attr-defined]
    result: list[list[Cell]] = []
    for row in rows:
        cells: list[Cell] = [
            c if isinstance(c, str | int | float) or c is None else str(c) for c in row
        ]
        result.append(cells)
    return result


def _found(grids: Iterable[tuple[str, list[list[Cell]]]], reason: str) -> FoundTables:
    tables: dict[str, Table] = {}
    understood, passed = [], []
    for name, rows in grids:
        if not any(any(str(c or "").strip() for c in row) for row in rows):
            continue
        try:
            read = read_grid_table(rows, name if name in DEFINITIONS else "", reason)
        except InputRefused as error:
            passed.append(f"{name[:60] or 'The file'}: {error}")
            continue
        if read.table.key in tables:
            passed.append(f"{name[:60]}: {read.table.key} is there twice; the first was taken.")
            continue
        tables[read.table.key] = read.table
        shape = " × ".join(map(str, read.table.values.shape)) or "one number"
        understood.append(
            f"{read.table.definition.title}: {shape}." + "".join(f" {s}" for s in read.sentences)
        )
    return FoundTables(tuple(tables.values()), tuple(understood), tuple(passed))

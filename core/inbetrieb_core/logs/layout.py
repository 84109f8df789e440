"""The layout of a text log: encoding, separator, decimal mark, head, units row, data."""

from __future__ import annotations

import codecs
import csv
import io
import re
from dataclasses import dataclass

from ..errors import LogRefused
from ..quantities import recognise_unit

_SEPARATORS = ("\t", ";", ",", "|", " ")
_NUMBER = re.compile(r"^[+-]?(\d+([.,]\d*)?|[.,]\d+)([eE][+-]?\d+)?$")
_CLOCK = re.compile(
    r"^(\d{4}-\d\d-\d\d[T ]|\d{1,2}[./]\d{1,2}[./]\d{2,4} )?\d{1,3}:\d{2}(:\d{2})?([.,:]\d+)?Z?$"
)
_EMPTY = {
    "",
    "-",
    "--",
    "nan",
    "null",
    "na",
    "n/a",
    "none",
    "inf",
    "-inf",
    "+inf",
    "infinity",
    "-infinity",
    "#n/a",
}
_HEAD_LINES = 200
_SIGNATURES = {
    b"\xff\xd8\xff": "a JPEG photo",
    b"\x89PNG": "a PNG picture",
    b"GIF8": "a GIF picture",
    b"%PDF": "a PDF document",
    b"PK\x03\x04": "a zip archive or a spreadsheet workbook",
    b"\x1f\x8b": "a compressed file",
    b"RIFF": "a media file",
    b"\xd0\xcf\x11\xe0": "an old office file",
}


@dataclass(frozen=True)
class Layout:
    """How a text log is laid out.

    Attributes
    ----------
    text : bytes
        The whole file in UTF-8, without byte-order mark.
    encoding : str
        Encoding it was read from.
    separator : str
        Between cells.
    decimal_comma : bool
        Whether numbers are written 1,5.
    head_line : int
        Line of the column heads, from 0.
    data_line : int
        First line of data.
    headers : tuple of str
        Column heads as written.
    units : tuple of str
        From a units row; empty strings without one.
    first_rows : tuple of tuple of str
        Some rows of data as text.
    problems : tuple of str
        What was odd, in sentences.
    """

    text: bytes
    encoding: str
    separator: str
    decimal_comma: bool
    head_line: int
    data_line: int
    headers: tuple[str, ...]
    units: tuple[str, ...]
    first_rows: tuple[tuple[str, ...], ...]
    problems: tuple[str, ...]


def read_layout(data: bytes) -> Layout:
    """Return how a text log is laid out.

    Parameters
    ----------
    data : bytes
        The file.

    Raises
    ------
    LogRefused
        If it is empty, not text, or has no table of numbers with a head.
    """
    if not data.strip():
        raise LogRefused("The file is empty.")
    text, encoding = _decode(data)
    if b"\n" not in text:  # lines of an old system end in a carriage return alone
        text = text.replace(b"\r", b"\n")
    begin = text[: 1 << 20].decode("utf-8", errors="ignore").splitlines()[:_HEAD_LINES]
    problems: list[str] = []
    if encoding not in ("utf-8", "utf-16"):
        problems.append(f"The text is not UTF-8; it was read as {encoding}.")
    best: tuple[float, str, int] | None = None
    for separator in _SEPARATORS:
        rows = _rows(begin, separator)
        line = _first_data_line(rows)
        if line is None:
            continue
        width = len(rows[line])
        if width < 2:
            continue
        numbers = sum(_is_number(cell, separator) for row in rows[line : line + 20] for cell in row)
        cells = sum(len(row) for row in rows[line : line + 20])
        score = numbers / max(cells, 1) * min(width, 8) + 0.001 * width
        if separator == " ":  # blanks beside another separator are only padding
            score *= 0.5
        if best is None or score > best[0]:
            best = (score, separator, line)
    if best is None:
        raise LogRefused(
            "No table of numbers with column heads was found in the file. A log is text with "
            "one line per sample and the names of the columns above."
        )
    _, separator, line = best
    rows = _rows(begin, separator)
    if separator == " ":  # any run of blanks parts two cells
        text = re.sub(rb"(?m)^[ \t]+", b"", re.sub(rb"[ \t]+", b"\t", text))
        separator = "\t"
    elif any(f" {separator}" in row or row.endswith(" ") for row in begin[line : line + 20]):
        mark = re.escape(separator.encode())
        text = re.sub(rb"(?m) +(?=" + mark + rb"|\r?$)", b"", text)
    elif separator == "," and _uses_decimal_comma(rows[line : line + 20]):
        text, separator = _with_semicolons(text), ";"  # "1,5" in quotes between commas
    return _assemble(text, encoding, separator, rows, line, problems)


def _assemble(
    text: bytes,
    encoding: str,
    separator: str,
    rows: list[list[str]],
    line: int,
    problems: list[str],
) -> Layout:
    width = len(rows[line])
    units: list[str] = [""] * width
    head = line - 1
    while head >= 0 and not any(cell.strip() for cell in rows[head]):
        head -= 1
    if head >= 1 and _is_units_row(rows[head]) and len(rows[head - 1]) >= 2:
        units = [cell.strip() for cell in rows[head]]
        head -= 1
        while head > 0 and not any(cell.strip() for cell in rows[head]):
            head -= 1
    if head < 0:
        raise LogRefused("The columns have no names: the file begins with numbers.")
    headers = [cell.strip().strip('"').strip() for cell in rows[head]]
    if len(headers) < 2:
        raise LogRefused("The columns have no names: the line above the numbers is not a head.")
    if head > 0:
        problems.append(f"{head} line(s) before the column heads were passed over.")
    if len(headers) > width:
        headers = headers[:width] if not any(headers[width:]) else headers
    width = max(width, len(headers))
    headers += [f"column {i + 1}" for i in range(len(headers), width)]
    units = (units + [""] * width)[:width]
    data_rows = [row for row in rows[line:] if any(cell.strip() for cell in row)][:50]
    decimal_comma = separator != "," and _uses_decimal_comma(data_rows)
    seen: dict[str, int] = {}
    for number, header in enumerate(headers):
        if header and header in seen:
            problems.append(
                f"The column name '{header}' occurs twice (columns {seen[header] + 1} and {number + 1})."
            )
        seen.setdefault(header, number)
    return Layout(
        text,
        encoding,
        separator,
        decimal_comma,
        head,
        line,
        tuple(headers),
        tuple(units),
        tuple(tuple(cell.strip() for cell in row) for row in data_rows),
        tuple(problems),
    )


def _with_semicolons(text: bytes) -> bytes:
    out = io.StringIO()
    try:
        csv.writer(out, delimiter=";").writerows(csv.reader(io.StringIO(text.decode("utf-8"))))
    except csv.Error as error:
        raise LogRefused("The quoted cells of the file cannot be told apart.") from error
    return out.getvalue().encode()


def _decode(data: bytes) -> tuple[bytes, str]:
    for signature, what in _SIGNATURES.items():
        if data.startswith(signature):
            raise LogRefused(f"This is {what}, not a text log. Export the log as CSV text.")
    if data.startswith(codecs.BOM_UTF8):
        data = data[3:]
    for mark in (codecs.BOM_UTF16_LE, codecs.BOM_UTF16_BE):
        if data.startswith(mark):
            try:
                return data.decode("utf-16").encode(), "utf-16"
            except UnicodeDecodeError as error:
                raise LogRefused("The file is damaged: its UTF-16 text cannot be read.") from error
    if b"\x00" in data[:4096]:
        for encoding, zero in (("utf-16-le", 1), ("utf-16-be", 0)):
            begin = data[:400]
            if begin[zero::2].count(0) > 0.8 * len(begin[zero::2]):
                return data.decode(encoding, errors="replace").encode(), "utf-16"
        raise LogRefused("This is a binary file, not a text log. Export the log as CSV text.")
    try:
        data.decode("utf-8")
    except UnicodeDecodeError:
        control = sum(byte < 9 or 13 < byte < 32 for byte in data[:4096])
        if control > 0.02 * min(len(data), 4096):
            raise LogRefused(
                "This is a binary file, not a text log. Export the log as CSV text."
            ) from None
        return data.decode("cp1252", errors="replace").encode(), "Windows-1252"
    return data, "utf-8"


def _rows(lines: list[str], separator: str) -> list[list[str]]:
    if separator == " ":
        return [line.split() for line in lines]
    try:
        return list(csv.reader(lines, delimiter=separator))
    except csv.Error:
        return [line.split(separator) for line in lines]


def _is_number(cell: str, separator: str) -> bool:
    cell = cell.strip().strip('"').strip()
    if cell.lower() in _EMPTY:
        return False
    if separator == "," and "," in cell:
        return False
    return bool(_NUMBER.match(cell) or _CLOCK.match(cell))


def _first_data_line(rows: list[list[str]]) -> int | None:
    """Return the first line that is mostly numbers and followed by such lines or the end."""
    for i, row in enumerate(rows):
        filled = [cell for cell in row if cell.strip().strip('"').lower() not in _EMPTY]
        if len(row) < 2 or not filled:
            continue
        numeric = [_is_number(cell, ",") or _is_number(cell, ";") for cell in filled]
        if sum(numeric) < max(1, 0.5 * len(filled)):
            continue
        following = [r for r in rows[i + 1 : i + 4] if any(cell.strip() for cell in r)]
        if i > 0 and all(abs(len(r) - len(row)) <= 1 or len(r) <= len(row) for r in following):
            return i
        if i == 0:
            return 0
    return None


def _is_units_row(row: list[str]) -> bool:
    filled = [cell.strip().strip('"') for cell in row if cell.strip().strip('"')]
    if not filled:
        return False
    known = sum(recognise_unit(cell) is not None for cell in filled)
    return known >= 0.5 * len(filled)


def _uses_decimal_comma(rows: list[list[str]]) -> bool:
    with_comma = sum(
        "," in cell and bool(_NUMBER.match(cell.strip().strip('"'))) for row in rows for cell in row
    )
    with_point = sum(
        "." in cell and bool(_NUMBER.match(cell.strip().strip('"'))) for row in rows for cell in row
    )
    return with_comma > with_point


def is_clock(cell: str) -> bool:
    """Say whether a cell is a clock time such as 10:32:07.5 or 2025-03-01 10:32:07."""
    return bool(_CLOCK.match(cell.strip().strip('"')))

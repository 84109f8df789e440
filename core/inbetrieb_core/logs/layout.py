"""The layout of a text log: encoding, separator, decimal mark, head, units row, data."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import BinaryIO

from ..delimited import (
    Columns,
    NotText,
    as_stream,
    best_mark,
    first_lines,
    is_empty,
    is_number,
    rows_of,
    uses_decimal_comma,
)
from ..errors import LogRefused
from ..quantities import recognise_unit

_HEAD_LINES = 200


@dataclass(frozen=True)
class Layout:
    """How a text log is laid out.

    Attributes
    ----------
    encoding : str
        Encoding it was read from.
    separator : str
        Between cells; a blank stands for any run of blanks.
    decimal_comma : bool
        Whether numbers are written 1,5.
    loose : bool
        Whether cells have blanks around them, or quoted ones have commas of their own.
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

    encoding: str
    separator: str
    decimal_comma: bool
    loose: bool
    head_line: int
    data_line: int
    headers: tuple[str, ...]
    units: tuple[str, ...]
    first_rows: tuple[tuple[str, ...], ...]
    problems: tuple[str, ...]

    def columns(self, wanted: tuple[int, ...], texts: frozenset[int]) -> Columns:
        """Return how the rows are read: some of the columns, and which of them stay text."""
        return Columns(
            self.separator, len(self.headers), wanted, texts, self.decimal_comma, self.loose
        )


def read_layout(source: bytes | BinaryIO) -> Layout:
    """Return how a text log is laid out, from its beginning.

    Parameters
    ----------
    source : bytes or binary stream
        The file.

    Raises
    ------
    LogRefused
        If it is empty, not text, or has no table of numbers with a head.
    """
    try:
        begin, encoding = first_lines(as_stream(source))
    except NotText as error:
        raise LogRefused(f"{error}".replace("not text", "not a text log")) from error
    begin = begin[:_HEAD_LINES]
    problems: list[str] = []
    if encoding not in ("UTF-8", "UTF-16"):
        problems.append(f"The text is not UTF-8; it was read as {encoding}.")
    separator = best_mark(begin, _score)
    if separator is None:
        raise LogRefused(
            "No table of numbers with column heads was found in the file. A log is text with "
            "one line per sample and the names of the columns above."
        )
    return _assemble(begin, encoding, separator, problems)


def _score(rows: list[list[str]], separator: str) -> tuple[float, ...] | None:
    """Return how much like a table of numbers the rows are."""
    line = _first_data_line(rows)
    if line is None or len(rows[line]) < 2:
        return None
    width, looked_at = len(rows[line]), rows[line : line + 20]
    numbers = sum(_is_number_between(cell, separator) for row in looked_at for cell in row)
    score = numbers / max(sum(map(len, looked_at)), 1) * min(width, 8) + 0.001 * width
    # blanks beside another separator are only padding
    return (0.5 * score if separator == " " else score,)


def _is_number_between(cell: str, separator: str) -> bool:
    return is_number(cell) and not (separator == "," and "," in cell)


def _assemble(begin: Sequence[str], encoding: str, separator: str, problems: list[str]) -> Layout:
    rows = rows_of(begin, separator)
    line = _first_data_line(rows)
    assert line is not None  # the separator was chosen by it
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
    headers = list(rows[head])
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
    decimal_comma = uses_decimal_comma(data_rows)
    padded = separator != " " and any(
        f" {separator}" in text or text.endswith(" ") for text in begin[line : line + 20]
    )
    seen: dict[str, int] = {}
    for number, header in enumerate(headers):
        if header and header in seen:
            problems.append(
                f"The column name '{header}' occurs twice (columns {seen[header] + 1} and {number + 1})."
            )
        seen.setdefault(header, number)
    return Layout(
        encoding,
        separator,
        decimal_comma,
        padded or (decimal_comma and separator == ","),
        head,
        line,
        tuple(headers),
        tuple(units),
        tuple(tuple(cell.strip() for cell in row) for row in data_rows),
        tuple(problems),
    )


def _first_data_line(rows: list[list[str]]) -> int | None:
    """Return the first line that is mostly numbers and followed by such lines or the end."""
    for i, row in enumerate(rows):
        filled = [cell for cell in row if not is_empty(cell)]
        if len(row) < 2 or not filled:
            continue
        numeric = [is_number(cell) for cell in filled]
        if sum(numeric) < max(1, 0.5 * len(filled)):
            continue
        following = [r for r in rows[i + 1 : i + 4] if any(cell.strip() for cell in r)]
        # A date above the heads is no data: the rows below it are wider.
        alike = all(abs(len(r) - len(row)) <= 1 or len(r) <= len(row) for r in following)
        if alike and not _heads_follow(rows[i + 1 :], len(row)):
            return i
    return None


def _heads_follow(rows: list[list[str]], width: int) -> bool:
    """Say whether a row of words, and not of numbers, comes next: then this was none of data."""
    following = [row for row in rows[:3] if any(cell.strip() for cell in row)]
    if not following or len(following[0]) < max(2, width):
        return False
    filled = [cell for cell in following[0] if not is_empty(cell)]
    return len(filled) >= 2 and not any(is_number(cell) for cell in filled)


def _is_units_row(row: list[str]) -> bool:
    filled = [cell for cell in row if cell]
    if not filled:
        return False
    known = sum(recognise_unit(cell) is not None for cell in filled)
    return known >= 0.5 * len(filled)

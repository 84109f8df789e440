"""From lines to cells: which mark parts the columns, and the cells themselves."""

from __future__ import annotations

import csv
import re
from collections.abc import Callable, Sequence

from .labels import LONGEST_CELL
from .numbers import bare

#: Marks that part columns, the surest first; a blank stands for any run of them.
MARKS = ("\t", ";", ",", "|", " ")
#: A comma followed by blanks: it parts columns even where numbers have a decimal comma.
COMMA_AND_BLANK = ", "


def parted(line: str, mark: str) -> list[str]:
    """Return the cells of one line, without blanks and quotes around them.

    Parameters
    ----------
    line : str
        Without its end.
    mark : str
        One of :data:`MARKS`, or :data:`COMMA_AND_BLANK`.
    """
    return [bare(cell[:LONGEST_CELL]) for cell in _cells(line, mark)]


def _cells(line: str, mark: str) -> list[str]:
    if mark == " ":
        return line.split()
    if mark == COMMA_AND_BLANK:
        return re.split(r",\s+", line)
    if '"' in line:
        try:
            return next(csv.reader([line], delimiter=mark))
        except (csv.Error, StopIteration):
            pass
    return line.split(mark)


def rows_of(lines: Sequence[str], mark: str) -> list[list[str]]:
    """Return the cells of lines, without blanks and quotes around them."""
    return [parted(line, mark) for line in lines]


def best_mark(
    lines: Sequence[str],
    score: Callable[[list[list[str]], str], tuple[float, ...] | None],
    marks: Sequence[str] = MARKS,
) -> str | None:
    """Return the mark whose rows score best; the first of equals.

    Parameters
    ----------
    lines : sequence of str
        Some lines from the beginning.
    score : callable
        Of the rows and the mark; None where the mark cannot be.
    marks : sequence of str
        To choose from.

    Returns
    -------
    str or None
        None where no mark can be.
    """
    scored = [(score(rows_of(lines, mark), mark), mark) for mark in marks]
    possible = [(value, mark) for value, mark in scored if value is not None]
    return max(possible, key=lambda pair: pair[0])[1] if possible else None


def first_mark(lines: Sequence[str], marks: Sequence[str], otherwise: str) -> str:
    """Return the first of the marks that occurs at all, else another."""
    return next((mark for mark in marks if any(mark in line for line in lines)), otherwise)

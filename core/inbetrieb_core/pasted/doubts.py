"""What pasted numbers may have meant otherwise: it is asked, never guessed in silence."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from ..quantities import written_unit
from .columns import WantedColumn


@dataclass(frozen=True)
class Doubt:
    """Something that may have been meant otherwise; it is asked, not guessed.

    Attributes
    ----------
    column : str
        Key of the wanted column.
    sentence : str
        What is odd, and what it would be then.
    factor : float
        By which its values are multiplied if so. [–]
    """

    column: str
    sentence: str
    factor: float


#: A number as it stands, and perhaps its unit.
_SPLIT_UNIT = re.compile(r"^([+\-−]?[\d.,'’]*\d)(\s*[^\d\s;|,].{0,20})?$")
#: Marks that can only part thousands: twice or more, or an apostrophe, or before the other mark.
_GROUPED = {
    "’": re.compile(r"^\d{1,3}(?:’\d{3})+(?:[.,]\d+)?$"),
    "'": re.compile(r"^\d{1,3}(?:'\d{3})+(?:[.,]\d+)?$"),
    ",": re.compile(r"^\d{1,3}(?:,\d{3}){2,}(?:\.\d+)?$|^\d{1,3}(?:,\d{3})+\.\d+$"),
    ".": re.compile(r"^\d{1,3}(?:\.\d{3}){2,}(?:,\d+)?$|^\d{1,3}(?:\.\d{3})+,\d+$"),
}
_MAYBE_GROUPED = re.compile(r"^[1-9]\d{0,2},\d{3}$")
_WHOLE, _WITH_POINT = re.compile(r"^\d+$"), re.compile(r"^\d+\.\d+$")
#: Whole numbers up to here go on where numbers of thousands end.
_GOES_ON = 100


def without_thousands(
    cells: Sequence[Sequence[str]],
    places: Sequence[int],
    wanted: Sequence[WantedColumn],
) -> tuple[list[list[str]], list[str], list[Doubt]]:
    """Return cells without the marks that part thousands, what is said of them, and what is asked.

    Parameters
    ----------
    cells : sequence of rows
        As pasted.
    places : sequence of int
        Where each wanted column stands.
    wanted : sequence of WantedColumn
        Those that are looked for.

    Notes
    -----
    "16,867" is either; where nothing else in the column tells, it is asked.
    """
    result, said, doubts = [list(row) for row in cells], [], []
    for place, column in zip(places, wanted, strict=True):
        found = [_SPLIT_UNIT.match(row[place]) if place < len(row) else None for row in result]
        numbers = [match.group(1).lstrip("+-−") for match in found if match]
        mark = _group_mark(numbers)
        if mark:
            for row, match in zip(result, found, strict=True):
                if match:
                    row[place] = match.group(1).replace(mark, "") + (match.group(2) or "")
            said.append(f"{column.title}: marks between thousands were left out.")
        elif (maybe := _maybe_grouped(numbers)) is not None:
            doubts.append(
                Doubt(
                    column.key,
                    f"{column.title}: '{maybe}' was read as {maybe.replace(',', '.')}. Is the comma a mark "
                    f"between thousands, {maybe.replace(',', '')}?",
                    1000.0,
                )
            )
    return result, said, doubts


def _group_mark(numbers: Sequence[str]) -> str:
    """Return the mark that parts thousands in a column, empty where none does for sure."""
    for mark, grouped in _GROUPED.items():
        if any(grouped.match(number) for number in numbers):
            return mark
    if _maybe_grouped(numbers) is None:
        return ""
    # Beside numbers with a point, or whole ones that go on where these end, a comma parts thousands.
    points = any(_WITH_POINT.match(number) for number in numbers)
    whole = [int(number) for number in numbers if _WHOLE.match(number)]
    return "," if points or max(whole, default=0) > _GOES_ON else ""


def _maybe_grouped(numbers: Sequence[str]) -> str | None:
    """Return a number whose comma may part thousands; None where another comma is a decimal mark."""
    with_comma = [number for number in numbers if "," in number]
    if with_comma and all(_MAYBE_GROUPED.match(number) for number in with_comma):
        return with_comma[0]
    return None


def odd_sizes(rows: Sequence[Sequence[float]], wanted: Sequence[WantedColumn]) -> list[Doubt]:
    """Return columns whose values have an odd size, with the unit that would explain it."""
    doubts = []
    for place, column in enumerate(wanted):
        largest = max(abs(row[place]) for row in rows)
        if column.usual[0] <= largest <= column.usual[1]:
            continue
        for unit, factor in column.otherwise:
            if column.usual[0] <= largest * factor <= column.usual[1]:
                doubts.append(
                    Doubt(
                        column.key,
                        f"{column.title}: at most {largest:g} {written_unit(column.unit)} is unusual. Was it "
                        f"written in {unit}: {largest * factor:g} {written_unit(column.unit)}?",
                        factor,
                    )
                )
                break
    return doubts

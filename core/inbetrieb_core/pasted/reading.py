"""Small tables pasted from a spreadsheet, a data sheet or a test report."""

from __future__ import annotations

import math
import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from ..delimited import COMMA_AND_BLANK, best_mark, name_and_unit, rows_of
from ..errors import field_refused
from ..quantities import linear_conversion, recognise_unit, written_unit
from .columns import WantedColumn
from .doubts import Doubt, odd_sizes, without_thousands

LARGEST_TEXT = 200_000
MOST_ROWS = 2000
#: A comma alone may be a decimal mark, so a comma and a blank come first.
_MARKS = ("\t", ";", "|", COMMA_AND_BLANK, ",", " ")
#: A number, and perhaps its unit; whatever parts columns is no unit.
_CELL = re.compile(
    r"^([+\-−]?(?:\d{1,3}(?:[,'’]\d{3})+\.\d+|\d{1,3}(?:[.'’]\d{3})+,\d+|\d{1,3}(?:[,'’.]\d{3}){2,}|\d{1,3}(?:['’]\d{3})+|\d+(?:[.,]\d*)?|[.,]\d+)(?:[eE][+-]?\d+)?)\s*([^\d\s;|,][^;|,\t]{0,20})?$"
)


@dataclass(frozen=True)
class Pasted:
    """What was understood of a pasted text.

    Attributes
    ----------
    rows : tuple of tuple of float
        One number for each wanted column, in its unit.
    sentences : tuple of str
        How it was read and what was passed over; nothing is dropped in silence.
    doubts : tuple of Doubt
        What may have been meant otherwise.
    """

    rows: tuple[tuple[float, ...], ...]
    sentences: tuple[str, ...]
    doubts: tuple[Doubt, ...] = ()


def read_pasted(
    text: str, wanted: Sequence[WantedColumn], factors: Mapping[str, float] | None = None
) -> Pasted:
    """Return the wanted columns of a pasted table.

    Columns are parted by tabs, semicolons, bars, commas or blanks; numbers may have a decimal
    comma unless commas part the columns. A heading is used for order and units where there is
    one; without it the columns are taken in the wanted order and units.

    Parameters
    ----------
    text : str
        As pasted.
    wanted : sequence of WantedColumn
        What is looked for.
    factors : mapping of str to float, optional
        By column, answers to the doubts of an earlier reading. [–]

    Raises
    ------
    InputRefused
        If there is no usable row, or a column is missing.
    """
    lines = [line.strip() for line in text[:LARGEST_TEXT].splitlines() if line.strip()]
    if not lines:
        raise field_refused("text", "Nothing was pasted.")
    if len(text) > LARGEST_TEXT or len(lines) > MOST_ROWS:
        raise field_refused("text", f"That is more than {MOST_ROWS} rows: paste the table alone.")
    cells = _parted(lines, len(wanted))
    sentences: list[str] = []
    first = _first_row(cells, len(wanted))
    heads, cells = cells[:first], cells[first:]
    if heads:
        places, units = _by_heading(_joined(heads, sentences), wanted, sentences)
    else:
        places, units = _by_order(cells, wanted)
    bare, said, grouped = without_thousands(cells, places, wanted)
    rows, passed = _rows(bare, places, units, wanted)
    if not heads and _fits_better_reversed(rows, wanted):
        places = places[::-1]
        bare, said, grouped = without_thousands(cells, places, wanted)
        rows, passed = _rows(bare, places, units, wanted)
        sentences.append("The two columns were taken the other way round.")
    sentences += said
    if not rows:
        raise field_refused(
            "text", "No row with " + " and ".join(w.title.lower() for w in wanted) + " in it."
        )
    sentences.insert(0, f"{len(rows)} rows read: {_described(wanted, units)}.")
    sentences += passed
    answered = dict(factors or {})
    rows = [
        tuple(v * answered.get(w.key, 1.0) for v, w in zip(row, wanted, strict=True))
        for row in rows
    ]
    asked = {doubt.column for doubt in grouped}
    doubts = [*grouped, *(d for d in odd_sizes(rows, wanted) if d.column not in asked)]
    return Pasted(
        tuple(rows), tuple(sentences), tuple(d for d in doubts if d.column not in answered)
    )


def _parted(lines: Sequence[str], width: int) -> list[list[str]]:
    """Part every line by the mark that gives most lines as many cells as are wanted."""

    def score(rows: list[list[str]], mark: str) -> tuple[float, ...]:
        wide_enough = [row for row in rows if len(row) >= width]
        numeric = sum(all(_CELL.match(cell) for cell in row[:width]) for row in wide_enough)
        # Lines of words say nothing of the mark, unless there is nothing else.
        return numeric, 0 if numeric else len(wide_enough)

    return rows_of(lines, best_mark(lines, score, _MARKS) or "\t")


def _first_row(cells: Sequence[Sequence[str]], width: int) -> int:
    """Return the first row of numbers; 0 where there is none."""
    for number, row in enumerate(cells):
        if sum(bool(_CELL.match(cell)) for cell in row) >= max(1, min(width, len(row))):
            return number
    return 0


def _joined(heads: Sequence[Sequence[str]], sentences: list[str]) -> list[str]:
    """Return one row of headings; a row of units below the names is joined to them."""
    head, above = list(heads[-1]), list(heads[:-1])
    filled = [cell for cell in head if cell]
    if above and filled and all(recognise_unit(cell) for cell in filled):
        names = above.pop()
        head = [f"{name} [{unit}]" for name, unit in zip(names, head, strict=False)]
    if above:
        sentences.append(f"{len(above)} line(s) above the headings were passed over.")
    return head


def _fits_better_reversed(rows: Sequence[Sequence[float]], wanted: Sequence[WantedColumn]) -> bool:
    """Say whether two columns only make sense the other way round."""
    if len(wanted) != 2 or not rows:
        return False

    def fits(column: WantedColumn, place: int) -> bool:
        return all(column.lower <= row[place] <= column.upper for row in rows)

    as_given = fits(wanted[0], 0) and fits(wanted[1], 1)
    return not as_given and fits(wanted[0], 1) and fits(wanted[1], 0)


def _by_order(
    cells: Sequence[Sequence[str]], wanted: Sequence[WantedColumn]
) -> tuple[list[int], list[str]]:
    width = max(len(row) for row in cells)
    if width < len(wanted):
        names = ", ".join(column.title.lower() for column in wanted)
        raise field_refused(
            "text", f"{len(wanted)} columns are needed ({names}), but there are {width}."
        )
    first = width - len(wanted) if _is_numbering(cells, width, len(wanted)) else 0
    return list(range(first, first + len(wanted))), [column.unit for column in wanted]


def _is_numbering(cells: Sequence[Sequence[str]], width: int, needed: int) -> bool:
    """Say whether there is one column too many and the first only counts 1, 2, 3 …"""
    return width == needed + 1 and [row[0] for row in cells] == [
        str(i + 1) for i in range(len(cells))
    ]


def _by_heading(
    head: Sequence[str], wanted: Sequence[WantedColumn], sentences: list[str]
) -> tuple[list[int], list[str]]:
    found: dict[str, tuple[int, str]] = {}
    taken: set[int] = set()
    heads = [_name_and_unit(cell) for cell in head]
    # A unit tells more than a word: "T" may be anything, "[kΩ]" is a resistance.
    for by_unit in (True, False):
        for column in wanted:
            if column.key in found:
                continue
            for place, (name, unit) in enumerate(heads):
                known = recognise_unit(unit) if unit else None
                right = (
                    known is not None and known[0] == column.dimension != ""
                    if by_unit
                    else any(word in name for word in column.words)
                )
                if place not in taken and right:
                    found[column.key] = (
                        place,
                        known[1] if known and known[0] == column.dimension else column.unit,
                    )
                    taken.add(place)
                    break
    for column in wanted:
        chosen = found.get(column.key)
        twins = [
            head[i]
            for i, (_, unit) in enumerate(heads)
            if i not in taken
            and unit
            and (recognise_unit(unit) or ("", ""))[0] == column.dimension != ""
        ]
        if chosen is not None and twins:
            sentences.append(
                f"{column.title} was taken from '{head[chosen[0]]}'; {' and '.join(repr(t) for t in twins)} would fit, "
                "too: paste that column instead if it is meant."
            )
    missing = [column.title.lower() for column in wanted if column.key not in found]
    if missing and len(head) == len(wanted):
        left = [place for place in range(len(head)) if place not in taken]
        for column, place in zip([w for w in wanted if w.key not in found], left, strict=True):
            found[column.key] = (place, column.unit)
        missing = []
    if missing:
        raise field_refused(
            "text", f"No column for {' and '.join(missing)} among {', '.join(filter(None, head))}."
        )
    used = {place for place, _ in found.values()}
    ignored = [cell for place, cell in enumerate(head) if place not in used and cell]
    if ignored:
        sentences.append(f"Not used: {', '.join(ignored)}.")
    return [found[w.key][0] for w in wanted], [found[w.key][1] for w in wanted]


def _name_and_unit(cell: str) -> tuple[str, str]:
    labelled = name_and_unit(cell)
    if labelled is not None:
        return labelled[0].rstrip(" ,/\t").lower(), labelled[1]
    name, _, last = cell.rpartition(" ")
    if recognise_unit(last) is not None:
        return name.strip().lower(), last
    return cell.lower(), cell if recognise_unit(cell) is not None else ""


def _rows(
    cells: Sequence[Sequence[str]],
    places: Sequence[int],
    units: Sequence[str],
    wanted: Sequence[WantedColumn],
) -> tuple[list[tuple[float, ...]], list[str]]:
    rows, passed = [], []
    for number, row in enumerate(cells, start=1):
        values = []
        for place, unit, column in zip(places, units, wanted, strict=True):
            cell = row[place] if place < len(row) else ""
            value = _number(cell, unit, column)
            if value is None:
                passed.append(
                    f"Row {number} was passed over: '{cell[:30]}' is no {column.title.lower()}."
                )
                break
            values.append(value)
        if len(values) == len(wanted):
            rows.append(tuple(values))
    if len(passed) > 5:
        passed = [*passed[:5], f"And {len(passed) - 5} more rows were passed over."]
    return rows, passed


def _number(cell: str, unit: str, column: WantedColumn) -> float | None:
    match = _CELL.match(cell)
    if match is None:
        return None
    value = float(match.group(1).replace("−", "-").replace(",", "."))
    own = recognise_unit(match.group(2)) if match.group(2) else None
    if column.dimension and match.group(2) and (own is None or own[0] != column.dimension):
        return None
    if column.unit:
        factor, offset = linear_conversion(own[1] if own else unit, column.unit)
        value = value * factor + offset
    return value if math.isfinite(value) else None


def _described(wanted: Sequence[WantedColumn], units: Sequence[str]) -> str:
    parts = []
    for column, unit in zip(wanted, units, strict=True):
        parts.append(
            f"{column.title.lower()} in {written_unit(unit)}" if unit else column.title.lower()
        )
    return ", ".join(parts)

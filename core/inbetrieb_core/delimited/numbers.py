"""A cell of a table as a number, however it was written."""

from __future__ import annotations

import math
import re
from collections.abc import Iterable

#: A number with a decimal point or comma and perhaps an exponent, nothing else.
NUMBER = re.compile(r"^[+-]?(\d+([.,]\d*)?|[.,]\d+)([eE][+-]?\d+)?$")
_CLOCK = re.compile(
    r"^(\d{4}-\d\d-\d\d[T ]|\d{1,2}[./]\d{1,2}[./]\d{2,4} )?\d{1,3}:\d{2}(:\d{2})?([.,:]\d+)?Z?$"
)
#: How people and programs write that there is nothing.
EMPTY = frozenset(
    ("", "-", "--", "nan", "null", "na", "n/a", "none", "inf", "-inf", "+inf", "infinity",
     "-infinity", "#n/a")
)  # fmt: skip


def bare(cell: str) -> str:
    """Return a cell without blanks and quotes around it."""
    return cell.strip().strip('"').strip()


def is_empty(cell: str) -> bool:
    """Say whether a cell holds nothing, or a word for nothing."""
    return bare(cell).lower() in EMPTY


def is_clock(cell: str) -> bool:
    """Say whether a cell is a clock time such as 10:32:07.5 or 2025-03-01 10:32:07."""
    return bool(_CLOCK.match(bare(cell)))


def is_number(cell: str) -> bool:
    """Say whether a cell is a number or a clock time."""
    return not is_empty(cell) and bool(NUMBER.match(bare(cell)) or is_clock(cell))


def uses_decimal_comma(rows: Iterable[Iterable[str]]) -> bool:
    """Say whether more numbers are written 1,5 than 1.5."""
    numbers = [cell for row in rows for cell in row if NUMBER.match(bare(cell))]
    return sum("," in cell for cell in numbers) > sum("." in cell for cell in numbers)


def number_of(cell: object) -> float | None:
    """Return the number in a cell: a number already, or text with a decimal point or comma.

    Returns
    -------
    float or None
        None where there is none, or none that is finite.
    """
    if isinstance(cell, bool):
        return None
    if isinstance(cell, int | float):
        return float(cell) if math.isfinite(cell) else None
    if not isinstance(cell, str):
        return None
    plain = bare(cell).replace("\u00a0", "").replace(" ", "").replace("−", "-")
    if plain.count(",") == 1 and "." not in plain:
        plain = plain.replace(",", ".")
    elif plain.count(",") and plain.rfind(".") > plain.rfind(","):
        plain = plain.replace(",", "")
    try:
        value = float(plain)
    except ValueError:
        return None
    return value if math.isfinite(value) and "_" not in plain else None

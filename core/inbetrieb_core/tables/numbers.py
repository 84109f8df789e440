"""A cell of a spreadsheet as a number, however it was written."""

from __future__ import annotations

import math


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
    plain = cell.strip().replace("\u00a0", "").replace(" ", "").replace("−", "-")
    if plain.count(",") == 1 and "." not in plain:
        plain = plain.replace(",", ".")
    elif plain.count(",") and plain.rfind(".") > plain.rfind(","):
        plain = plain.replace(",", "")
    try:
        value = float(plain)
    except ValueError:
        return None
    return value if math.isfinite(value) and "_" not in plain else None

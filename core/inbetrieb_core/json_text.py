"""JSON that somebody sends beside a file, or in one: read here, so that every reader refuses the same."""

from __future__ import annotations

import json
from typing import Any

#: A number has at most so many digits; no float holds many more. [–]
MOST_DIGITS = 300


def json_of(text: str | bytes) -> Any:
    """Return the data of a JSON text.

    Parameters
    ----------
    text : str or bytes
        As bytes UTF-8, 16 or 32.

    Raises
    ------
    ValueError
        If it is none, is nested deeper than can be read, or a number in it has too many digits.
    """
    try:
        return json.loads(text, parse_int=_whole)
    except RecursionError as error:
        raise ValueError("It is nested deeper than can be read.") from error


def _whole(digits: str) -> int:
    if len(digits) > MOST_DIGITS:
        raise ValueError(f"A number has more than {MOST_DIGITS} digits.")
    return int(digits)

"""A name with its unit in brackets, read in one pass however long it is."""

from __future__ import annotations

_OPENING, _CLOSING = "[({", "])}"
#: No head of a column and no label of a table is longer; what is, is cut. [characters]
LONGEST_CELL = 400


def name_and_unit(text: str) -> tuple[str, str] | None:
    """Return name and unit of a label like ``Speed [rpm]``; None where none stands in brackets.

    Parameters
    ----------
    text : str
        Of a cell.
    """
    label = text[:LONGEST_CELL].strip()
    if not label or label[-1] not in _CLOSING:
        return None
    last = len(label) - 1
    # The unit begins at the first bracket after whatever was closed before.
    after = max(label.rfind(mark, 0, last) for mark in _CLOSING) + 1
    begins = [place for mark in _OPENING if (place := label.find(mark, after, last)) >= 0]
    if not begins:
        return None
    return label[: min(begins)].rstrip(), label[min(begins) + 1 : last].strip()

"""What no request body may hold, whatever its address: refused here, in one place, with a sentence.

JSON can say things that nothing behind it can keep: half a character, a number beyond all numbers, a
control character that no file format writes, lists without end.
"""

from __future__ import annotations

import json
import math
from typing import Any

from inbetrieb_core.errors import CoreError, InputRefused, field_refused
from inbetrieb_core.json_text import MOST_DIGITS

#: A body holds at most so many values, nested so deep. [–]
MOST_VALUES, DEEPEST = 200_000, 40
#: Control characters that text may hold.
_ALLOWED = frozenset("\t\n\r")


class NotJSON(CoreError):
    """The body is no JSON at all."""

    def __init__(self) -> None:
        super().__init__("The body of the request is no JSON.")


def read_json(text: bytes | str) -> Any:
    """Return the data of a JSON text that may be kept.

    Raises
    ------
    NotJSON
        If it is none.
    InputRefused
        If it holds what cannot be kept; with the place.
    """
    try:
        data = json.loads(text, parse_int=_whole)
    except InputRefused:
        raise
    except RecursionError:
        raise field_refused("body", f"The body is nested deeper than {DEEPEST} levels.") from None
    except (ValueError, UnicodeDecodeError):
        raise NotJSON from None
    refuse_what_cannot_be_kept(data)
    return data


def _whole(digits: str) -> int:
    if len(digits) > MOST_DIGITS:
        raise field_refused("body", f"A number has more than {MOST_DIGITS} digits.")
    return int(digits)


def refuse_what_cannot_be_kept(data: Any) -> None:
    """Refuse data with half a character, a control character, a number beyond all, or without end.

    Raises
    ------
    InputRefused
        With the place.
    """
    count = 0
    # Depth first, without recursion: the depth is what somebody else chose.
    left: list[tuple[str, Any, int]] = [("", data, 0)]
    while left:
        place, value, depth = left.pop()
        count += 1
        if count > MOST_VALUES:
            raise field_refused("body", f"The body holds more than {MOST_VALUES} values.")
        if depth > DEEPEST:
            raise field_refused("body", f"The body is nested deeper than {DEEPEST} levels.")
        if isinstance(value, str):
            refuse_bad_text(place, value)
        elif isinstance(value, float) and not math.isfinite(value):
            raise _refused(place, "is beyond all numbers")
        elif isinstance(value, dict):
            for key, entry in value.items():
                refuse_bad_text(place, key)
                left.append((f"{place}.{key}" if place else key, entry, depth + 1))
        elif isinstance(value, list):
            left.extend((f"{place}.{i}", entry, depth + 1) for i, entry in enumerate(value))


def refuse_bad_text(place: str, text: str) -> None:
    """Refuse text that cannot be written down again.

    Raises
    ------
    InputRefused
        If it holds half a character, or a control character.
    """
    if text.isprintable():
        return
    for character in text:
        if "\ud800" <= character <= "\udfff":
            raise _refused(place, "holds half a character")
        if (character < " " or character == "\x7f") and character not in _ALLOWED:
            raise _refused(place, "holds a control character, which no file keeps")


def _refused(place: str, what: str) -> InputRefused:
    name = place[:80].encode("utf-8", "replace").decode() or "body"
    return field_refused(name, f"{name} {what}.")

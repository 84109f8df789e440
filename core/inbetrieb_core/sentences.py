"""Sentences that carry quantities, so that whoever shows them can choose the units.

A quantity stands in a sentence as a mark: its canonical value, unit and decimals between characters
of the private use area. Sentences are built, joined and kept as ordinary text. :func:`plain` gives
the canonical text of files and exports; :func:`typed` gives the template and the quantities that
travel to the screen, which formats them in one place.
"""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Context, Decimal

_OPEN, _CLOSE, _PART = "\ue000", "\ue001", "\ue002"
#: Strict, because what people type may hold any letters: only what :func:`quantity` writes counts.
_MARK = re.compile(
    rf"{_OPEN}(-?\d{{1,17}}(?:\.\d{{1,20}})?(?:e[+-]?\d{{1,3}})?{_PART}[tdpfl]{_PART}\d{_PART}[bs]*){_CLOSE}"
)
#: What is left of a mark where a text was cut short, and marks that are none.
_TORN = re.compile(f"{_OPEN}[^{_CLOSE}]*(?:{_CLOSE}|$)|[{_OPEN}{_CLOSE}{_PART}]")
#: Units that a job may show otherwise, by the letter that stands in the mark. Letters, because a
#: sentence may be put into lower case.
_LETTERS = {"t": "°C", "d": "K", "p": "kPa", "f": "cm³/min", "l": "lambda"}
_UNITS = {unit: letter for letter, unit in _LETTERS.items()}
_UNITS["–"] = "l"  # a mixture in a table has no unit
_MOST_DECIMALS = 6
_EXACT = Context(prec=400, rounding=ROUND_HALF_UP)


@dataclass(frozen=True)
class Quantity:
    """A number in a sentence.

    Attributes
    ----------
    value : float
        Canonical. [unit]
    unit : {"°C", "K", "kPa", "cm³/min", "lambda"}
        K is a difference of temperatures.
    decimals : int
        That the instrument behind the number justifies, in the canonical unit. [–]
    bare : bool
        Whether it stands without its unit, which the next number has.
    signed : bool
        Whether a plus sign is written.
    """

    value: float
    unit: str
    decimals: int
    bare: bool = False
    signed: bool = False


def number(value: float, significant: int = 6) -> str:
    """Return a number as people write it: no exponent, no idle zeros, a real minus sign.

    Parameters
    ----------
    value : float
        [any unit]
    significant : int
        At most so many significant digits; whole digits are never rounded away. [–]
    """
    if not math.isfinite(value):
        return "no number"
    if value == 0.0:
        return "0"
    places = min(12, max(0, significant - 1 - math.floor(math.log10(abs(value)))))
    text = f"{value:.{places}f}"
    return _minus(text.rstrip("0").rstrip(".") if "." in text else text)


def significant(value: float, digits: int) -> float:
    """Return a number rounded to so many significant digits.

    Parameters
    ----------
    value : float
        [any unit]
    digits : int
        [–]
    """
    if value == 0.0 or not math.isfinite(value):
        return value
    return round(value, digits - 1 - math.floor(math.log10(abs(value))))


def fixed(value: float, decimals: int, *, signed: bool = False) -> str:
    """Return a number with so many decimals and a real minus sign, never a negative zero.

    Parameters
    ----------
    value : float
        [any unit]
    decimals : int
        [–]
    signed : bool
        Whether a plus sign is written.
    """
    if not math.isfinite(value):
        return "no number"
    # Halves go away from zero, as the screen has them; the usual way of Python would go to even.
    text = f"{_EXACT.quantize(Decimal(value), Decimal(1).scaleb(-decimals)):f}"
    if float(text) == 0.0:
        text = text.lstrip("-")
    return _minus(f"+{text}" if signed and float(text) > 0.0 else text)


def _minus(text: str) -> str:
    return text.replace("-", "−")


def quantity(
    value: float,
    unit: str,
    decimals: int | None = None,
    *,
    bare: bool = False,
    signed: bool = False,
) -> str:
    """Return a quantity for a sentence: a mark where the unit can be chosen, else plain text.

    Parameters
    ----------
    value : float
        Canonical. [unit]
    unit : str
        As people write it; empty for none.
    decimals : int, optional
        As many as the number needs if not given. [–]
    bare : bool
        Whether the unit is left out, because the next number has it.
    signed : bool
        Whether a plus sign is written.
    """
    letter = _UNITS.get(unit)
    if letter is None or not math.isfinite(value):
        whole = decimals is None or not math.isfinite(value)
        text = number(value) if whole else fixed(value, decimals or 0)
        text = f"+{text}" if signed and value > 0.0 else text
        return text if bare or not unit else f"{text} {unit}"
    if decimals is None:
        decimals = min(_MOST_DECIMALS, len(number(value).partition(".")[2]))
    flags = ("b" if bare or unit == "–" else "") + ("s" if signed else "")
    return f"{_OPEN}{float(value)!r}{_PART}{letter}{_PART}{decimals}{_PART}{flags}{_CLOSE}"


def celsius(value_c: float, decimals: int = 0, *, bare: bool = False) -> str:
    """Return a temperature [°C] for a sentence."""
    return quantity(value_c, "°C", decimals, bare=bare)


def temperature_step(value_k: float, decimals: int = 0, *, bare: bool = False) -> str:
    """Return a difference of temperatures [K] for a sentence."""
    return quantity(value_k, "K", decimals, bare=bare)


def kilopascal(value_kpa: float, decimals: int = 0, *, bare: bool = False) -> str:
    """Return a pressure [kPa] for a sentence."""
    return quantity(value_kpa, "kPa", decimals, bare=bare)


def mixture(value: float, decimals: int = 2, *, bare: bool = False) -> str:
    """Return a mixture for a sentence, the word lambda before it; `value` is lambda. [–]"""
    return quantity(value, "lambda", decimals, bare=bare)


def injector_flow(value_cm3_min: float, decimals: int = 0, *, bare: bool = False) -> str:
    """Return a flow of an injector [cm³/min] for a sentence."""
    return quantity(value_cm3_min, "cm³/min", decimals, bare=bare)


def has_quantities(text: str) -> bool:
    """Say whether a text carries quantities."""
    return _OPEN in text


def plain(text: str) -> str:
    """Return the canonical text of a sentence, its quantities written out."""
    if _OPEN not in text and _CLOSE not in text:
        return text
    return _TORN.sub("", _MARK.sub(lambda mark: written(_read(mark.group(1))), text))


def written(known: Quantity) -> str:
    """Return a quantity in its canonical unit."""
    text = fixed(known.value, known.decimals, signed=known.signed)
    if known.bare:
        return text
    return f"lambda {text}" if known.unit == "lambda" else f"{text} {known.unit}"


@dataclass(frozen=True)
class Typed:
    """A sentence as it travels.

    Attributes
    ----------
    template : str
        With {0}, {1} … where the quantities stand; braces of the text itself are doubled.
    quantities : tuple of Quantity
    """

    template: str
    quantities: tuple[Quantity, ...]


def typed(text: str) -> Typed:
    """Return the template and the quantities of a sentence."""
    parts = _MARK.split(text)
    template = "".join(
        f"{{{i // 2}}}" if i % 2 else _TORN.sub("", part).replace("{", "{{").replace("}", "}}")
        for i, part in enumerate(parts)
    )
    return Typed(template, tuple(_read(mark) for mark in parts[1::2]))


def _read(mark: str) -> Quantity:
    value, letter, decimals, flags = mark.split(_PART)
    return Quantity(float(value), _LETTERS[letter], int(decimals), "b" in flags, "s" in flags)


def listed(parts: Sequence[str]) -> str:
    """Return parts as people list them: ``a, b and c``."""
    if len(parts) < 2:
        return "".join(parts)
    return f"{', '.join(parts[:-1])} and {parts[-1]}"

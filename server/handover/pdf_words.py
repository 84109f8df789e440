"""Letters and inks of printed papers."""

from __future__ import annotations

from pathlib import Path

from reportlab.lib.colors import HexColor
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont

_FONTS = Path(__file__).parent / "fonts"
TEXT, BOLD = "Next", "Next-Bold"
INK, FAINT, RULE, PAPER = (HexColor(c) for c in ("#1f2a33", "#5b6770", "#b9bfb4", "#eef0ea"))
#: Letters that the font has none of, as it can write them.
_AS = str.maketrans({"→": "to", "≤": "at most ", "µ": "u", "λ": "lambda", "Ω": "Ohm"})


def register_fonts() -> None:
    """Make the fonts known, once."""
    if TEXT not in pdfmetrics.getRegisteredFontNames():
        pdfmetrics.registerFont(TTFont(TEXT, str(_FONTS / "AtkinsonHyperlegibleNext-Regular.ttf")))
        pdfmetrics.registerFont(TTFont(BOLD, str(_FONTS / "AtkinsonHyperlegibleNext-Bold.ttf")))


def plain_unit(unit: str) -> str:
    """Return a unit as it is printed; lambda is a mere number and has none."""
    return "" if unit == "lambda" else unit


def written(text: str) -> str:
    """Return a text in letters that the font has."""
    return text.translate(_AS)

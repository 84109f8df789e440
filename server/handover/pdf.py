"""A paper as PDF: real fonts, page numbers, heads that repeat, figures as vectors; the same paper gives the same bytes."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Any, Literal
from xml.sax.saxutils import escape

from inbetrieb_core.handover import Figure, Grid, Paper
from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4, LETTER
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfbase import pdfmetrics
from reportlab.pdfbase.ttfonts import TTFont
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import Flowable, Paragraph, SimpleDocTemplate, Spacer, Table, TableStyle

Size = Literal["a4", "letter"]
SIZES: dict[Size, str] = {"a4": "A4", "letter": "Letter"}
_PAGES = {"a4": A4, "letter": LETTER}
_FONTS = Path(__file__).parent / "fonts"
_TEXT, _BOLD = "Next", "Next-Bold"
_INK, _FAINT, _RULE, _PAPER = (HexColor(c) for c in ("#1f2a33", "#5b6770", "#b9bfb4", "#eef0ea"))
_SHADES = {"proven": HexColor("#115a66"), "likely": HexColor("#5d8f96"), "open": HexColor("#b9bfb4"), "extrapolated": HexColor("#dfe3da")}  # fmt: skip
#: Letters that the font has none of, as it can write them.
_AS = str.maketrans({"→": "to", "≤": "at most ", "µ": "u", "λ": "lambda", "Ω": "Ohm"})


def _fonts() -> None:
    if _TEXT not in pdfmetrics.getRegisteredFontNames():
        pdfmetrics.registerFont(TTFont(_TEXT, str(_FONTS / "AtkinsonHyperlegibleNext-Regular.ttf")))
        pdfmetrics.registerFont(TTFont(_BOLD, str(_FONTS / "AtkinsonHyperlegibleNext-Bold.ttf")))


def _style(size: float, *, bold: bool = False, after: float = 3.0) -> ParagraphStyle:
    return ParagraphStyle(f"s{size}{bold}", fontName=_BOLD if bold else _TEXT, fontSize=size, leading=1.3 * size, textColor=_INK, spaceAfter=after)  # fmt: skip


def paper_pdf(paper: Paper, size: Size) -> bytes:
    """Return a paper as PDF.

    Parameters
    ----------
    paper : Paper
        Its sentences in the units of the job already.
    size : {"a4", "letter"}
    """
    _fonts()
    out = io.BytesIO()
    document = SimpleDocTemplate(
        out, pagesize=_PAGES[size], leftMargin=18 * mm, rightMargin=18 * mm, topMargin=20 * mm, bottomMargin=18 * mm,
        title=paper.title, author="Inbetrieb", invariant=1,
    )  # fmt: skip
    width = document.width
    story: list[Flowable] = [
        Paragraph(_safe(paper.title), _style(17, bold=True, after=6)),
        Paragraph(_safe(paper.head), _style(11.5, bold=not paper.is_proven, after=8)),
    ]
    for section in paper.sections:
        story.append(Paragraph(_safe(section.title), _style(12.5, bold=True, after=4)))
        story += [Paragraph(_safe(text), _style(9.5)) for text in section.paragraphs if text]
        if section.grid is not None:
            story.append(
                _table(section.grid, width)
                if section.grid.rows
                else Paragraph("None.", _style(9.5))
            )
        if section.figure is not None:
            story.append(_Bars(section.figure, width))
        story.append(Spacer(1, 8))
    document.build(story, onFirstPage=_foot(paper.title), onLaterPages=_foot(paper.title))
    return out.getvalue()


def _safe(text: str) -> str:
    return escape(text.translate(_AS))


def _foot(title: str) -> Any:
    def draw(canvas: Canvas, document: SimpleDocTemplate) -> None:
        canvas.saveState()
        canvas.setFont(_TEXT, 8)
        canvas.setFillColor(_FAINT)
        canvas.drawString(document.leftMargin, 10 * mm, title.translate(_AS))
        canvas.drawRightString(
            document.leftMargin + document.width, 10 * mm, f"Page {canvas.getPageNumber()}"
        )
        canvas.restoreState()

    return draw


def _table(grid: Grid, width: float) -> Table:
    style, head = _style(8.5, after=0), _style(8.5, bold=True, after=0)
    rows = [[Paragraph(_safe(text), head) for text in grid.heads]]
    rows += [[Paragraph(_safe(_cut(text)), style) for text in row] for row in grid.rows]
    table = Table(rows, colWidths=_widths(grid, width), repeatRows=1)
    table.setStyle(TableStyle([
        ("LINEBELOW", (0, 0), (-1, -1), 0.4, _RULE), ("BACKGROUND", (0, 0), (-1, 0), _PAPER), ("VALIGN", (0, 0), (-1, -1), "TOP"),
        ("LEFTPADDING", (0, 0), (-1, -1), 3), ("RIGHTPADDING", (0, 0), (-1, -1), 3), ("TOPPADDING", (0, 0), (-1, -1), 2),
        ("BOTTOMPADDING", (0, 0), (-1, -1), 3),
    ]))  # fmt: skip
    return table


#: No cell is longer than fits a page. [letters]
_LONGEST = 900


def _cut(text: str) -> str:
    return text if len(text) <= _LONGEST else text[:_LONGEST] + " …"


def _widths(grid: Grid, width: float) -> list[float]:
    """Return widths by the length of what stands in the columns, none too narrow for its head."""
    wants = []
    for i, head in enumerate(grid.heads):
        longest = max([len(head) + 2, *(min(60, len(row[i])) for row in grid.rows)])
        wants.append(float(max(6, longest)))
    return [width * w / sum(wants) for w in wants]


class _Bars(Flowable):  # type: ignore[misc]
    """Shares as bars, drawn as vectors: what is proven is dark, what was never seen is pale."""

    def __init__(self, figure: Figure, width: float) -> None:
        super().__init__()
        self.figure, self.width, self.height = figure, width, 13.0 * len(figure.labels) + 4.0

    def wrap(self, *_: float) -> tuple[float, float]:
        """Return its size. [point]"""
        return self.width, self.height

    def draw(self) -> None:
        """Draw it."""
        canvas, left, span = self.canv, 62.0, self.width - 200.0
        canvas.setFont(_TEXT, 8.5)
        for i, (label, share, word) in enumerate(zip(self.figure.labels, self.figure.shares, self.figure.words, strict=True)):  # fmt: skip
            y = self.height - 13.0 * (i + 1)
            canvas.setFillColor(_INK)
            canvas.drawRightString(left - 6, y + 2, label.translate(_AS))
            canvas.setStrokeColor(_RULE)
            canvas.rect(left, y, span, 9, stroke=1, fill=0)
            canvas.setFillColor(_SHADES.get(word, _RULE))
            canvas.rect(left, y, max(0.5, span * min(1.0, share)), 9, stroke=0, fill=1)
            canvas.setFillColor(_INK)
            canvas.drawString(left + span + 6, y + 2, f"{100 * share:.0f} %, {word}")

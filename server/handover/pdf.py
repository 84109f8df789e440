"""A paper as PDF: real fonts, page numbers, heads that repeat, figures as vectors; the same paper gives the same bytes."""

from __future__ import annotations

import io
from collections.abc import Mapping
from pathlib import Path
from types import MappingProxyType
from typing import Any, Literal
from xml.sax.saxutils import escape

from inbetrieb_core.handover import Figure, Grid, Paper, Picture
from reportlab.lib.colors import HexColor
from reportlab.lib.pagesizes import A4, LETTER
from reportlab.lib.styles import ParagraphStyle
from reportlab.lib.units import mm
from reportlab.pdfbase.pdfmetrics import stringWidth
from reportlab.pdfgen.canvas import Canvas
from reportlab.platypus import (
    CondPageBreak,
    Flowable,
    Image,
    Paragraph,
    SimpleDocTemplate,
    Spacer,
    Table,
    TableStyle,
)

from .pdf_figures import map_tables, plot_drawing, side_by_side
from .pdf_words import BOLD, FAINT, INK, PAPER, RULE, TEXT, register_fonts, written

Size = Literal["a4", "letter"]
SIZES: dict[Size, str] = {"a4": "A4", "letter": "Letter"}
_PAGES = {"a4": A4, "letter": LETTER}
_SHADES = {"proven": HexColor("#115a66"), "likely": HexColor("#5d8f96"), "open": HexColor("#b9bfb4"), "extrapolated": HexColor("#dfe3da")}  # fmt: skip
#: A photograph is no higher than this. [point]
_HIGHEST = 190.0
#: So much of a section stands below its title at least. [point]
_TOGETHER = 90.0


def _style(size: float, *, bold: bool = False, after: float = 3.0) -> ParagraphStyle:
    return ParagraphStyle(f"s{size}{bold}", fontName=BOLD if bold else TEXT, fontSize=size, leading=1.3 * size, textColor=INK, spaceAfter=after)  # fmt: skip


def paper_pdf(
    paper: Paper, size: Size, pictures: Mapping[int, Path] = MappingProxyType({})
) -> bytes:
    """Return a paper as PDF.

    Parameters
    ----------
    paper : Paper
        Its sentences in the units of the job already.
    size : {"a4", "letter"}
    pictures : mapping of int to Path
        Files of the photographs, by number; one that is missing is only named.
    """
    register_fonts()
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
        # A title stays with the beginning of what follows it.
        story.append(CondPageBreak(_TOGETHER))
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
        story += side_by_side([plot_drawing(plot, 0.49 * width) for plot in section.plots], width)
        for sheet in section.maps:
            story += map_tables(sheet, width)
        story += _photographs(section.pictures, pictures, width)
        story.append(Spacer(1, 8))
    document.build(story, onFirstPage=_foot(paper.title), onLaterPages=_foot(paper.title))
    return out.getvalue()


def _photographs(
    shown: tuple[Picture, ...], files: Mapping[int, Path], width: float
) -> list[Flowable]:
    """Return photographs two in a row, each over its number, caption and day."""
    found: list[Flowable] = []
    for picture in shown:
        words = f"{picture.number}. {picture.caption or 'without a caption'} ({picture.by}, {picture.day})"
        said = Paragraph(_safe(words), _style(8.5))
        file = files.get(picture.number)
        if file is None or not file.is_file():
            found.append(said)
            continue
        scale = min(0.48 * width / picture.width, _HIGHEST / picture.height)
        found.append([Image(str(file), scale * picture.width, scale * picture.height), said])
    return side_by_side(found, width)


def _safe(text: str) -> str:
    return escape(written(text))


def _foot(title: str) -> Any:
    def draw(canvas: Canvas, document: SimpleDocTemplate) -> None:
        canvas.saveState()
        canvas.setFont(TEXT, 8)
        canvas.setFillColor(FAINT)
        canvas.drawString(document.leftMargin, 10 * mm, written(title))
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
        ("LINEBELOW", (0, 0), (-1, -1), 0.4, RULE), ("BACKGROUND", (0, 0), (-1, 0), PAPER), ("VALIGN", (0, 0), (-1, -1), "TOP"),
        ("LEFTPADDING", (0, 0), (-1, -1), 3), ("RIGHTPADDING", (0, 0), (-1, -1), 3), ("TOPPADDING", (0, 0), (-1, -1), 2),
        ("BOTTOMPADDING", (0, 0), (-1, -1), 3),
    ]))  # fmt: skip
    return table


#: No cell is longer than fits a page. [letters]
_LONGEST = 900


def _cut(text: str) -> str:
    return text if len(text) <= _LONGEST else text[:_LONGEST] + " …"


def _widths(grid: Grid, width: float) -> list[float]:
    """Return widths by the length of what stands in the columns, none too narrow for its longest word."""
    least, wants = [], []
    for i, head in enumerate(grid.heads):
        texts = [head, *(row[i] for row in grid.rows)]
        words = {word for text in texts for word in _cut(text).split()}
        longest = max((stringWidth(written(word), BOLD, 8.5) for word in words), default=0.0)
        least.append(min(longest + 8.0, width / len(grid.heads)))
        wants.append(float(max(1, *(min(60, len(text)) for text in texts[1:] or [head]))))
    rest = width - sum(least)
    return [low + rest * want / sum(wants) for low, want in zip(least, wants, strict=True)]


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
        canvas.setFont(TEXT, 8.5)
        for i, (label, share, word) in enumerate(zip(self.figure.labels, self.figure.shares, self.figure.words, strict=True)):  # fmt: skip
            y = self.height - 13.0 * (i + 1)
            canvas.setFillColor(INK)
            canvas.drawRightString(left - 6, y + 2, written(label))
            canvas.setStrokeColor(RULE)
            canvas.rect(left, y, span, 9, stroke=1, fill=0)
            canvas.setFillColor(_SHADES.get(word, RULE))
            canvas.rect(left, y, max(0.5, span * min(1.0, share)), 9, stroke=0, fill=1)
            canvas.setFillColor(INK)
            canvas.drawString(left + span + 6, y + 2, f"{100 * share:.0f} %, {word}")

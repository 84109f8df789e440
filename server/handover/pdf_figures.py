"""Figures of a paper for the printed page: lines on plain axes, and tables with the origin of each value."""

from __future__ import annotations

import itertools
from collections.abc import Sequence
from typing import Any

from inbetrieb_core.handover import Line, MapSheet, Plot
from inbetrieb_core.sentences import fixed
from reportlab.graphics.charts.lineplots import LinePlot
from reportlab.graphics.shapes import Drawing, String
from reportlab.lib.colors import HexColor
from reportlab.platypus import Flowable, KeepTogether, Spacer, Table, TableStyle

from .pdf_words import FAINT, INK, PAPER, RULE, TEXT, plain_unit, written

#: Of a plot. [point]
_HEIGHT, _LEFT, _RIGHT, _BOTTOM, _TOP = 150.0, 34.0, 10.0, 40.0, 16.0
_DASHES = {"line": None, "broken": (5, 3), "faint": (1.5, 2.5)}
#: A table with more columns than this is continued below; widths of its head and letters. [–, point, point]
_MOST_COLUMNS, _HEAD, _SIZE = 16, 44.0, 6.0
#: Behind values that are assumed, and that were measured.
_TINTS = {"A": HexColor("#f3e3c9"), "M": HexColor("#d3e4e3")}


def plot_drawing(plot: Plot, width: float) -> Drawing:
    """Return a plot as vectors.

    Parameters
    ----------
    plot : Plot
        In the units of the job.
    width : float
        [point]
    """
    drawing = Drawing(width, _HEIGHT)
    drawing.add(
        String(0, _HEIGHT - 9, written(plot.title), fontName=TEXT, fontSize=8.5, fillColor=INK)
    )
    pieces = [(piece, line) for line in plot.lines for piece in _pieces(line)]
    if not pieces:
        drawing.add(
            String(
                _LEFT,
                _HEIGHT / 2,
                "Nothing is known of it.",
                fontName=TEXT,
                fontSize=8,
                fillColor=FAINT,
            )
        )
        return drawing
    chart: Any = LinePlot()
    chart.x, chart.y = _LEFT, _BOTTOM
    chart.width, chart.height = width - _LEFT - _RIGHT, _HEIGHT - _BOTTOM - _TOP
    chart.data = [piece for piece, _ in pieces]
    for number, (_, line) in enumerate(pieces):
        chart.lines[number].strokeColor = INK
        chart.lines[number].strokeWidth = 1.1 if line.look == "line" else 0.8
        chart.lines[number].strokeDashArray = _DASHES[line.look]
    for axis in (chart.xValueAxis, chart.yValueAxis):
        axis.labels.fontName, axis.labels.fontSize, axis.labels.fillColor = TEXT, 7, FAINT
        axis.strokeColor, axis.strokeWidth = RULE, 0.6
        axis.visibleGrid, axis.gridStrokeColor, axis.gridStrokeWidth = 1, RULE, 0.3
        axis.maximumTicks, axis.rangeRound = 7, "both"
        axis.labelTextFormat = _number
    drawing.add(chart)
    drawing.add(
        String(
            width - _RIGHT,
            16,
            _axis(plot.x_title, plot.x_unit),
            fontName=TEXT,
            fontSize=7,
            fillColor=FAINT,
            textAnchor="end",
        )
    )
    named = [line for line in plot.lines if line.name]
    words = (
        "   ".join(f"{line.name} ({_LOOKS[line.look]})" for line in named) if len(named) > 1 else ""
    )
    drawing.add(
        String(
            0,
            4,
            written(f"{_axis(plot.y_title, plot.y_unit)}   {words}".strip()),
            fontName=TEXT,
            fontSize=7,
            fillColor=FAINT,
        )
    )
    return drawing


_LOOKS = {"line": "full", "broken": "broken", "faint": "dotted"}


def _axis(title: str, unit: str) -> str:
    unit = plain_unit(unit)
    return written(", ".join(part for part in (title, unit) if part))


def _number(value: float) -> str:
    return f"{round(value, 2):g}".replace("-", "\u2212")


def _pieces(line: Line) -> list[list[tuple[float, float]]]:
    """Return a line broken where nothing is known."""
    known = itertools.groupby(
        zip(line.x, line.y, strict=True), key=lambda point: point[1] is not None
    )
    found = [[(x, y) for x, y in group if y is not None] for is_known, group in known if is_known]
    return [piece for piece in found if len(piece) > 1]


def map_tables(sheet: MapSheet, width: float) -> list[Flowable]:
    """Return a table as it stands, each value with the letter of its origin; a wide one in parts.

    Parameters
    ----------
    sheet : MapSheet
        In the units of the job.
    width : float
        Of the page between its margins. [point]
    """
    over = f" over {sheet.down_title.lower()}" + (
        f" and {sheet.across_title.lower()}" if sheet.across else ""
    )
    unit = plain_unit(sheet.unit)
    title = written(f"{sheet.title}{', ' + unit if unit else ''}{over}")
    if sheet.across:
        heads, rows, origins = sheet.across, sheet.values, sheet.origins
        names = [f"{_number(point)} {sheet.down_unit}" for point in sheet.down]
        corner = f"{sheet.down_unit} / {sheet.across_unit}"
    else:
        heads, names, corner = sheet.down, [unit or "value"], sheet.down_unit
        rows, origins = (
            (tuple(row[0] for row in sheet.values),),
            (tuple(row[0] for row in sheet.origins),),
        )
    found: list[Flowable] = []
    for first in range(0, len(heads), _MOST_COLUMNS):
        part = slice(first, first + _MOST_COLUMNS)
        said = [
            [title if first == 0 else f"{title}, continued"],
            [corner, *(_number(point) for point in heads[part])],
        ]
        said += [
            [
                name,
                *(
                    f"{fixed(v, sheet.decimals)} {o}"
                    for v, o in zip(row[part], kinds[part], strict=True)
                ),
            ]
            for name, row, kinds in zip(names, rows, origins, strict=True)
        ]
        found += [
            _table(
                [[written(text) for text in row] for row in said],
                [kinds[part] for kinds in origins],
                width,
            ),
            Spacer(1, 8),
        ]
    return found


def _table(rows: list[list[str]], origins: Sequence[Sequence[str]], width: float) -> Table:
    columns = max(len(row) for row in rows) - 1
    each = min(46.0, (width - _HEAD) / max(1, columns))
    style = [
        ("SPAN", (0, 0), (-1, 0)), ("FONT", (0, 0), (-1, -1), TEXT, _SIZE), ("FONTSIZE", (0, 0), (-1, 0), 8.5),
        ("TEXTCOLOR", (0, 0), (-1, -1), INK), ("BACKGROUND", (0, 1), (-1, 1), PAPER), ("LINEBELOW", (0, 1), (-1, -1), 0.3, RULE),
        ("ALIGN", (0, 1), (-1, -1), "RIGHT"), ("LEFTPADDING", (0, 0), (-1, -1), 1.5), ("RIGHTPADDING", (0, 0), (-1, -1), 2.5),
        ("TOPPADDING", (0, 0), (-1, -1), 1), ("BOTTOMPADDING", (0, 0), (-1, -1), 1.5),
    ]  # fmt: skip
    for down, kinds in enumerate(origins):
        for across, kind in enumerate(kinds):
            if kind in _TINTS:
                place = (across + 1, down + 2)
                style.append(("BACKGROUND", place, place, _TINTS[kind]))
    filled = [row + [""] * (columns + 1 - len(row)) for row in rows]
    return Table(
        filled,
        colWidths=[_HEAD, *[each] * columns],
        repeatRows=2,
        style=TableStyle(style),
        hAlign="LEFT",
    )


def side_by_side(flowables: Sequence[Any], width: float) -> list[Flowable]:
    """Return flowables two in a row; rows are not torn apart."""
    found: list[Flowable] = []
    for first in range(0, len(flowables), 2):
        pair = [*flowables[first : first + 2], ""][:2]
        row = Table([pair], colWidths=[0.5 * width] * 2)
        row.setStyle(
            TableStyle([("VALIGN", (0, 0), (-1, -1), "TOP"), ("LEFTPADDING", (0, 0), (-1, -1), 0)])
        )
        found.append(KeepTogether([row]))
    return found

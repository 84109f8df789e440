"""Figures of a paper as data, in canonical units: the page and the printed paper draw the same."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from ..provenance import ProvenanceKind

#: Letters that mark where a value comes from.
ORIGIN_LETTERS: dict[ProvenanceKind, str] = {
    "measured": "M", "data_sheet": "D", "calculated": "C", "carried_over": "O", "assumed": "A",
}  # fmt: skip
Look = Literal["line", "broken", "faint"]


@dataclass(frozen=True)
class Figure:
    """Bars of a share each, with a word for what may be said of it.

    Attributes
    ----------
    labels : tuple of str
    shares : tuple of float
        0 to 1. [–]
    words : tuple of str
    """

    labels: tuple[str, ...]
    shares: tuple[float, ...]
    words: tuple[str, ...]


@dataclass(frozen=True)
class Line:
    """A line of a plot.

    Attributes
    ----------
    name : str
        Empty for one that needs none.
    x, y : tuple of float
        In the units of the plot; y is None where nothing is known.
    look : {"line", "broken", "faint"}
    """

    name: str
    x: tuple[float, ...]
    y: tuple[float | None, ...]
    look: Look = "line"


@dataclass(frozen=True)
class Plot:
    """Lines over one quantity.

    Attributes
    ----------
    title : str
    x_title, x_unit, y_title, y_unit : str
        Wording and canonical unit of both axes.
    lines : tuple of Line
    """

    title: str
    x_title: str
    x_unit: str
    y_title: str
    y_unit: str
    lines: tuple[Line, ...]


@dataclass(frozen=True)
class MapSheet:
    """A table as it stands: breakpoints, values, and the letter of each value's origin.

    Attributes
    ----------
    title, unit : str
    down_title, down_unit, across_title, across_unit : str
        Axes; across is empty for a curve.
    down, across : tuple of float
        Breakpoints. [unit of the axis]
    values : tuple of tuple of float
        Rows. [unit]
    origins : tuple of tuple of str
        A letter of :data:`ORIGIN_LETTERS` for each value.
    decimals : int
        That a value is worth.
    """

    title: str
    unit: str
    down_title: str
    down_unit: str
    down: tuple[float, ...]
    across_title: str
    across_unit: str
    across: tuple[float, ...]
    values: tuple[tuple[float, ...], ...]
    origins: tuple[tuple[str, ...], ...]
    decimals: int


@dataclass(frozen=True)
class Picture:
    """A photograph that is kept with the job.

    Attributes
    ----------
    number : int
    caption, day, by : str
    width, height : int
        [pixel]
    """

    number: int
    caption: str
    day: str
    by: str
    width: int
    height: int

"""Delimited text of every dialect: one reader for logs, pastes, captures, pin lists and file sets."""

from .blocks import Columns, NotATable, read_block, read_blocks
from .cells import COMMA_AND_BLANK, MARKS, best_mark, first_mark, parted, rows_of
from .clock_text import clock_seconds
from .labels import LONGEST_CELL, name_and_unit
from .numbers import (
    NUMBER,
    bare,
    is_clock,
    is_empty,
    is_number,
    number_of,
    uses_decimal_comma,
)
from .text import LineFeed, NotText, as_stream, first_lines, line_blocks

__all__ = [
    "COMMA_AND_BLANK",
    "LONGEST_CELL",
    "MARKS",
    "NUMBER",
    "Columns",
    "LineFeed",
    "NotATable",
    "NotText",
    "as_stream",
    "bare",
    "best_mark",
    "clock_seconds",
    "first_lines",
    "first_mark",
    "is_clock",
    "is_empty",
    "is_number",
    "line_blocks",
    "name_and_unit",
    "number_of",
    "parted",
    "read_block",
    "read_blocks",
    "rows_of",
    "uses_decimal_comma",
]

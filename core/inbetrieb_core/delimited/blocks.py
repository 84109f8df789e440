"""Columns of a large file, block by block, by a well-kept parser."""

from __future__ import annotations

import io
import re
from collections.abc import Collection, Iterator
from dataclasses import dataclass, field
from typing import BinaryIO

import polars as pl

from ..errors import CoreError
from .text import LineFeed, line_blocks


class NotATable(CoreError):
    """The rows of a file are no table."""


@dataclass(frozen=True)
class Columns:
    """Which columns of a file are read, and how.

    Attributes
    ----------
    mark : str
        That parts them; a blank stands for any run of blanks.
    width : int
        How many there are; 0 where nobody knows: then all are read as text. [–]
    wanted : tuple of int
        Those to read, rising; empty for all.
    texts : collection of int
        Those that stay text; the others become numbers, null where a cell is none.
    decimal_comma : bool
        Whether numbers are written 1,5.
    loose : bool
        Whether cells may have blanks or quotes around them, or commas of their own: slower.
    """

    mark: str
    width: int = 0
    wanted: tuple[int, ...] = ()
    texts: Collection[int] = field(default=())
    decimal_comma: bool = False
    loose: bool = False

    @property
    def names(self) -> list[str]:
        """Names of all columns: c0, c1 and so on."""
        return [f"c{i}" for i in range(self.width)]


def read_block(lines: bytes, columns: Columns) -> pl.DataFrame:
    """Return whole lines as columns c0, c1 …; lines without any cell are left out.

    Parameters
    ----------
    lines : bytes
        In UTF-8.
    columns : Columns

    Raises
    ------
    NotATable
        If the parser gives up.
    """
    if columns.mark == " ":
        lines = re.sub(rb"(?m)^[ \t]+", b"", re.sub(rb"[ \t]+", b"\t", lines))
    if not lines.endswith(b"\n"):
        lines += b"\n"
    mark = "\t" if columns.mark == " " else columns.mark
    as_text = columns.loose or not columns.width
    try:
        frame = pl.read_csv(
            io.BytesIO(lines),
            has_header=False,
            separator=mark,
            schema=None if not columns.width else _schema(columns, as_text),
            infer_schema=bool(columns.width),
            columns=list(columns.wanted) or None,
            ignore_errors=True,
            truncate_ragged_lines=True,
            decimal_comma=columns.decimal_comma and not as_text and mark != ",",
            null_values=None if as_text else ["-", "--", "null", "NULL", "NA", "N/A", "#N/A"],
            missing_columns="insert",
            encoding="utf8-lossy",
        )
    except pl.exceptions.NoDataError:
        return pl.DataFrame()
    except pl.exceptions.PolarsError as error:
        raise NotATable("The rows of the file are no table.") from error
    wanted = columns.wanted or range(frame.width)
    frame.columns = [f"c{i}" for i in wanted]
    if as_text:
        frame = frame.with_columns(pl.all().str.strip_chars(' "'))
        frame = frame.filter(~pl.all_horizontal(pl.all().fill_null("") == ""))
        return frame.with_columns(
            _as_number(name, columns.decimal_comma)
            for name, number in zip(frame.columns, wanted, strict=True)
            if columns.width and number not in columns.texts
        )
    return frame.filter(~pl.all_horizontal(pl.all().is_null()))


def _schema(columns: Columns, as_text: bool) -> dict[str, type[pl.DataType]]:
    return {
        name: pl.String if as_text or i in columns.texts else pl.Float64
        for i, name in enumerate(columns.names)
    }


def _as_number(name: str, decimal_comma: bool) -> pl.Expr:
    column = pl.col(name)
    if decimal_comma:
        column = column.str.replace(",", ".", literal=True)
    return column.cast(pl.Float64, strict=False)


def read_blocks(
    stream: BinaryIO, columns: Columns, skip: int, feed: LineFeed | None = None
) -> Iterator[tuple[bytes, pl.DataFrame]]:
    """Yield the rows of a file block by block, each with the lines it was read from.

    Parameters
    ----------
    stream : binary stream
        At its beginning.
    columns : Columns
    skip : int
        Lines above the first row. [–]
    feed : LineFeed, optional
        To be asked for the encoding afterwards.

    Raises
    ------
    NotText
        If it is no text.
    NotATable
        If the parser gives up.
    """
    for lines in line_blocks(stream, feed):
        while skip and lines:
            lines = lines[(lines.find(b"\n") + 1) or len(lines) :]
            skip -= 1
        if lines.strip():
            yield lines, read_block(lines, columns)

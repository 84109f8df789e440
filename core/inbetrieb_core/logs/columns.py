"""A column of a log, and what becomes of it."""

from __future__ import annotations

from dataclasses import dataclass

from ..quantities import FloatArray


@dataclass(frozen=True)
class Column:
    """A column of a file.

    Attributes
    ----------
    number : int
        Position, from 0.
    header : str
        Text of the head as written.
    name : str
        Head without its unit.
    unit : str
        Unit text from the head or a units row; may be empty.
    sample : ndarray
        Some finite values, for judging units by their size.
    clock : bool
        Whether the cells are clock times such as 10:32:07.5.
    chosen : bool
        Whether a person chose the unit.
    """

    number: int
    header: str
    name: str
    unit: str
    sample: FloatArray
    clock: bool = False
    chosen: bool = False


@dataclass(frozen=True)
class ColumnUse:
    """What becomes of a column.

    Attributes
    ----------
    column : Column
        The column.
    channel : str or None
        Canonical channel; None if it is ignored.
    factor, offset : float
        Canonical value = cell · factor + offset.
    inverse : bool
        Whether the cell is a fuel–air equivalence ratio, so that lambda is its inverse.
    unit : str
        Unit in which the cells are read, as people write it; empty for none.
    reason : str
        Why it is read so, or why it is ignored.
    decided : bool
        Whether a person said so.
    """

    column: Column
    channel: str | None
    reason: str
    factor: float = 1.0
    offset: float = 0.0
    inverse: bool = False
    unit: str = ""
    decided: bool = False

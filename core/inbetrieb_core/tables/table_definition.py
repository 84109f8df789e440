"""What a definition of a table or an axis says."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass
from typing import Literal

Group = Literal[
    "start", "map", "battery", "boost", "limit", "correction", "transient", "idle", "setting"
]


@dataclass(frozen=True)
class AxisDefinition:
    """A quantity that tables run over.

    Attributes
    ----------
    name, unit, title : str
        Canonical name, unit and wording.
    lower, upper : float
        Bounds of a breakpoint. [unit]
    """

    name: str
    unit: str
    title: str
    lower: float
    upper: float


@dataclass(frozen=True)
class TableDefinition:
    """A table of the calibration.

    Attributes
    ----------
    key : str
        Stable name, used in files and over HTTP.
    title, short : str
        Wording on the screen, and a short form for column heads.
    unit : str
        Unit of the values.
    axes : tuple of str
        Axis names; the first is the row of the array. None for a single number.
    lower, upper : float
        Bounds of a value. [unit]
    neutral : float or None
        Value at which the table does nothing; None where there is none. [unit]
    resolution : float
        Smallest meaningful difference; proposals are rounded to it. [unit]
    group : {"start", "map", "battery", "boost", "limit", "correction", "transient", "idle", "setting"}
        Start tables share the coolant axis; a setting is a single number.
    meaning : str
        One sentence of what the controller does with it.
    alternatives : tuple of tuple of str
        Other axes it may run over: what a controller measures load or air by.
    optional : bool
        Whether a calibration can do without it: not every engine or file has it.
    """

    key: str
    title: str
    short: str
    unit: str
    axes: tuple[str, ...]
    lower: float
    upper: float
    neutral: float | None
    resolution: float
    group: Group
    meaning: str
    optional: bool = False
    alternatives: tuple[tuple[str, ...], ...] = ()

    @property
    def decimals(self) -> int:
        """Decimals that a value is worth."""
        return max(0, -math.floor(math.log10(self.resolution)))

    def axes_of(self, names: Iterable[str | None]) -> tuple[str, ...]:
        """Return the axes it has where these are named: the usual ones, or the alternative that fits.

        Parameters
        ----------
        names : iterable of str or None
            Names met in a file; those of no axis are passed over.
        """
        met = {name for name in names if name}
        return next(
            (axes for axes in self.alternatives if met & (set(axes) - set(self.axes))), self.axes
        )

    def runs_over(self, names: tuple[str, ...]) -> bool:
        """Say whether it may run over these axes, in this order."""
        return names == self.axes or names in self.alternatives

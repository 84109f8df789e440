"""An axis: the breakpoints of a table, and where a value lies between them."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..errors import CoreError
from ..sentences import quantity
from .weights import locate


class AxisError(CoreError):
    """Breakpoints that cannot carry a table."""


@dataclass(frozen=True)
class Axis:
    """Strictly rising breakpoints of one quantity.

    Attributes
    ----------
    name : str
        Canonical channel name, for example ``coolant_c``.
    unit : str
        Unit of the breakpoints.
    points : tuple of float
        The breakpoints, 1 to 64, finite and strictly rising. [unit of the axis]

    Raises
    ------
    AxisError
        If the points are not as described.
    """

    name: str
    unit: str
    points: tuple[float, ...]

    def __post_init__(self) -> None:
        if not 1 <= len(self.points) <= 64:
            raise AxisError(f"the axis {self.name} needs 1 to 64 breakpoints")
        if not np.isfinite(self.points).all():
            raise AxisError(f"a breakpoint of the axis {self.name} is not a finite number")
        for before, after in zip(self.points, self.points[1:], strict=False):
            if after <= before:
                raise AxisError(
                    f"the breakpoints of the axis {self.name} must rise: "
                    f"{quantity(after, self.unit)} follows {quantity(before, self.unit)}"
                )

    def weights(self, value: float) -> tuple[tuple[int, float], ...]:
        """Return the breakpoints that a controller blends at a value, and their weights.

        Parameters
        ----------
        value : float
            Place on the axis; outside the breakpoints the end holds. [unit of the axis]

        Returns
        -------
        tuple of (index, weight)
            One or two pairs; the weights are above 0 and sum to 1.
        """
        if not np.isfinite(value):
            raise AxisError(f"the place on the axis {self.name} is not a finite number")
        left, share = locate(self.points, value)
        pairs = ((left, 1.0 - share), (left + 1, share))
        return tuple(pair for pair in pairs if pair[1] > 0.0)

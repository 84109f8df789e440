"""New cells of one table, with the band of each and where it comes from."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..quantities import FloatArray
from ..tables import CellChange
from .ladder import LadderEstimate

#: 90 % of a normal distribution lie within so many standard deviations.
BAND = 1.645
#: A cell counts as read where evidence lies within so many kelvin of it. [K]
SEEN_K = 5.0


@dataclass(frozen=True)
class CurveProposal:
    """New cells of one table.

    Attributes
    ----------
    table : str
        Its key.
    changes : tuple of CellChange
    bands : tuple of (float, float)
        Where the need of each changed cell lies with 90 %. [unit of the table]
    seen : tuple of bool
        Whether the need was read within a few kelvin of the cell, or follows from elsewhere.
    trials : tuple of int
        That taught of it.
    """

    table: str
    changes: tuple[CellChange, ...]
    bands: tuple[tuple[float, float], ...]
    seen: tuple[bool, ...]
    trials: tuple[int, ...]


def proposed(
    believed: LadderEstimate,
    key: str,
    changes: tuple[CellChange, ...],
    low: FloatArray,
    high: FloatArray,
) -> CurveProposal | None:
    """Return changes with the bands of their cells and where they come from; None without any."""
    if not changes:
        return None
    cells = [change.index[0] for change in changes]
    places = believed.measured_at(key)
    return CurveProposal(
        key,
        changes,
        tuple((round(float(low[i]), 1), round(float(high[i]), 1)) for i in cells),
        tuple(bool((np.abs(places - change.at[0]) < SEEN_K).any()) for change in changes),
        believed.trials_of(key),
    )

"""What a rule wants changed."""

from __future__ import annotations

from dataclasses import dataclass

from ..tables import CellChange


@dataclass(frozen=True)
class Proposal:
    """What a rule wants changed in this case.

    Attributes
    ----------
    changes : tuple of CellChange
        Cells of the rule's table.
    because : str
        What was seen, with its numbers.
    confidence : float
        How sure, 0 to 1. [–]
    """

    changes: tuple[CellChange, ...]
    because: str
    confidence: float

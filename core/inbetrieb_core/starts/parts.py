"""The advice of a start as parts that are taken or left one by one.

What was measured is safe together, for each was observed by itself; of what is only searched there is
one step; a cause under the bonnet has no table. Which of them are taken when nobody says is a school.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from ..engine import Schools
from ..errors import field_refused
from ..tables import CellChange
from .model import Advice, AdviceKind

PartKind = Literal["measured", "search", "mend"]


@dataclass(frozen=True)
class AdvicePart:
    """One part of an advice.

    Attributes
    ----------
    part : {"measured", "search", "mend"}
        Read from logs, searched by outcomes and rules, or something to do on the engine.
    kind : AdviceKind
        What it asks for, finer than `part`.
    table : str or None
        Table to change; None for something to do on the engine.
    rule : str
        Identifier in the rulebook; of what was measured by the way, its table's.
    reason : str
        What happened, what to change, why.
    confidence : float
        Of the whole advice, 0 to 1. [–]
    disproof : str
        What at the next start would prove it wrong.
    changes : tuple of CellChange
        Empty where there is nothing to change in a table.
    bands : tuple of (float, float)
        Where the need of each cell lies with 90 %; empty where a rule alone chose it. [unit of the
        table]
    seen : tuple of bool
        Whether the need of each cell was measured near it; empty where none was.
    trials : tuple of int
        Earlier trials that taught of it.
    """

    part: PartKind
    kind: AdviceKind
    table: str | None
    rule: str
    reason: str
    confidence: float
    disproof: str
    changes: tuple[CellChange, ...]
    bands: tuple[tuple[float, float], ...] = ()
    seen: tuple[bool, ...] = ()
    trials: tuple[int, ...] = ()


def parts_of(advice: Advice) -> tuple[AdvicePart, ...]:
    """Return the parts of an advice, the earliest first.

    Parameters
    ----------
    advice : Advice
    """
    first = AdvicePart(
        _part_of(advice),
        advice.kind,
        advice.table,
        advice.rule,
        advice.reason,
        advice.confidence,
        advice.disproof,
        advice.changes,
        advice.bands,
        advice.seen,
    )
    others = (
        AdvicePart(
            "search" if part.searched else "measured",
            "change" if part.searched else "measured",
            part.table,
            advice.rule,
            part.because,
            advice.confidence,
            advice.disproof,
            part.changes,
            part.bands,
            part.seen,
            part.trials,
        )
        for part in advice.measured
    )
    return (first, *others)


def _part_of(advice: Advice) -> PartKind:
    if advice.table is None:
        return "mend"
    return "measured" if advice.kind == "measured" or any(advice.seen) else "search"


def parts_taken(
    advice: Advice, schools: Schools, wanted: Sequence[str] | None
) -> tuple[AdvicePart, ...]:
    """Return the parts that are taken; of something to mend none can be.

    Parameters
    ----------
    advice : Advice
    schools : Schools
        By the school of one change at a time only the earliest is taken unless more are named.
    wanted : sequence of str, optional
        Kinds of part or tables; what the school allows if not given.

    Raises
    ------
    InputRefused
        If one of them is no part of the advice.
    """
    there = [part for part in parts_of(advice) if part.table is not None]
    if wanted is None:
        return tuple(there[:1] if schools.changes == "one_at_a_time" else there)
    known = {name for part in there for name in (part.part, part.table)}
    if strange := sorted(set(wanted) - known):
        raise field_refused("parts", f"The advice has no part for {', '.join(strange)}.")
    return tuple(part for part in there if part.part in wanted or part.table in wanted)

"""Where a number comes from. Every cell of every table carries one of these."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, get_args

ProvenanceKind = Literal["measured", "data_sheet", "calculated", "carried_over", "assumed"]
KINDS: tuple[ProvenanceKind, ...] = get_args(ProvenanceKind)


@dataclass(frozen=True)
class Provenance:
    """The origin of one value.

    Attributes
    ----------
    kind : {"measured", "data_sheet", "calculated", "carried_over", "assumed"}
        How far the value can be trusted.
    reason : str
        Where it comes from in one sentence: formula, data sheet, trial, person.
    source : str
        Identifier of what it rests on, for example ``trial 12`` or ``revision 3``; may be empty.
    """

    kind: ProvenanceKind
    reason: str
    source: str = ""

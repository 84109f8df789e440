"""How findings of a review travel."""

from __future__ import annotations

from typing import Literal

from inbetrieb_core.tables.review import RULE_TITLES
from ninja import Field, Schema

from .review import Looked


class TableFindingOut(Schema):
    """Something noticed in a table."""

    identifier: str
    rule: str
    title: str
    table: str
    cells: list[list[int]]
    severity: Literal["stop", "attention", "note"]
    sentence: str
    accepted: str = Field(description="why it is right all the same; empty if nobody said")
    accepted_by: str


def findings_out(looked: Looked) -> list[TableFindingOut]:
    """Return findings as they travel, the gravest first."""
    result = []
    for found in looked.review.findings:
        accepted = looked.accepted.get(found.identifier)
        result.append(
            TableFindingOut(
                identifier=found.identifier,
                rule=found.rule,
                title=RULE_TITLES[found.rule],
                table=found.table,
                cells=[list(cell) for cell in found.cells],
                severity=found.severity,
                sentence=found.sentence,
                accepted="" if accepted is None else accepted.reason,
                accepted_by="" if accepted is None else accepted.author,
            )
        )
    return result

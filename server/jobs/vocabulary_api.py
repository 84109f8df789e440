"""What the screens need to know once: stations, tables, rules, units."""

from __future__ import annotations

from dataclasses import asdict
from typing import Literal

from inbetrieb_core.commissioning import STATIONS
from inbetrieb_core.starts import CHECKS, RULES
from inbetrieb_core.tables import AXES, DEFINITIONS, KINDS
from ninja import Field, Router, Schema

from server.accounts.requests import SignedInRequest

from . import units
from .units import Conversion

router = Router(tags=["jobs"])


class StationOut(Schema):
    """One step of the order of work."""

    number: int
    key: str
    title: str
    does: str
    built: bool


class TableDefinitionOut(Schema):
    """What a table is."""

    key: str
    title: str
    short: str
    unit: str
    axes: list[str]
    lower: float
    upper: float
    neutral: float | None
    resolution: float
    group: Literal["start", "map", "battery", "boost", "limit", "setting"]
    meaning: str
    optional: bool


class AxisDefinitionOut(Schema):
    """A quantity that tables run over."""

    name: str
    unit: str
    title: str
    lower: float
    upper: float


class RuleOut(Schema):
    """A rule of the rulebook of starting."""

    identifier: str
    table: str | None = Field(description="the one table it changes; none for a check")
    condition: str
    why: str
    school: str
    disproof: str


class VocabularyOut(Schema):
    """Everything the screens need to know once."""

    stations: list[StationOut]
    tables: list[TableDefinitionOut]
    axes: list[AxisDefinitionOut]
    provenance: list[str]
    rules: list[RuleOut] = Field(description="in the order in which they are asked")
    units: dict[str, list[str]] = Field(description="the first of each is the canonical one")
    conversions: dict[str, dict[str, Conversion]] = Field(
        description="dimension, shown unit: how a canonical value is shown"
    )


def _rules() -> list[RuleOut]:
    """Return the whole rulebook: what comes before any table, then the tables' rules."""
    checks = [
        RuleOut(
            identifier=check.finding,
            table=None,
            condition=check.sign,
            why=check.do,
            school="All schools.",
            disproof=check.disproof,
        )
        for check in CHECKS.values()
    ]
    tables = [
        RuleOut(
            identifier=rule.identifier,
            table=rule.table,
            condition=rule.condition,
            why=rule.why,
            school=rule.school,
            disproof=rule.disproof,
        )
        for rule in RULES
    ]
    return checks + tables


@router.get("/vocabulary", response=VocabularyOut, operation_id="vocabulary_get")
def vocabulary(request: SignedInRequest) -> VocabularyOut:
    """Return stations, table definitions, provenance kinds and display units."""
    return VocabularyOut(
        stations=[StationOut(**asdict(station)) for station in STATIONS],
        tables=[TableDefinitionOut(**asdict(table)) for table in DEFINITIONS.values()],
        axes=[AxisDefinitionOut(**asdict(axis)) for axis in AXES.values()],
        provenance=list(KINDS),
        rules=_rules(),
        conversions=units.CONVERSIONS,
        units={dimension: list(choices) for dimension, choices in units.CHOICES.items()},
    )

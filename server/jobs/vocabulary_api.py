"""What the screens need to know once: stations, tables, rules, units."""

from __future__ import annotations

from inbetrieb_core.basemaps.schools import School, schools
from inbetrieb_core.causes import CAUSES
from inbetrieb_core.commissioning import CAR_BEGINS, STATIONS, CarBegins, Station
from inbetrieb_core.engine_data import ENGINE_FIELDS, EngineField
from inbetrieb_core.logs import LARGEST_BYTES
from inbetrieb_core.starts import RULES, SAME_TEMPERATURE_K
from inbetrieb_core.tables import AXES, DEFINITIONS, KINDS, AxisDefinition, TableDefinition
from inbetrieb_core.triggers import LARGEST_CAPTURE_BYTES
from ninja import Field, Router, Schema

from server.accounts.requests import SignedInRequest

from . import units
from .units import Conversion

router = Router(tags=["jobs"])


class RuleOut(Schema):
    """A rule of the rulebook of starting."""

    identifier: str
    table: str | None = Field(description="the one table it changes; none for a check")
    condition: str
    why: str
    school: str
    disproof: str


class LimitsOut(Schema):
    """The largest files that are taken, and how near starts count as at one temperature."""

    log_bytes: int
    capture_bytes: int
    same_temperature_k: float


class VocabularyOut(Schema):
    """Everything the screens need to know once."""

    stations: list[Station]
    tables: list[TableDefinition]
    axes: list[AxisDefinition]
    engine_fields: list[EngineField] = Field(description="every number of an engine")
    schools: list[School] = Field(description="choices on which good installers differ")
    car_begins: list[CarBegins] = Field(description="where a car may stand when its job begins")
    limits: LimitsOut
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
            identifier=cause.key,
            table=None,
            condition=f"the likeliest cause is {cause.title}",
            why=f"{cause.do} Test: {cause.test}",
            school="All schools.",
            disproof=cause.disproof,
        )
        for cause in CAUSES.values()
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
        stations=list(STATIONS),
        tables=list(DEFINITIONS.values()),
        axes=list(AXES.values()),
        engine_fields=list(ENGINE_FIELDS),
        schools=list(schools()),
        car_begins=list(CAR_BEGINS.values()),
        limits=LimitsOut(
            log_bytes=LARGEST_BYTES,
            capture_bytes=LARGEST_CAPTURE_BYTES,
            same_temperature_k=SAME_TEMPERATURE_K,
        ),
        provenance=list(KINDS),
        rules=_rules(),
        conversions=units.conversions(),
        units={dimension: list(choices) for dimension, choices in units.CHOICES.items()},
    )

"""Jobs over HTTP."""

from __future__ import annotations

from dataclasses import asdict
from datetime import datetime
from typing import Literal

from inbetrieb_core.commissioning import STATIONS, Gate
from inbetrieb_core.starts import CHECKS, RULES
from inbetrieb_core.supply import judge_injectors
from inbetrieb_core.tables import AXES, DEFINITIONS, KINDS
from ninja import Field, Router, Schema, Status

from server.accounts.requests import SignedInRequest
from server.calibration.services import newest_number
from server.config.problems import Problem

from . import services, units
from .engine_data import EngineIn, engine_spec, spec_of
from .gates import gates_of
from .models import Job
from .units import Conversion

router = Router(tags=["jobs"])


class JobIn(Schema):
    """A new job."""

    name: str
    engine: EngineIn
    note: str = ""
    units: dict[str, str] = Field(default_factory=dict, description="display unit per dimension")
    axes: dict[str, list[float]] | None = Field(
        None, description="the controller's own breakpoints: coolant_c, rpm, map_kpa, battery_v"
    )
    override_reason: str = Field("", description="why implausible injectors are right all the same")


class UnitsIn(Schema):
    """Display units to change."""

    units: dict[str, str]


class NextActionOut(Schema):
    """The one next action."""

    sentence: str
    kind: Literal["enter", "check", "record", "decide", "mend", "repeat", "prove"]
    station: str
    gate: str
    trial: int | None
    part: str = Field(description="sheet of the station; empty for its first")


class JudgementOut(Schema):
    """What the injectors mean for the engine."""

    flow_cm3_min: float = Field(description="of one at the real pressure difference [cm³/min]")
    reference_pulse_ms: float = Field(description="100 % filling, lambda 1, no dead time [ms]")
    idle_pulse_ms: float = Field(description="without dead time [ms]")
    duty_at_limit_pct: float = Field(description="[%]")
    level: Literal["fits", "attention", "implausible"]
    sentences: list[str]


class JobOut(Schema):
    """A job with its next action."""

    id: int
    name: str
    note: str
    engine: EngineIn
    units: dict[str, str]
    created_at: datetime
    revision: int = Field(description="number of the newest revision")
    trials: int = Field(description="how many trials there are")
    next_action: NextActionOut
    gates: list[Gate] = Field(description="what the first start waits for")
    judgement: JudgementOut


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


def job_out(job: Job) -> JobOut:
    """Return a job as it travels."""
    return JobOut(
        id=job.pk,
        name=job.name,
        note=job.note,
        engine=EngineIn.model_validate(job.engine),
        units=job.units,
        created_at=job.created_at,
        revision=newest_number(job),
        trials=job.trials.count(),
        next_action=NextActionOut(**asdict(services.action_of(job))),
        gates=list(gates_of(job)),
        judgement=JudgementOut(**asdict(judge_injectors(spec_of(job)))),
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


@router.get("/jobs", response=list[JobOut], operation_id="jobs_list")
def list_jobs(request: SignedInRequest) -> list[JobOut]:
    """Return the jobs of the workshop, newest first."""
    return [job_out(job) for job in services.jobs_of(request.user)]


@router.post("/jobs", response={201: JobOut, 422: Problem}, operation_id="jobs_create")
def create_job(request: SignedInRequest, payload: JobIn) -> Status[JobOut]:
    """Create a job; revision 1 is generated from the engine data."""
    job = services.create_job(
        request.user,
        name=payload.name,
        note=payload.note,
        engine=payload.engine,
        display_units=payload.units,
        axes=payload.axes,
        override_reason=payload.override_reason,
    )
    return Status(201, job_out(job))


@router.post(
    "/jobs/preview", response={200: JudgementOut, 422: Problem}, operation_id="jobs_preview"
)
def preview_job(request: SignedInRequest, payload: EngineIn) -> JudgementOut:
    """Judge the injectors of engine data that are still being typed; saves nothing."""
    return JudgementOut(**asdict(judge_injectors(engine_spec(payload))))


@router.get("/jobs/{job_id}", response={200: JobOut, 404: Problem}, operation_id="jobs_get")
def get_job(request: SignedInRequest, job_id: int) -> JobOut:
    """Return one job."""
    return job_out(services.job_of(request.user, job_id))


@router.post(
    "/jobs/{job_id}/units",
    response={200: JobOut, 404: Problem, 422: Problem},
    operation_id="jobs_set_units",
)
def set_units(request: SignedInRequest, job_id: int, payload: UnitsIn) -> JobOut:
    """Change the display units."""
    return job_out(services.set_units(services.job_of(request.user, job_id), payload.units))

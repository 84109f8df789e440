"""The ladder over HTTP: what is believed of the start tables, what speaks for it, and what to try."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated

from inbetrieb_core.starts import Chance, Coverage
from inbetrieb_core.tables import DEFINITIONS
from ninja import Field, Query, Router, Schema, Status

from server.accounts.requests import SignedInRequest
from server.config.body import RequestBody
from server.config.problems import Problem
from server.jobs.services import job_of

from . import estimates, services

router = Router(tags=["logbook"])


class BelievedOut(Schema):
    """What is believed of one table at its breakpoints, in the table's own unit."""

    unit: str
    points: list[float] = Field(description="coolant temperature [°C]")
    value: list[float] = Field(description="believed need")
    low: list[float] = Field(description="lower end of the 90 % band")
    high: list[float] = Field(description="upper end of the 90 % band")
    now: list[float] = Field(description="in force")
    expected: list[float] = Field(description="by engine data alone")
    told: list[float] = Field(description="share of what was unknown that evidence took away")
    taught: list[bool] = Field(description="whether starts have taught anything of each cell")


class ChanceCausesOut(Schema):
    """The chance of each point of a good start, 0 to 1; together they make it."""

    runs: float
    lives: float
    flare: float
    mixture: float
    idle: float


class GoodStartOut(Schema):
    """The chance of a good start at one temperature, and what it hangs on."""

    coolant_c: float
    probability: float = Field(description="0 to 1")
    causes: ChanceCausesOut
    state: Coverage


class TaughtOut(Schema):
    """One piece of evidence."""

    number: int | None = Field(description="of the trial that gave it; none from other engines")
    table: str
    kind: str
    coolant_c: float
    value: float = Field(description="need; of an outcome what was given [unit of the table]")
    ran: bool | None = Field(description="of an outcome: whether the engine ran")
    run_after_s: float | None


class StruckOut(Schema):
    """A trial whose evidence does not count."""

    number: int
    reason: str


class LadderOut(Schema):
    """The estimate with the newest tables."""

    revision: int
    tables: dict[str, BelievedOut]
    good_start: list[GoodStartOut] = Field(description="at every rung of the ladder")
    evidence: list[TaughtOut]
    void: int = Field(description="pieces that stand on other injectors, fuel or cam")
    struck: list[StruckOut]


class PullOut(Schema):
    """What one trial does to a cell. [unit of the table]"""

    trial: int
    pull: float


class ForecastOut(Schema):
    """The chance of a good start at a temperature."""

    chance: GoodStartOut
    sentence: str


class StrikeIn(RequestBody):
    """Why what a trial taught no longer counts, or counts again."""

    reason: str


def _chance_out(chance: Chance) -> GoodStartOut:
    return GoodStartOut(
        coolant_c=chance.coolant_c,
        probability=chance.good,
        causes=ChanceCausesOut.model_validate(asdict(chance)),
        state=chance.coverage,
    )


@router.get(
    "/jobs/{job_id}/ladder",
    response={200: LadderOut, 404: Problem},
    operation_id="ladder_get",
    by_alias=True,
)
def get_ladder(request: SignedInRequest, job_id: int) -> LadderOut:
    """Return what is believed of the start tables, and the chance of a good start."""
    job = job_of(request.user, job_id)
    found = estimates.estimate_of(job)
    return LadderOut(
        revision=found.revision,
        tables={
            curve.table: BelievedOut.model_validate(
                {
                    **asdict(curve),
                    "unit": DEFINITIONS[curve.table].unit,
                    "points": curve.at_c,
                    "value": curve.mean,
                    "taught": curve.taught,
                }
            )
            for curve in found.curves
        },
        good_start=[_chance_out(chance) for chance in found.chances],
        evidence=[
            TaughtOut(
                number=e.trial,
                table=e.quantity,
                kind=e.kind,
                coolant_c=e.coolant_c,
                value=e.value,
                ran=None if e.outcome is None else e.outcome.ran,
                run_after_s=None if e.outcome is None else e.outcome.run_after_s,
            )
            for e in found.believed.evidence
        ],
        void=len(found.believed.void),
        struck=[
            StruckOut(number=trial.number, reason=reason)
            for trial, reason in services.struck_trials(job)
        ],
    )


@router.get(
    "/jobs/{job_id}/ladder/pulls",
    response={200: list[PullOut], 404: Problem, 422: Problem},
    operation_id="ladder_pulls",
    by_alias=True,
)
def get_pulls(
    request: SignedInRequest,
    job_id: int,
    table: str = "cranking_fuel",
    coolant_c: Annotated[float, Query(description="where [°C]")] = 0.0,
) -> list[PullOut]:
    """Return what each trial does to the believed need of one cell."""
    job = job_of(request.user, job_id)
    return [PullOut(trial=p.trial, pull=p.pull) for p in estimates.pulls_of(job, table, coolant_c)]


@router.get(
    "/jobs/{job_id}/ladder/forecast",
    response={200: ForecastOut, 404: Problem, 422: Problem},
    operation_id="ladder_forecast",
    by_alias=True,
)
def get_forecast(
    request: SignedInRequest,
    job_id: int,
    coolant_c: Annotated[float, Query(description="of the start [°C]")] = 0.0,
) -> ForecastOut:
    """Return the chance of a good start at a temperature, and what it hangs on."""
    chance = estimates.forecast(job_of(request.user, job_id), coolant_c)
    return ForecastOut(chance=_chance_out(chance), sentence=chance.sentence)


@router.post(
    "/jobs/{job_id}/ladder/evidence/{number}/strike",
    response={201: LadderOut, 404: Problem, 422: Problem},
    operation_id="ladder_strike",
    by_alias=True,
)
def strike(
    request: SignedInRequest, job_id: int, number: int, payload: StrikeIn
) -> Status[LadderOut]:
    """Set aside what the trial of a number taught, with a reason; the trial stays as it is."""
    return _weighed(request, job_id, number, counts=False, reason=payload.reason)


@router.post(
    "/jobs/{job_id}/ladder/evidence/{number}/restore",
    response={201: LadderOut, 404: Problem, 422: Problem},
    operation_id="ladder_restore",
    by_alias=True,
)
def restore(
    request: SignedInRequest, job_id: int, number: int, payload: StrikeIn
) -> Status[LadderOut]:
    """Let what the trial of a number taught count again, with a reason."""
    return _weighed(request, job_id, number, counts=True, reason=payload.reason)


def _weighed(
    request: SignedInRequest, job_id: int, number: int, *, counts: bool, reason: str
) -> Status[LadderOut]:
    job = job_of(request.user, job_id)
    trial = services.trial_numbered(job, number)
    services.weigh(trial, request.user, counts=counts, reason=reason)
    return Status(201, get_ladder(request, job_id))

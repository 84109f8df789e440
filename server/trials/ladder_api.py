"""The estimate of the start tables over HTTP."""

from __future__ import annotations

from dataclasses import asdict
from typing import Annotated

from inbetrieb_core.starts import Chance, Coverage
from ninja import Field, Query, Router, Schema, Status

from server.accounts.requests import SignedInRequest
from server.config.body import RequestBody
from server.config.problems import Problem
from server.jobs.services import job_of

from . import estimates, services

router = Router(tags=["logbook"])


class CurveOut(Schema):
    """What is believed of one table at its breakpoints, in the table's own unit."""

    table: str
    at_c: list[float]
    now: list[float] = Field(description="in force")
    expected: list[float] = Field(description="by engine data alone")
    mean: list[float] = Field(description="believed")
    low: list[float] = Field(description="lower end of the 90 % band")
    high: list[float] = Field(description="upper end of the 90 % band")
    told: list[float] = Field(description="share of what was unknown that evidence took away")
    taught: list[bool] = Field(description="whether starts have taught anything of each cell")


class ChanceOut(Schema):
    """The chance of a good start, and of each of its points, 0 to 1."""

    coolant_c: float
    good: float
    runs: float
    lives: float
    flare: float
    mixture: float
    idle: float
    coverage: Coverage


class TaughtOut(Schema):
    """One piece of evidence."""

    trial: int | None
    table: str
    kind: str
    coolant_c: float
    value: float = Field(description="need; of an outcome what was given [unit of the table]")
    ran: bool | None = Field(description="of an outcome: whether the engine ran")
    run_after_s: float | None


class AsideOut(Schema):
    """A trial whose evidence does not count."""

    trial_id: int
    reason: str


class EstimateOut(Schema):
    """The estimate with the newest tables."""

    revision: int
    curves: list[CurveOut]
    chances: list[ChanceOut] = Field(description="at every rung of the ladder")
    evidence: list[TaughtOut]
    void: int = Field(description="pieces that stand on other injectors, fuel or cam")
    aside: list[AsideOut]


class PullOut(Schema):
    """What one trial does to a cell. [unit of the table]"""

    trial: int
    pull: float


class ForecastOut(Schema):
    """The chance of a good start at a temperature."""

    chance: ChanceOut
    sentence: str


class WeighIn(RequestBody):
    """Whether what a trial taught counts, and why."""

    counts: bool
    reason: str


def _chance_out(chance: Chance) -> ChanceOut:
    return ChanceOut.model_validate({**asdict(chance), "good": chance.good})


@router.get(
    "/jobs/{job_id}/estimate",
    response={200: EstimateOut, 404: Problem},
    operation_id="estimate_get",
    by_alias=True,
)
def get_estimate(request: SignedInRequest, job_id: int) -> EstimateOut:
    """Return what is believed of the start tables, and the chance of a good start."""
    job = job_of(request.user, job_id)
    found = estimates.estimate_of(job)
    return EstimateOut(
        revision=found.revision,
        curves=[
            CurveOut.model_validate({**asdict(curve), "taught": curve.taught})
            for curve in found.curves
        ],
        chances=[_chance_out(chance) for chance in found.chances],
        evidence=[
            TaughtOut(
                trial=e.trial,
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
        aside=[
            AsideOut(trial_id=key, reason=reason) for key, reason in services.set_aside(job).items()
        ],
    )


@router.get(
    "/jobs/{job_id}/estimate/pulls",
    response={200: list[PullOut], 404: Problem, 422: Problem},
    operation_id="estimate_pulls",
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
    "/jobs/{job_id}/estimate/forecast",
    response={200: ForecastOut, 404: Problem, 422: Problem},
    operation_id="estimate_forecast",
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
    "/jobs/{job_id}/trials/{trial_id}/weigh",
    response={201: EstimateOut, 404: Problem, 422: Problem},
    operation_id="trials_weigh",
    by_alias=True,
)
def weigh(
    request: SignedInRequest, job_id: int, trial_id: int, payload: WeighIn
) -> Status[EstimateOut]:
    """Set what a trial taught aside, or let it count again, with a reason."""
    job = job_of(request.user, job_id)
    services.weigh(
        services.trial_of(job, trial_id),
        request.user,
        counts=payload.counts,
        reason=payload.reason,
    )
    return Status(201, get_estimate(request, job_id))

"""The mornings of a job over HTTP."""

from __future__ import annotations

import datetime
from dataclasses import asdict
from typing import Annotated

from inbetrieb_core.mornings import MorningsEntry, ParkedReading, read_minima, typed_minima
from ninja import Field, Query, Router, Schema, Status

from server.accounts.requests import SignedInRequest
from server.config.body import RequestBody
from server.config.problems import Problem
from server.jobs.services import job_of, jobs_of

from . import services

router = Router(tags=["mornings"])


class ParkedIn(RequestBody):
    """Coolant of an engine that stands."""

    parking: str = Field(description="which standing it belongs to")
    stood_h: float = Field(description="since it was switched off [h]")
    coolant_c: float = Field(description="[°C]")
    ambient_c: float = Field(description="[°C]")


class MinimumIn(RequestBody):
    """What a day's minimum is expected to be."""

    day: str = Field(description="ISO date")
    minimum_c: float = Field(description="[°C]")


class MorningsIn(RequestBody):
    """What is known of the mornings."""

    parked: list[ParkedIn] = Field(default_factory=list)
    minima: list[MinimumIn] = Field(default_factory=list)
    pasted: str = Field("", description="lines of a day and a minimum, added to the minima")
    monthly_c: list[float] = Field(
        default_factory=list, description="mean minimum of each month from January [°C]"
    )
    stopped_at: str | None = Field(None, description="ISO moment with its offset")
    stopped_c: float | None = Field(None, description="coolant then; warm if not given [°C]")
    ambient_c: float | None = Field(None, description="air that it stands in [°C]")


class ParkedOut(Schema):
    """Coolant of an engine that stood."""

    parking: str
    stood_h: float
    coolant_c: float
    ambient_c: float


class MinimumOut(Schema):
    """What a day's minimum is expected to be."""

    day: str
    minimum_c: float


class StandingOut(Schema):
    """How a stopped engine cools down."""

    tau_h: float = Field(description="time constant [h]")
    readings: int
    after_h: float = Field(description="until it is cold right through [h]")
    low_h: float
    high_h: float
    at: datetime.datetime | None
    low: datetime.datetime | None
    high: datetime.datetime | None
    curve_h: list[float] = Field(description="hours of the cooling curve")
    curve_c: list[float] = Field(description="coolant there [°C]")
    sentences: list[str]


class PlannedOut(Schema):
    """One morning of the plan."""

    day: str
    minimum_c: float
    spread_k: float
    forecast: bool
    good: float = Field(description="chance of a good start")
    teaches: float = Field(description="[bit]")
    serves_c: list[float]
    worth: bool


class ExperimentOut(Schema):
    """A start that may be tried."""

    kind: str
    coolant_c: float
    after_h: float | None
    good: float
    teaches: float = Field(description="[bit]")


class PlanOut(Schema):
    """What to try on which morning, and how many cold starts it takes."""

    mornings: list[PlannedOut]
    proven_c: list[float]
    open_c: list[float]
    unoffered_c: list[float]
    starts: int | None = Field(description="cold starts until all that is offered is proven")
    low: int | None
    high: int | None
    experiments: list[ExperimentOut]
    tomorrow: str = Field(description="what the next morning is good for; empty without one")
    until_then: str = Field(description="what to try until then; empty where all is proven")
    season: str


class MorningsOut(PlanOut):
    """What is known of the mornings, and what follows."""

    number: int
    parked: list[ParkedOut]
    minima: list[MinimumOut]
    monthly_c: list[float]
    stopped_at: str | None
    stopped_c: float
    ambient_c: float | None
    standing: StandingOut


class ReadyOut(Schema):
    """When a job's engine is cold right through."""

    job_id: int
    at: datetime.datetime
    low: datetime.datetime
    high: datetime.datetime


_CURVE_POINTS = 49


def _standing_out(entry: MorningsEntry, found: services.Standing) -> StandingOut:
    ambient_c = services.ambient_of(entry)
    hours = [found.ready.high_h * i / (_CURVE_POINTS - 1) for i in range(_CURVE_POINTS)]
    return StandingOut(
        tau_h=found.cooling.tau_h,
        readings=found.cooling.readings,
        **asdict(found.ready),
        at=found.at,
        low=found.low,
        high=found.high,
        curve_h=hours,
        curve_c=[found.cooling.coolant_after(h, entry.stopped_c, ambient_c) for h in hours],
        sentences=list(found.sentences),
    )


def _plan_out(found: services.Mornings) -> PlanOut:
    plan = found.plan
    return PlanOut(
        mornings=[PlannedOut.model_validate(asdict(morning)) for morning in plan.mornings],
        proven_c=list(plan.proven_c),
        open_c=list(plan.open_c),
        unoffered_c=list(plan.unoffered_c),
        starts=plan.starts,
        low=plan.low,
        high=plan.high,
        experiments=[ExperimentOut.model_validate(asdict(e)) for e in found.experiments],
        tomorrow=found.tomorrow,
        until_then=found.until_then,
        season=found.season,
    )


def _out(found: services.Mornings) -> MorningsOut:
    entry = found.entry
    return MorningsOut(
        **_plan_out(found).model_dump(),
        number=found.number,
        parked=[ParkedOut.model_validate(asdict(reading)) for reading in entry.parked],
        minima=[MinimumOut(day=day, minimum_c=c) for day, c in entry.minima],
        monthly_c=list(entry.monthly_c),
        stopped_at=entry.stopped_at,
        stopped_c=entry.stopped_c,
        ambient_c=entry.ambient_c,
        standing=_standing_out(entry, found.standing),
    )


@router.get(
    "/jobs/{job_id}/ladder/plan",
    response={200: PlanOut, 404: Problem, 422: Problem},
    operation_id="ladder_plan",
)
def get_plan(
    request: SignedInRequest,
    job_id: int,
    mornings: Annotated[
        str,
        Query(
            max_length=1000,
            description="minima of the coming mornings [°C], parted by commas; the entered ones if not given",
        ),
    ] = "",
) -> PlanOut:
    """Return what to try on which morning, and how many cold starts it takes."""
    minima_c = typed_minima(mornings) if mornings.strip() else None
    return _plan_out(services.mornings_of(job_of(request.user, job_id), minima_c))


@router.get(
    "/jobs/{job_id}/mornings",
    response={200: MorningsOut, 404: Problem},
    operation_id="mornings_get",
)
def get_mornings(request: SignedInRequest, job_id: int) -> MorningsOut:
    """Return when the engine is ready, what each coming morning is good for, and what to try till then."""
    return _out(services.mornings_of(job_of(request.user, job_id)))


@router.post(
    "/jobs/{job_id}/mornings",
    response={201: MorningsOut, 404: Problem, 422: Problem},
    operation_id="mornings_save",
)
def save_mornings(
    request: SignedInRequest, job_id: int, payload: MorningsIn
) -> Status[MorningsOut]:
    """Save what is known of the mornings as a new version."""
    job = job_of(request.user, job_id)
    typed = {row.day: row.minimum_c for row in payload.minima}
    entry = MorningsEntry(
        tuple(ParkedReading(**row.model_dump()) for row in payload.parked),
        tuple(sorted({**typed, **dict(read_minima(payload.pasted))}.items())),
        tuple(payload.monthly_c),
        payload.stopped_at,
        MorningsEntry.stopped_c if payload.stopped_c is None else payload.stopped_c,
        payload.ambient_c,
    )
    services.save(job, request.user, entry)
    return Status(201, _out(services.mornings_of(job)))


@router.get("/mornings/ready", response=list[ReadyOut], operation_id="mornings_ready")
def get_ready(request: SignedInRequest) -> list[ReadyOut]:
    """Return when the engines of the shop are cold right through, of those whose stop is known."""
    found = []
    for job_id, entry in services.newest_entries(list(jobs_of(request.user))).items():
        standing = services.standing_of(entry)
        if standing.at is not None and standing.low is not None and standing.high is not None:
            found.append(
                ReadyOut(job_id=job_id, at=standing.at, low=standing.low, high=standing.high)
            )
    return found

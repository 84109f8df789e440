"""Training seasons over HTTP."""

from __future__ import annotations

from typing import Any

from inbetrieb_core.causes import CAUSES
from ninja import Field, Router, Schema, Status

from server.accounts.requests import SignedInRequest
from server.accounts.services import workshop_of
from server.config.body import RequestBody
from server.config.problems import Problem
from server.jobs.models import Job
from server.jobs.services import job_of
from server.tasks.api import TaskOut, accepted
from server.tasks.services import Progress
from server.tasks.services import start as start_task

from . import scenarios, services
from .models import Step

router = Router(tags=["trainer"])


class ScenarioOut(Schema):
    """A scenario that ships."""

    key: str
    title: str
    story: str
    days: int
    file: dict[str, Any] = Field(description="the open JSON that it is written in")


class SeasonIn(RequestBody):
    """Which season to play: one that ships, one of one's own, or another one's again."""

    key: str | None = None
    scenario: str | None = Field(None, description="JSON text of a scenario")
    again: int | None = Field(None, description="job whose season is played again")


class BegunOut(Schema):
    """A season that was begun."""

    job_id: int


class SeasonStepOut(Schema):
    """One step of a season."""

    number: int
    day: int
    kind: str
    trial_id: int | None
    trial: int | None = Field(description="its number")
    coolant_c: float | None
    verdict: str | None
    good: bool | None
    cause: str
    found: bool


class SeasonLookOut(Schema):
    """What a look under the bonnet showed."""

    found: bool
    sentence: str


class SeasonCauseOut(Schema):
    """A cause that can be looked for."""

    key: str
    title: str


class MorningOut(Schema):
    """The true cold start of one day in one hand."""

    day: int
    coolant_c: float
    good: bool


class HandOut(Schema):
    """What one hand made of the season."""

    name: str
    sentence: str
    mornings: list[MorningOut]


class ReportOut(Schema):
    """The end of a season."""

    truth: list[str]
    hands: list[HandOut] = Field(description="the trainee first")


class SeasonOut(Schema):
    """Where a season stands."""

    job_id: int
    title: str
    story: str
    day: int
    days: int
    morning_c: float | None
    is_over: bool
    may_start: list[str] = Field(description="kinds of start that can be had now")
    steps: list[SeasonStepOut]
    causes: list[SeasonCauseOut]
    report: ReportOut | None = Field(description="once it was ended")


class PlayedOut(Schema):
    """A season of the workshop."""

    job_id: int
    title: str
    day: int
    days: int
    is_over: bool


class SeasonStartIn(RequestBody):
    """Which start to try."""

    kind: services.StartKind


class SeasonLookIn(RequestBody):
    """What to look for."""

    cause: str


class CrankedOut(Schema):
    """The trial of a start."""

    trial_id: int


def _step_out(step: Step) -> SeasonStepOut:
    trial = step.trial
    return SeasonStepOut(
        number=step.number,
        day=step.day,
        kind=step.kind,
        trial_id=None if trial is None else trial.pk,
        trial=None if trial is None else trial.number,
        coolant_c=None if trial is None else trial.coolant_c,
        verdict=None if trial is None else trial.verdict,
        good=None if trial is None else trial.good,
        cause=CAUSES[step.cause].title if step.cause else "",
        found=bool(step.found),
    )


def _season_out(job: Job) -> SeasonOut:
    standing = services.standing_of(job)
    ended = getattr(standing.season, "ending", None)
    return SeasonOut(
        job_id=job.pk,
        title=standing.scenario.title,
        story=standing.scenario.story,
        day=min(standing.day, standing.scenario.days),
        days=standing.scenario.days,
        morning_c=standing.morning_c,
        is_over=standing.is_over,
        may_start=list(standing.may_start),
        steps=[_step_out(step) for step in standing.steps],
        causes=[SeasonCauseOut(key=cause.key, title=cause.title) for cause in CAUSES.values()],
        report=None if ended is None else ReportOut.model_validate(ended.report),
    )


@router.get("/trainer/scenarios", response=list[ScenarioOut], operation_id="trainer_scenarios")
def get_scenarios(request: SignedInRequest) -> list[ScenarioOut]:
    """Return the scenarios that ship, with the JSON they are written in."""
    return [
        ScenarioOut(
            key=key,
            title=scenario.title,
            story=scenario.story,
            days=scenario.days,
            file=scenarios.SHAPE.plain(scenario),
        )
        for key in scenarios.SHIPPED
        for scenario in (scenarios.shipped(key),)
    ]


@router.get("/trainer/seasons", response=list[PlayedOut], operation_id="trainer_seasons")
def get_seasons(request: SignedInRequest) -> list[PlayedOut]:
    """Return the seasons of the workshop, newest first."""
    found = []
    for standing in services.standings_of(request.user):
        days = standing.scenario.days
        found.append(
            PlayedOut(
                job_id=standing.season.job_id,
                title=standing.scenario.title,
                day=min(standing.day, days),
                days=days,
                is_over=standing.is_over,
            )
        )
    return found


@router.post(
    "/trainer/seasons",
    response={201: BegunOut, 404: Problem, 422: Problem},
    operation_id="trainer_begin",
)
def begin(request: SignedInRequest, payload: SeasonIn) -> Status[BegunOut]:
    """Begin a season on a job of its own."""
    if payload.again is not None:
        scenario = services.standing_of(job_of(request.user, payload.again)).scenario
    elif payload.scenario is not None:
        scenario = scenarios.read_scenario(payload.scenario)
    else:
        scenario = scenarios.shipped(payload.key or scenarios.SHIPPED[0])
    return Status(201, BegunOut(job_id=services.begin(request.user, scenario).job_id))


@router.get(
    "/jobs/{job_id}/season", response={200: SeasonOut, 404: Problem}, operation_id="season_get"
)
def get_season(request: SignedInRequest, job_id: int) -> SeasonOut:
    """Return where the season of a job stands; nothing of what is hidden before it was ended."""
    return _season_out(job_of(request.user, job_id))


@router.post(
    "/jobs/{job_id}/season/starts",
    response={201: CrankedOut, 404: Problem, 409: Problem},
    operation_id="season_start",
)
def crank(request: SignedInRequest, job_id: int, payload: SeasonStartIn) -> Status[CrankedOut]:
    """Crank the hidden engine with the newest tables."""
    trial = services.start(job_of(request.user, job_id), request.user, payload.kind)
    return Status(201, CrankedOut(trial_id=trial.pk))


@router.post(
    "/jobs/{job_id}/season/looks",
    response={201: SeasonLookOut, 404: Problem, 409: Problem},
    operation_id="season_look",
)
def look(request: SignedInRequest, job_id: int, payload: SeasonLookIn) -> Status[SeasonLookOut]:
    """Look for a cause under the bonnet; what is found is mended."""
    step = services.look(job_of(request.user, job_id), payload.cause)
    title = CAUSES[step.cause].title
    sentence = f"You looked for {title}: {'found, and mended' if step.found else 'nothing found'}."
    return Status(201, SeasonLookOut(found=bool(step.found), sentence=sentence))


@router.post(
    "/jobs/{job_id}/season/nights",
    response={201: SeasonOut, 404: Problem, 409: Problem},
    operation_id="season_sleep",
)
def sleep(request: SignedInRequest, job_id: int) -> Status[SeasonOut]:
    """End the day: the engine stands overnight."""
    job = job_of(request.user, job_id)
    services.sleep(job)
    return Status(201, _season_out(job))


@router.post(
    "/jobs/{job_id}/season/end",
    response={202: TaskOut, 404: Problem},
    operation_id="season_end",
)
def end(request: SignedInRequest, job_id: int) -> Status[TaskOut]:
    """End the season: what the engine was, and how other hands do on the same mornings."""
    job = job_of(request.user, job_id)
    services.standing_of(job)

    def work(progress: Progress) -> dict[str, Any]:
        return services.compare(job, progress)

    return accepted(start_task(workshop_of(request.user), request.user, "season", work))

"""Trials and decisions over HTTP."""

from __future__ import annotations

from typing import Annotated, Literal

from inbetrieb_core.starts import Observation, StartSeen
from ninja import Field, Form, Query, Router, Schema, Status

from server.accounts.requests import SignedInRequest
from server.config.body import RequestBody
from server.config.problems import Problem
from server.jobs.engine_data import spec_of
from server.jobs.models import Job
from server.jobs.services import job_of
from server.logbook.services import log_of, mapping_of

from . import decisions, judging, services
from .models import Trial
from .out import TrialOut, TrialRowOut, rows_out, trial_out
from .told import Signs, Told

router = Router(tags=["logbook"])


class ToldIn(RequestBody):
    """What is told of a start besides its evidence; of several starts of a log, of the first."""

    revision: int | None = Field(
        None, description="revision in the controller; the newest if not given"
    )
    ambient_c: float | None = Field(None, description="[°C]")
    soak_h: float | None = Field(None, description="hours since the engine last ran [h]")
    coolant_c: float | None = Field(None, description="where the log has no coolant channel [°C]")
    attempt: int = Field(1, description="which attempt of the same morning")
    black_smoke: bool = Field(False, description="black smoke was seen")
    fuel_smell: bool = Field(False, description="it smelled of fuel")
    note: str = ""

    def told(self) -> Told:
        """Return it as the judgement takes it."""
        signs = Signs(self.attempt, self.black_smoke, self.fuel_smell)
        return Told(self.revision, self.ambient_c, self.soak_h, self.coolant_c, self.note, signs)


class TrialIn(ToldIn):
    """A start to judge: a log or an observation."""

    kind: Literal["start"] = "start"
    log_id: int | None = None
    observation: Observation | None = None
    start_number: int = Field(
        1, description="which start of the log; restarts are trials of their own"
    )


class TrialsIn(ToldIn):
    """Starts of one log to judge, each a trial of its own."""

    log_id: int
    start_numbers: list[int] = Field(min_length=1, max_length=200)


class AcceptedChange(Schema):
    """Another value for a cell of the advice."""

    index: list[int]
    to: float


class AcceptIn(RequestBody):
    """How the advice is accepted: as given or with other values, whole or in parts."""

    changes: Annotated[
        list[AcceptedChange] | None, Field(description="other values, of the first part taken")
    ] = None
    parts: Annotated[
        list[str] | None,
        Field(description="kinds of part or tables; what the job's school allows if not given"),
    ] = None
    note: str = ""


class DeclineIn(RequestBody):
    """Why the advice is declined."""

    note: str = ""


class AcceptOut(Schema):
    """The trial after its decision, and the new revision."""

    revision: int
    trial: TrialOut


def _out(job: Job, trial: Trial) -> TrialOut:
    return trial_out(trial, spec_of(job).schools)


@router.get(
    "/jobs/{job_id}/trials",
    response={200: list[TrialRowOut], 404: Problem},
    operation_id="trials_list",
    by_alias=True,
)
def list_trials(
    request: SignedInRequest,
    job_id: int,
    limit: Annotated[int, Query(ge=1, le=500)] = 100,
    offset: Annotated[int, Query(ge=0, le=1_000_000)] = 0,
) -> list[TrialRowOut]:
    """Return the trials of a job in short, newest first, on pages."""
    trials = Trial.objects.filter(job=job_of(request.user, job_id)).order_by("-number")
    return rows_out(trials[offset : offset + limit])


@router.post(
    "/jobs/{job_id}/trials",
    response={201: TrialOut, 404: Problem, 422: Problem},
    operation_id="trials_create",
    by_alias=True,
)
def create_trial(request: SignedInRequest, job_id: int, payload: TrialIn) -> Status[TrialOut]:
    """Judge a start from a log or an observation."""
    job = job_of(request.user, job_id)
    log = None if payload.log_id is None else log_of(job, payload.log_id)
    seen = payload.observation
    trial = judging.add_trial(
        job,
        request.user,
        log=log,
        observation=seen,
        told=payload.told(),
        start_number=payload.start_number,
    )
    return Status(201, _out(job, trial))


@router.post(
    "/jobs/{job_id}/trials/of-log",
    response={201: list[TrialOut], 404: Problem, 409: Problem, 422: Problem},
    operation_id="trials_create_of_log",
    by_alias=True,
)
def create_trials(
    request: SignedInRequest, job_id: int, payload: TrialsIn
) -> Status[list[TrialOut]]:
    """Judge several starts of one log: a trial of each, or none if one cannot be judged."""
    job = job_of(request.user, job_id)
    trials = judging.add_trials(
        job,
        request.user,
        log=log_of(job, payload.log_id),
        start_numbers=payload.start_numbers,
        told=payload.told(),
    )
    schools = spec_of(job).schools
    return Status(201, [trial_out(trial, schools) for trial in trials])


@router.post(
    "/jobs/{job_id}/trials/starts",
    response={200: list[StartSeen], 404: Problem, 422: Problem},
    operation_id="trials_starts",
    by_alias=True,
)
def starts_in_upload(
    request: SignedInRequest,
    job_id: int,
    upload_id: Form[str],
    mapping: Form[str] = "",
    coolant_c: Form[float | None] = None,
) -> list[StartSeen]:
    """List the starts of a kept upload as they would be judged; nothing is saved."""
    job = job_of(request.user, job_id)
    return judging.starts_of_upload(
        job,
        upload_id=upload_id,
        mapping=mapping_of(mapping),
        coolant_c=coolant_c,
    )


@router.get(
    "/jobs/{job_id}/logs/{log_id}/starts",
    response={200: list[StartSeen], 404: Problem, 422: Problem},
    operation_id="logs_starts",
    by_alias=True,
)
def starts_in_log(request: SignedInRequest, job_id: int, log_id: int) -> list[StartSeen]:
    """List the starts of a log as they would be judged; nothing is saved."""
    job = job_of(request.user, job_id)
    return judging.starts_of_log(job, log_of(job, log_id))


@router.get(
    "/jobs/{job_id}/trials/{trial_id}",
    response={200: TrialOut, 404: Problem},
    operation_id="trials_get",
    by_alias=True,
)
def get_trial(request: SignedInRequest, job_id: int, trial_id: int) -> TrialOut:
    """Return one trial."""
    job = job_of(request.user, job_id)
    return _out(job, services.trial_of(job, trial_id))


@router.post(
    "/jobs/{job_id}/trials/{trial_id}/accept",
    response={201: AcceptOut, 404: Problem, 409: Problem, 422: Problem},
    operation_id="trials_accept",
    by_alias=True,
)
def accept(
    request: SignedInRequest, job_id: int, trial_id: int, payload: AcceptIn | None = None
) -> Status[AcceptOut]:
    """Accept the advice, as given or with other values: a new revision."""
    job = job_of(request.user, job_id)
    payload = payload or AcceptIn()
    decision = decisions.accept(
        services.trial_of(job, trial_id),
        request.user,
        changes=None if payload.changes is None else [c.model_dump() for c in payload.changes],
        parts=payload.parts,
        note=payload.note,
    )
    assert decision.revision is not None
    trial = _out(job, services.trial_of(job, trial_id))
    return Status(201, AcceptOut(revision=decision.revision.number, trial=trial))


@router.post(
    "/jobs/{job_id}/trials/{trial_id}/decline",
    response={201: TrialOut, 404: Problem, 409: Problem, 422: Problem},
    operation_id="trials_decline",
    by_alias=True,
)
def decline(
    request: SignedInRequest, job_id: int, trial_id: int, payload: DeclineIn
) -> Status[TrialOut]:
    """Decline the advice; the reason is kept."""
    job = job_of(request.user, job_id)
    decisions.decline(services.trial_of(job, trial_id), request.user, note=payload.note)
    return Status(201, _out(job, services.trial_of(job, trial_id)))

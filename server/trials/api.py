"""Trials and decisions over HTTP."""

from __future__ import annotations

from dataclasses import asdict
from datetime import datetime
from typing import Annotated, Literal

from inbetrieb_core.causes import Diagnosis
from inbetrieb_core.engine import Schools
from inbetrieb_core.starts import (
    Acceptance,
    Advice,
    Finding,
    Observation,
    PartKind,
    Phase,
    StartSeen,
    Wait,
    parts_of,
    parts_taken,
)
from inbetrieb_core.starts.model import AdviceKind, sureness
from inbetrieb_core.starts.outcomes import Verdict
from ninja import Field, Form, Query, Router, Schema, Status

from server.accounts.requests import SignedInRequest
from server.calibration.api import CellChangeOut
from server.config.body import RequestBody
from server.config.problems import Problem
from server.jobs.engine_data import spec_of
from server.jobs.models import Job
from server.jobs.services import job_of
from server.logbook import uploads
from server.logbook.services import log_of, mapping_of

from . import services
from .analysis import analysis_of, said_in_short
from .models import Trial

router = Router(tags=["logbook"])


class TrialIn(RequestBody):
    """A start to judge: a log or an observation."""

    kind: Literal["start"] = "start"
    log_id: int | None = None
    observation: Observation | None = None
    revision: int | None = Field(
        None, description="revision in the controller; the newest if not given"
    )
    ambient_c: float | None = Field(None, description="[°C]")
    soak_h: float | None = Field(None, description="hours since the engine last ran [h]")
    coolant_c: float | None = Field(None, description="where the log has no coolant channel [°C]")
    start_number: int = Field(
        1, description="which start of the log; restarts are trials of their own"
    )
    attempt: int = Field(1, description="which attempt of the same morning")
    black_smoke: bool = Field(False, description="black smoke was seen")
    fuel_smell: bool = Field(False, description="it smelled of fuel")
    note: str = ""


class AdviceOut(Schema):
    """One part of the advice; something to do on the engine has no table and no changes."""

    part: PartKind = Field(description="read from logs, searched, or to be done on the engine")
    kind: AdviceKind = Field(description="change a table, take what was measured, measure, mend")
    table: str | None
    rule: str
    reason: str
    confidence: float = Field(description="of the whole advice, 0 to 1")
    sureness: str = Field(description="the same in words")
    disproof: str = Field(description="what at the next start would prove it wrong")
    changes: list[CellChangeOut]
    bands: list[tuple[float, float]] = Field(
        description="where the need of each cell lies with 90 %; empty where a rule alone chose it"
    )
    seen: list[bool] = Field(description="whether each cell was measured near it, or follows")
    trials: list[int] = Field(description="earlier trials that taught of it")
    taken: bool = Field(description="whether it is taken where no parts are named")


class CandidateOut(Schema):
    """One candidate for what is wrong; the tables are one of them."""

    key: str
    title: str
    family: str
    probability: float = Field(description="0 to 1")
    size: float | None = Field(description="how large it would be, where the logs tell")
    size_error: float | None = Field(description="standard error of the size")
    unit: str = Field(description="of the size; empty without one")
    evidence: list[str]
    told: bool = Field(description="whether this log has what tells it")
    leads: bool


class NotToldOut(Schema):
    """A cause that this log cannot tell, and what would."""

    title: str
    do: str


class DecidedChangeOut(CellChangeOut):
    """A cell that was changed, and of which table."""

    table: str = Field("", description="empty in decisions of earlier versions")


class DecisionOut(Schema):
    """What was decided on the advice."""

    kind: Literal["accepted", "declined"]
    changes: list[DecidedChangeOut]
    note: str
    revision: int | None
    created_at: datetime


class TrialOut(Schema):
    """A judged start."""

    id: int
    number: int
    kind: Literal["start"]
    log_id: int | None
    start_number: int
    observation: Observation | None
    revision: int
    ambient_c: float | None
    soak_h: float | None
    coolant_c: float
    note: str
    verdict: Verdict
    sentence: str
    good: bool
    acceptance: Acceptance
    acceptance_sentence: str = Field(description="what keeps it from being accepted")
    causes: list[CandidateOut] = Field(
        description="what the job's logs say of the causes, the most probable first; empty where the "
        "start is good, and on trials of earlier versions"
    )
    blocked: bool = Field(description="whether the leading cause is under the bonnet")
    alike: list[str] = Field(description="titles of causes these logs cannot tell from the leading")
    deciding_test: str = Field(description="the cheapest test that tells the first two apart")
    not_told: list[NotToldOut]
    evidence: Literal["log", "observation"]
    phases: list[Phase]
    figures: dict[str, float | None] = Field(description="units are in the names")
    findings: list[Finding]
    advice: list[AdviceOut] = Field(description="its parts, the earliest first")
    waits: list[Wait]
    decision: DecisionOut | None
    created_at: datetime
    author: str


class AdvisedOut(Schema):
    """What a trial advised first, in short."""

    table: str | None
    index: list[int] = Field(description="the cell nearest to where the start was; empty without")


class DecidedOut(Schema):
    """What was decided, in short."""

    kind: Literal["accepted", "declined"]
    revision: int | None


class TrialRowOut(Schema):
    """A trial in a list; what was said of it whole is at its own address."""

    id: int
    number: int
    kind: Literal["start"]
    log_id: int | None
    start_number: int
    revision: int
    coolant_c: float
    verdict: Verdict
    sentence: str
    good: bool
    evidence: Literal["log", "observation"]
    advised: AdvisedOut | None
    decision: DecidedOut | None
    note: str
    created_at: datetime
    author: str


class TrialsIn(RequestBody):
    """Starts of one log to judge, each a trial of its own."""

    log_id: int
    start_numbers: list[int] = Field(min_length=1, max_length=200)
    revision: int | None = Field(
        None, description="revision in the controller; the newest if not given"
    )
    ambient_c: float | None = Field(None, description="[°C]")
    soak_h: float | None = Field(
        None, description="hours since the engine last ran, before the first of them [h]"
    )
    coolant_c: float | None = Field(None, description="where the log has no coolant channel [°C]")
    attempt: int = Field(1, description="which attempt of the same morning the first of them was")
    black_smoke: bool = Field(False, description="black smoke was seen at the first of them")
    fuel_smell: bool = Field(False, description="it smelled of fuel at the first of them")
    note: str = ""


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


def _advice_out(advice: Advice, schools: Schools) -> list[AdviceOut]:
    taken = parts_taken(advice, schools, None)
    return [
        AdviceOut.model_validate(
            {**asdict(part), "sureness": sureness(part.confidence), "taken": part in taken}
        )
        for part in parts_of(advice)
    ]


def _candidates_out(found: Diagnosis) -> list[CandidateOut]:
    return [
        CandidateOut(
            key=entry.key,
            title=entry.title,
            family=entry.family,
            probability=entry.probability,
            size=None if entry.size is None else entry.size.value,
            size_error=None if entry.size is None else entry.size.error,
            unit="" if entry.size is None else entry.size.unit,
            evidence=list(entry.evidence),
            told=entry.told,
            leads=entry.key == found.leading,
        )
        for entry in found.ranked
    ]


def trial_out(trial: Trial, schools: Schools) -> TrialOut:
    """Return a trial as it travels, by the schools of its job."""
    said = analysis_of(trial).said
    decision = getattr(trial, "decision", None)
    found = None if trial.good else said.causes
    return TrialOut(
        id=trial.pk,
        number=trial.number,
        kind="start",
        log_id=trial.log_id,
        start_number=trial.start_number,
        observation=trial.observation,
        revision=trial.revision.number,
        ambient_c=trial.ambient_c,
        soak_h=trial.soak_h,
        coolant_c=trial.coolant_c,
        note=trial.note,
        verdict=said.verdict,
        sentence=said.sentence,
        good=trial.good,
        acceptance=said.acceptance,
        acceptance_sentence=said.acceptance.sentence,
        causes=[] if found is None else _candidates_out(found),
        blocked=found is not None and found.blocks,
        alike=[] if found is None else [e.title for e in found.ranked if e.key in found.alike],
        deciding_test="" if found is None else found.test,
        not_told=[]
        if found is None
        else [NotToldOut(title=t.cause.title, do=t.do) for t in found.not_told],
        evidence=said.evidence,
        phases=list(said.phases),
        figures=asdict(said.figures),
        findings=list(said.findings),
        advice=[part for advice in said.advice for part in _advice_out(advice, schools)],
        waits=list(said.waits),
        decision=None
        if decision is None
        else DecisionOut(
            kind=decision.kind,
            changes=decision.changes,
            note=decision.note,
            revision=None if decision.revision is None else decision.revision.number,
            created_at=decision.created_at,
        ),
        created_at=trial.created_at,
        author=trial.created_by.get_username(),
    )


def _told(payload: TrialIn | TrialsIn) -> services.Told:
    return services.Told(
        payload.revision,
        payload.ambient_c,
        payload.soak_h,
        payload.coolant_c,
        payload.note,
        services.Signs(payload.attempt, payload.black_smoke, payload.fuel_smell),
    )


def _out(job: Job, trial: Trial) -> TrialOut:
    return trial_out(trial, spec_of(job).schools)


def _row_out(trial: Trial) -> TrialRowOut:
    said = said_in_short(trial)
    decision = getattr(trial, "decision", None)
    return TrialRowOut.model_construct(
        id=trial.pk,
        number=trial.number,
        kind="start",
        log_id=trial.log_id,
        start_number=trial.start_number,
        revision=trial.revision.number,
        coolant_c=trial.coolant_c,
        verdict=trial.verdict,
        sentence=said.sentence,
        good=trial.good,
        evidence="observation" if trial.log_id is None else "log",
        advised=None
        if said.index is None
        else AdvisedOut.model_construct(table=said.table, index=list(said.index)),
        decision=None
        if decision is None
        else DecidedOut.model_construct(
            kind=decision.kind,
            revision=None if decision.revision is None else decision.revision.number,
        ),
        note=trial.note,
        created_at=trial.created_at,
        author=trial.created_by.get_username(),
    )


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
    rows = Trial.objects.filter(job=job_of(request.user, job_id))
    beside = ("revision", "created_by", "decision", "decision__revision")
    told = rows.select_related(*beside).defer(
        "analysis", "revision__tables", "decision__revision__tables", "decision__changes"
    )
    return [_row_out(trial) for trial in told.order_by("-number")[offset : offset + limit]]


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
    trial = services.add_trial(
        job,
        request.user,
        log=log,
        observation=seen,
        told=_told(payload),
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
    trials = services.add_trials(
        job,
        request.user,
        log=log_of(job, payload.log_id),
        start_numbers=payload.start_numbers,
        told=_told(payload),
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
    return services.starts_of_upload(
        job,
        data=uploads.fetch(job.workshop, upload_id),
        mapping=mapping_of(mapping),
        coolant_c=coolant_c,
    )


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
    decision = services.accept(
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
    services.decline(services.trial_of(job, trial_id), request.user, note=payload.note)
    return Status(201, _out(job, services.trial_of(job, trial_id)))

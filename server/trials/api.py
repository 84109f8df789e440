"""Trials and decisions over HTTP."""

from __future__ import annotations

from dataclasses import asdict
from datetime import datetime
from typing import Annotated, Literal

from inbetrieb_core.causes import Diagnosis
from inbetrieb_core.starts import Acceptance, Advice, Finding, Observation, Phase, StartSeen, Wait
from inbetrieb_core.starts.model import AdviceKind, sureness
from inbetrieb_core.starts.outcomes import Verdict
from ninja import Field, Form, Router, Schema, Status

from server.accounts.requests import SignedInRequest
from server.calibration.api import CellChangeOut
from server.config.body import RequestBody
from server.config.problems import Problem
from server.jobs.services import job_of
from server.logbook import uploads
from server.logbook.services import log_of, mapping_of

from . import services
from .analysis import analysis_of
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


class MeasuredOut(Schema):
    """Changes of a table that the same log measured by the way."""

    table: str
    changes: list[CellChangeOut]
    because: str
    bands: list[tuple[float, float]] = Field(
        description="where the need of each cell lies with 90 %"
    )
    seen: list[bool] = Field(description="whether each cell was measured near it, or follows")
    trials: list[int] = Field(description="earlier trials that taught of it")
    searched: bool = Field(description="only outcomes speak for it: the one searched step")


class AdviceOut(Schema):
    """One proposed change; a check on the engine has no table and no changes."""

    kind: AdviceKind = Field(description="change a table, take what was measured, measure, mend")
    table: str | None
    rule: str
    reason: str
    confidence: float = Field(description="0 to 1")
    sureness: str = Field(description="the same in words")
    disproof: str = Field(description="what at the next start would prove it wrong")
    changes: list[CellChangeOut]
    bands: list[tuple[float, float]] = Field(
        description="where the need of each cell lies with 90 %; empty where a rule alone chose it"
    )
    measured: list[MeasuredOut] = Field(
        description="measured by the way; taken along unless that is declined"
    )


class CandidateOut(Schema):
    """One candidate for what is wrong; the tables are one of them."""

    key: str
    title: str
    family: str
    probability: float = Field(description="0 to 1")
    evidence: list[str]
    told: bool = Field(description="whether this log has what tells it")
    leads: bool


class NotToldOut(Schema):
    """A cause that this log cannot tell, and what would."""

    title: str
    do: str


class CausesOut(Schema):
    """What the job's logs say of the causes, the most probable first."""

    ranked: list[CandidateOut]
    blocks: bool = Field(description="whether the leading cause is under the bonnet")
    alike: list[str] = Field(description="titles of causes these logs cannot tell from it")
    test: str = Field(description="the cheapest test that tells the first two apart")
    not_told: list[NotToldOut]


class DecisionOut(Schema):
    """What was decided on the advice."""

    kind: Literal["accepted", "declined"]
    changes: list[CellChangeOut]
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
    causes: CausesOut | None = Field(description="none on trials of earlier versions")
    evidence: Literal["log", "observation"]
    phases: list[Phase]
    figures: dict[str, float | None] = Field(description="units are in the names")
    findings: list[Finding]
    advice: list[AdviceOut] = Field(description="at most one")
    waits: list[Wait]
    decision: DecisionOut | None
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
    """How the advice is accepted: as given, or with other values."""

    changes: list[AcceptedChange] | None = None
    measured: Annotated[
        bool, Field(description="whether what was measured by the way is taken along")
    ] = True
    parts: Annotated[
        list[str] | None,
        Field(description="tables of which it is; all that the advice has if not given"),
    ] = None
    note: str = ""


class DeclineIn(RequestBody):
    """Why the advice is declined."""

    note: str = ""


class AcceptOut(Schema):
    """The trial after its decision, and the new revision."""

    revision: int
    trial: TrialOut


def _advice_out(advice: Advice) -> AdviceOut:
    plain = {**asdict(advice), "kind": advice.kind, "sureness": sureness(advice.confidence)}
    return AdviceOut.model_validate(plain)


def _causes_out(found: Diagnosis) -> CausesOut:
    return CausesOut(
        ranked=[
            CandidateOut(
                key=entry.key,
                title=entry.title,
                family=entry.family,
                probability=entry.probability,
                evidence=list(entry.evidence),
                told=entry.told,
                leads=entry.key == found.leading,
            )
            for entry in found.ranked
        ],
        blocks=found.blocks,
        alike=[entry.title for entry in found.ranked if entry.key in found.alike],
        test=found.test,
        not_told=[NotToldOut(title=t.cause.title, do=t.do) for t in found.not_told],
    )


def trial_out(trial: Trial) -> TrialOut:
    """Return a trial as it travels."""
    said = analysis_of(trial).said
    decision = getattr(trial, "decision", None)
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
        causes=None if said.causes is None or trial.good else _causes_out(said.causes),
        evidence=said.evidence,
        phases=list(said.phases),
        figures=asdict(said.figures),
        findings=list(said.findings),
        advice=[_advice_out(advice) for advice in said.advice],
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


@router.get(
    "/jobs/{job_id}/trials",
    response={200: list[TrialOut], 404: Problem},
    operation_id="trials_list",
    by_alias=True,
)
def list_trials(request: SignedInRequest, job_id: int) -> list[TrialOut]:
    """Return the trials of a job, newest first."""
    rows = Trial.objects.filter(job=job_of(request.user, job_id)).select_related(
        "revision", "created_by", "decision", "decision__revision"
    )
    return [trial_out(trial) for trial in rows.order_by("-number")]


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
        revision=payload.revision,
        ambient_c=payload.ambient_c,
        soak_h=payload.soak_h,
        coolant_c=payload.coolant_c,
        start_number=payload.start_number,
        note=payload.note,
        signs=services.Signs(payload.attempt, payload.black_smoke, payload.fuel_smell),
    )
    return Status(201, trial_out(trial))


@router.post(
    "/jobs/{job_id}/trials/of-log",
    response={201: list[TrialOut], 404: Problem, 422: Problem},
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
        revision=payload.revision,
        ambient_c=payload.ambient_c,
        soak_h=payload.soak_h,
        coolant_c=payload.coolant_c,
        note=payload.note,
        signs=services.Signs(payload.attempt, payload.black_smoke, payload.fuel_smell),
    )
    return Status(201, [trial_out(trial) for trial in trials])


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
    return trial_out(services.trial_of(job_of(request.user, job_id), trial_id))


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
        parts=payload.parts if payload.measured else [],
        note=payload.note,
    )
    assert decision.revision is not None
    trial = trial_out(services.trial_of(job, trial_id))
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
    return Status(201, trial_out(services.trial_of(job, trial_id)))

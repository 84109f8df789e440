"""Trials as they travel: whole, and in short for a list."""

from __future__ import annotations

from dataclasses import asdict
from datetime import datetime
from typing import Any, Literal

from django.db.models import QuerySet
from inbetrieb_core.causes import Diagnosis
from inbetrieb_core.engine import Schools
from inbetrieb_core.starts import (
    Acceptance,
    Advice,
    Finding,
    Observation,
    PartKind,
    Phase,
    Wait,
    parts_of,
    parts_taken,
)
from inbetrieb_core.starts.model import AdviceKind, sureness
from inbetrieb_core.starts.outcomes import Verdict
from ninja import Field, Schema

from server.calibration.api import CellChangeOut

from .analysis import analysis_of
from .models import Decision, Trial


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
    size: float | None = Field(
        description="how large it would be, where the logs tell; above zero where it is more, longer or "
        "reads too much"
    )
    size_error: float | None = Field(description="standard error of the size")
    unit: str = Field(description="of the size: %, ms or kPa; empty without one")
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


class DecidedOut(Schema):
    """What was decided, in short."""

    kind: Literal["accepted", "declined"]
    revision: int | None


class DecisionOut(DecidedOut):
    """What was decided on the advice."""

    changes: list[DecidedChangeOut]
    note: str
    created_at: datetime


class TrialHeadOut(Schema):
    """What a list and the trial itself say alike."""

    id: int
    number: int
    kind: Literal["start"]
    log_id: int | None
    start_number: int
    revision: int = Field(description="number of the revision that was in the controller")
    coolant_c: float = Field(description="[°C]")
    note: str
    verdict: Verdict
    sentence: str
    good: bool
    evidence: Literal["log", "observation"]
    created_at: datetime
    author: str


class TrialOut(TrialHeadOut):
    """A judged start."""

    observation: Observation | None
    ambient_c: float | None = Field(description="[°C]")
    soak_h: float | None = Field(description="hours since the engine last ran [h]")
    acceptance: Acceptance
    acceptance_sentence: str = Field(description="what keeps it from being accepted")
    causes: list[CandidateOut] = Field(
        description="what the job's logs say of the causes, the most probable first; empty where the "
        "start is good, and on trials of earlier versions"
    )
    blocked: bool = Field(description="whether the leading cause is under the bonnet")
    alike: list[str] = Field(description="titles of causes these logs cannot tell from the leading")
    deciding_test: str = Field(
        description="the test that tells the leading candidate from the next"
    )
    not_told: list[NotToldOut]
    phases: list[Phase]
    figures: dict[str, float | None] = Field(description="units are in the names")
    findings: list[Finding]
    advice: list[AdviceOut] = Field(description="its parts, the earliest first")
    waits: list[Wait]
    decision: DecisionOut | None


class AdvisedOut(Schema):
    """What a trial advised first, in short."""

    table: str | None
    index: list[int] = Field(description="the cell nearest to where the start was; empty without")


class TrialRowOut(TrialHeadOut):
    """A trial in a list; what was said of it whole is at its own address."""

    advised: AdvisedOut | None
    decision: DecidedOut | None


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
        **_head(trial, said.sentence),
        observation=trial.observation,
        ambient_c=trial.ambient_c,
        soak_h=trial.soak_h,
        acceptance=said.acceptance,
        acceptance_sentence=said.acceptance.sentence,
        causes=[] if found is None else _candidates_out(found),
        blocked=found is not None and found.blocks,
        alike=[] if found is None else [e.title for e in found.ranked if e.key in found.alike],
        deciding_test="" if found is None else found.test,
        not_told=[]
        if found is None
        else [NotToldOut(title=t.cause.title, do=t.do) for t in found.not_told],
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
            revision=_revision_of(decision),
            created_at=decision.created_at,
        ),
    )


#: What a list of trials reads, by the names it travels under.
_ROW = {
    "id": "pk",
    "number": "number",
    "log_id": "log",
    "start_number": "start_number",
    "revision": "revision__number",
    "coolant_c": "coolant_c",
    "note": "note",
    "verdict": "verdict",
    "sentence": "in_short__sentence",
    "good": "good",
    "created_at": "created_at",
    "author": "created_by__username",
}


def rows_out(trials: QuerySet[Trial]) -> list[TrialRowOut]:
    """Return trials in short, with one question to the database: no analysis is read."""
    decided = ("decision__kind", "decision__revision__number", "in_short__advised")
    return [
        TrialRowOut(
            **dict(zip(_ROW, row, strict=False)),
            kind="start",
            evidence="observation" if row[2] is None else "log",
            advised=None if advised is None else AdvisedOut(**advised),
            decision=None if kind is None else DecidedOut(kind=kind, revision=revision),
        )
        for *row, kind, revision, advised in trials.values_list(*_ROW.values(), *decided)
    ]


def _head(trial: Trial, sentence: str) -> dict[str, Any]:
    return {
        "id": trial.pk,
        "number": trial.number,
        "kind": "start",
        "log_id": trial.log_id,
        "start_number": trial.start_number,
        "revision": trial.revision.number,
        "coolant_c": trial.coolant_c,
        "note": trial.note,
        "verdict": trial.verdict,
        "sentence": sentence,
        "good": trial.good,
        "evidence": "observation" if trial.log_id is None else "log",
        "created_at": trial.created_at,
        "author": trial.created_by.get_username(),
    }


def _revision_of(decision: Decision) -> int | None:
    return None if decision.revision is None else decision.revision.number

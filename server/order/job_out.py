"""A job as it travels: its data with what is to be done on it next."""

from __future__ import annotations

from datetime import datetime

from inbetrieb_core.commissioning import CheckTemperature, Gate, NextAction
from inbetrieb_core.engine import EngineEntry
from inbetrieb_core.supply import InjectorJudgement
from ninja import Field, Schema

from server.jobs.engine_data import entry_of_job, spec_of
from server.jobs.models import Job

from . import services
from .aside import is_aside


class JobOut(Schema):
    """A job with its next action."""

    id: int
    name: str
    note: str
    engine: EngineEntry
    units: dict[str, str]
    created_at: datetime
    revision: int = Field(description="number of the newest revision")
    firings_per_turn: float = Field(description="combustion events per shaft turn")
    trials: int = Field(description="how many trials there are")
    next_action: NextAction
    checks: list[CheckTemperature] = Field(
        description="where starts have to be good, the coldest first"
    )
    gates: list[Gate] = Field(description="what the first start waits for")
    judgement: InjectorJudgement
    aside: bool = Field(description="whether it is put aside, off the board")


def job_out(job: Job) -> JobOut:
    """Return a job as it travels."""
    standing = services.standing_of(job)
    return JobOut(
        id=job.pk,
        name=job.name,
        note=job.note,
        engine=entry_of_job(job),
        units=job.units,
        created_at=job.created_at,
        revision=standing.revision,
        firings_per_turn=spec_of(job).firings_per_turn,
        trials=standing.trials,
        next_action=standing.action,
        checks=list(standing.checks),
        gates=list(standing.gates),
        judgement=standing.judgement,
        aside=is_aside(job),
    )

"""A job as a whole: how it begins, and what is to be done on it next."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from django.contrib.auth.models import User
from inbetrieb_core.basemaps import generate
from inbetrieb_core.commissioning import (
    CAR_BEGINS,
    CarState,
    CheckTemperature,
    Gate,
    NextAction,
    checks_of,
    next_action,
)
from inbetrieb_core.engine import EngineEntry, engine_of
from inbetrieb_core.errors import field_refused
from inbetrieb_core.supply import InjectorJudgement, judge_injectors

from server.accounts.services import workshop_of
from server.calibration.services import add_first_revision, newest_number
from server.config.writes import writing
from server.entries.reasons import write_reason
from server.jobs import units
from server.jobs.begun import begun
from server.jobs.engine_data import plain_engine, spec_of
from server.jobs.models import Job
from server.jobs.tried import tried

from .gates import gates_of


@dataclass(frozen=True)
class Standing:
    """Where a job stands, loaded once.

    Attributes
    ----------
    revision, trials : int
        Newest revision, and how many trials there are. [–]
    gates : tuple of Gate
    action : NextAction
    checks : tuple of CheckTemperature
    judgement : InjectorJudgement
    """

    revision: int
    trials: int
    gates: tuple[Gate, ...]
    action: NextAction
    checks: tuple[CheckTemperature, ...]
    judgement: InjectorJudgement


def standing_of(job: Job) -> Standing:
    """Return where a job stands."""
    gates, facts, revision = gates_of(job), tried(job), newest_number(job)
    checks = checks_of(facts)
    later = begun(job) if all(check.proven for check in checks) else ()
    action = next_action(facts, revision, gates, later)
    return Standing(revision, len(facts), gates, action, checks, judge_injectors(spec_of(job)))


@writing()
def create_job(
    user: User,
    *,
    name: str,
    note: str,
    engine: EngineEntry,
    display_units: dict[str, str],
    axes: Mapping[str, Sequence[float]] | None,
    override_reason: str,
    car: CarState = "bare",
) -> Job:
    """Return a new job with its generated revision 1, begun where the car stands.

    Raises
    ------
    InputRefused
        If data are impossible, or implausible without a written reason.
    """
    if not name.strip():
        raise field_refused("name", "Give the job a name.")
    spec = engine_of(engine)
    judgement = judge_injectors(spec)
    if judgement.level == "implausible" and not override_reason.strip():
        sentence = (
            " ".join(judgement.sentences) + " If it is really so, say why in override_reason."
        )
        raise field_refused("engine.injectors.flow_cm3_min", sentence)
    calibration = generate(spec, axes)
    job = Job.objects.create(
        workshop=workshop_of(user),
        name=name.strip()[:120],
        note=note.strip(),
        engine=plain_engine(engine),
        units=units.checked(display_units),
        override_reason=override_reason.strip(),
        created_by=user,
    )
    add_first_revision(job, user, calibration)
    for gate in CAR_BEGINS[car].opened:
        write_reason(job, user, gate, CAR_BEGINS[car].reason)
    return job

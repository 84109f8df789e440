"""Playing a season: virtual days, one true cold start each, and the trainee's own choices."""

from __future__ import annotations

from dataclasses import asdict, dataclass
from typing import Any, Literal, cast

from django.contrib.auth.models import User
from django.db import IntegrityError
from django.db.models import Prefetch
from inbetrieb_core.bench import Fault
from inbetrieb_core.causes import CAUSES
from inbetrieb_core.logs import Trace
from inbetrieb_core.starts import Verdict
from inbetrieb_core.trainer import (
    HALF_WARM_C,
    HANDS,
    HOT_C,
    Scenario,
    SeasonRecord,
    StartRecord,
    climate,
    found_tables,
    hidden_engine,
    mends,
    noise_of,
    open_temperatures,
    play,
    report_on,
    simulated_start,
)

from server.calibration.services import calibration_of, edit, revision_of
from server.config.problems import Refusal
from server.config.writes import writing
from server.jobs.engine_data import spec_of
from server.jobs.models import Job
from server.logbook.services import add_log
from server.order.services import create_job
from server.tasks.services import Progress
from server.trials.judging import add_trial
from server.trials.models import Trial
from server.trials.told import Told

from .models import Ending, Season, Step
from .scenarios import SHAPE, read_scenario

StartKind = Literal["cold", "half-warm", "hot"]
#: Hands that the trainee is compared with.
_COMPARED = ("the estimate's advice", "a plain hand")
_SIMULATED = "Simulated engine of a training season, not a real one."


@dataclass(frozen=True)
class Standing:
    """Where a season stands.

    Attributes
    ----------
    season : Season
    scenario : Scenario
    steps : list of Step
        Oldest first.
    day : int
        Of the season, from 1; one more than its days when it is over.
    """

    season: Season
    scenario: Scenario
    steps: list[Step]
    day: int

    @property
    def is_over(self) -> bool:
        """Whether all days are used, or it was ended."""
        return self.day > self.scenario.days or hasattr(self.season, "ending")

    @property
    def morning_c(self) -> float | None:
        """Temperature of today's morning, None when it is over. [°C]"""
        return None if self.is_over else climate(self.scenario)[self.day - 1]

    def done_today(self, kind: str) -> bool:
        """Say whether a kind of step was taken today."""
        return any(step.kind == kind and step.day == self.day for step in self.steps)

    @property
    def may_start(self) -> tuple[StartKind, ...]:
        """Kinds of start that can be had now: one true cold start, and restarts after it."""
        if self.is_over:
            return ()
        return ("half-warm", "hot") if self.done_today("cold") else ("cold",)

    @property
    def faults(self) -> tuple[Fault, ...]:
        """Faults that are not mended yet."""
        mended = {step.found for step in self.steps if step.found}
        return tuple(fault for fault in self.scenario.faults if fault.kind not in mended)


@writing()
def begin(user: User, scenario: Scenario) -> Season:
    """Return a new season with a job of its own, whose tables are as somebody left them."""
    job = create_job(
        user,
        name=f"Training: {scenario.title}"[:120],
        note=f"{_SIMULATED} {scenario.story}",
        engine=scenario.engine,
        display_units={},
        axes=None,
        override_reason="Training season: the data are part of it.",
    )
    newest = revision_of(job)
    left, now = found_tables(scenario), calibration_of(newest)
    tables = {
        key: left[key].values.round(1).tolist()
        for key in left.tables
        if not (left[key].values == now[key].values).all()
    }
    if tables:
        edit(
            job,
            user,
            note="Start tables as somebody left them.",
            based_on=newest.number,
            tables=tables,
            provenance="carried_over",
        )
    return Season.objects.create(job=job, scenario=SHAPE.plain(scenario), created_by=user)


def standing_of(job: Job) -> Standing:
    """Return where the season of a job stands.

    Raises
    ------
    Refusal
        404 if the job is no training season.
    """
    season = Season.objects.filter(job=job).first()
    if season is None:
        raise Refusal(404, "No season", "This job is no training season.")
    return _standing(season, list(season.steps.select_related("trial").order_by("number")))


def standings_of(user: User) -> list[Standing]:
    """Return where the seasons of a user's workshop stand, the newest first."""
    rows = Season.objects.filter(job__workshop__memberships__user=user).select_related("ending")
    rows = rows.prefetch_related(Prefetch("steps", Step.objects.order_by("number")))
    return [_standing(row, list(row.steps.all())) for row in rows.order_by("-pk")]


def _standing(season: Season, steps: list[Step]) -> Standing:
    day = 1 + sum(step.kind == "night" for step in steps)
    return Standing(season, read_scenario(season.scenario), steps, day)


def _write(standing: Standing, kind: str, **rest: Any) -> Step:
    number = len(standing.steps) + 1
    try:
        with writing():
            return Step.objects.create(
                season=standing.season, number=number, day=standing.day, kind=kind, **rest
            )
    except IntegrityError:
        raise Refusal(409, "Two at once", "Another step was taken meanwhile: look again.") from None


def _refuse_if_over(standing: Standing) -> None:
    if standing.is_over:
        raise Refusal(409, "Season over", "The season is over: see how it went, or replay it.")


@writing()
def start(job: Job, user: User, kind: StartKind) -> Trial:
    """Crank the hidden engine with the newest tables and judge the start.

    Raises
    ------
    Refusal
        409 if the season is over, or today's cold start was used up.
    """
    standing = standing_of(job)
    _refuse_if_over(standing)
    if kind == "cold" and standing.done_today("cold"):
        raise Refusal(
            409, "No longer cold", "One true cold start a day: the engine has heat in it now."
        )
    if kind != "cold" and not standing.done_today("cold"):
        raise Refusal(
            409, "Not warm yet", "The engine is cold: a restart comes after the cold start."
        )
    morning_c = standing.morning_c
    assert morning_c is not None
    place = {"cold": morning_c, "half-warm": HALF_WARM_C, "hot": HOT_C}[kind]
    engine, saved = hidden_engine(standing.scenario), revision_of(job)
    again = sum(step.kind == kind and step.day == standing.day for step in standing.steps)
    seed = noise_of(standing.day, place, again)
    run = simulated_start(engine, calibration_of(saved), place, seed, standing.faults)
    about = {"stand_in": _SIMULATED, "engine_title": engine.title, "revision": saved.number}
    log = add_log(
        job,
        user,
        name=f"Day {standing.day}: {kind} start",
        origin="bench",
        trace=Trace(run.channels),
        about=about,
    )
    trial = add_trial(
        job,
        user,
        log=log,
        observation=None,
        told=Told(revision=saved.number, note=f"Day {standing.day}, {kind} start."),
    )
    _write(standing, kind, trial=trial)
    return trial


@writing()
def look(job: Job, cause: str) -> Step:
    """Look for a cause under the bonnet; what is found is mended.

    Raises
    ------
    Refusal
        404 if there is no such cause, 409 if the season is over.
    """
    standing = standing_of(job)
    _refuse_if_over(standing)
    if cause not in CAUSES:
        raise Refusal(404, "Unknown", "There is no such cause to look for.")
    found = next((f.kind for f in standing.faults if mends((cause,), f)), "")
    return _write(standing, "look", cause=cause, found=found)


@writing()
def sleep(job: Job) -> Step:
    """End the day: the engine stands overnight.

    Raises
    ------
    Refusal
        409 if the season is over.
    """
    standing = standing_of(job)
    _refuse_if_over(standing)
    return _write(standing, "night")


def own_record(standing: Standing) -> SeasonRecord:
    """Return what became of the season in the trainee's hands so far."""
    job = standing.season.job
    engine = hidden_engine(standing.scenario)
    trials = [step for step in standing.steps if step.trial is not None]
    starts = tuple(
        StartRecord(
            step.day, step.trial.coolant_c, cast(Verdict, step.trial.verdict), step.trial.good
        )
        for step in trials
        if step.trial is not None
    )
    still = open_temperatures(engine, calibration_of(revision_of(job)))
    faults = standing.faults
    used = max((step.day for step in trials), default=None)
    return SeasonRecord(starts, None if still or faults else used, still, faults)


def compare(job: Job, progress: Progress) -> dict[str, Any]:
    """End the season: play it with the other hands and write down how they stand.

    Raises
    ------
    Refusal
        404 if the job is no training season.
    """
    standing = standing_of(job)
    ended = Ending.objects.filter(season=standing.season).first()
    if ended is not None:
        return dict(ended.report)
    others = {}
    for number, name in enumerate(_COMPARED):

        def told(day: int, days: int, number: int = number, name: str = name) -> None:
            share = (number + day / days) / len(_COMPARED)
            progress.tell(share, f"Day {day} in the hands of {name}.")

        others[name] = play(standing.scenario, HANDS[name], told, spec_of(job))
    report = report_on(
        hidden_engine(standing.scenario), standing.scenario.faults, own_record(standing), others
    )
    plain = {
        "truth": list(report.truth),
        "hands": [
            {
                "name": name,
                "sentence": record.sentence,
                "mornings": [asdict(start) for start in record.mornings],
            }
            for name, record in report.hands
        ],
    }
    with writing():
        if not Ending.objects.filter(season=standing.season).exists():
            Ending.objects.create(season=standing.season, report=plain)
    return plain

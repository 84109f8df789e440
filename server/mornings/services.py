"""The mornings of a job: what is entered of them, and the plan that follows."""

from __future__ import annotations

import datetime
from collections.abc import Sequence
from dataclasses import dataclass, replace

from django.contrib.auth.models import User
from django.utils import timezone
from inbetrieb_core.mornings import (
    Cooling,
    Experiment,
    MorningsEntry,
    Ready,
    SeasonPlan,
    checked_mornings,
    cooling_sentence,
    days_ahead,
    experiment_sentence,
    experiments,
    fit_cooling,
    ready,
    ready_between,
    ready_sentence,
    season_plan,
    season_sentence,
    tomorrow_sentence,
)
from inbetrieb_core.starts import CHECKS_C

from server.config.writes import writing
from server.entries.kinds import Kind
from server.entries.models import Entry
from server.jobs.models import Job
from server.trials.estimates import estimate_of

MORNINGS: Kind[MorningsEntry] = Kind("mornings", MorningsEntry)
#: So many days are planned.
_DAYS = 42
#: Where an engine stands if nobody said: a cool day. [°C]
_AMBIENT_C = 10.0


@dataclass(frozen=True)
class Standing:
    """How a stopped engine cools down.

    Attributes
    ----------
    cooling : Cooling
    ready : Ready
        Hours from being switched off.
    at, low, high : datetime or None
        When it is cold right through; None where nobody said when it was switched off.
    sentences : tuple of str
        In words.
    """

    cooling: Cooling
    ready: Ready
    at: datetime.datetime | None
    low: datetime.datetime | None
    high: datetime.datetime | None
    sentences: tuple[str, ...]


@dataclass(frozen=True)
class Mornings:
    """What is known of the mornings of a job, and what follows.

    Attributes
    ----------
    entry : MorningsEntry
    number : int
        Its version, 0 where nothing was entered.
    standing : Standing
    plan : SeasonPlan
    experiments : tuple of Experiment
        What teaches most first.
    tomorrow, until_then, season : str
        What the next morning is good for, what to try until then, and what the season needs; empty
        where there is nothing to say.
    """

    entry: MorningsEntry
    number: int
    standing: Standing
    plan: SeasonPlan
    experiments: tuple[Experiment, ...]
    tomorrow: str
    until_then: str
    season: str


def entry_of(job: Job) -> tuple[MorningsEntry, int]:
    """Return what is entered of the mornings of a job, and its version."""
    return MORNINGS.value(job) or (MorningsEntry(), 0)


@writing()
def save(job: Job, user: User, entry: MorningsEntry) -> int:
    """Write what is known of the mornings as a new version and return its number.

    Raises
    ------
    InputRefused
        With a sentence for each number that cannot be.
    """
    return MORNINGS.add(job, user, checked_mornings(entry)).number


def standing_of(entry: MorningsEntry) -> Standing:
    """Return how a stopped engine cools down."""
    cooling = fit_cooling(entry.parked)
    ambient_c = ambient_of(entry)
    found = ready(cooling, entry.stopped_c, ambient_c)
    at = low = high = None
    if entry.stopped_at is not None:
        at, low, high = ready_between(entry.stopped_at, found)
    sentences = (cooling_sentence(cooling), ready_sentence(found, ambient_c))
    return Standing(cooling, found, at, low, high, sentences)


def ambient_of(entry: MorningsEntry) -> float:
    """Return the air that an engine stands in; a cool day where nobody said. [°C]"""
    return _AMBIENT_C if entry.ambient_c is None else entry.ambient_c


def mornings_of(job: Job, minima_c: Sequence[float] | None = None) -> Mornings:
    """Return what is known of the mornings of a job, and what follows.

    Parameters
    ----------
    job : Job
    minima_c : sequence of float, optional
        Minima of the coming mornings instead of the entered ones. [°C]
    """
    entry, number = entry_of(job)
    if minima_c is not None:
        tomorrow = timezone.localdate() + datetime.timedelta(days=1)
        days = (tomorrow + datetime.timedelta(days=i) for i in range(len(minima_c)))
        minima = tuple((day.isoformat(), c) for day, c in zip(days, minima_c, strict=True))
        entry = checked_mornings(replace(entry, minima=minima, monthly_c=()))
    found = estimate_of(job)
    standing = standing_of(entry)
    ahead = days_ahead(timezone.localdate(), entry.minima, entry.monthly_c, _DAYS)
    proven = [c.coolant_c for c in found.chances_at(CHECKS_C) if c.coverage == "proven"]
    plan = season_plan(found.believed, found.calibration, ahead, CHECKS_C, proven)
    ambient_c = ambient_of(entry)
    tried = experiments(
        found.believed,
        found.calibration,
        CHECKS_C,
        standing.cooling,
        from_c=entry.stopped_c,
        ambient_c=ambient_c,
        morning_c=ahead[0].minimum_c if ahead else ambient_c,
    )
    restart = next(e for e in tried if e.kind != "cold")
    return Mornings(
        entry,
        number,
        standing,
        plan,
        tried,
        tomorrow_sentence(plan.mornings[0]) if plan.mornings else "",
        experiment_sentence(restart) if plan.open_c else "",
        season_sentence(plan),
    )


def newest_entries(jobs: list[Job]) -> dict[int, MorningsEntry]:
    """Return what is entered of the mornings of many jobs, by their key, in one query."""
    rows = Entry.objects.filter(job__in=jobs, kind=MORNINGS.name).order_by("number")
    newest = {row.job_id: row for row in rows}
    return {key: MORNINGS.read(row.data) for key, row in newest.items() if row.data is not None}

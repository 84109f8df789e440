"""What can be done at station 12: limits and checks, pulls from logs, files and fingers, and what follows from them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from django.contrib.auth.models import User
from inbetrieb_core.errors import field_refused
from inbetrieb_core.json_text import json_of
from inbetrieb_core.pulls import (
    CHECKS,
    STANDARDS,
    BrakePoint,
    Feed,
    HeldPoint,
    PullLimits,
    PullRecord,
    PullStretch,
    Standard,
    Vehicle,
    find_pulls,
    held_points,
    measured_beyond,
    passed_limits,
    pull_of_log,
    read_dynamometer,
    supply_line,
    typed_pull,
)
from pydantic import ValidationError

from server.calibration.services import number_in_the_car, revision_of
from server.config.problems import Refusal
from server.config.writes import writing
from server.entries.kinds import Shape
from server.entries.reasons import worth_reading
from server.jobs.engine_data import spec_of
from server.jobs.models import Job
from server.logbook.samples import read_channels, read_trace
from server.logbook.services import log_of

from .kinds import ASIDE, CHECK, LIMITS, OPENED, PULL, Conditions, PullSaved, Reason, Ticked

#: What is read of a log of a brake.
_HELD = ("time_s", "rpm", "throttle_pct", "torque_nm", "lambda", "map_kpa")

_CONDITIONS: Shape[Conditions] = Shape(Conditions)
MOST_PULLS, MOST_IN_SERIES = 2000, 60


@dataclass(frozen=True)
class PullRow:
    """A pull with its number, who drove it and when, and whether it counts."""

    number: int
    at: datetime
    by: str
    saved: PullSaved
    aside: str


def feed_of(job: Job) -> Feed:
    """Return what duty and pressure are judged by."""
    spec = spec_of(job)
    return Feed(
        float(spec.injections_per_cycle), float(spec.turns_per_cycle), spec.rail_pressure_kpa, spec.barometric_kpa, spec.manifold_referenced
    )  # fmt: skip


def is_boosted(job: Job) -> bool:
    """Return whether an engine is meant to make boost."""
    return spec_of(job).boost_kpa > 0.0


def conditions_of(text: str) -> Conditions:
    """Return the conditions that a form sends as JSON.

    Raises
    ------
    InputRefused
        If they are none.
    """
    try:
        return _CONDITIONS.read(json_of(text[:4000]))
    except (ValueError, ValidationError) as error:
        raise field_refused("conditions", "The conditions cannot be read.") from error


def standard_of(text: str) -> Standard:
    """Return a standard by its key.

    Raises
    ------
    InputRefused
        If there is none of that name.
    """
    for key in STANDARDS:
        if key == text:
            return key
    raise field_refused("corrected_by", f"There is no correction '{text[:40]}'.")


def refuse_large(size: int | None, largest: int) -> None:
    """Refuse a file that is too large. [byte]

    Raises
    ------
    Refusal
        413 where it is.
    """
    if size is None or size > largest:
        raise Refusal(413, "Too large", f"A dynamometer's file has at most {largest / 1e6:.0f} MB.")


def limits_of(job: Job) -> PullLimits | None:
    """Return the limits in force; None before they were entered."""
    found = LIMITS.value(job)
    return None if found is None else found[0]


def rows_of(job: Job) -> list[PullRow]:
    """Return the pulls of a job, oldest first."""
    aside = {}
    for entry in ASIDE.newest_of_each(job):
        reason = ASIDE.read(entry.data)
        aside[reason.pull] = reason.reason
    rows = PULL.rows(job).select_related("created_by")[:MOST_PULLS]
    return [
        PullRow(row.number, row.created_at, row.created_by.username, PULL.read(row.data), aside.get(row.number, ""))
        for row in rows
    ]  # fmt: skip


def row_of(job: Job, number: int) -> PullRow:
    """Return one pull.

    Raises
    ------
    Refusal
        404 without it.
    """
    found = next((row for row in rows_of(job) if row.number == number), None)
    if found is None:
        raise Refusal(404, "Not found", f"There is no pull {number}.")
    return found


def chosen(job: Job, numbers: Sequence[int]) -> list[PullRow]:
    """Return pulls by their numbers.

    Raises
    ------
    InputRefused
        If there are too many, or one is set aside.
    Refusal
        404 without one.
    """
    if len(numbers) > MOST_IN_SERIES:
        raise field_refused("numbers", f"Up to {MOST_IN_SERIES} pulls at once.")
    by_number = {row.number: row for row in rows_of(job)}
    found = []
    for number in dict.fromkeys(numbers):
        row = by_number.get(number)
        if row is None:
            raise Refusal(404, "Not found", f"There is no pull {number}.")
        if row.aside:
            raise field_refused("numbers", f"Pull {number} is set aside: {row.aside}")
        found.append(row)
    return found


def closed_by(job: Job) -> PullRow | None:
    """Return the pull that closes the station until a reason is written; None where it is open."""
    last = OPENED.newest(job)
    opened = OPENED.read(last.data).pull if last is not None else 0
    bad = [
        row
        for row in rows_of(job)
        if row.number > opened and not row.aside and (row.saved.passed or row.saved.stop)
    ]
    return bad[-1] if bad else None


def open_checks(job: Job) -> list[str]:
    """Return the checks before the first pull that are not ticked, by their title."""
    ticked = {row.key for row in CHECK.newest_of_each(job)}
    return [check.title for check in CHECKS if check.when == "before" and check.key not in ticked]


def refuse_closed(job: Job) -> PullLimits:
    """Return the limits once a pull may be kept.

    Raises
    ------
    Refusal
        409 before limits were entered, with open checks, or after a pull beyond a limit.
    """
    limits = limits_of(job)
    if limits is None:
        raise Refusal(
            409,
            "Limits first",
            "Enter the limits before the first pull: every pull is checked against them.",
        )
    missing = open_checks(job)
    if missing:
        raise Refusal(409, "Checks first", f"Before the first pull: {', '.join(missing)}.")
    bad = closed_by(job)
    if bad is not None:
        sentence = bad.saved.stop or bad.saved.passed[0].sentence
        raise Refusal(
            409,
            "Closed",
            f"Pull {bad.number} says stop: {sentence} Mend it, then write why the next pull may follow.",
        )
    return limits


@writing()
def save_limits(job: Job, user: User, limits: PullLimits) -> list[str]:
    """Write the limits down; return what was measured beyond them already, in sentences.

    Raises
    ------
    InputRefused
        If one cannot be.
    """
    LIMITS.add(job, user, limits.check())
    return measured_beyond(
        limits, [row.saved.pull for row in rows_of(job) if not row.aside], feed_of(job)
    )


@writing()
def tick(job: Job, user: User, key: str, note: str) -> None:
    """Tick a check.

    Raises
    ------
    Refusal
        404 without it.
    """
    if key not in {check.key for check in CHECKS}:
        raise Refusal(404, "Not found", "There is no such check.")
    CHECK.add(job, user, Ticked(note.strip()[:500]), key)


@writing()
def open_again(job: Job, user: User, reason: str) -> None:
    """Write why the next pull may follow one beyond a limit.

    Raises
    ------
    Refusal
        409 where nothing closes the station.
    InputRefused
        If the reason says nothing.
    """
    bad = closed_by(job)
    if bad is None:
        raise Refusal(409, "Open", "Nothing closes this station.")
    OPENED.add(
        job,
        user,
        Reason(bad.number, worth_reading(reason, "Say what was mended before the next pull")),
    )


@writing()
def set_aside(job: Job, user: User, number: int, reason: str) -> None:
    """Leave a pull out of everything, with a reason.

    Raises
    ------
    Refusal
        404 without it.
    """
    row_of(job, number)
    ASIDE.add(
        job,
        user,
        Reason(number, worth_reading(reason, "Say why this pull does not count")),
        str(number),
    )


def stretches_in(job: Job, log_id: int) -> list[PullStretch]:
    """Return the pulls that lie in a log."""
    return find_pulls(read_trace(log_of(job, log_id)))


def held_of(job: Job, plan: Sequence[BrakePoint], log_ids: Sequence[int]) -> tuple[HeldPoint, ...]:
    """Return each load point of a plan as logs of a job have it.

    Raises
    ------
    Http404
        If a log is not the job's.
    """
    logs = [log_of(job, log_id) for log_id in dict.fromkeys(log_ids)]
    return held_points(plan, [read_channels(log, _HELD) for log in logs])


def add_from_log(
    job: Job, user: User, log_id: int, begin_s: float, end_s: float, conditions: Conditions, vehicle: Vehicle | None,
    *, stand_in: bool = False,
) -> int:  # fmt: skip
    """Keep a pull of a log; return its number.

    Raises
    ------
    LogRefused, InputRefused
        If it is none.
    Refusal
        409 where no pull may follow.
    """
    limits = refuse_closed(job)
    log = log_of(job, log_id)
    pull = pull_of_log(
        read_trace(log),
        PullStretch(begin_s, end_s, 0.0, 0.0),
        None if vehicle is None else vehicle.check(),
    )
    said = log.about.get("revision")
    revision = said if isinstance(said, int) else number_in_the_car(job) or revision_of(job).number
    return _keep(
        job,
        user,
        pull,
        conditions,
        limits,
        revision=revision,
        log_id=log_id,
        begin_s=begin_s,
        stand_in=stand_in,
    )


def add_from_file(
    job: Job, user: User, data: bytes, conditions: Conditions, corrected_by: Standard
) -> int:
    """Keep the pull of a dynamometer's file; return its number.

    Raises
    ------
    LogRefused, InputRefused
        If it cannot be read.
    Refusal
        409 where no pull may follow.
    """
    limits = refuse_closed(job)
    found = read_dynamometer(data, corrected_by=corrected_by, ambient=conditions.ambient)
    return _keep(job, user, found.pull, conditions, limits, revision=number_in_the_car(job) or revision_of(job).number, said=found.said)  # fmt: skip


def add_typed(
    job: Job, user: User, points: list[tuple[float, float]], conditions: Conditions
) -> int:
    """Keep a typed pull; return its number.

    Raises
    ------
    InputRefused
        If its points make no pull.
    Refusal
        409 where no pull may follow.
    """
    limits = refuse_closed(job)
    return _keep(job, user, typed_pull(points), conditions, limits, revision=number_in_the_car(job) or revision_of(job).number)  # fmt: skip


@writing()
def _keep(
    job: Job, user: User, pull: PullRecord, conditions: Conditions, limits: PullLimits, *, revision: int | None,
    log_id: int | None = None, begin_s: float | None = None, said: tuple[str, ...] = (), stand_in: bool = False,
) -> int:  # fmt: skip
    if conditions.duty_pct is not None and not 0.0 <= conditions.duty_pct <= 100.0:
        raise field_refused("conditions.duty_pct", "Duty lies between 0 and 100 %.")
    if conditions.ambient is not None:
        conditions.ambient.check()
    feed = feed_of(job)
    line = supply_line([pull], feed)
    saved = PullSaved(
        pull, conditions, revision, log_id, begin_s, passed_limits(pull, limits, feed), line.sentence if line.stop else "", said, stand_in
    )  # fmt: skip
    return PULL.add(job, user, saved).number

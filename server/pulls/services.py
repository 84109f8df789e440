"""What can be done at station 12: limits and checks, pulls from logs, files and fingers, and what follows from them."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime

import numpy as np
from django.contrib.auth.models import User
from inbetrieb_core.errors import field_refused
from inbetrieb_core.provenance import Provenance
from inbetrieb_core.pulls import (
    CHECKS,
    STANDARDS,
    BoostStep,
    BoostTables,
    CamSwitch,
    Difference,
    Dip,
    Feed,
    HeardKnock,
    KnockCell,
    Member,
    PullLimits,
    PullRecord,
    PullStretch,
    Staircase,
    Standard,
    SupplyLine,
    Vehicle,
    boost_tables,
    cam_switch,
    compare,
    correction_factor,
    find_dips,
    find_pulls,
    is_within,
    knock_cells,
    passed_limits,
    pull_of_log,
    read_dynamometer,
    readings_of_pulls,
    refuse_below,
    staircase,
    supply_line,
    typed_pull,
)
from inbetrieb_core.tables import Axis, Table
from pydantic import ValidationError

from server.calibration.models import Revision
from server.calibration.services import calibration_of, number_in_the_car, revise, revision_of
from server.config.problems import Refusal
from server.config.writes import writing
from server.entries.kinds import Shape
from server.entries.reasons import worth_reading
from server.fuelling.services import Asked, solve_readings
from server.jobs.engine_data import spec_of
from server.jobs.models import Job
from server.logbook.samples import read_trace
from server.logbook.services import log_of
from server.tasks.services import Progress

from .kinds import ASIDE, CHECK, LIMITS, OPENED, PULL, Conditions, PullSaved, Reason, Ticked

_CONDITIONS: Shape[Conditions] = Shape(Conditions)
MOST_PULLS, MOST_IN_SERIES = 2000, 60
#: A correction of full load is made by what pulls support; its band is finer than that of a drive. [–]
_FULL_LOAD_AUTHORITY = 0.08


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


def proposed_limits(job: Job) -> PullLimits:
    """Return limits as they are usual for an engine; somebody has to enter them."""
    spec = spec_of(job)
    boosted = spec.boost_kpa > 0.0
    return PullLimits(
        boost_kpa=round(spec.top_map_kpa + (10.0 if boosted else 8.0)), leanest=0.88 if boosted else 0.95, exhaust_c=950.0, knock=2.0,
        duty_pct=88.0, pressure_falls_kpa=25.0, charge_c=80.0 if boosted else 65.0, speed_rpm=spec.rev_limit_rpm,
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
        return _CONDITIONS.read(json.loads(text[:4000]))
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
    return refuse_below(
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


# --- what follows ---------------------------------------------------------------------------


def members_of(rows: Sequence[PullRow], b: set[int], standard: Standard) -> list[Member]:
    """Return pulls as members of a comparison; the correction of each by its own air.

    Parameters
    ----------
    rows : sequence of PullRow
    b : set of int
        Numbers that are B.
    standard : str
    """
    found = []
    for row in rows:
        c = row.saved.conditions
        words = {"gear": c.gear, "fuel": c.fuel, "water injection": c.water, "note": c.note}
        found.append(Member(row.saved.pull, row.number in b, float(row.number), words, row.saved.revision, factor_of(row, standard)))  # fmt: skip
    return found


def factor_of(row: PullRow, standard: Standard) -> float:
    """Return by what a pull's torque is multiplied; 1 where its air is not known. [–]"""
    ambient = row.saved.conditions.ambient
    return 1.0 if ambient is None else correction_factor(standard, ambient)


def difference(
    job: Job, a: Sequence[int], b: Sequence[int], channel: str, wanted_pct: float, standard: Standard
) -> Difference:  # fmt: skip
    """Return what B does against A.

    Raises
    ------
    InputRefused
        If they cannot be compared.
    """
    if set(a) & set(b):
        raise field_refused("b", "A pull is A or B, not both.")
    rows = chosen(job, [*a, *b])
    found = compare(members_of(rows, set(b), standard), channel=channel, wanted_pct=wanted_pct)
    notes = []
    if standard != "none":
        without_air = [row.number for row in rows if row.saved.conditions.ambient is None]
        if without_air:
            notes.append(
                f"The air of pull {', '.join(map(str, without_air))} is not known: not corrected."
            )
        far = [row.number for row in rows if not is_within(standard, factor_of(row, standard))]
        if far:
            notes.append(
                f"The correction of pull {', '.join(map(str, far))} lies beyond what its standard allows."
            )
    return replace(found, sentences=(*found.sentences, *notes))


def staircase_of(job: Job, target_kpa: float | None = None) -> Staircase:
    """Return where the staircase of a job stands, by the pulls that held a duty.

    Raises
    ------
    Refusal
        409 before limits were entered.
    """
    limits = limits_of(job)
    if limits is None:
        raise Refusal(409, "Limits first", "Enter the limits before boost is raised.")
    return staircase(_steps(job), limits, feed_of(job), target_kpa=target_kpa)


def _steps(job: Job) -> list[BoostStep]:
    return [
        BoostStep(duty, row.saved.pull)
        for row in rows_of(job)
        if not row.aside and (duty := row.saved.conditions.duty_pct) is not None
    ]


@writing()
def take_boost(job: Job, user: User, target_kpa: float) -> tuple[Revision, BoostTables]:
    """Write boost target and duty over speed as one revision.

    Raises
    ------
    InputRefused
        If the target was not made.
    Refusal
        422 where nothing changes.
    """
    newest = revision_of(job)
    calibration = calibration_of(newest)
    held = calibration.tables.get("boost_target")
    points = calibration["ve"].axes[0].points if held is None else held.axes[0].points
    found = boost_tables(
        staircase_of(job), target_kpa, [p for p in points if p >= 1000.0] or points
    )
    share = spec_of(job).ethanol_volume_share * 100.0
    for key, values in (("boost_target", found.target_kpa), ("boost_duty", found.duty_pct)):
        calibration = calibration.with_table(
            _over_share(calibration.tables.get(key), key, found, values, share)
        )
    revision = revise(job, user, calibration, origin="edit", note=f"Boost for {target_kpa:.0f} kPa by the staircase.", based_on=newest.number)  # fmt: skip
    if revision is None:
        raise Refusal(422, "Nothing to take", "The tables hold this already.")
    return revision, found


def _over_share(
    held: Table | None, key: str, found: BoostTables, values: Sequence[float], share_pct: float
) -> Table:
    """Return a boost table with values in the column nearest to the fuel's share; other shares stay, or are assumed."""
    shares = (0.0, 85.0) if held is None else held.axes[1].points
    column = int(np.argmin(np.abs(np.array(shares) - share_pct)))
    grid = np.tile(np.array(values)[:, None], (1, len(shares)))
    marks = np.empty(grid.shape, dtype=object)
    marks[:] = Provenance(
        "assumed", "As at the share of ethanol that was pulled; not tried at this one."
    )
    if held is not None and tuple(held.axes[0].points) == found.rpm:
        grid, marks = np.array(held.values, dtype=float), held.provenance.copy()
    grid[:, column] = values
    for row, inside in enumerate(found.measured):
        marks[row, column] = Provenance(
            "measured" if inside else "calculated", found.sentence, "boost staircase"
        )
    return Table(
        key, (Axis("rpm", "rpm", found.rpm), Axis("ethanol_pct", "%", shares)), grid, marks
    )


def supply_of(job: Job) -> SupplyLine:
    """Return what all pulls say of the supply."""
    return supply_line([row.saved.pull for row in rows_of(job) if not row.aside], feed_of(job))


def dips_of(rows: Sequence[PullRow]) -> list[Dip]:
    """Return the holes in the mean torque of some pulls."""
    return find_dips([row.saved.pull for row in rows])


def knock_of(job: Job, quiet: Sequence[int], heard: Sequence[HeardKnock]) -> list[KnockCell]:
    """Return where it knocked and what to take out."""
    still = set(quiet)
    rows = [row for row in rows_of(job) if not row.aside]
    return knock_cells(
        [r.saved.pull for r in rows if r.number not in still], [r.saved.pull for r in rows if r.number in still], heard
    )  # fmt: skip


@writing()
def take_knock(job: Job, user: User, quiet: Sequence[int], heard: Sequence[HeardKnock]) -> Revision:
    """Take degrees out of the spark table where it knocked, as one revision.

    Raises
    ------
    Refusal
        422 where it knocked nowhere, or the table is by throttle.
    """
    cells = knock_of(job, quiet, heard)
    newest = revision_of(job)
    calibration = calibration_of(newest)
    table = calibration["spark"]
    if not cells:
        raise Refusal(422, "Nothing to take", "It knocked nowhere, as far as the pulls tell.")
    if table.by_throttle:
        raise Refusal(
            422,
            "By hand",
            "The spark table stands over throttle: take the degrees out by hand at full load.",
        )
    values, marks = np.array(table.values, dtype=float), table.provenance.copy()
    rpm, load = (np.array(axis.points) for axis in table.axes)
    for cell in cells:
        # The cells about the place: all that the controller blends there.
        rows = np.argsort(np.abs(rpm - cell.rpm))[:2]
        columns = np.argsort(np.abs(load - cell.map_kpa))[:2] if cell.map_kpa else [len(load) - 1]
        for row in rows:
            for column in columns:
                lower = max(
                    table.definition.lower, float(table.values[row, column]) - cell.take_deg
                )
                if lower < values[row, column]:
                    values[row, column] = lower
                    marks[row, column] = Provenance("measured", cell.sentence, "pulls")
    changed = calibration.with_table(replace(table, values=values, provenance=marks))
    revision = revise(job, user, changed, origin="edit", note=f"Spark out where it knocked: {len(cells)} places.", based_on=newest.number)  # fmt: skip
    if revision is None:
        raise Refusal(422, "Nothing to take", "The table holds this already.")
    return revision


def switch_of(job: Job, low: Sequence[int], high: Sequence[int]) -> CamSwitch:
    """Return where to change the cam profile.

    Raises
    ------
    InputRefused
        If one profile has no pull.
    """
    return cam_switch(
        [r.saved.pull for r in chosen(job, low)], [r.saved.pull for r in chosen(job, high)]
    )


@writing()
def take_switch(job: Job, user: User, low: Sequence[int], high: Sequence[int]) -> Revision:
    """Write the change-over speed as one revision.

    Raises
    ------
    Refusal
        422 where it is not told, or stands there already.
    """
    found = switch_of(job, low, high)
    if found.rpm is None:
        raise Refusal(422, "Not told", found.sentence)
    newest = revision_of(job)
    mark = np.empty((), dtype=object)
    mark[...] = Provenance("measured", found.sentence, "pulls")
    table = Table("cam_switch_rpm", (), np.array(round(found.rpm / 50.0) * 50.0), mark)
    revision = revise(job, user, calibration_of(newest).with_table(table), origin="edit", note=found.sentence[:400], based_on=newest.number)  # fmt: skip
    if revision is None:
        raise Refusal(422, "Nothing to take", "The setting stands there already.")
    return revision


def solve_full_load(job: Job, user: User, numbers: Sequence[int], progress: Progress) -> int:
    """Correct the fuel map at full load from pulls; return the number of the pass.

    Raises
    ------
    InputRefused
        If the pulls hold no lambda with a target.
    """
    rows = chosen(job, numbers)
    newest = revision_of(job)
    table = calibration_of(newest)["ve"]
    readings = readings_of_pulls([row.saved.pull for row in rows], table)
    if not len(readings):
        raise field_refused("numbers", "These pulls hold no lambda with its target and load.")
    progress.tell(0.5, "Reading the pulls")
    asked = Asked((), authority=_FULL_LOAD_AUTHORITY)
    return solve_readings(job, user, newest, readings, (), asked, progress)

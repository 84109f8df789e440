"""What follows from pulls: differences, boost, supply, knock, cams, and the mixture of full load."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from django.contrib.auth.models import User
from inbetrieb_core.errors import field_refused
from inbetrieb_core.fuelling import Readings, carried_to, joined
from inbetrieb_core.provenance import Provenance
from inbetrieb_core.pulls import (
    BoostStep,
    BoostTables,
    CamSwitch,
    Difference,
    Dip,
    HeardKnock,
    KnockCell,
    Member,
    SharedStep,
    Staircase,
    Standard,
    SupplyLine,
    boost_tables,
    cam_switch,
    compare,
    correction_factor,
    find_dips,
    is_within,
    knock_cells,
    of_one_fuel,
    over_share,
    readings_of_pulls,
    resting,
    staircase,
    supply_line,
)
from inbetrieb_core.tables import Table

from server.calibration.models import Revision
from server.calibration.services import calibration_of, revise, revision_of
from server.config.problems import Refusal
from server.config.writes import writing
from server.fuelling.asked import Asked
from server.fuelling.services import solve_readings
from server.jobs.engine_data import spec_of
from server.jobs.models import Job
from server.tasks.services import Progress

from .services import PullRow, chosen, feed_of, limits_of, rows_of

#: A correction of full load is made by what pulls support; its band is finer than that of a drive. [–]
_FULL_LOAD_AUTHORITY = 0.08


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
    job: Job, a: Sequence[int], b: Sequence[int], wanted_pct: float, standard: Standard
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
    found = compare(members_of(rows, set(b), standard), wanted_pct=wanted_pct)
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
    steps = _steps(job)
    stairs = staircase(steps, limits, feed_of(job), target_kpa=target_kpa)
    others = len(_held(job)) - len(steps)
    if not others:
        return stairs
    note = f"{others} pulls at another share of ethanol have a staircase of their own, and are left out here."
    return replace(stairs, notes=(*stairs.notes, note))


def _steps(job: Job) -> list[BoostStep]:
    """Return the pulls that held a duty on the fuel of the newest one: each share has its own staircase."""
    same = of_one_fuel(_shares(job))
    return [BoostStep(duty, row.saved.pull) for row, duty in _held(job) if row.number in same]


def _held(job: Job) -> list[tuple[PullRow, float]]:
    return [
        (row, duty)
        for row in rows_of(job)
        if not row.aside and (duty := row.saved.conditions.duty_pct) is not None
    ]


def _shares(job: Job) -> list[SharedStep]:
    """Return on which share of ethanol each pull of the staircase was driven: as logged, else as entered."""
    entered = 100.0 * spec_of(job).ethanol_volume_share
    found = []
    for row, _ in _held(job):
        logged = row.saved.pull.channel("ethanol_pct")
        known = logged[np.isfinite(logged)]
        found.append(SharedStep(row.number, float(known.mean()) if known.size else entered))
    return found


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
    stairs = staircase_of(job)
    found = boost_tables(stairs, target_kpa, [p for p in points if p >= 1000.0] or points)
    at_rest = resting(stairs, found.rpm)
    share = _shares(job)[-1].share_pct
    for key in ("boost_target", "boost_duty"):
        calibration = calibration.with_table(
            over_share(calibration.tables.get(key), key, found, at_rest, share)
        )
    revision = revise(job, user, calibration, origin="edit", note=f"Boost for {target_kpa:.0f} kPa by the staircase.", based_on=newest.number)  # fmt: skip
    if revision is None:
        raise Refusal(422, "Nothing to take", "The tables hold this already.")
    return revision, found


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


def _as_now(job: Job, row: PullRow, table: Table) -> Readings:
    """Return what a pull says of the newest fuel map: what that gained since the pull is taken off."""
    readings = readings_of_pulls([row.saved.pull], table)
    if row.saved.revision is None:
        return readings
    return carried_to(readings, calibration_of(revision_of(job, row.saved.revision))["ve"], table)


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
    readings = joined([_as_now(job, row, table) for row in rows])
    if not len(readings):
        raise field_refused("numbers", "These pulls hold no lambda with its target and load.")
    progress.tell(0.5, "Reading the pulls")
    asked = Asked((), authority=_FULL_LOAD_AUTHORITY)
    return solve_readings(job, user, newest, readings, (), asked, progress)

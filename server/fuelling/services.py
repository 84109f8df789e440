"""What can be done at station 11: solve the map from logs, take the correction whole or in part."""

from __future__ import annotations

from dataclasses import dataclass, field, replace

import numpy as np
from django.contrib.auth.models import User
from inbetrieb_core.errors import LogRefused, field_refused
from inbetrieb_core.fuelling import (
    CYLINDER_TRIM,
    LEAST_HITS_S,
    MAPS,
    Beside,
    CorrectionTold,
    CylinderTold,
    Fingerprint,
    MapFit,
    Proposal,
    Readings,
    Sifted,
    cold_readings,
    cold_told,
    correction_table,
    corrections_of,
    cylinders_of,
    few_left,
    fingerprint_of_drives,
    grid_of,
    joined,
    layer_titles,
    plan_drive,
    prior_of,
    propose,
    readings_of_trims,
    refuse_authority,
    rests_of,
    sift,
    solve_map,
    trims_of,
    warmed_up,
    without,
)
from inbetrieb_core.quantities import FloatArray
from inbetrieb_core.tables import Provenance, Table

from server.calibration.models import Revision
from server.calibration.services import (
    calibration_of,
    number_in_the_car,
    revise,
    revision_of,
)
from server.config.problems import Refusal
from server.config.writes import writing
from server.entries.reasons import worth_reading
from server.jobs.engine_data import spec_of
from server.jobs.models import Job
from server.logbook.aside import refuse_set_aside
from server.logbook.models import Log
from server.logbook.samples import read_channels
from server.logbook.services import log_of
from server.tasks.services import Progress

from .asked import CHANNELS, Asked
from .earlier import Earlier, but_for_mended, earlier_drives
from .kinds import PASS, TAKEN, FuelPass, LogUsed, PassTaken
from .passes import engine_digest, pass_of

MOST_LOGS = 40


@dataclass(frozen=True)
class BesideTheMap:
    """What logs tell beside the warm map: what they show by themselves, cold driving and its coolant [°C], cylinders,
    what earlier drives read, and how many of the readings are each log's, in the order in which they were brought.
    """

    drives: tuple[Beside, ...] = ()
    cold: Readings | None = None
    coolant_c: FloatArray = field(default_factory=lambda: np.empty(0))
    cylinders: tuple[CylinderTold, ...] = ()
    earlier: Earlier = field(default_factory=Earlier)
    lengths: tuple[int, ...] = ()


@dataclass(frozen=True)
class Region:
    """Rows and columns of a map, both ends included."""

    first_row: int
    last_row: int
    first_column: int
    last_column: int

    def has(self, row: int, column: int) -> bool:
        """Return whether a cell lies in it."""
        return (
            self.first_row <= row <= self.last_row
            and self.first_column <= column <= self.last_column
        )


def checked(job: Job, asked: Asked) -> list[Log]:
    """Return the logs of a pass as they were brought one after the other, everything about it looked over.

    Raises
    ------
    InputRefused
        If there are none or too many, a layer is unknown, or the authority cannot be.
    Http404
        If a log is not the job's.
    """
    if not len(asked.log_ids) <= MOST_LOGS or not (asked.log_ids or asked.learned):
        raise field_refused(
            "log_ids", f"1 to {MOST_LOGS} logs make a pass, not {len(asked.log_ids)}."
        )
    unknown = set(asked.off) - set(layer_titles())
    if unknown:
        raise field_refused("filters", f"There is no layer '{sorted(unknown)[0][:40]}'.")
    refuse_authority(asked.authority)
    tables = calibration_of(revision_of(job)).tables
    if asked.table not in tables:
        raise field_refused("table", f"This job has no {MAPS[asked.table]}.")
    if asked.learned and "learned_trim" not in tables:
        raise field_refused("learned", "This job has no learned trims: bring them with the calibration that was read out of the controller.")  # fmt: skip
    if asked.revision is not None:
        revision_of(job, asked.revision)
    logs = [log_of(job, log_id) for log_id in dict.fromkeys(asked.log_ids)]
    refuse_set_aside(job, logs)
    return sorted(logs, key=lambda log: log.pk)


def solve(job: Job, user: User, asked: Asked, progress: Progress) -> int:
    """Compute a pass and write it down; return its number.

    Raises
    ------
    LogRefused
        If a log cannot be used.
    """
    logs = checked(job, asked)
    newest = revision_of(job)
    now = calibration_of(newest)
    table = now[asked.table]
    sifted: list[tuple[Log, int, Sifted]] = []
    cold, traces = [], []
    for number, log in enumerate(logs):
        progress.tell(0.6 * number / len(logs), f"Reading {log.name}")
        held = revision_in(job, log, asked.revision)
        try:
            trace, then = read_channels(log, CHANNELS), calibration_of(revision_of(job, held))
            found = sift(trace, then, now=now, off=asked.off, key=asked.table)
            cold.append(cold_readings(trace, then))
            traces.append(trace)
        except KeyError:
            raise LogRefused(f"{log.name}: revision {held} has no {MAPS[asked.table]}.") from None
        except LogRefused as error:
            raise LogRefused(f"{log.name}: {error.sentence}") from error
        sifted.append((log, held, found))
    parts = [found.readings for _, _, found in sifted]
    if asked.learned:
        parts.append(readings_of_trims(now["learned_trim"], table))
    used = tuple(
        LogUsed(log.pk, log.name, held, len(found.readings), found.delay.sentence, found.layers)
        for log, held, found in sifted
    )
    beside = BesideTheMap(
        tuple(found.beside for _, _, found in sifted),
        joined([readings for readings, _ in cold]) if cold else None,
        np.concatenate([coolant for _, coolant in cold]) if cold else np.empty(0),
        cylinders_of(traces),
        earlier_drives(job, asked, now, [log.pk for log in logs], progress),
        () if asked.learned else tuple(len(found.readings) for _, _, found in sifted),
    )
    return solve_readings(job, user, newest, joined(parts), used, asked, progress, beside)


def solve_readings(
    job: Job, user: User, newest: Revision, readings: Readings, used: tuple[LogUsed, ...], asked: Asked, progress: Progress,
    beside: BesideTheMap | None = None,
) -> int:  # fmt: skip
    """Solve a table from readings, wherever they come from, and write the pass down; return its number.

    Raises
    ------
    InputRefused
        If a mended cause cannot be.
    """
    now = calibration_of(newest)
    table = now[asked.table]
    beside = beside or BesideTheMap()
    readings = without(readings, asked.mended, spec_of(job), table)
    axes = grid_of(table)
    fit = solve_map(readings, axes, tell=lambda share: progress.tell(0.6 + 0.3 * share, "Solving the map"))  # fmt: skip
    proposal = propose(
        table,
        fit,
        authority=asked.authority,
        locked=set(asked.locked),
        before=_last_change(job, table),
    )
    progress.tell(0.95, "Weighing causes")
    ends = np.cumsum(beside.lengths[:-1]).astype(int)
    parts = [readings.chosen(part) for part in np.split(np.arange(len(readings)), ends)]
    told = fingerprint_of_drives(parts, spec_of(job), table, prior_of(table, fit), beside.drives, but_for_mended(beside.earlier.readings, asked, spec_of(job), table))  # fmt: skip
    if not fit.hits.max() >= LEAST_HITS_S:
        proposal = replace(proposal, sentence=few_left([log.layers for log in used]))
    corrections = corrections_of(readings, axes, now)
    if beside.cold is not None and asked.table == "ve":
        corrections += (cold_told(beside.cold, beside.coolant_c, axes, np.log(fit.factor), now),)
    saved = _pass(newest, table, fit, proposal, told, used, asked, corrections)
    saved = replace(
        saved, cylinders=beside.cylinders, rests=rests_of(readings, fit), locked=asked.locked,
        engine=engine_digest(job), earlier=beside.earlier.passes,
    )  # fmt: skip
    with writing():
        return PASS.add(job, user, saved).number


def revision_in(job: Job, log: Log, given: int | None) -> int:
    """Return the revision that a log was driven on, as far as anybody knows."""
    said = log.about.get("revision")
    if isinstance(said, int):
        return said
    return given or number_in_the_car(job) or revision_of(job).number


def _last_change(job: Job, table: Table) -> FloatArray | None:
    """Return what the last pass that was taken applied; None without one on these axes."""
    taken = TAKEN.newest(job)
    if taken is None:
        return None
    read = TAKEN.read(taken.data)
    row = PASS.rows(job).filter(number=read.number).first()
    if row is None:
        return None
    found = PASS.read(row.data)
    if found.table != table.key or found.axes != grid_of(table):
        return None
    change = np.ones((len(found.change), len(found.change[0])))
    for place in read.cells:
        change[place] = found.change[place[0]][place[1]]
    return change


def _rows(values: FloatArray, digits: int) -> tuple[tuple[float, ...], ...]:
    return tuple(tuple(round(float(v), digits) for v in row) for row in values)


def _pass(
    newest: Revision, table: Table, fit: MapFit, proposal: Proposal, told: Fingerprint,
    used: tuple[LogUsed, ...], asked: Asked, corrections: tuple[CorrectionTold, ...],
) -> FuelPass:  # fmt: skip
    return FuelPass(
        newest.number, table.key, table.axes[-1].unit, grid_of(table), _rows(fit.factor, 4), _rows(fit.error, 4),
        _rows(proposal.low, 4), _rows(proposal.high, 4), _rows(fit.hits, 1), _rows(proposal.change, 4),
        _rows(proposal.values, 3), tuple(tuple(row) for row in proposal.state), round(proposal.done_share, 3),
        round(fit.scatter, 2), fit.roughness, round(told.table, 3), asked.authority, proposal.sentence, used,
        told.causes, told.blocks, told.sentence, told.test, told.not_told, plan_drive(table, fit),
        corrections, asked.mended,
    )  # fmt: skip


@writing()
def take(job: Job, user: User, number: int, *, region: Region | None, reason: str) -> PassTaken:
    """Take a pass into the map, whole or by region, as one revision.

    Raises
    ------
    Refusal
        404 without such a pass; 409 if the map was changed since; 422 if nothing moves.
    InputRefused
        If a cause speaks against it and no reason is written.
    """
    found = PASS.read(pass_of(job, number).data)
    newest = revision_of(job)
    calibration = calibration_of(newest)
    table = calibration[found.table]
    _refuse_moved(job, found.revision, newest, found.table)
    kept = worth_reading(reason, "Say why the map is changed although a cause is likely") if found.blocks else reason.strip()[:2000]  # fmt: skip
    moved = _moved(found, region)
    if not moved:
        raise Refusal(422, "Nothing to take", "No cell of that region moves.")
    shape = (len(found.axes[0]), len(found.axes[1]))
    values = np.array(table.values, dtype=float).reshape(shape)
    provenance = table.provenance.copy().reshape(shape)
    for row, column in moved:
        values[row, column] = found.values[row][column]
        provenance[row, column] = Provenance(
            "measured",
            f"{found.hits[row][column]:.0f} s of driving asked for × {found.factor[row][column]:.3f}; × {found.change[row][column]:.3f} "
            "was taken.",
            f"fuel map {number}",
        )  # fmt: skip
    changed = calibration.with_table(
        replace(
            table,
            values=values.reshape(table.values.shape),
            provenance=provenance.reshape(table.values.shape),
        )
    )
    revision = revise(job, user, changed, origin="edit", note=f"Fuel map, pass {number}: {len(moved)} cells.", based_on=newest.number)  # fmt: skip
    if revision is None:
        raise Refusal(422, "Nothing to take", "No cell of that region moves.")
    taken = PassTaken(number, tuple(moved), revision.number, kept)
    TAKEN.add(job, user, taken)
    return taken


def _refuse_moved(job: Job, number: int, newest: Revision, key: str) -> None:
    """Refuse a table that was changed since a pass was computed on a revision.

    Raises
    ------
    Refusal
        409 if it was.
    """
    before, now = (
        calibration_of(row).tables.get(key) for row in (revision_of(job, number), newest)
    )
    if before is None and now is None:
        return
    if (
        before is None
        or now is None
        or not np.array_equal(before.values, now.values)
        or before.axes != now.axes
    ):
        raise Refusal(
            409, "The map was changed", "The table was changed after this pass was computed: solve it again on the newest."
        )  # fmt: skip


def _moved(found: FuelPass, region: Region | None) -> list[tuple[int, int]]:
    return [
        (r, c)
        for r, row in enumerate(found.change)
        for c, factor in enumerate(row)
        if factor != 1.0 and (region is None or region.has(r, c))
    ]


@writing()
def take_correction(job: Job, user: User, number: int, key: str) -> Revision:
    """Take a correction over intake air or air pressure that a pass told, as one revision.

    Raises
    ------
    Refusal
        404 without such a pass, 422 where it told nothing to change.
    """
    found = PASS.read(pass_of(job, number).data)
    newest = revision_of(job)
    calibration, source = calibration_of(newest), f"fuel map {number}"
    if key == CYLINDER_TRIM:
        return _take_trims(job, user, found, newest, source)
    told = next((one for one in found.corrections if one.key == key and one.points), None)
    if told is None:
        raise Refusal(422, "Nothing to take", "This pass told no such correction.")
    if told.key == "warm_up_enrichment":
        _refuse_moved(job, found.revision, newest, told.key)
        changed = calibration.with_table(warmed_up(calibration[told.key], told, source))
    else:
        changed = calibration.with_table(correction_table(told, source))
    revision = revise(job, user, changed, origin="edit", note=f"Fuel map, pass {number}: {told.sentence}"[:500], based_on=newest.number)  # fmt: skip
    if revision is None:
        raise Refusal(422, "Nothing to take", "The table holds this already.")
    return revision


def trims_wanted(job: Job, found: FuelPass, source: str = "") -> Table | None:
    """Return the trims of cylinders that a pass asks for on the newest revision; None where it asks for none."""
    before = calibration_of(revision_of(job)).tables.get(CYLINDER_TRIM)
    return trims_of(found.cylinders, spec_of(job).chambers, before, source)


def _take_trims(job: Job, user: User, found: FuelPass, newest: Revision, source: str) -> Revision:
    """Take the trims of cylinders that a pass told, as one revision."""
    calibration = calibration_of(newest)
    trims = trims_wanted(job, found, source)
    if trims is None:
        raise Refusal(422, "Nothing to take", "No cylinder stands out by as much as a trim is for.")
    _refuse_moved(job, found.revision, newest, CYLINDER_TRIM)
    note = f"{source.capitalize()}: fuel trim by cylinder."
    revision = revise(job, user, calibration.with_table(trims), origin="edit", note=note, based_on=newest.number)  # fmt: skip
    if revision is None:
        raise Refusal(422, "Nothing to take", "The table holds this already.")
    return revision

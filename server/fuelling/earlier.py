"""Drives of earlier passes, read again: what they read tells what the map is off by itself."""

from __future__ import annotations

from dataclasses import dataclass, field

from inbetrieb_core.engine import EngineSpec
from inbetrieb_core.errors import InputRefused, LogRefused
from inbetrieb_core.fuelling import (
    PastPass,
    Readings,
    joined,
    reckoned_alike,
    sift,
    that_tell,
    without,
)
from inbetrieb_core.tables import Calibration, Table

from server.calibration.services import calibration_of, revision_of
from server.jobs.models import Job
from server.logbook.aside import asides_of
from server.logbook.samples import read_channels
from server.logbook.services import log_of
from server.tasks.services import Progress

from .asked import CHANNELS, Asked
from .kinds import PASS, LogUsed
from .passes import engine_digest, takings_of

#: Earlier passes that are looked through, and drives of them that are read again.
_MOST_PASSES, _MOST_EARLIER = 12, 4


@dataclass(frozen=True)
class Earlier:
    """What the drives of earlier passes read, against the map in force, and which passes they are."""

    readings: Readings = field(default_factory=lambda: joined(()))
    passes: tuple[int, ...] = ()


def earlier_drives(job: Job, asked: Asked, now: Calibration, besides: list[int], progress: Progress) -> Earlier:  # fmt: skip
    """Return what the newest earlier passes read, of those that tell what the map is off by itself."""
    taken = takings_of(job)
    passes = {row.number: PASS.read(row.data) for row in PASS.rows(job).order_by("-number")[:_MOST_PASSES]}  # fmt: skip
    past = [
        PastPass(number, one.table, one.engine, one.blocks, number in taken, bool(one.mended))
        for number, one in passes.items()
    ]
    parts: list[Readings] = []
    told, seen = set(), {*besides, *asides_of(job)}
    for number in that_tell(past, asked.table, engine_digest(job)):
        for used in passes[number].logs:
            if used.log_id in seen or len(parts) >= _MOST_EARLIER:
                continue
            seen.add(used.log_id)
            progress.tell(0.6, f"Reading {used.name} of pass {number}")
            found = _read_again(job, used, asked, now)
            if found is not None:
                parts.append(found)
                told.add(number)
    return Earlier(joined(parts), tuple(sorted(told)))


def _read_again(job: Job, used: LogUsed, asked: Asked, now: Calibration) -> Readings | None:
    """Return what a log of an earlier pass reads against the map as it is now; None where its fuel was another."""
    then = calibration_of(revision_of(job, used.revision))
    if not reckoned_alike(then, now, asked.table):
        return None
    try:
        trace = read_channels(log_of(job, used.log_id), CHANNELS)
        return sift(trace, then, now=now, off=asked.off, key=asked.table).readings
    except LogRefused:
        return None


def but_for_mended(earlier: Readings, asked: Asked, spec: EngineSpec, table: Table) -> Readings:
    """Return the earlier readings without causes that were mended and had been there all along."""
    try:
        return without(earlier, [one for one in asked.mended if not one.since], spec, table)  # fmt: skip
    except InputRefused:  # they cannot show it
        return joined(())

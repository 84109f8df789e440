"""What can be done with transients: read them from logs, and take the enrichment that balances the walls."""

from __future__ import annotations

from django.contrib.auth.models import User
from inbetrieb_core.errors import LogRefused, field_refused
from inbetrieb_core.transients import prepared, read_transients, written_into

from server.calibration.models import Revision
from server.calibration.services import calibration_of, revise, revision_of
from server.config.problems import Refusal
from server.config.writes import writing
from server.jobs.models import Job
from server.logbook.aside import refuse_set_aside
from server.logbook.models import Log
from server.logbook.samples import read_channels
from server.logbook.services import log_of
from server.tasks.services import Progress

from .kinds import TRANSIENTS, TransientRead
from .services import MOST_LOGS, revision_in

_CHANNELS = (
    "time_s", "rpm", "map_kpa", "throttle_pct", "lambda", "lambda_target", "coolant_c", "intake_c", "pulse_ms", "battery_v",
    "lambda_correction_pct",
)  # fmt: skip


def chosen_logs(job: Job, log_ids: tuple[int, ...]) -> list[Log]:
    """Return the logs that are read.

    Raises
    ------
    InputRefused
        If there are none or too many, or one is set aside.
    Http404
        If a log is not the job's.
    """
    if not 1 <= len(log_ids) <= MOST_LOGS:
        raise field_refused("log_ids", f"1 to {MOST_LOGS} logs, not {len(log_ids)}.")
    logs = [log_of(job, log_id) for log_id in dict.fromkeys(log_ids)]
    refuse_set_aside(job, logs)
    return logs


def read(job: Job, user: User, log_ids: tuple[int, ...], progress: Progress) -> int:
    """Read the transients of logs and write them down; return the number.

    Raises
    ------
    LogRefused
        If a log cannot be used.
    """
    drives = []
    logs = chosen_logs(job, log_ids)
    held = revision_of(job).number
    for place, log in enumerate(logs):
        progress.tell(0.6 * place / len(logs), f"Reading {log.name}")
        held = revision_in(job, log, None)
        try:
            drives.append(
                prepared(read_channels(log, _CHANNELS), calibration_of(revision_of(job, held)))
            )
        except LogRefused as error:
            raise LogRefused(f"{log.name}: {error.sentence}") from error
    progress.tell(0.7, "Fitting the film on the walls")
    found = TransientRead(tuple(log.pk for log in logs), held, read_transients(drives))
    with writing():
        return TRANSIENTS.add(job, user, found).number


def newest_read(job: Job) -> tuple[int, TransientRead] | None:
    """Return the newest reading of transients; None without one."""
    row = TRANSIENTS.newest(job)
    return None if row is None else (row.number, TRANSIENTS.read(row.data))


@writing()
def take_enrichment(job: Job, user: User, number: int) -> Revision:
    """Take the enrichment of a reading into the tables, as one revision.

    Raises
    ------
    Refusal
        404 without such a reading, 422 where it proposed nothing.
    """
    row = TRANSIENTS.rows(job).filter(number=number).first()
    if row is None:
        raise Refusal(404, "Not found", "There is no such reading of transients.")
    enrichment = TRANSIENTS.read(row.data).found.enrichment
    if enrichment is None:
        raise Refusal(422, "Nothing to take", "This reading proposed no enrichment.")
    newest = revision_of(job)
    changed = written_into(calibration_of(newest), enrichment, f"transients {number}")
    revision = revise(job, user, changed, origin="edit", note=f"Acceleration enrichment by transients {number}.", based_on=newest.number)  # fmt: skip
    if revision is None:
        raise Refusal(422, "Nothing to take", "The tables hold this already.")
    return revision

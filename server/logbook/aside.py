"""Logs that are set aside: they stay as they are, and no map is corrected from them any more."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from django.contrib.auth.models import User
from inbetrieb_core.errors import field_refused

from server.config.writes import writing
from server.entries.kinds import Kind
from server.entries.reasons import worth_reading
from server.jobs.models import Job

from .models import Log
from .services import log_of


@dataclass(frozen=True)
class LogAside:
    """What became of a log: whether it is set aside, and why; empty where it counts again."""

    log_id: int
    aside: bool
    reason: str


LOG_ASIDE: Kind[LogAside] = Kind("log-aside", LogAside)


def asides_of(job: Job) -> dict[int, str]:
    """Return the logs of a job that are set aside, each with the reason."""
    said = [LOG_ASIDE.read(row.data) for row in LOG_ASIDE.rows(job)]
    newest = {one.log_id: one for one in said}
    return {number: one.reason for number, one in newest.items() if one.aside}


@writing()
def put_aside(job: Job, user: User, log_id: int, *, aside: bool, reason: str) -> None:
    """Set a log aside, or let it count again; the log stays as it is.

    Raises
    ------
    InputRefused
        If it is set aside without a reason, or is as it should be already.
    """
    log = log_of(job, log_id)
    if (log.pk in asides_of(job)) == aside:
        raise field_refused("aside", "It is set aside already." if aside else "It counts as it is.")
    kept = worth_reading(reason, "Say why this log does not count") if aside else ""
    LOG_ASIDE.add(job, user, LogAside(log.pk, aside, kept))


def refuse_set_aside(job: Job, logs: Iterable[Log]) -> None:
    """Refuse logs that are set aside.

    Raises
    ------
    InputRefused
        With the reason that was written.
    """
    asides = asides_of(job)
    for log in logs:
        if log.pk in asides:
            raise field_refused("log_ids", f"{log.name} is set aside: {asides[log.pk]}")

"""What can be done with live sessions: open, command, keep a stretch, close, and end what was left unclosed."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict
from datetime import timedelta
from pathlib import Path
from typing import Literal

import numpy as np
from django.conf import settings
from django.contrib.auth.models import User
from django.db.models import Max, QuerySet
from django.shortcuts import get_object_or_404
from django.utils import timezone
from inbetrieb_core.bench import BenchSource, LiveSetup
from inbetrieb_core.engine import EngineSpec
from inbetrieb_core.errors import field_refused
from inbetrieb_core.live import Opened, Source, newest_start_s
from inbetrieb_core.logs import Trace
from inbetrieb_core.quantities import FloatArray

from server.bench.services import bench_engine
from server.calibration.models import Revision
from server.calibration.services import calibration_of, number_in_the_car, revision_of
from server.config.problems import Refusal
from server.config.writes import writing
from server.jobs.engine_data import spec_of
from server.jobs.models import Job
from server.logbook.models import Log
from server.logbook.services import add_log
from server.wiring.services import fading_of

from . import hosts
from .chunks import last_sign, rows_of
from .hosts import Host
from .lines import LineSource
from .models import LiveEnd, LiveSession
from .state import Limits

Tables = Literal["newest", "in_car"]
#: A session that was not written to for so long has no server any more.
_LOST_AFTER = timedelta(seconds=20)
_BROKEN_OFF = "The server was stopped in the middle of it: what had come by then is kept."
_LONGEST_STRETCH_S = 7200.0


def sessions_of(job: Job) -> QuerySet[LiveSession]:
    """Return the sessions of a job, newest first, with their ends."""
    return job.live_sessions.select_related("end", "end__log", "created_by").order_by("-number")


def session_of(job: Job, number: int) -> LiveSession:
    """Return one session of a job.

    Raises
    ------
    Http404
        If there is none.
    """
    return get_object_or_404(sessions_of(job), number=number)


def end_of(session: LiveSession) -> LiveEnd | None:
    """Return how a session ended; None while it has not."""
    return getattr(session, "end", None)


def is_broken_off(session: LiveSession) -> bool:
    """Say whether a session has neither ended nor anybody who writes it on."""
    if end_of(session) is not None or hosts.host_of(session.pk) is not None:
        return False
    return bool(timezone.now() - last_sign(session) > _LOST_AFTER)


def _tables(job: Job, wanted: Tables) -> tuple[Revision, str]:
    """Return the revision that a simulated controller holds, and how it came by it."""
    if wanted == "in_car":
        number = number_in_the_car(job)
        if number is None:
            raise field_refused(
                "tables",
                "No revision was stamped as in the car yet: take the newest, or transfer one.",
            )
        return revision_of(job, number), f"revision {number}, stamped as in the car"
    newest = revision_of(job)
    return newest, f"revision {newest.number}, the newest of the job"


def bench_source(job: Job, engine: str, setup: LiveSetup, tables: Tables) -> BenchSource:
    """Return the simulated controller with the tables of a job.

    Raises
    ------
    InputRefused
        If engine, faults, valve or tables cannot be.
    """
    spec = spec_of(job)
    revision, said = _tables(job, tables)
    return BenchSource(
        bench_engine(spec, engine, job), spec, calibration_of(revision), setup, fading_of(job),
        revision=revision.number, tables=said,
    )  # fmt: skip


def open_bench(
    job: Job, user: User, *, engine: str, setup: LiveSetup, tables: Tables, speed: int
) -> LiveSession:
    """Open a session of the simulated controller, its key off.

    Raises
    ------
    InputRefused
        As :func:`bench_source`.
    Refusal
        409 if one is open, 503 if this server holds as many as it takes.
    """
    source = bench_source(job, engine, setup, tables)
    about = {
        "run": "live", "engine": engine, "coolant_c": setup.coolant_c, "ambient_c": setup.ambient_c,
        "faults": [asdict(fault) for fault in setup.faults], "valve": asdict(setup.valve),
        "fresh": setup.fresh, "seed": setup.seed,
    }  # fmt: skip
    return open_session(job, user, source, about=about, speed=speed)


def open_lines(job: Job, user: User) -> LiveSession:
    """Open a session on the logger that sends where this installation listens.

    Raises
    ------
    LogRefused
        If nobody sends.
    Refusal
        404 where the installation listens nowhere; as :func:`open_session`.
    """
    if not settings.LIVE_LINES:
        raise Refusal(404, "Not found", "This installation listens to no logger: INBETRIEB_LIVE_LINES names where.")  # fmt: skip
    return open_session(job, user, LineSource(Path(settings.LIVE_LINES)), about={"run": "live"})


def open_session(
    job: Job, user: User, source: Source, *, about: dict[str, object], speed: int = 1
) -> LiveSession:
    """Open a session on a source; sessions of the job that were left unclosed are ended first.

    Raises
    ------
    Refusal
        409 if one is open, 503 if this server holds as many as it takes.
    """
    end_lost(sessions_of(job).filter(end=None))
    if not hosts.room_for_one_more():
        raise Refusal(
            503, "No room", "This server holds as many live sessions as it can. Close one."
        )
    opened = source.open()
    with writing():
        # Looked for where it is written: of two who open at once one is told.
        if (already := sessions_of(job).filter(end=None).first()) is not None:
            raise Refusal(
                409, "A session is open",
                f"Live session {already.number} of this job is open: go to it, or close it first.",
                number=already.number,
            )  # fmt: skip
        number = (job.live_sessions.aggregate(n=Max("number"))["n"] or 0) + 1
        session = LiveSession.objects.create(
            job=job, number=number, title=opened.title[:200], stand_in=opened.stand_in[:200],
            about={**about, "revision": opened.revision, "tables": opened.tables},
            channels=list(opened.channels), created_by=user,
        )  # fmt: skip
    _begin(session, source, opened, spec_of(job), speed)
    return session


def _begin(
    session: LiveSession, source: Source, opened: Opened, spec: EngineSpec, speed: int
) -> None:
    limits = Limits(spec.rail_pressure_kpa, spec.rev_limit_rpm)
    host = Host(session.pk, source, opened, limits, lambda reason: _ends_itself(session.pk, reason))
    try:
        host.begin_with({"speed": speed})
    except Exception:
        _end(session, None, "It could not begin.")
        raise
    hosts.begin(host)


def _ends_itself(session_id: int, reason: str) -> None:
    session = LiveSession.objects.select_related("job", "created_by").get(pk=session_id)
    close(session, reason)


def running(session: LiveSession) -> Host:
    """Return the host of an open session.

    Raises
    ------
    Refusal
        409 where it has ended, or where another process or none holds it.
    """
    host = hosts.host_of(session.pk)
    if host is None:
        ended = end_of(session)
        told = (
            "It is over."
            if ended is not None
            else "Nobody serves it any more: close it, and its log is written."
        )
        raise Refusal(
            409, "The session is over", told if ended is None else f"{told} {ended.reason}"
        )
    return host


def _trace(names: Sequence[str], rows: FloatArray) -> Trace:
    channels = {name: rows[:, i] for i, name in enumerate(names)}
    # A channel that never came is none.
    return Trace({n: v for n, v in channels.items() if n == "time_s" or np.isfinite(v).any()})


def _log(session: LiveSession, user: User, trace: Trace, name: str, problems: Sequence[str]) -> Log:
    about = {**session.about, "live": session.number}
    if session.stand_in:
        about["stand_in"] = session.stand_in
    origin = "bench" if session.stand_in else "live"
    return add_log(
        session.job, user, name=name, origin=origin, trace=trace, about=about, problems=problems
    )


def keep(session: LiveSession, user: User, start_s: float, end_s: float | None) -> Log:
    """Write a stretch of a session down as a log, so that it can be judged while the engine runs on. [s]

    Raises
    ------
    InputRefused
        If the stretch is none, or holds nothing.
    """
    host = _flushed(session)
    end_s = np.inf if end_s is None else end_s
    if not start_s < end_s:
        raise field_refused("end_s", "A stretch ends after it begins.")
    if np.isfinite(end_s) and end_s - start_s > _LONGEST_STRETCH_S:
        raise field_refused("end_s", "Two hours at a time: close the session for all of it.")
    rows = rows_of(session, start_s=start_s, end_s=end_s)
    if len(rows) < 2:
        raise field_refused("start_s", "Nothing came in that stretch.")
    rows[:, 0] = np.round(rows[:, 0] - rows[0, 0], 4)
    problems = () if host is None else host.state().problems
    return _log(session, user, _trace(session.channels, rows), f"{session.title}, live", problems)


def newest_start(session: LiveSession) -> float:
    """Return where the newest start of a session begins, within its last two hours. [s]

    Raises
    ------
    InputRefused
        If nothing has come yet.
    """
    _flushed(session)
    last = session.chunks.aggregate(at=Max("last_s"))["at"]
    if last is None:
        raise field_refused("start_s", "Nothing came yet: switch the key on.")
    rows = rows_of(session, start_s=last - _LONGEST_STRETCH_S)
    if "rpm" not in session.channels:
        return float(rows[0, 0])
    return newest_start_s(rows[:, 0], rows[:, session.channels.index("rpm")])


def _flushed(session: LiveSession) -> Host | None:
    """Have everything of a session on the disk; return its host where it runs here."""
    host = hosts.host_of(session.pk)
    if host is not None:
        host.keep()
        host.attend()
    return host


def close(session: LiveSession, reason: str = "Closed.", user: User | None = None) -> LiveEnd:
    """End a session and write its log; one that has ended stays as it is."""
    host = hosts.drop(session.pk)
    problems: tuple[str, ...] = ()
    if host is not None:
        host.close()
        problems = host.state().problems
    return _end(session, user, reason, problems)


@writing()
def _end(
    session: LiveSession, user: User | None, reason: str, problems: Sequence[str] = ()
) -> LiveEnd:
    if (before := LiveEnd.objects.filter(session=session).first()) is not None:
        found: LiveEnd = before
        return found
    rows = rows_of(session)
    log = None
    if len(rows) > 1:
        trace = _trace(session.channels, rows)
        log = _log(session, user or session.created_by, trace, f"{session.title}, live", problems)
    ended = LiveEnd(session=session, log=log, reason=reason[:200])
    ended.save()
    return ended


def end_lost(sessions: QuerySet[LiveSession] | None = None) -> list[LiveEnd]:
    """End what no process writes on any more, each with its log; all of the installation by default."""
    if sessions is None:
        sessions = LiveSession.objects.select_related("job", "created_by").filter(end=None)
    return [close(session, _BROKEN_OFF) for session in sessions if is_broken_off(session)]

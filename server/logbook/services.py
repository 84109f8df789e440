"""What can be done with logs: look at a file, keep it, read it back."""

from __future__ import annotations

import hashlib
import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import asdict, dataclass
from typing import Any

from django.contrib.auth.models import User
from django.shortcuts import get_object_or_404
from inbetrieb_core.errors import CoreError, InputRefused, LogRefused, field_refused
from inbetrieb_core.json_text import json_of
from inbetrieb_core.logs import (
    Alignment,
    ImportedLog,
    LogPreview,
    Trace,
    Track,
    align,
    import_log,
    preview_log,
    read_track,
    track_lies,
    what_holds,
    with_track,
)

from server.config.bounded import bounded
from server.config.problems import Refusal
from server.config.writes import writing
from server.jobs.models import Job
from server.jobs.services import visible_to

from . import uploads
from .models import ColumnMapping, Log
from .samples import read_trace, read_window, write_samples

#: Two logs are laid over each other by so many points of each.
_ALIGNED_POINTS = 40_000
#: No log and no track is longer. [s]
_LONGEST_S = 1e7


def log_of(job: Job, log_id: int) -> Log:
    """Return a log of a job, 404 if it is another's."""
    return get_object_or_404(Log, pk=log_id, job=job)


def log_for(user: User, job_id: int, log_id: int) -> Log:
    """Return a log of a job that a user may see, by one read; else 404."""
    return get_object_or_404(Log, pk=log_id, job=job_id, job__in=visible_to(user))


def _heads_digest(preview: LogPreview) -> str:
    heads = "\x1f".join((*preview.layout.headers, "\x1e", *preview.layout.units))
    return hashlib.sha256(heads.encode()).hexdigest()


def _remembered(job: Job, preview: LogPreview) -> dict[str, Any] | None:
    row = ColumnMapping.objects.filter(workshop=job.workshop, heads=_heads_digest(preview)).first()
    return None if row is None else row.mapping


def mapping_of(text: str) -> dict[str, Any] | None:
    """Return a mapping of columns that travels as text beside a file; None where there is none."""
    if not text.strip():
        return None
    try:
        mapping = json_of(text)
    except ValueError as error:
        raise Refusal(
            422, "Input refused", 'The mapping must be JSON: {"column": "channel"}.'
        ) from error
    if not isinstance(mapping, dict):
        raise Refusal(422, "Input refused", 'The mapping must be JSON: {"column": "channel"}.')
    return mapping


def seconds_of(text: str) -> float | None:
    """Return seconds that travel as text beside a file; None where there are none. [s]

    Raises
    ------
    InputRefused
        If they are no number, or beyond any log.
    """
    if not text.strip():
        return None
    try:
        value = float(text.strip().replace(",", "."))
    except ValueError:
        value = math.nan
    if not abs(value) < _LONGEST_S:
        raise field_refused("begins_at_s", "Say in seconds where the track begins.")
    return value


def preview_upload(
    job: Job, upload_id: str, mapping: Mapping[str, Any] | None
) -> tuple[LogPreview, bool]:
    """Return how a kept upload would be read, and whether a mapping of earlier was used."""
    with uploads.path_of(job.workshop, upload_id).open("rb") as file:
        preview = preview_log(file, mapping)
        if mapping is None and (known := _remembered(job, preview)):
            return preview_log(file, known), True
        return preview, False


def import_upload(job: Job, upload_id: str, mapping: Mapping[str, Any] | None) -> ImportedLog:
    """Return the log of a kept upload without saving it.

    Raises
    ------
    Refusal
        As :func:`add_upload`.
    """
    return _understood(job, upload_id, mapping).log


@dataclass(frozen=True, eq=False)
class _Understood:
    """How a kept upload would be read, and the log in it."""

    preview: LogPreview
    log: ImportedLog


def _understood(
    job: Job,
    upload_id: str,
    mapping: Mapping[str, Any] | None,
    told: Callable[[float], None] | None = None,
) -> _Understood:
    path = uploads.path_of(job.workshop, upload_id)
    try:
        with path.open("rb") as file:
            preview = preview_log(file, mapping)
            chosen = mapping if mapping is not None else _remembered(job, preview)
            return _Understood(preview, import_log(file, chosen, told))
    except LogRefused as error:
        raise Refusal(
            422, "Log refused", str(error), upload_id=upload_id, columns=list(error.columns)
        ) from error
    except InputRefused as error:
        raise Refusal(
            422,
            "Mapping refused",
            str(error),
            upload_id=upload_id,
            problems=[asdict(problem) for problem in error.problems],
        ) from error


def add_upload(
    job: Job,
    user: User,
    *,
    name: str,
    upload_id: str,
    mapping: Mapping[str, Any] | None,
    told: Callable[[float], None] | None = None,
) -> Log:
    """Return the log of a kept upload.

    Parameters
    ----------
    job : Job
    user : User
    name : str
    upload_id : str
        Under which the file is kept.
    mapping : mapping or None
        Decisions of a person on its columns.
    told : callable, optional
        Is told which share of the file is read; what it raises ends the reading. [–]

    Raises
    ------
    Refusal
        422 with the identifier under which the file is kept, if it cannot be read as it is.
    """
    understood = _understood(job, upload_id, mapping, told)
    imported = understood.log
    uses = [
        {
            "column": use.column.header,
            "unit": use.column.unit,
            "channel": use.channel,
            "read_unit": use.unit,
            "reason": use.reason,
        }
        for use in imported.uses
    ]
    with writing():
        log = add_log(
            job,
            user,
            name=name,
            origin="upload",
            trace=imported.trace,
            uses=uses,
            problems=list(imported.problems),
        )
        if mapping is not None:
            ColumnMapping.objects.update_or_create(
                workshop=job.workshop,
                heads=_heads_digest(understood.preview),
                defaults={"mapping": dict(mapping)},
            )
    uploads.forget(job.workshop, upload_id)
    return log


@writing()
def add_log(
    job: Job,
    user: User,
    *,
    name: str,
    origin: str,
    trace: Trace,
    uses: Sequence[Mapping[str, Any]] = (),
    problems: Sequence[str] = (),
    about: Mapping[str, Any] | None = None,
) -> Log:
    """Write a log with its samples."""
    log = Log.objects.create(
        job=job,
        name=name[:200] or "log",
        origin=origin,
        about={**(about or {}), "holds": asdict(what_holds(trace))},
        uses=list(uses),
        problems=list(problems),
        sample_count=len(trace.time_s),
        duration_s=trace.duration_s,
        rate_hz=trace.rate_hz,
        channels=list(trace.channels),
        created_by=user,
    )
    write_samples(log, trace)
    return log


def beside(job: Job, log_id: int, other_id: int, channel: str) -> Alignment:
    """Return how another log lies beside one, by a channel of both.

    Raises
    ------
    InputRefused
        If one has no such channel.
    LogRefused
        If it tells nothing of time.
    """
    logs = [log_of(job, log_id), log_of(job, other_id)]
    if any(channel not in log.channels or channel == "time_s" for log in logs):
        raise field_refused("channel", "Choose a channel that both logs hold.")
    windows = [read_window(log, [channel], 0.0, 1e9, _ALIGNED_POINTS) for log in logs]
    first, second = windows
    return align(first.time_s, first.channels[channel], second.time_s, second.channels[channel])


def add_track(
    job: Job, user: User, log_id: int, *, name: str, data: bytes, shift_s: float | None
) -> tuple[Log, Alignment]:
    """Return a new log: one of a job with the speed and altitude of a satellite track, and how the track lies on it.

    Parameters
    ----------
    job : Job
    user : User
    log_id : int
        The log that the track was driven with; it stays as it is.
    name : str
        Of the track's file.
    data : bytes
        The file.
    shift_s : float or None
        Where in the log the track begins; None to find it from what moves in both. [s]

    Raises
    ------
    Refusal
        422 if the file is no track, or nothing tells where it lies and nobody said it.
    """
    log = log_of(job, log_id)
    try:
        track = bounded(read_track, data)
        trace = read_trace(log)
        lies = _found(trace, track) if shift_s is None else _by_hand(shift_s)
        laid = with_track(trace, track, lies.shift_s)
    except CoreError as error:
        raise Refusal(422, "Track refused", str(error)) from error
    added = [channel for channel in laid.channels if channel not in trace.channels]
    made = add_log(
        job,
        user,
        name=f"{log.name} with a track",
        origin=log.origin,
        trace=laid,
        uses=[
            *log.uses,
            *(
                {
                    "column": name[:120],
                    "unit": "",
                    "channel": channel,
                    "read_unit": "",
                    "reason": "satellite track",
                }
                for channel in added
            ),
        ],
        problems=[*log.problems, lies.sentence],
        about={key: value for key, value in log.about.items() if key != "holds"},
    )
    return made, lies


def _found(trace: Trace, track: Track) -> Alignment:
    """Return how a track lies by itself; refuse where nothing tells."""
    try:
        lies = track_lies(trace, track)
        said = lies.sentence
    except LogRefused as error:
        lies, said = None, str(error)
    if lies is None or not lies.is_told:
        raise LogRefused(f"{said} Say at how many seconds of the log the track begins.")
    return lies


def _by_hand(shift_s: float) -> Alignment:
    said = f"Laid on by hand: the track begins at {shift_s:g} s of the log."
    return Alignment(shift_s, 0.0, True, said)

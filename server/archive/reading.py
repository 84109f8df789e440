"""Reading a job out of an archive into a workshop: all of it or nothing, and nothing that cannot be read again."""

from __future__ import annotations

import json
from collections.abc import Iterable
from typing import Any

import numpy as np
from django.contrib.auth.models import User
from django.core import serializers
from django.core.exceptions import ValidationError
from django.core.serializers.base import DeserializationError
from django.db import DataError, IntegrityError, models

from server.accounts.models import Workshop
from server.calibration.models import Revision
from server.calibration.services import calibration_of
from server.config.problems import Refusal
from server.config.writes import writing
from server.entries.kinds import read_entry
from server.entries.models import Entry
from server.handover.facts import gather
from server.intake.models import Photograph
from server.intake.photographs import keep_picture
from server.jobs.models import Job
from server.logbook.models import Log, LogChunk
from server.logbook.samples import pyramid_of, samples_of
from server.order.summaries import keep
from server.trials.estimates import estimate_of

from .contents import MODELS, Tell, label_of
from .opening import Opened, refused

#: Keys of stored values that hold numbers of logs, one or several.
_LOG_KEYS = ("log_id", "log_ids")
_MOST_ROWS = 100_000

#: Number of a row there → number of it here, by model.
Numbers = dict[type[models.Model], dict[Any, Any]]


def read_archive(found: Opened, workshop: Workshop, user: User, tell: Tell) -> int:
    """Write the job of an archive into a workshop; return its number.

    Parameters
    ----------
    found : Opened
    workshop : Workshop
    user : User
        Who brings it; stands for those who are not of this workshop.
    tell : callable
        Is told how far it is [–], and what is being done.

    Raises
    ------
    Refusal
        422 with what is wrong; nothing is written then.
    """
    try:
        with writing():
            return _read(found, workshop, user, tell)
    except Refusal:
        raise
    except (
        DeserializationError, ValidationError, DataError, IntegrityError, ValueError, TypeError, AttributeError, ArithmeticError, LookupError,
        RecursionError,
    ) as error:  # fmt: skip
        raise refused("A row in it is not what this program writes. Nothing was taken.") from error


def _read(found: Opened, workshop: Workshop, user: User, tell: Tell) -> int:
    people = _people(found, workshop, user)
    numbers: Numbers = {model: {} for model, _ in MODELS}
    for place, (model, _) in enumerate(MODELS):
        tell(0.4 * place / len(MODELS), f"Reading {model._meta.verbose_name_plural}")
        rows = list(_rows(found, model))
        if len(rows) != found.counts.get(label_of(model), 0):
            raise refused(f"It says it holds {found.counts.get(label_of(model), 0)} of {label_of(model)}, and holds {len(rows)}.")  # fmt: skip
        for row in rows:
            there = row.pk
            _carry(row, numbers, people, workshop)
            row.save_base(raw=True, force_insert=True)
            numbers[model][there] = row.pk
    if len(numbers[Job]) != 1:
        raise refused("An archive holds one job.")
    job = Job.objects.get(pk=next(iter(numbers[Job].values())))
    logs = numbers[Log]
    for done, (there, here) in enumerate(logs.items()):
        tell(0.4 + 0.5 * done / max(1, len(logs)), "Reading samples")
        _samples(found, there, Log.objects.get(pk=here))
    tell(0.92, "Reading it as the sheets do")
    _refuse_unreadable(job)
    for photograph in Photograph.objects.filter(job=job):
        if data := found.read(f"photographs/{photograph.digest}.jpg"):
            keep_picture(photograph, data)
    keep({job.pk})
    return job.pk


def _people(found: Opened, workshop: Workshop, user: User) -> dict[int, int]:
    """Return who stands here for those who wrote there: the same name in this workshop, else who brings it."""
    here = dict(User.objects.filter(membership__workshop=workshop).values_list("username", "pk"))
    return {int(number): here.get(name, user.pk) for number, name in found.people.items()}


def _rows(found: Opened, model: type[models.Model]) -> Iterable[models.Model]:
    text = found.read(f"rows/{label_of(model)}.jsonl").decode()
    if text.count("\n") > _MOST_ROWS:
        raise refused("It holds more rows than a job can.")
    for line in text.splitlines():
        if not line.strip():
            continue
        if json.loads(line).get("model") != label_of(model):
            raise refused(f"A row under {label_of(model)} is of another kind.")
        for one in serializers.deserialize("jsonl", line):
            yield one.object


def _carry(row: Any, numbers: Numbers, people: dict[int, int], workshop: Workshop) -> None:
    """Point a row at what stands here, and give it no number of its own yet."""
    for field in row._meta.concrete_fields:
        value = getattr(row, field.attname)
        if isinstance(field, models.CharField) and isinstance(value, str) and len(value) > (field.max_length or 0):  # fmt: skip
            raise refused(f"A text in {label_of(type(row))} is longer than it can be.")
        if not field.is_relation or value is None:
            continue
        if field.related_model is User:
            setattr(row, field.attname, people[value])
        elif field.related_model is Workshop:
            setattr(row, field.attname, workshop.pk)
        else:
            setattr(row, field.attname, numbers[field.related_model][value])
    if not row._meta.pk.is_relation:
        row.pk = None
    if isinstance(row, Entry):
        row.data = _with_logs(row.data, numbers[Log])


def _with_logs(data: Any, logs: dict[Any, Any]) -> Any:
    """Return stored data with the numbers of logs as they are here."""
    if isinstance(data, list):
        return [_with_logs(one, logs) for one in data]
    if not isinstance(data, dict):
        return data
    carried = {}
    for key, value in data.items():
        if key in _LOG_KEYS and value is not None:
            carried[key] = [logs[one] for one in value] if isinstance(value, list) else logs[value]
        else:
            carried[key] = _with_logs(value, logs)
    return carried


def _samples(found: Opened, there: int, log: Log) -> None:
    """Write the samples of a log and their pyramid, one channel after the other."""
    for channel in log.channels:
        kind = np.float64 if channel == "time_s" else np.float32
        data = found.read(f"samples/{there}/{channel}.bin")
        if len(data) != log.sample_count * np.dtype(kind).itemsize:
            raise refused(f"The samples of {log.name[:60]} are not all there.")
        values = np.frombuffer(data, dtype=kind).astype(float)
        if channel == "time_s" and (
            not np.isfinite(values).all() or (np.diff(values) <= 0.0).any()
        ):
            raise refused(f"The time of {log.name[:60]} runs backwards.")
        LogChunk.objects.bulk_create(
            (
                LogChunk(log=log, channel=channel, level=level, number=number, data=packed)
                for part in (samples_of(channel, values), pyramid_of(channel, values))
                for level, number, packed in part
            ),
            batch_size=100,
        )


def _refuse_unreadable(job: Job) -> None:
    """Read everything once, as the sheets will: what cannot be read is not taken.

    Raises
    ------
    ValueError
        Of any kind, where something cannot.
    """
    for revision in Revision.objects.filter(job=job):
        calibration_of(revision)
    for entry in Entry.objects.filter(job=job, data__isnull=False).order_by("pk").iterator(20):
        read_entry(entry)
    estimate_of(job)
    gather(job)

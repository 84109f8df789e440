"""Writing an archive: rows as lines of JSON, samples and pictures as files, each with its sum."""

from __future__ import annotations

import hashlib
import json
import zipfile
import zlib
from collections.abc import Iterator
from datetime import UTC, datetime
from pathlib import Path

from django.contrib.auth.models import User
from django.core import serializers
from django.core.serializers.json import DjangoJSONEncoder
from django.db.models import Model

from server.intake.models import Photograph
from server.intake.photographs import path_of
from server.jobs.models import Job
from server.logbook.models import Log, LogChunk

from .contents import FORMAT, MODELS, STAYS, Tell, label_of, rows_of

_BLOCK = 1 << 20


def write_archive(job: Job, target: Path, tell: Tell) -> None:
    """Write a job into a zip file, in bounded memory.

    Parameters
    ----------
    job : Job
    target : Path
        Is overwritten.
    tell : callable
        Is told how far it is [–], and what is being done.
    """
    sums: dict[str, str] = {}
    counts: dict[str, int] = {}
    with zipfile.ZipFile(target, "w", zipfile.ZIP_DEFLATED, compresslevel=3) as archive:
        for number, (model, way) in enumerate(MODELS):
            tell(0.2 * number / len(MODELS), f"Writing {model._meta.verbose_name_plural}")
            rows = rows_of(model, way, job)
            counts[label_of(model)] = rows.count()
            _write(archive, f"rows/{label_of(model)}.jsonl", _lines(rows.iterator(50)), sums)
        logs = list(Log.objects.filter(job=job).order_by("pk"))
        for number, log in enumerate(logs):
            tell(0.2 + 0.75 * number / max(1, len(logs)), f"Writing {log.name}")
            for channel in log.channels:
                _write(archive, f"samples/{log.pk}/{channel}.bin", _samples(log, channel), sums)
        for photograph in Photograph.objects.filter(job=job):
            picture = path_of(photograph)
            if picture.exists():
                _write(archive, f"photographs/{photograph.digest}.jpg", _blocks(picture), sums)
        manifest = {
            "format": FORMAT, "job": job.name, "made_at": datetime.now(UTC).isoformat(timespec="seconds"), "counts": counts,
            "people": _people(job), "stays_behind": list(STAYS), "sums": sums,
        }  # fmt: skip
        archive.writestr("manifest.json", json.dumps(manifest, indent=1, ensure_ascii=False))


def _lines(rows: Iterator[Model]) -> Iterator[bytes]:
    for row in rows:
        yield serializers.serialize("jsonl", [row], cls=_Whole, ensure_ascii=False).encode()


class _Whole(DjangoJSONEncoder):
    """Moments with all their digits: the usual encoder drops what is less than a millisecond."""

    def default(self, o: object) -> object:
        return o.isoformat() if isinstance(o, datetime) else super().default(o)


def _samples(log: Log, channel: str) -> Iterator[bytes]:
    chunks = LogChunk.objects.filter(log=log, channel=channel, level=1).order_by("number")
    for chunk in chunks.iterator(1):
        yield zlib.decompress(chunk.data)


def _blocks(path: Path) -> Iterator[bytes]:
    with path.open("rb") as file:
        while block := file.read(_BLOCK):
            yield block


def _write(
    archive: zipfile.ZipFile, name: str, parts: Iterator[bytes], sums: dict[str, str]
) -> None:
    total = hashlib.sha256()
    with archive.open(zipfile.ZipInfo(name), "w", force_zip64=True) as member:
        for part in parts:
            total.update(part)
            member.write(part)
    sums[name] = total.hexdigest()


def _people(job: Job) -> dict[str, str]:
    """Return the names of those who wrote something in a job, by their number here."""
    numbers: set[int] = set()
    for model, way in MODELS:
        if any(field.name == "created_by" for field in model._meta.concrete_fields):
            numbers.update(rows_of(model, way, job).values_list("created_by", flat=True).distinct())
    return {str(user.pk): user.username for user in User.objects.filter(pk__in=numbers)}

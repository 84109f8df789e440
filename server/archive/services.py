"""What can be done with archives: make one of a job, look at one, take one in."""

from __future__ import annotations

import re
import secrets
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.auth.models import User
from django.core.files.uploadedfile import UploadedFile

from server.accounts.models import Workshop
from server.config.kept_files import folder_of, keep_newest, kept_file, part_in
from server.jobs.models import Job

from .contents import STAYS, Tell
from .opening import opened
from .reading import read_archive
from .writing import write_archive

_NAME = re.compile(r"[0-9a-f]{8}\.zip")
#: Archives of a job that are kept; older ones are made again where somebody asks.
_KEPT = 3


@dataclass(frozen=True)
class ArchiveHolds:
    """What an archive holds: whose job, when it was made, rows by what they are, and whose names stand in it."""

    job: str
    made_at: str
    counts: dict[str, int]
    people: tuple[str, ...]
    stays_behind: tuple[str, ...]
    sentence: str


def make(job: Job, tell: Tell) -> str:
    """Write the archive of a job and keep it; return its key."""
    folder = folder_of(settings.ARCHIVES, job.pk)
    with part_in(folder) as part:
        write_archive(job, part, tell)
        key = secrets.token_hex(4)
        part.replace(folder / f"{key}.zip")
    keep_newest(folder, ".zip", _KEPT)
    return key


def made(job: Job, key: str) -> Path:
    """Return an archive that was made.

    Raises
    ------
    Refusal
        404 without it.
    """
    return kept_file(settings.ARCHIVES, job.pk, f"{key}.zip", _NAME)


@contextmanager
def brought(file: UploadedFile[Any]) -> Iterator[Path]:
    """Hold a file that was brought for as long as it is looked at."""
    settings.ARCHIVES.mkdir(parents=True, exist_ok=True)
    with tempfile.NamedTemporaryFile(dir=settings.ARCHIVES, suffix=".brought") as held:
        for block in file.chunks():
            held.write(block)
        held.flush()
        yield Path(held.name)


def look(path: Path) -> ArchiveHolds:
    """Return what an archive holds and what taking it would do; nothing is written.

    Raises
    ------
    Refusal
        422 with what is wrong with it.
    """
    with opened(path) as found:
        rows = {label.split(".")[1]: count for label, count in found.counts.items() if count}
        said = (
            f"A job of its own, '{found.job[:80]}', would be added with {rows.get('revision', 0)} revisions, {rows.get('trial', 0)} trials "
            f"and {rows.get('log', 0)} logs. Nothing that is here changes."
        )
        return ArchiveHolds(found.job[:120], found.made_at[:40], rows, tuple(sorted(n[:150] for n in found.people.values())), STAYS, said)  # fmt: skip


def take(path: Path, workshop: Workshop, user: User, tell: Tell) -> int:
    """Take the job of an archive into a workshop; return its number.

    Raises
    ------
    Refusal
        422 with what is wrong; nothing is written then.
    """
    with opened(path) as found:
        return read_archive(found, workshop, user, tell)

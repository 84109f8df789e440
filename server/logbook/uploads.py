"""Uploaded files, kept until they are understood: a refused upload is never lost."""

from __future__ import annotations

import hashlib
import os
import re
import tempfile
import time
from collections.abc import Iterable
from pathlib import Path

from django.conf import settings

from server.accounts.models import Workshop
from server.config.problems import Refusal

#: Kept so long, and so long where the sending broke off. [s]
KEPT_S, PART_S = 30 * 24 * 3600.0, 3600.0


def _folder(workshop: Workshop) -> Path:
    folder: Path = settings.UPLOADS / str(workshop.pk)
    folder.mkdir(parents=True, exist_ok=True)
    return folder


def keep(workshop: Workshop, data: bytes) -> str:
    """Keep the bytes of an upload and return its identifier; uploads of weeks ago are dropped."""
    return keep_stream(workshop, [data])


def keep_stream(workshop: Workshop, blocks: Iterable[bytes]) -> str:
    """Keep an upload that is too large to be held in memory and return its identifier."""
    folder = _folder(workshop)
    left = settings.UPLOAD_QUOTA - _cleaned(folder)
    digest = hashlib.sha256()
    # A name of its own: two may send the same file at once.
    with tempfile.NamedTemporaryFile(dir=folder, suffix=".part", delete=False) as part:
        try:
            for block in blocks:
                digest.update(block)
                left -= part.write(block)
                if left < 0:
                    raise Refusal(
                        413, "No room", "Too many files wait to be read. Save or drop some of them first."
                    )  # fmt: skip
            part.flush()
            os.fsync(part.fileno())
        except BaseException:
            Path(part.name).unlink(missing_ok=True)
            raise
    Path(part.name).replace(folder / digest.hexdigest())
    _synced(folder)
    return digest.hexdigest()


def _cleaned(folder: Path) -> int:
    """Drop uploads of weeks ago, and return how many bytes the others have."""
    kept = 0
    for old in folder.iterdir():
        try:
            found = old.stat()
        except FileNotFoundError:
            continue  # somebody else's, just now
        age_s = time.time() - found.st_mtime
        if age_s > (PART_S if old.suffix == ".part" else KEPT_S):
            old.unlink(missing_ok=True)
        else:
            kept += found.st_size
    return kept


def _synced(folder: Path) -> None:
    """Have the disk keep the names in a folder, too: what is acknowledged is there after a crash."""
    handle = os.open(folder, os.O_RDONLY)
    try:
        os.fsync(handle)
    finally:
        os.close(handle)


def path_of(workshop: Workshop, upload_id: str) -> Path:
    """Return where a kept upload of this workshop lies.

    Raises
    ------
    Refusal
        404 if there is none.
    """
    path = _folder(workshop) / upload_id
    if not re.fullmatch(r"[0-9a-f]{64}", upload_id) or not path.exists():
        raise Refusal(404, "Not found", "That upload is not here any more. Choose the file again.")
    return path


def fetch(workshop: Workshop, upload_id: str) -> bytes:
    """Return the bytes of a kept upload of this workshop.

    Raises
    ------
    Refusal
        404 if there is none.
    """
    return path_of(workshop, upload_id).read_bytes()


def forget(workshop: Workshop, upload_id: str) -> None:
    """Drop a kept upload once it has become a log."""
    (_folder(workshop) / upload_id).unlink(missing_ok=True)

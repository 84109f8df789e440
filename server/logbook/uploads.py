"""Uploaded files, kept until they are understood: a refused upload is never lost."""

from __future__ import annotations

import hashlib
import re
import tempfile
import time
from collections.abc import Iterable
from pathlib import Path

from django.conf import settings

from server.accounts.models import Workshop
from server.config.problems import Refusal

KEPT_S = 30 * 24 * 3600.0


def _folder(workshop: Workshop) -> Path:
    folder: Path = settings.UPLOADS / str(workshop.pk)
    folder.mkdir(parents=True, exist_ok=True)
    return folder


def keep(workshop: Workshop, data: bytes) -> str:
    """Keep the bytes of an upload and return its identifier; uploads of weeks ago are dropped."""
    digest = hashlib.sha256(data).hexdigest()
    folder = _folder(workshop)
    for old in folder.iterdir():
        if old.stat().st_mtime < time.time() - KEPT_S:
            old.unlink(missing_ok=True)
    path = folder / digest
    if not path.exists():
        part = path.with_suffix(".part")
        part.write_bytes(data)
        part.replace(path)
    return digest


def keep_stream(workshop: Workshop, blocks: Iterable[bytes]) -> str:
    """Keep an upload that is too large to be held in memory and return its identifier."""
    folder = _folder(workshop)
    digest = hashlib.sha256()
    with tempfile.NamedTemporaryFile(dir=folder, suffix=".part", delete=False) as part:
        for block in blocks:
            digest.update(block)
            part.write(block)
    Path(part.name).replace(folder / digest.hexdigest())
    return digest.hexdigest()


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

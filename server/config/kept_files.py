"""Files that are made for somebody and kept for a while: a folder for each job, the newest few in it."""

from __future__ import annotations

import os
import re
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from .problems import Refusal


def folder_of(root: Path, job_pk: int) -> Path:
    """Return the folder of a job below a root; it is there then."""
    folder = root / str(job_pk)
    folder.mkdir(parents=True, exist_ok=True)
    return folder


@contextmanager
def part_in(folder: Path) -> Iterator[Path]:
    """Give a file to write into; what was not moved away at the end is gone."""
    handle, name = tempfile.mkstemp(dir=folder, suffix=".part")
    os.close(handle)
    try:
        yield Path(name)
    finally:
        Path(name).unlink(missing_ok=True)


def keep_newest(folder: Path, end: str, most: int) -> None:
    """Leave the newest few files of a kind in a folder."""
    kept = sorted(folder.glob(f"*{end}"), key=lambda path: path.stat().st_mtime, reverse=True)
    for old in kept[most:]:
        old.unlink(missing_ok=True)


def kept_file(root: Path, job_pk: int, name: str, shape: re.Pattern[str]) -> Path:
    """Return a file that was made for a job.

    Raises
    ------
    Refusal
        404 where the name is none that is given, or it is not kept any more.
    """
    path = root / str(job_pk) / name
    if not shape.fullmatch(name) or not path.is_file():
        raise Refusal(404, "Not found", "This file is not kept any more: make it again.")
    return path

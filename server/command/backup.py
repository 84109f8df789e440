"""A backup: database and files of one moment, with the sum of each, read back before it counts."""

from __future__ import annotations

import hashlib
import json
import shutil
import sqlite3
import tempfile
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import closing
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path, PurePosixPath
from typing import Any

FORMAT = 1
DATABASE, MANIFEST = "inbetrieb.sqlite3", "manifest.json"
#: Folders of files beside the database.
_FOLDERS = ("uploads", "photographs")
_BLOCK = 1 << 20


class BackupError(Exception):
    """A backup that cannot be made or trusted, with a sentence."""


@dataclass(frozen=True)
class Backup:
    """What a backup holds.

    Attributes
    ----------
    made_at : str
        ISO moment.
    files : int
        Besides the database.
    rows : dict of str to int
        Rows of each table.
    """

    made_at: str
    files: int
    rows: dict[str, int]


def make_backup(data: Path, target: Path) -> Backup:
    """Write database and files into an archive, and read it back.

    The database is copied while others write: SQLite's own online backup gives one moment of it.

    Parameters
    ----------
    data : Path
        Folder of the installation's data.
    target : Path
        A zip file that is not there yet.

    Raises
    ------
    BackupError
        If there is no database, the target is there, or what was written cannot be read back.
    """
    if target.exists():
        raise BackupError(f"{target} is there already; nothing was overwritten.")
    if not (data / DATABASE).exists():
        raise BackupError(f"There is no database in {data}.")
    target.parent.mkdir(parents=True, exist_ok=True)
    part = target.with_suffix(target.suffix + ".part")
    try:
        with tempfile.TemporaryDirectory(dir=target.parent) as folder:
            copy = Path(folder) / DATABASE
            _copy_database(data / DATABASE, copy)
            _write(part, copy, data)
        found = read_backup(part)
        part.replace(target)
    finally:
        part.unlink(missing_ok=True)
    return found


def _copy_database(source: Path, copy: Path) -> None:
    with closing(sqlite3.connect(source)) as here, closing(sqlite3.connect(copy)) as there:
        here.backup(there, pages=4096)
        # The copy is one file, whole in itself.
        there.execute("PRAGMA journal_mode=DELETE")


def _write(part: Path, database: Path, data: Path) -> None:
    sums = {}
    with zipfile.ZipFile(part, "w", zipfile.ZIP_DEFLATED, compresslevel=3) as archive:
        for name, path in [(DATABASE, database), *_files(data)]:
            archive.write(path, name)
            sums[name] = _sum_of_file(path)
        manifest = {
            "format": FORMAT,
            "made_at": datetime.now(UTC).isoformat(timespec="seconds"),
            "sums": sums,
            "rows": _rows(database),
        }
        archive.writestr(MANIFEST, json.dumps(manifest, indent=1))


def _files(data: Path) -> Iterator[tuple[str, Path]]:
    for folder in _FOLDERS:
        for path in sorted((data / folder).rglob("*")):
            if path.is_file() and path.suffix != ".part":
                yield path.relative_to(data).as_posix(), path


def _sum_of_file(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()


def _rows(database: Path) -> dict[str, int]:
    """Return how many rows each table has, having looked the database over.

    Raises
    ------
    BackupError
        If it is damaged.
    """
    with closing(sqlite3.connect(database)) as connection:
        if problems := problems_of(connection):
            raise BackupError(f"The database is damaged: {problems[0]}")
        names = [
            name
            for (name,) in connection.execute(
                "SELECT name FROM sqlite_master WHERE type = 'table' AND name NOT LIKE 'sqlite_%'"
            )
        ]
        return {
            name: connection.execute(f'SELECT count(*) FROM "{name}"').fetchone()[0]
            for name in sorted(names)
        }


def problems_of(connection: sqlite3.Connection) -> list[str]:
    """Return what is wrong with a database itself; empty where nothing is."""
    try:
        said = [row[0] for row in connection.execute("PRAGMA integrity_check")]
        lost = connection.execute("PRAGMA foreign_key_check").fetchall()
    except sqlite3.DatabaseError as error:
        return [str(error)]
    problems = [text for text in said if text != "ok"]
    return problems + [f"a row of {table} refers to what is not there" for table, *_ in lost]


def read_backup(source: Path) -> Backup:
    """Return what a backup holds, having read all of it.

    Raises
    ------
    BackupError
        If it is no backup, of a later version, or damaged.
    """
    with tempfile.TemporaryDirectory() as folder:
        manifest = _unpack(source, Path(folder))
        rows = _rows(Path(folder) / DATABASE)
    if rows != manifest["rows"]:
        raise BackupError("The database in the backup is another than the one that was copied.")
    return Backup(manifest["made_at"], len(manifest["sums"]) - 1, rows)


def restore_backup(source: Path, data: Path) -> Backup:
    """Put a backup into a folder that holds no data yet.

    Raises
    ------
    BackupError
        If there is data, or the backup cannot be trusted; then nothing is written.
    """
    if (data / DATABASE).exists():
        raise BackupError(
            f"{data} holds data already. Restore into an empty folder, and look at it first."
        )
    found = read_backup(source)
    data.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory(dir=data) as folder:
        manifest = _unpack(source, Path(folder))
        for name in manifest["sums"]:
            target = data / name
            target.parent.mkdir(parents=True, exist_ok=True)
            shutil.move(Path(folder) / name, target)
    return found


def _unpack(source: Path, folder: Path) -> dict[str, Any]:
    """Unpack what the manifest names, and hold every file against its sum."""
    try:
        with zipfile.ZipFile(source) as archive:
            manifest = json.loads(archive.read(MANIFEST))
            if manifest.get("format") != FORMAT:
                raise BackupError("The backup was made by a later version of the program.")
            for name, expected in manifest["sums"].items():
                _unpack_one(archive, _safe(name), folder, expected)
            return dict(manifest)
    except (
        zipfile.BadZipFile, zlib.error, EOFError, KeyError, ValueError, AttributeError, OSError,
        RuntimeError, NotImplementedError,
    ) as error:  # fmt: skip
        raise BackupError(f"{source} is no whole backup.") from error


def _safe(name: str) -> str:
    """Return a name that lies inside the folder.

    Raises
    ------
    BackupError
        If it points elsewhere.
    """
    parts = PurePosixPath(name).parts
    known = name == DATABASE or (len(parts) > 1 and parts[0] in _FOLDERS)
    if not known or ".." in parts or "\\" in name or PurePosixPath(name).is_absolute():
        raise BackupError(f"The backup names a file that does not belong in it: {name[:80]}.")
    return name


def _unpack_one(archive: zipfile.ZipFile, name: str, folder: Path, expected: str) -> None:
    target = folder / name
    target.parent.mkdir(parents=True, exist_ok=True)
    digest = hashlib.sha256()
    with archive.open(name) as packed, target.open("wb") as file:
        while block := packed.read(_BLOCK):
            digest.update(block)
            file.write(block)
    if digest.hexdigest() != expected:
        raise BackupError(f"{name} in the backup is damaged.")

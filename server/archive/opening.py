"""Opening an archive that anybody may have made: sizes, names and sums before a row is looked at."""

from __future__ import annotations

import hashlib
import re
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from inbetrieb_core.json_text import json_of

from server.config.problems import Refusal

from .contents import FORMAT, MODELS, label_of

_NAME = re.compile(r"rows/[a-z]+\.[a-z]+\.jsonl|samples/\d{1,12}/[a-z][a-z0-9_]{0,39}\.bin|photographs/[0-9a-f]{64}\.jpg")  # fmt: skip
_MOST_MEMBERS, _MOST_BYTES = 20_000, 8_000_000_000
#: Of one member; and how much smaller than itself a large one may be packed. [bytes, bytes, –]
_MOST_ROWS, _MOST_SAMPLES, _MOST_PICTURE = 400_000_000, 400_000_000, 40_000_000
_LARGE, _TIGHTEST = 20_000_000, 400
_MOST_MANIFEST = 4_000_000


@dataclass(frozen=True)
class Opened:
    """An archive whose members, sizes and sums are what its manifest says."""

    archive: zipfile.ZipFile
    job: str
    made_at: str
    counts: dict[str, int]
    people: dict[str, str]
    names: frozenset[str]

    def read(self, name: str) -> bytes:
        """Return a member; nothing where it is not there."""
        return self.archive.read(name) if name in self.names else b""


def refused(sentence: str) -> Refusal:
    """Return the refusal of an archive."""
    return Refusal(422, "This archive cannot be taken", sentence)


@contextmanager
def opened(path: Path) -> Iterator[Opened]:
    """Open an archive and look it over.

    Parameters
    ----------
    path : Path

    Raises
    ------
    Refusal
        422 with what is wrong with it.
    """
    with ExitStack() as held:
        try:
            found = _looked_over(held.enter_context(zipfile.ZipFile(path)))
        except (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, RuntimeError, OSError, ValueError) as error:  # fmt: skip
            raise refused("It is no zip file, or a damaged one.") from error
        # What goes wrong from here on is no matter of the file: every byte of it was read.
        yield found


def _looked_over(archive: zipfile.ZipFile) -> Opened:
    members = archive.infolist()
    if len(members) > _MOST_MEMBERS or sum(m.file_size for m in members) > _MOST_BYTES:
        raise refused("It holds more than a job can.")
    names = [member.filename for member in members]
    if len(set(names)) != len(names) or "manifest.json" not in names:
        raise refused("It is no archive of a job: it has no manifest, or a name twice.")
    manifest = _manifest(archive)
    for member in members:
        _refuse_member(member)
    sums: dict[str, Any] = manifest["sums"]
    if set(sums) != set(names) - {"manifest.json"}:
        raise refused("Its manifest does not name what it holds.")
    for member in members:
        if member.filename != "manifest.json" and _sum(archive, member) != sums[member.filename]:
            raise refused(f"{member.filename} is not what was written: its sum differs.")
    return Opened(
        archive, manifest["job"], manifest["made_at"], manifest["counts"], manifest["people"], frozenset(sums)
    )  # fmt: skip


def _manifest(archive: zipfile.ZipFile) -> dict[str, Any]:
    if archive.getinfo("manifest.json").file_size > _MOST_MANIFEST:
        raise refused("Its manifest is too large.")
    try:
        found = json_of(archive.read("manifest.json"))
    except ValueError as error:
        raise refused("Its manifest cannot be read.") from error
    if not isinstance(found, dict) or not isinstance(found.get("format"), int):
        raise refused("Its manifest says no format.")
    if not 1 <= found["format"] <= FORMAT:
        raise refused(f"It is of format {found['format']}; this program reads up to {FORMAT}. Bring the program up to date.")  # fmt: skip
    shapes = {"job": str, "made_at": str, "counts": dict, "people": dict, "sums": dict}
    if any(not isinstance(found.get(key), kind) for key, kind in shapes.items()):
        raise refused("Its manifest lacks a part.")
    known = {label_of(model) for model, _ in MODELS}
    if not set(found["counts"]) <= known or not all(
        isinstance(n, int) for n in found["counts"].values()
    ):
        raise refused("Its manifest counts what no job holds.")
    if not all(isinstance(name, str) for name in found["people"].values()):
        raise refused("Its manifest names people wrongly.")
    return found


def _refuse_member(member: zipfile.ZipInfo) -> None:
    name, size = member.filename, member.file_size
    if name == "manifest.json":
        return
    if not _NAME.fullmatch(name):
        raise refused(f"'{name[:60]}' belongs to no job.")
    most = {"rows": _MOST_ROWS, "samples": _MOST_SAMPLES}.get(name.split("/")[0], _MOST_PICTURE)
    if size > most or (size > _LARGE and size > _TIGHTEST * max(member.compress_size, 1)):
        raise refused(f"{name} unpacks to {size / 1e6:.0f} MB: more than it can be.")


def _sum(archive: zipfile.ZipFile, member: zipfile.ZipInfo) -> str:
    total, seen = hashlib.sha256(), 0
    with archive.open(member) as file:
        while block := file.read(1 << 20):
            seen += len(block)
            if seen > member.file_size:
                raise refused(f"{member.filename} is larger than it says.")
            total.update(block)
    return total.hexdigest()

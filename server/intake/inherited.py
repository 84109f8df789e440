"""An inherited calibration: read from files and pastes, kept as an untouched revision, looked over."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from django.contrib.auth.models import User
from inbetrieb_core.basemaps import generate
from inbetrieb_core.errors import CoreError, field_refused
from inbetrieb_core.tables import DEFINITIONS, Calibration, Table
from inbetrieb_core.tables.align import aligned
from inbetrieb_core.tables.file_sets import find_tables, is_packed
from inbetrieb_core.tables.grids import read_grid_table
from inbetrieb_core.tables.regions import cells_of

from server.calibration.models import Inherited, Revision
from server.calibration.services import inherit
from server.config.bounded import bounded
from server.config.problems import Refusal
from server.config.writes import writing
from server.jobs.engine_data import spec_of
from server.jobs.models import Job
from server.logbook import uploads

MOST_SOURCES = 80


@dataclass(frozen=True)
class SourceRead:
    """One file or paste as it was understood.

    Attributes
    ----------
    name : str
    tables : tuple of Table
    understood, passed_over : tuple of str
    """

    name: str
    tables: tuple[Table, ...]
    understood: tuple[str, ...]
    passed_over: tuple[str, ...]


def read_file(job: Job, data: bytes, name: str) -> tuple[str, SourceRead]:
    """Return (upload identifier, what a file holds); the file is kept whatever comes of it.

    Raises
    ------
    Refusal
        422 with the identifier under which it is kept, if there is no table in it.
    """
    upload_id = uploads.keep(job.workshop, data)
    try:
        return upload_id, _file(data, name)
    except CoreError as error:
        raise Refusal(422, "File refused", str(error), upload_id=upload_id) from error


def _file(data: bytes, name: str) -> SourceRead:
    # What is packed may be a thousand times larger inside: it is unpacked apart.
    found = bounded(find_tables, data, name) if is_packed(data) else find_tables(data, name)
    return SourceRead(name, found.tables, found.understood, found.passed_over)


def read_paste(text: str, key: str) -> SourceRead:
    """Return the table of a paste with its axes.

    Raises
    ------
    InputRefused
        With the line or column that is wrong.
    """
    read = read_grid_table(cells_of(text), key, "Pasted from a spreadsheet.")
    title = read.table.definition.title
    shape = " × ".join(map(str, read.table.values.shape)) or "one number"
    said = (f"{title}: {shape}." + "".join(f" {s}" for s in read.sentences),)
    return SourceRead(f"paste of {title.lower()}", (read.table,), said, ())


def read_sources(job: Job, sources: Sequence[dict[str, Any]]) -> list[SourceRead]:
    """Return kept uploads and pastes as they are understood.

    Raises
    ------
    InputRefused
        If one of them holds no table.
    """
    if len(sources) > MOST_SOURCES:
        raise field_refused("sources", f"At most {MOST_SOURCES} files and pastes.")
    read = []
    for source in sources:
        if source.get("upload_id"):
            data = uploads.fetch(job.workshop, source["upload_id"])
            read.append(_file(data, source.get("name", "")))
        else:
            read.append(read_paste(source.get("text", ""), source.get("table", "")))
    return read


def combined(read: Sequence[SourceRead]) -> dict[str, Table]:
    """Return the tables of all sources on one coolant axis; a later source overrides an earlier one."""
    by_key = {table.key: table for source in read for table in source.tables}
    return aligned(by_key.values())


@writing()
def keep_inherited(job: Job, user: User, sources: Sequence[dict[str, Any]], note: str) -> Revision:
    """Write what was found as an untouched revision; tables that were not found are generated.

    Raises
    ------
    InputRefused
        If there is nothing to keep, or a source cannot be read.
    """
    read = read_sources(job, sources)
    found = combined(read)
    if not found:
        raise field_refused("sources", "Bring a file or paste a table first.")
    curves = [t for t in found.values() if DEFINITIONS[t.key].axes == ("coolant_c",)]
    axes = {"coolant_c": curves[0].axes[0].points} if curves else None  # aligned: all the same
    rest = generate(spec_of(job), axes)
    calibration = Calibration({**rest.tables, **found})
    missing = [key for key in rest.tables if key not in found]
    said = note.strip() or "As found in the controller, untouched."
    if missing:
        said += f" {len(missing)} tables were not in it and stand as generated."
    revision = inherit(job, user, calibration, said)
    Inherited.objects.create(
        job=job,
        revision=revision,
        tables=sorted(found),
        sources=[
            {"name": s.name, "understood": list(s.understood), "passed_over": list(s.passed_over)}
            for s in read
        ],
        created_by=user,
    )
    return revision

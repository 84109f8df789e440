"""What can be done to a calibration: every change is a new revision."""

from __future__ import annotations

import functools
import json
from collections.abc import Mapping, Sequence
from typing import Any

import numpy as np
from django.contrib.auth.models import User
from django.db.models import F, Func, Max, TextField
from django.shortcuts import get_object_or_404
from inbetrieb_core.errors import FieldProblem, InputRefused, field_refused
from inbetrieb_core.tables import (
    DEFINITIONS,
    Calibration,
    CellChange,
    Provenance,
    ProvenanceKind,
    Table,
    TableError,
    apply,
    breakpoints,
    calibration_difference,
    expanded_provenance,
    from_plain,
    read_calibration,
    reshaped_tables,
    split_settings,
    to_plain,
)

from server.config.problems import Refusal
from server.config.said import rendered
from server.config.writes import writing
from server.jobs.models import Job

from .models import Origin, Revision, Transfer

#: Tables that every calibration has.
NEEDED = frozenset(key for key, definition in DEFINITIONS.items() if not definition.optional)


def newest_number(job: Job) -> int:
    """Return the number of a job's newest revision."""
    return Revision.objects.filter(job=job).aggregate(n=Max("number"))["n"] or 0


def newest_numbers(jobs: Sequence[Job]) -> dict[int, int]:
    """Return the number of the newest revision of jobs, by their key."""
    rows = Revision.objects.filter(job__in=jobs).values("job_id").annotate(n=Max("number"))
    return {row["job_id"]: row["n"] for row in rows}


#: So many changes of one cell are looked back on.
_MOST_PAST = 20


class _Keys(Func):
    """The keys of a JSON object as a JSON array, read by the database."""

    template = "(SELECT json_group_array(key) FROM json_each(%(expressions)s))"
    output_field = TextField()


def revisions_in_short(job: Job, limit: int, offset: int) -> list[tuple[Revision, tuple[str, ...]]]:
    """Return a page of a job's revisions, newest first, each with the tables that it changed.

    Neither tables nor cells are read.
    """
    rows = (
        Revision.objects.filter(job=job)
        .select_related("created_by")
        .defer("tables", "changed")
        .annotate(changed_tables=_Keys("changed"))
        .order_by("-number")[offset : offset + limit]
    )
    return [(row, tuple(sorted(json.loads(row.changed_tables)))) for row in rows]


def past_of_cell(
    job: Job, table: str, index: Sequence[int]
) -> list[tuple[Revision, dict[str, Any]]]:
    """Return what the newest revisions changed in one cell, newest first.

    Parameters
    ----------
    job : Job
    table : str
        Its key.
    index : sequence of int
        Of the cell; empty for a setting.

    Raises
    ------
    InputRefused
        If there is no such table.
    """
    if table not in DEFINITIONS:
        raise field_refused("table", f"There is no table '{table}'.")
    rows = Revision.objects.filter(job=job, changed__has_key=table).select_related("created_by")
    rows = rows.annotate(cells=F(f"changed__{table}")).defer("tables", "changed")
    found: list[tuple[Revision, dict[str, Any]]] = []
    wanted = list(index)
    for revision in rows.order_by("-number").iterator(chunk_size=50):
        found += [(revision, change) for change in revision.cells if change["index"] == wanted]
        if len(found) >= _MOST_PAST:
            break
    return found[:_MOST_PAST]


def number_in_the_car(job: Job) -> int | None:
    """Return the number of the revision that was transferred last; None if none was."""
    last = Transfer.objects.filter(job=job).select_related("revision").order_by("pk").last()
    return None if last is None else last.revision.number


def revision_of(job: Job, number: int | None = None) -> Revision:
    """Return a revision of a job, the newest unless a number is given.

    Raises
    ------
    Http404
        If there is none of that number.
    """
    return get_object_or_404(Revision, job=job, number=number or newest_number(job))


@functools.lru_cache(maxsize=64)
def _parsed(revision_id: int, text: str) -> Calibration:
    return from_plain(json.loads(text))


def calibration_of(revision: Revision) -> Calibration:
    """Return the core's calibration of a revision; revisions never change, so it is kept."""
    return _parsed(revision.pk, revision.tables)


@functools.lru_cache(maxsize=64)
def _travelling(revision_id: int, text: str) -> str:
    tables = json.loads(text)
    if not set(tables) >= NEEDED:  # a revision older than one of the tables
        tables = to_plain(_parsed(revision_id, text))
    for table in tables.values():
        table["provenance"] = expanded_provenance(table["provenance"])
    both = dict(zip(("tables", "settings"), split_settings(tables), strict=True))
    return rendered(json.dumps(both, ensure_ascii=False, separators=(",", ":")))[1:-1]


def tables_json(revision: Revision) -> str:
    """Return the members `tables` and `settings` of a revision as JSON text, provenance per cell."""
    return _travelling(revision.pk, revision.tables)


def changes_plain(changes: Mapping[str, Sequence[CellChange]]) -> dict[str, list[dict[str, Any]]]:
    """Return cell changes as they are stored and travel."""
    return {
        key: [
            {"index": list(c.index), "at": list(c.at), "from": c.before, "to": c.after}
            for c in cells
        ]
        for key, cells in changes.items()
    }


def _add(
    job: Job,
    user: User,
    calibration: Calibration,
    *,
    origin: Origin,
    note: str,
    based_on: Revision | None,
) -> Revision:
    """Write the next revision; callers hold the transaction."""
    changed: dict[str, Any] = {}
    if based_on is not None:
        changed = _changed(calibration_of(based_on), calibration)
    return Revision.objects.create(
        job=job,
        number=newest_number(job) + 1,
        based_on=None if based_on is None else based_on.number,
        origin=origin,
        note=note.strip()[:2000],
        changed=changed,
        created_by=user,
        tables=json.dumps(to_plain(calibration), ensure_ascii=False, separators=(",", ":")),
    )


def _changed(before: Calibration, after: Calibration) -> dict[str, list[dict[str, Any]]]:
    """Return changed cells by table; a table that came, went or changed its axes has none."""
    return {
        **changes_plain(calibration_difference(before, after)),
        **{key: [] for key in reshaped_tables(before, after)},
    }


def add_first_revision(job: Job, user: User, calibration: Calibration) -> Revision:
    """Write the generated revision 1 of a new job."""
    return _add(
        job,
        user,
        calibration,
        origin="generated",
        based_on=None,
        note="Generated from the engine data.",
    )


@writing()
def revise(
    job: Job,
    user: User,
    calibration: Calibration,
    *,
    origin: Origin,
    note: str,
    based_on: int | None = None,
) -> Revision | None:
    """Write a computed calibration as the next revision; None where it changes no value.

    Raises
    ------
    Refusal
        409 if `based_on` is given and not the newest revision.
    """
    newest = revision_of(job) if based_on is None else _locked_newest(job, based_on)
    before = calibration_of(newest)
    if set(before.tables) == set(calibration.tables) and all(
        _same(before[key], calibration[key]) for key in before.tables
    ):
        return None
    return _add(job, user, calibration, origin=origin, note=note, based_on=newest)


def _same(first: Table, second: Table) -> bool:
    return (
        first.axes == second.axes
        and bool(np.array_equal(first.values, second.values))
        and bool((first.provenance == second.provenance).all())
    )


def _locked_newest(job: Job, based_on: int) -> Revision:
    """Return the newest revision if an edit was made on it.

    Raises
    ------
    Refusal
        409 with what changed meanwhile if it was not.
    """
    newest = revision_of(job)
    if newest.number == based_on:
        return newest
    base = Revision.objects.filter(job=job, number=based_on).first()
    if base is None:
        raise Refusal(422, "Input refused", f"There is no revision {based_on}.")
    before, after = calibration_of(base), calibration_of(newest)
    meanwhile = _changed(before, after)
    names = (
        ", ".join(DEFINITIONS[key].title.lower() for key in meanwhile) or "nothing in the values"
    )
    raise Refusal(
        409,
        "Somebody saved meanwhile",
        f"Revision {newest.number} was saved while you worked on revision {based_on}; it changed "
        f"{names}. Your values are not lost: look at both and save again.",
        newest=newest.number,
        changed=meanwhile,
    )


@writing()
def edit(
    job: Job,
    user: User,
    *,
    note: str,
    based_on: int,
    tables: Mapping[str, Any],
    provenance: ProvenanceKind,
) -> Revision:
    """Return the new revision after whole tables of values were sent.

    Cells that differ from the revision worked on get the person's provenance.

    Raises
    ------
    InputRefused
        If a table is unknown, has another shape or a value is out of bounds.
    Refusal
        409 if the edit is stale; 422 if nothing changed.
    """
    newest = _locked_newest(job, based_on)
    calibration = calibration_of(newest)
    problems = []
    who = f"{user.get_username()}: {note.strip()}" if note.strip() else user.get_username()
    mark = Provenance(provenance, f"Typed by {who}"[:300], f"revision {newest.number + 1}")
    for key, values in tables.items():
        if key not in calibration:
            problems.append(FieldProblem(f"tables.{key}", f"There is no table '{key[:40]}'."))
            continue
        try:
            calibration = calibration.with_table(_with_values(calibration[key], values, mark))
        except (TableError, ValueError, TypeError) as error:
            sentence = (
                str(error)
                if isinstance(error, TableError)
                else "The values are not numbers in rows."
            )
            problems.append(FieldProblem(f"tables.{key}", sentence))
    if problems:
        raise InputRefused(problems)
    if not calibration_difference(calibration_of(newest), calibration):
        raise Refusal(
            422, "Nothing changed", "The values are those of the revision; nothing was saved."
        )
    return _add(job, user, calibration, origin="edit", note=note, based_on=newest)


def _with_values(table: Table, values: Any, mark: Provenance) -> Table:
    wanted = np.array(values, dtype=float)
    if wanted.shape != table.values.shape:
        need = " × ".join(map(str, table.values.shape)) or "one number, not"
        raise TableError(f"{table.definition.title} needs {need} values.")
    changes = [
        CellChange(
            index, breakpoints(table, index), float(table.values[index]), float(wanted[index])
        )
        for index in map(tuple, np.argwhere(~(wanted == table.values)).tolist())
    ]
    return apply(table, changes, mark)


@writing()
def restore(job: Job, user: User, *, number: int, based_on: int, note: str) -> Revision:
    """Return a new revision with the tables of an old one; nothing in between is lost."""
    newest = _locked_newest(job, based_on)
    old = revision_of(job, number)
    if old.number == newest.number:
        raise Refusal(422, "Nothing changed", f"Revision {number} is the newest one already.")
    text = note or f"Revision {number} restored."
    return _add(job, user, calibration_of(old), origin="restore", note=text, based_on=newest)


@writing()
def inherit(job: Job, user: User, calibration: Calibration, note: str) -> Revision:
    """Return a new revision that holds what was found in a controller, untouched."""
    newest = revision_of(job)
    return _add(job, user, calibration, origin="inherited", note=note, based_on=newest)


@writing()
def import_file(job: Job, user: User, *, data: bytes, note: str) -> Revision:
    """Return a new revision with the calibration of a file."""
    newest = revision_of(job)
    calibration = read_calibration(data)
    return _add(
        job,
        user,
        calibration,
        origin="import",
        note=note or "Imported from a file.",
        based_on=newest,
    )


@writing()
def apply_changes(
    job: Job,
    user: User,
    *,
    changes: Sequence[tuple[str, Sequence[CellChange], Provenance]],
    note: str,
) -> Revision:
    """Return a new revision with cells of some tables changed, each with its origin.

    Raises
    ------
    Refusal
        409 if a cell no longer holds the value that the change starts from.
    TableError
        If a cell does not exist or a value is out of bounds.
    """
    newest = revision_of(job)
    changed = calibration_of(newest)
    for table, cells, mark in changes:
        now = changed[table]
        for change in cells:
            _refuse_moved_cell(now, change, newest)
        changed = changed.with_table(apply(now, cells, mark))
    return _add(job, user, changed, origin="accept", note=note, based_on=newest)


def _refuse_moved_cell(now: Table, change: CellChange, newest: Revision) -> None:
    inside = len(change.index) == now.values.ndim and all(
        0 <= i < size for i, size in zip(change.index, now.values.shape, strict=True)
    )
    if inside and not np.isclose(now.values[change.index], change.before):
        raise Refusal(
            409,
            "The cell changed meanwhile",
            f"{now.definition.title} {now.place(change.index)} was {change.before:g} when the advice "
            f"was given and is {now.values[change.index]:g} in revision {newest.number}. Repeat the start.",
            newest=newest.number,
        )

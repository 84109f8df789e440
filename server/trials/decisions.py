"""Deciding on the advice of a trial: accepted as a revision, whole or in parts, or declined."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from django.contrib.auth.models import User
from inbetrieb_core.starts import Advice, AdvicePart, parts_taken
from inbetrieb_core.tables import DEFINITIONS, CellChange, Provenance

from server.calibration.services import apply_changes
from server.config.problems import Refusal
from server.config.writes import writing
from server.jobs.engine_data import spec_of
from server.order.gates import refuse_if_closed

from .analysis import analysis_of
from .models import Decision, Trial


@writing()
def accept(
    trial: Trial,
    user: User,
    *,
    changes: Sequence[Mapping[str, Any]] | None,
    parts: Sequence[str] | None,
    note: str,
) -> Decision:
    """Accept a trial's advice, as given or with other values, as a new revision.

    `parts` are kinds of part or tables, see :func:`parts_taken`; `changes` are of the first that is taken.

    Raises
    ------
    Refusal
        409 if decided before, the cells changed meanwhile, or evidence has closed a gate; 422
        if there is nothing of it to take.
    InputRefused
        If a part is named that the advice does not have.
    """
    advice = _undecided(trial)
    refuse_if_closed(trial.job)
    if advice.table is None:
        raise Refusal(
            422,
            "Nothing to accept",
            "This is something to mend on the engine, not a table to change. Mend it and repeat the start.",
        )
    taken = parts_taken(advice, spec_of(trial.job).schools, parts)
    if not taken:
        raise Refusal(
            422, "Nothing to accept", "No part of the advice is taken: decline it instead."
        )
    if changes is not None:
        own = _own_changes(taken[0].changes, changes)
        taken = (replace(taken[0], changes=own), *taken[1:])
    titles = ", ".join(DEFINITIONS[part.table].title for part in taken if part.table is not None)
    text = note.strip() or f"{titles}: advice of trial {trial.number} accepted."
    marked = [
        (part.table, *pair)
        for place, part in enumerate(taken)
        if part.table is not None
        for pair in _by_origin(part, _mark(trial, part, by_hand=place == 0 and changes is not None))
    ]
    revision = apply_changes(trial.job, user, changes=marked, note=text)
    return Decision.objects.create(
        trial=trial,
        kind="accepted",
        changes=[
            {
                "table": part.table,
                "index": list(c.index),
                "at": list(c.at),
                "from": c.before,
                "to": c.after,
            }
            for part in taken
            for c in part.changes
        ],
        note=note.strip(),
        revision=revision,
        created_by=user,
    )


@writing()
def decline(trial: Trial, user: User, *, note: str) -> Decision:
    """Decline a trial's advice; nothing changes, the reason is kept."""
    _undecided(trial)
    return Decision.objects.create(trial=trial, kind="declined", note=note.strip(), created_by=user)


def _undecided(trial: Trial) -> Advice:
    """Return the trial's advice if it is still open.

    Raises
    ------
    Refusal
        409 if it was decided already; 422 if there is nothing to decide.
    """
    if Decision.objects.filter(trial=trial).exists():
        raise Refusal(
            409, "Decided already", f"The advice of trial {trial.number} was decided before."
        )
    advice = analysis_of(trial).advice
    if advice is None:
        raise Refusal(422, "Nothing to decide", f"Trial {trial.number} gives no advice.")
    return advice


def _mark(trial: Trial, part: AdvicePart, *, by_hand: bool) -> Provenance:
    """Return where the cells of a part come from."""
    own = "Changed by hand from the advice" if by_hand else "Advice"
    text = f"{own} of trial {trial.number}, rule {part.rule}: {part.reason}"
    return Provenance("measured", text[:400], f"trial {trial.number}")


def _by_origin(part: AdvicePart, mark: Provenance) -> list[tuple[list[CellChange], Provenance]]:
    """Return the cells whose need was measured near them, and the others with the mark as calculated."""
    seen = {c.index for c, near in zip(part.changes, part.seen, strict=False) if near}
    if part.part == "search":
        seen = set()  # a value that is tried was not measured
    measured = [cell for cell in part.changes if cell.index in seen]
    others = [cell for cell in part.changes if cell.index not in seen]
    return [(measured, mark), (others, replace(mark, kind="calculated"))]


def _own_changes(
    proposed: Sequence[CellChange], changes: Sequence[Mapping[str, Any]]
) -> tuple[CellChange, ...]:
    """Return the proposal with a person's values; only the proposed cells may change."""
    known = {cell.index: cell for cell in proposed}
    result: dict[tuple[int, ...], CellChange] = {}
    for change in changes:
        index = tuple(change["index"])
        if index not in known:
            raise Refusal(
                422,
                "Input refused",
                f"Cell {list(index)} is not part of the advice. One change per start: edit other "
                "cells on the ladder.",
            )
        result[index] = replace(known[index], after=float(change["to"]))
    if not result:
        raise Refusal(422, "Input refused", "There is no change to accept.")
    return tuple(result.values())

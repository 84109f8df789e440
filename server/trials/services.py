"""What can be done with a trial: judge and write it, accept or decline its advice."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from typing import Any

from django.contrib.auth.models import User
from django.db.models import Max
from django.shortcuts import get_object_or_404
from inbetrieb_core.errors import CoreError, FieldProblem, InputRefused, field_refused
from inbetrieb_core.starts import (
    Advice,
    AdvicePart,
    Observation,
    PastTry,
    StartAnalysis,
    StartSeen,
    StartSetting,
    judge_observation,
    judge_start,
    parts_taken,
    past_try,
    starts_seen,
)
from inbetrieb_core.tables import DEFINITIONS, CellChange, Provenance

from server.calibration.models import Revision
from server.calibration.services import apply_changes, calibration_of, revision_of
from server.config.problems import Refusal
from server.config.writes import writing
from server.jobs.engine_data import spec_of
from server.jobs.models import Job
from server.logbook.models import Log
from server.logbook.services import import_upload
from server.order.gates import refuse_if_closed

from .analysis import analysis_of, kept, past_of
from .likes import known_of
from .logged import starts_of
from .models import Decision, Trial, Weighing


@dataclass(frozen=True)
class Signs:
    """What the installer saw and smelled, and which attempt of the morning it was."""

    attempt: int = 1
    black_smoke: bool = False
    fuel_smell: bool = False

    def refuse_if_impossible(self) -> None:
        """Refuse an attempt that cannot be.

        Raises
        ------
        InputRefused
            If it is not between 1 and 20.
        """
        if not 1 <= self.attempt <= _MOST_ATTEMPTS:
            raise field_refused("attempt", f"The attempt must be between 1 and {_MOST_ATTEMPTS}.")


_MOST_ATTEMPTS = 20


def trial_of(job: Job, trial_id: int) -> Trial:
    """Return a trial of a job, 404 if it is another's."""
    trial: Trial = get_object_or_404(
        Trial.objects.select_related("revision", "log", "decision", "decision__revision"),
        pk=trial_id,
        job=job,
    )
    return trial


def history_of(job: Job, log: Log | None = None) -> list[PastTry]:
    """Return the earlier starts of a job, oldest first, as the rulebook looks back on them.

    Those of `log` are marked: they came right before the one in question.
    """
    rows = list(
        Trial.objects.filter(job=job, kind="start").select_related("decision").order_by("number")
    )
    last_mended = max((row.number for row in rows if _was_mended(row)), default=0)
    aside = set_aside(job)
    same = None if log is None else log.pk
    return [
        replace(
            past,
            mended=row.number <= last_mended,
            taught=() if row.pk in aside else past.taught,
            in_same_log=same is not None and row.log_id == same,
        )
        for row in rows
        for past in (past_of(row),)
    ]


def set_aside(job: Job) -> dict[int, str]:
    """Return the trials whose evidence does not count, with the reason, by their key."""
    newest = {
        row.trial_id: row
        for row in Weighing.objects.filter(trial__job=job).order_by("created_at", "pk")
    }
    return {key: row.reason for key, row in newest.items() if not row.counts}


def trial_numbered(job: Job, number: int) -> Trial:
    """Return the trial of a number in its job, 404 where there is none."""
    trial: Trial = get_object_or_404(Trial, job=job, number=number)
    return trial


def struck_trials(job: Job) -> list[tuple[Trial, str]]:
    """Return the trials whose evidence does not count, each with the reason."""
    reasons = set_aside(job)
    rows = Trial.objects.filter(pk__in=reasons).order_by("number")
    return [(trial, reasons[trial.pk]) for trial in rows]


@writing()
def weigh(trial: Trial, user: User, *, counts: bool, reason: str) -> Weighing:
    """Let what a trial taught count in the estimate, or not; the trial itself stays as it is.

    Raises
    ------
    Refusal
        422 without a reason.
    """
    if not reason.strip():
        raise Refusal(422, "Input refused", "Say why, so that it can be understood later.")
    return Weighing.objects.create(
        trial=trial, counts=counts, reason=reason.strip(), created_by=user
    )


def _was_mended(trial: Trial) -> bool:
    """Say whether something under the bonnet was mended after a trial, as noted on its advice."""
    advice = analysis_of(trial).advice
    return advice is not None and advice.kind == "mend" and hasattr(trial, "decision")


def starts_of_upload(
    job: Job,
    *,
    data: bytes,
    mapping: Mapping[str, Any] | None,
    coolant_c: float | None,
) -> list[StartSeen]:
    """Return every start of a file that is not saved yet, as it would be judged.

    Parameters
    ----------
    job : Job
    data : bytes
        The file.
    mapping : mapping, optional
        Decisions of a person on its columns.
    coolant_c : float or None
        Where the log has no coolant channel. [°C]
    """
    calibration = calibration_of(revision_of(job, None))
    setting = StartSetting(spec_of(job), None, None, coolant_c)
    trace = import_upload(job, data, mapping).trace
    return list(starts_seen(trace, calibration, setting))


def refuse_bad_numbers(**values: float | None) -> None:
    """Refuse temperatures and times of a start that cannot be. [°C, h]

    Raises
    ------
    InputRefused
        With a sentence for each.
    """
    bounds = {"ambient_c": (-60.0, 70.0), "soak_h": (0.0, 10_000.0), "coolant_c": (-60.0, 160.0)}
    problems = [
        FieldProblem(name, f"{name} must be between {bounds[name][0]:g} and {bounds[name][1]:g}.")
        for name, value in values.items()
        if value is not None
        and not (math.isfinite(value) and bounds[name][0] <= value <= bounds[name][1])
    ]
    if problems:
        raise InputRefused(problems)


@dataclass(frozen=True)
class Told:
    """What is told of a start besides its evidence.

    Attributes
    ----------
    revision : int or None
        In the controller; that of a bench start, else the newest, if not given.
    ambient_c, soak_h, coolant_c : float or None
        Air, hours since it last ran, and coolant where the log has none. [°C, h, °C]
    note : str
    signs : Signs
    """

    revision: int | None = None
    ambient_c: float | None = None
    soak_h: float | None = None
    coolant_c: float | None = None
    note: str = ""
    signs: Signs = Signs()

    def refuse_if_impossible(self) -> None:
        """Refuse figures that cannot be.

        Raises
        ------
        InputRefused
            With a sentence for each.
        """
        refuse_bad_numbers(ambient_c=self.ambient_c, soak_h=self.soak_h, coolant_c=self.coolant_c)
        self.signs.refuse_if_impossible()


@dataclass(frozen=True)
class _Judged:
    """A start that was judged and is not written yet."""

    told: Told
    log: Log | None
    start_number: int
    observation: Observation | None
    revision: Revision
    analysis: StartAnalysis
    past: PastTry


def add_trial(
    job: Job,
    user: User,
    *,
    log: Log | None,
    observation: Observation | None,
    told: Told,
    start_number: int = 1,
) -> Trial:
    """Judge a start and write the trial. It is judged before the transaction: nobody waits for that.

    Raises
    ------
    CoreError
        If there is no start in the log, or a figure is impossible.
    """
    if (log is None) == (observation is None):
        raise CoreError("A start trial needs either a log or an observation.")
    told.refuse_if_impossible()
    judged = _judge(job, log, observation, told, start_number, history_of(job, log))
    with writing():
        return _write(job, user, judged, _newest_number(job) + 1)


def add_trials(
    job: Job, user: User, *, log: Log, start_numbers: Sequence[int], told: Told
) -> list[Trial]:
    """Judge several starts of one log in their order and write a trial of each, or none at all.

    Raises
    ------
    CoreError
        If one of them cannot be judged; then none is written.
    Refusal
        409 if another trial of the job was written meanwhile.
    """
    if not start_numbers:
        raise CoreError("Choose at least one start of the log.")
    told.refuse_if_impossible()
    newest, history = _newest_number(job), history_of(job, log)
    found: list[_Judged] = []
    for place, number in enumerate(sorted(set(start_numbers))):
        # Only of the first is it known how long the engine stood, and what was seen.
        here = told if place == 0 else replace(told, soak_h=None, signs=Signs())
        judged = _judge(job, log, None, here, number, history)
        found.append(judged)
        taught = tuple(e.of_trial(newest + place + 1) for e in judged.past.taught)
        history = [*history, replace(judged.past, taught=taught, in_same_log=True)]
    with writing():
        if _newest_number(job) != newest:
            raise Refusal(
                409, "Another trial was written", "Another trial of this job was written meanwhile: try again."
            )  # fmt: skip
        return [_write(job, user, judged, newest + place + 1) for place, judged in enumerate(found)]


def _newest_number(job: Job) -> int:
    return Trial.objects.filter(job=job).aggregate(n=Max("number"))["n"] or 0


def _judge(
    job: Job,
    log: Log | None,
    observation: Observation | None,
    told: Told,
    start_number: int,
    history: Sequence[PastTry],
) -> _Judged:
    """Return a start as it is judged; writes nothing."""
    revision = told.revision
    if revision is None and log is not None:
        revision = log.about.get("revision")  # a bench start knows its tables
    saved = revision_of(job, revision)
    calibration = calibration_of(saved)
    setting = StartSetting(
        spec_of(job),
        told.ambient_c,
        told.soak_h,
        told.coolant_c,
        told.signs.attempt,
        told.signs.black_smoke,
        told.signs.fuel_smell,
        known_of(job),
    )
    if log is not None:
        mended, windows = starts_of(log, start_number, setting.spec.crank_to_run_rpm)
        analysis = judge_start(mended, windows, calibration, setting, history, start_number)
    else:
        assert observation is not None
        analysis = judge_observation(observation, calibration, setting, history)
    past = past_try(analysis, calibration)
    return _Judged(told, log, start_number, observation, saved, analysis, past)


def _write(job: Job, user: User, judged: _Judged, number: int) -> Trial:
    """Write a judged start. Callers hold the transaction."""
    analysis, told = judged.analysis, judged.told
    return Trial.objects.create(
        job=job,
        number=number,
        log=judged.log,
        start_number=judged.start_number,
        observation=None if judged.observation is None else asdict(judged.observation),
        revision=judged.revision,
        ambient_c=told.ambient_c,
        soak_h=told.soak_h,
        attempt=told.signs.attempt,
        black_smoke=told.signs.black_smoke,
        fuel_smell=told.signs.fuel_smell,
        note=told.note.strip(),
        coolant_c=analysis.figures.coolant_c,
        verdict=analysis.verdict,
        good=analysis.good,
        analysis=kept(analysis, judged.past),
        created_by=user,
    )


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


@writing()
def decline(trial: Trial, user: User, *, note: str) -> Decision:
    """Decline a trial's advice; nothing changes, the reason is kept."""
    _undecided(trial)
    return Decision.objects.create(trial=trial, kind="declined", note=note.strip(), created_by=user)

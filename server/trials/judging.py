"""Judging starts: what is told beside the evidence, and a trial of every start, or none."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict, dataclass, replace
from typing import Any

from django.contrib.auth.models import User
from django.db.models import Max
from inbetrieb_core.errors import CoreError
from inbetrieb_core.starts import (
    Observation,
    PastTry,
    StartAnalysis,
    StartSeen,
    StartSetting,
    judge_observation,
    judge_start,
    past_try,
    starts_seen,
)

from server.calibration.models import Revision
from server.calibration.services import calibration_of, revision_of
from server.config.problems import Refusal
from server.config.writes import writing
from server.jobs.engine_data import spec_of
from server.jobs.models import Job
from server.logbook.models import Log
from server.logbook.samples import read_trace
from server.logbook.services import import_upload
from server.wiring.services import fading_of

from .analysis import kept
from .likes import known_of
from .logged import starts_of
from .models import Trial, TrialInShort
from .services import history_of
from .told import Signs, Told


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
        fading_of(job),
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
    trial = Trial.objects.create(
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
    TrialInShort.objects.create(
        trial=trial, sentence=analysis.sentence, advised=_advised_cell(analysis)
    )
    return trial


def _advised_cell(analysis: StartAnalysis) -> dict[str, Any] | None:
    """Return what the first advice is about; of its cells the nearest to the start."""
    if not analysis.advice:
        return None
    first, coolant_c = analysis.advice[0], analysis.figures.coolant_c
    cells = [change for change in first.changes if change.at]
    near = min(cells, key=lambda change: abs(change.at[0] - coolant_c), default=None)
    return {"table": first.table, "index": [] if near is None else list(near.index)}


def starts_of_upload(
    job: Job,
    *,
    upload_id: str,
    mapping: Mapping[str, Any] | None,
    coolant_c: float | None,
) -> list[StartSeen]:
    """Return every start of a file that is not saved yet, as it would be judged.

    Parameters
    ----------
    job : Job
    upload_id : str
        Under which it is kept.
    mapping : mapping, optional
        Decisions of a person on its columns.
    coolant_c : float or None
        Where the log has no coolant channel. [°C]
    """
    calibration = calibration_of(revision_of(job, None))
    setting = StartSetting(spec_of(job), None, None, coolant_c, fading=fading_of(job))
    trace = import_upload(job, upload_id, mapping).trace
    return list(starts_seen(trace, calibration, setting))


def starts_of_log(job: Job, log: Log) -> list[StartSeen]:
    """Return every start of a log, as it would be judged on the tables it was driven with.

    Raises
    ------
    CoreError
        If there is none.
    """
    said = log.about.get("revision")
    calibration = calibration_of(revision_of(job, said if isinstance(said, int) else None))
    setting = StartSetting(spec_of(job), None, None, None, fading=fading_of(job))
    return list(starts_seen(read_trace(log), calibration, setting))

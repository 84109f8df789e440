"""The trials of a job: found, looked back on, and whether what they taught counts."""

from __future__ import annotations

from dataclasses import replace

from django.contrib.auth.models import User
from django.shortcuts import get_object_or_404
from inbetrieb_core.starts import PastTry

from server.config.problems import Refusal
from server.config.writes import writing
from server.jobs.models import Job
from server.logbook.models import Log

from .analysis import analysis_of, past_of
from .models import Trial, Weighing


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

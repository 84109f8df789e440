"""What was tried on a job, for the rooms below the trials: whoever keeps trials says so here."""

from __future__ import annotations

from collections.abc import Callable

from inbetrieb_core.commissioning import TrialFact

from .models import Job

Source = Callable[[Job], list[TrialFact]]
_sources: list[Source] = []


def tells_of_trials(source: Source) -> None:
    """Register who knows the trials of a job; called once, when an app is ready."""
    _sources.append(source)


def tried(job: Job) -> list[TrialFact]:
    """Return the trials of a job as the order of work sees them, oldest first."""
    return [fact for source in _sources for fact in source(job)]

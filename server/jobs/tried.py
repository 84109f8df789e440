"""What was tried on a job, for the rooms below the trials: whoever keeps trials says so here."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

from inbetrieb_core.commissioning import TrialFact

from .models import Job

Source = Callable[[Job], list[TrialFact]]
Counter = Callable[[Sequence[Job]], Mapping[int, int]]
_sources: list[Source] = []
_counters: list[Counter] = []


def tells_of_trials(source: Source, counter: Counter) -> None:
    """Register who knows the trials of a job, and how many of many jobs' are good; called once."""
    _sources.append(source)
    _counters.append(counter)


def good_starts(jobs: Sequence[Job]) -> dict[int, int]:
    """Return how many good starts jobs have, by their key; those without any are left out."""
    return {key: count for counter in _counters for key, count in counter(jobs).items()}


def tried(job: Job) -> list[TrialFact]:
    """Return the trials of a job as the order of work sees them, oldest first."""
    return [fact for source in _sources for fact in source(job)]

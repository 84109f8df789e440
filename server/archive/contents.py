"""What of a job travels, in the order in which it can be written again."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from django.db.models import Model, QuerySet

from server.calibration.models import AcceptedFinding, Inherited, Revision, Transfer
from server.entries.models import Entry
from server.hardware.models import KeyOnCheck, KeyOnOverride
from server.intake.models import Photograph, PhotographAside
from server.jobs.models import Job
from server.logbook.models import Log
from server.trials.models import Decision, Trial, TrialInShort, Weighing
from server.trigger.models import EdgeCapture, OutputTest
from server.wiring.models import WireCheck, WiringSignOff

FORMAT = 1
#: Is told how far the work is [–], and what is being done.
Tell = Callable[[float, str], None]
#: Model and the way from it to its job; a model stands below those that it points to.
MODELS: tuple[tuple[type[Model], str], ...] = (
    (Job, "pk"),
    (Revision, "job"),
    (Inherited, "job"),
    (AcceptedFinding, "job"),
    (Transfer, "job"),
    (Log, "job"),
    (Entry, "job"),
    (KeyOnCheck, "job"),
    (KeyOnOverride, "check_made__job"),
    (Photograph, "job"),
    (PhotographAside, "photograph__job"),
    (Trial, "job"),
    (TrialInShort, "trial__job"),
    (Weighing, "trial__job"),
    (Decision, "trial__job"),
    (EdgeCapture, "job"),
    (OutputTest, "job"),
    (WiringSignOff, "job"),
    (WireCheck, "job"),
)
#: What stays behind, and why.
STAYS = (
    "links for guests: they belong to the installation",
    "live sessions: what they recorded is in the logs",
    "seasons of the trainer: they are a game of their own",
    "papers as PDF: they are made again from the record",
)


def rows_of(model: type[Model], way: str, job: Job) -> QuerySet[Any]:
    """Return the rows of a model that belong to a job, oldest first."""
    return model._default_manager.filter(**{way: job.pk}).order_by("pk")


def label_of(model: type[Model]) -> str:
    """Return how a model is called in an archive."""
    return model._meta.label_lower

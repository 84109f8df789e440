"""Long work beside the requests: started in a transaction, watched, cancelled.

The work runs in a thread of the server that took the request. It tells how far it is through
:class:`Progress`, which also ends it when somebody cancels. A task whose server was stopped gives
no sign of life any more and is told to have failed; what it had written stays or fell whole,
because work writes in transactions.
"""

from __future__ import annotations

import logging
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from datetime import timedelta
from typing import Any

from django.conf import settings
from django.contrib.auth.models import User
from django.db import connection, transaction
from django.shortcuts import get_object_or_404
from django.utils import timezone
from inbetrieb_core.errors import CoreError, LogRefused

from server.accounts.models import Workshop
from server.accounts.services import workshop_of
from server.config.problems import Refusal
from server.config.writes import writing

from .models import Task

logger = logging.getLogger(__name__)

#: How often progress is written down. [s]
_TELL_S = 0.25
#: A task that was silent for so long has no server any more.
_LOST_AFTER = timedelta(minutes=5)
_KEPT = timedelta(days=2)
_ENDED = ("done", "failed", "cancelled")
_pool = ThreadPoolExecutor(max_workers=2, thread_name_prefix="task")


class Cancelled(Exception):
    """Somebody cancelled the work; nothing more is to be written."""


class Progress:
    """How far a piece of work is; passed to it, and to be told every now and then."""

    def __init__(self, task_id: int) -> None:
        self._task_id = task_id
        self._told_at = 0.0

    def tell(self, share: float, sentence: str) -> None:
        """Say how far the work is.

        Parameters
        ----------
        share : float
            0 to 1. [–]
        sentence : str
            What is being done.

        Raises
        ------
        Cancelled
            If somebody wants it to end.
        """
        if time.monotonic() - self._told_at < _TELL_S:
            return
        self._told_at = time.monotonic()
        rows = Task.objects.filter(pk=self._task_id)
        rows.update(share=min(1.0, max(0.0, share)), sentence=sentence, seen_at=timezone.now())
        if rows.filter(is_cancelled=True).exists():
            raise Cancelled


#: A piece of work: tells its progress and returns what came of it, as JSON data.
Work = Callable[[Progress], Any]


@writing()
def start(workshop: Workshop, user: User, kind: str, work: Work) -> Task:
    """Write a task down and begin it once the transaction is through."""
    Task.objects.filter(workshop=workshop, created_at__lt=timezone.now() - _KEPT).delete()
    task = Task.objects.create(workshop=workshop, kind=kind, created_by=user)
    if settings.TASKS_AT_ONCE:
        _run(task.pk, work)
        task.refresh_from_db()
    else:
        transaction.on_commit(lambda: _pool.submit(_run_apart, task.pk, work))
    return task


def task_of(user: User, task_id: int) -> Task:
    """Return a task of the user's workshop.

    Raises
    ------
    Http404
        If there is none, or it is another workshop's.
    """
    task = get_object_or_404(Task, pk=task_id, workshop=workshop_of(user))
    if task.state not in _ENDED and task.seen_at < timezone.now() - _LOST_AFTER:
        task.state = "failed"
        task.sentence = "The server was stopped in the middle of it: begin again."
    return task


@writing()
def cancel(user: User, task_id: int) -> Task:
    """Ask a task to end; one that has ended stays as it is."""
    task = task_of(user, task_id)
    if task.state not in _ENDED:
        Task.objects.filter(pk=task.pk).update(is_cancelled=True)
        # One that waits for a free thread has not begun: it ends at once.
        Task.objects.filter(pk=task.pk, state="waiting").update(
            state="cancelled", sentence="Cancelled before it began."
        )
        task.refresh_from_db()
    return task


def _run_apart(task_id: int, work: Work) -> None:
    """Run in a thread of its own, with a database connection of its own."""
    try:
        _run(task_id, work)
    finally:
        connection.close()


def _run(task_id: int, work: Work) -> None:
    begun = Task.objects.filter(pk=task_id, state="waiting").update(
        state="running", seen_at=timezone.now()
    )
    if not begun:
        return
    try:
        result = work(Progress(task_id))
    except Cancelled:
        _end(task_id, "cancelled", "Cancelled; nothing was written.")
    except CoreError as error:
        columns = list(error.columns) if isinstance(error, LogRefused) else []
        _fail(task_id, 422, "Input refused", error.sentence, {"columns": columns})
    except Refusal as error:
        _fail(task_id, error.status, error.title, error.detail, error.extra)
    except Exception as error:
        logger.exception("task %s failed", task_id, exc_info=error)
        sentence = "The server made a mistake; nothing was changed. Its log says what happened."
        _fail(task_id, 500, "Something broke", sentence, {})
    else:
        Task.objects.filter(pk=task_id).update(result=result)
        _end(task_id, "done", "", share=1.0)


def _fail(task_id: int, status: int, title: str, detail: str, extra: dict[str, Any]) -> None:
    problem = {
        "type": "about:blank", "title": title, "status": status, "detail": detail,
        "problems": [], "extra": extra,
    }  # fmt: skip
    Task.objects.filter(pk=task_id).update(problem=problem)
    _end(task_id, "failed", detail)


def _end(task_id: int, state: str, sentence: str, **more: Any) -> None:
    Task.objects.filter(pk=task_id).update(
        state=state, sentence=sentence, seen_at=timezone.now(), **more
    )

"""Writing transactions: what follows from a write is written with it, or nothing is.

`writing` is Django's atomic block, which also does what apps have asked for before the outermost one
ends: whoever keeps a summary of rows asks here, and the summary is never older than its rows.
"""

from __future__ import annotations

import threading
from collections.abc import Callable
from contextlib import ContextDecorator
from types import TracebackType
from typing import Any, ClassVar

from django.db import transaction

Follow = Callable[[set[int]], None]


class _State(threading.local):
    def __init__(self) -> None:
        self.blocks: list[Any] = []
        self.touched: set[int] = set()


_state = _State()


class writing(ContextDecorator):
    """An atomic block, as a decorator or in a with statement."""

    #: What is done for the jobs that were touched, before the outermost block ends.
    follows: ClassVar[list[Follow]] = []

    def __enter__(self) -> None:
        """Begin the block."""
        atomic = transaction.atomic()
        atomic.__enter__()
        _state.blocks.append(atomic)

    def __exit__(
        self,
        kind: type[BaseException] | None,
        error: BaseException | None,
        trace: TracebackType | None,
    ) -> None:
        """Do what follows from what was written, and end the block; all or nothing."""
        try:
            if error is None and len(_state.blocks) == 1:
                _follow()
        except BaseException as failed:
            kind, error, trace = type(failed), failed, failed.__traceback__
            raise
        finally:
            atomic = _state.blocks.pop()
            if not _state.blocks:
                _state.touched = set()
            atomic.__exit__(kind, error, trace)


def touch(job_id: int) -> None:
    """Note that something of a job was written; outside a block what follows is done at once."""
    _state.touched.add(job_id)
    if not _state.blocks:
        with writing():
            pass


def _follow() -> None:
    touched, _state.touched = _state.touched, set()
    if touched:
        for follow in writing.follows:
            follow(touched)

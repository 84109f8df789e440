"""Writing transactions: what follows from a write is written with it, or nothing is.

`writing` is Django's atomic block, which also does what apps have asked for before the outermost one
ends: whoever keeps a summary of rows asks here, and the summary is never older than its rows.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager

from django.db import transaction

Follow = Callable[[set[int]], None]

#: What is done for the jobs that were touched, before the outermost block ends.
follows: list[Follow] = []


class _State(threading.local):
    def __init__(self) -> None:
        self.depth = 0
        self.touched: set[int] = set()


_state = _State()


@contextmanager
def writing() -> Iterator[None]:
    """Hold an atomic block, in a with statement or as a decorator; all or nothing."""
    _state.depth += 1
    try:
        with transaction.atomic():
            yield
            if _state.depth == 1:
                _follow()
    finally:
        _state.depth -= 1
        if _state.depth == 0:
            _state.touched = set()


def touch(job_id: int) -> None:
    """Note that something of a job was written; outside a block what follows is done at once."""
    _state.touched.add(job_id)
    if _state.depth == 0:
        with writing():
            pass


def _follow() -> None:
    touched, _state.touched = _state.touched, set()
    if touched:
        for follow in follows:
            follow(touched)

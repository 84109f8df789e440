"""How long something takes."""

from __future__ import annotations

import time
from collections.abc import Callable
from typing import Any

ROUNDS = 7


def timed(action: Callable[[], Any], rounds: int = ROUNDS) -> list[float]:
    """Return wall seconds of several calls after one that is not counted."""
    action()
    result = []
    for _ in range(rounds):
        began = time.perf_counter()
        action()
        result.append(time.perf_counter() - began)
    return result

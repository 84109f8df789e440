"""By how much a program grows while something is done."""

from __future__ import annotations

import ctypes
import gc
from collections.abc import Callable
from pathlib import Path
from typing import Any


def grown_mb(action: Callable[[], Any]) -> float:
    """Return by how much the process stood above its size at most while something was done. [MB]"""
    status = Path("/proc/self/status")

    def held(name: str) -> float:
        row = next(row for row in status.read_text().splitlines() if row.startswith(name))
        return float(row.split()[1]) / 1024.0

    gc.collect()
    ctypes.CDLL("libc.so.6").malloc_trim(0)  # else what is done lives in what others left
    Path("/proc/self/clear_refs").write_text("5")  # the peak begins anew
    before = held("VmRSS")
    action()
    return held("VmHWM") - before

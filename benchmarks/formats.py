"""Open formats: measurement files against the library's own read, and a whole job of one gigabyte there and back."""

from __future__ import annotations

import io
import statistics
import tempfile
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import numpy as np

from tests.grown import grown_mb

from .timing import timed

Line = Callable[[str, str], None]
_SIGNALS, _SAMPLES = 20, 50_000
_LOGS, _ROWS = 25, 166_667


def _measurement_file() -> bytes:
    """Return a million samples as MDF 4: twenty engine signals at 50 Hz."""
    from inbetrieb_core.logs import CHANNELS, Trace, log_mdf

    draw = np.random.default_rng(3)
    names = [name for name in CHANNELS if name not in ("time_s", "sync", "gear")][:_SIGNALS]
    channels = {name: draw.uniform(0.5, 100.0, _SAMPLES) for name in names}
    return log_mdf(Trace({"time_s": np.arange(_SAMPLES) / 50.0, **channels}), "benchmark")


def _median_s(action: Callable[[], Any]) -> float:
    return statistics.median(timed(action, 3))


def measurement_files(line: Line) -> None:
    """Print the import of a million samples of MDF 4 against a bare read by the library."""
    from asammdf import MDF
    from inbetrieb_core.logs import import_log, mdf_table

    data = _measurement_file()

    def bare() -> int:
        with MDF(io.BytesIO(data)) as file:
            return sum(signal.samples.size for signal in file.iter_channels())

    table, library = _median_s(lambda: mdf_table(data)), _median_s(bare)
    whole = _median_s(lambda: import_log(mdf_table(data)))
    line("MDF 4, a million samples: the library's bare read", f"{library:.2f} s")
    line(
        "  to a table ÷ bare read; imported ÷ bare read",
        f"{table / library:.1f}, {whole / library:.1f}",
    )


def archive(line: Line) -> None:
    """Print what a job with a gigabyte of logs takes to become an archive and to come back."""
    from django.contrib.auth.models import User
    from inbetrieb_core.logs import CHANNELS, Trace

    from server.accounts.services import workshop_of
    from server.archive import services
    from server.jobs.models import Job
    from server.logbook.services import add_log

    user, job = User.objects.get(username="demo"), Job.objects.order_by("pk").first()
    assert job is not None
    draw = np.random.default_rng(4)
    names = [name for name in CHANNELS if name != "time_s"][:29]
    held = 0
    for number in range(_LOGS):
        channels = {name: draw.uniform(0.5, 100.0, _ROWS) for name in names}
        add_log(job, user, name=f"Log {number}", origin="upload", trace=Trace({"time_s": np.arange(_ROWS) / 50.0, **channels}))  # fmt: skip
        held += (1 + len(names)) * _ROWS * 8

    def quiet(*_: object) -> None:
        """Nobody is told."""

    path: list[Path] = []
    began = time.perf_counter()
    grown = grown_mb(lambda: path.append(services.made(job, services.make(job, quiet))))
    took = time.perf_counter() - began
    size = path[0].stat().st_size
    line(f"archive of {held / 1e9:.1f} GB of logs: written", f"{took:.0f} s, {size / 1e9:.1f} GB")
    line("  memory it takes beside what the program stands on", f"{grown:.0f} MB")
    with tempfile.TemporaryDirectory() as folder:
        kept = Path(folder) / "job.zip"
        path[0].rename(kept)
        began = time.perf_counter()
        grown = grown_mb(lambda: services.take(kept, workshop_of(user), user, quiet))
        took = time.perf_counter() - began
    line("  taken in again", f"{took:.0f} s")
    line("  memory it takes", f"{grown:.0f} MB")

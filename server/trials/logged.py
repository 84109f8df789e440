"""The starts of a saved log, read no further than the one that is judged."""

from __future__ import annotations

from inbetrieb_core.logs.gaps import Mended
from inbetrieb_core.starts import StartWindow
from inbetrieb_core.starts.window import mended, starts_in

from server.logbook.models import Log
from server.logbook.samples import read_between, read_channels, read_trace

#: A log of so many samples is read whole: finding its starts first would save nothing.
_SHORT = 30_000
#: What starts are found by.
_BY = ("time_s", "rpm", "battery_v")
#: So much of the log around a start is read with it. [s]
_AROUND_S = 60.0


def starts_of(
    log: Log, start_number: int, crank_to_run_rpm: float
) -> tuple[Mended, tuple[StartWindow, ...]]:
    """Return what a log holds around one of its starts, and all of them.

    Where it holds no start of that number, the judgement refuses; nothing more is read for it.
    """
    whole = mended(read_trace(log) if log.sample_count <= _SHORT else read_channels(log, _BY))
    windows = starts_in(whole, crank_to_run_rpm)
    if log.sample_count <= _SHORT or not 1 <= start_number <= len(windows):
        return whole, windows
    window = windows[start_number - 1]
    part = read_between(log, window.begin_s - _AROUND_S, window.end_s + _AROUND_S)
    return mended(part), windows

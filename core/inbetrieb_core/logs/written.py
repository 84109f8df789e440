"""A log written as CSV: canonical channels with their units in the heads, read back by the importer as it was."""

from __future__ import annotations

import csv
import io

import numpy as np

from .names import CHANNELS
from .trace import Trace

#: How units of canonical channels are written in heads.
_SYMBOLS = {"degC": "°C", "percent": "%", "degree": "°", "hertz": "Hz"}


def unit_of(channel: str) -> str:
    """Return the unit of a canonical channel as it is written; empty for none."""
    unit = CHANNELS[channel].unit
    return _SYMBOLS.get(unit, unit)


def head_of(channel: str) -> str:
    """Return the head of a canonical channel."""
    if channel == "time_s":
        return "Time (s)"
    name, unit = CHANNELS[channel], unit_of(channel)
    # As other programs call it most often: the importer knows it by that.
    return f"{name.spellings[0]} ({unit})" if unit else name.spellings[0]


def log_csv(trace: Trace) -> bytes:
    """Return a log as CSV text, time first; a missing sample is an empty cell.

    Parameters
    ----------
    trace : Trace
    """
    names = ["time_s", *sorted(name for name in trace.channels if name != "time_s")]
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow([head_of(name) for name in names])
    columns = [trace[name] for name in names]
    for row in zip(*columns, strict=True):
        writer.writerow(["" if np.isnan(value) else repr(float(value)) for value in row])
    return out.getvalue().encode()

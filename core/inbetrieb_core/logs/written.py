"""A log written as CSV: canonical channels with their units in the heads, read back by the importer as it was."""

from __future__ import annotations

from .aligned import table_text
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
    return table_text({head_of(name): trace[name] for name in names})

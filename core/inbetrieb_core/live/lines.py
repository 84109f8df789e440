"""Samples that a logger of somebody's own sends as lines of JSON: an object a line, canonical channels by name."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Any

import numpy as np

from ..errors import LogRefused
from ..json_text import json_of
from ..logs import CHANNELS
from ..quantities import FloatArray

#: A longer line is none; so many channels are taken. [bytes, –]
LONGEST_LINE, MOST_CHANNELS = 16_384, 64


def channels_of(line: bytes) -> tuple[str, ...]:
    """Return the channels that a sender's first line names, ``time_s`` first.

    Parameters
    ----------
    line : bytes
        A sample, or ``{"channels": [...]}``.

    Raises
    ------
    LogRefused
        If it is neither, or lacks time and speed.
    """
    found = _object(line)
    if found is None:
        raise LogRefused("The sender's first line is no JSON object.")
    named = found.get("channels", list(found))
    if not isinstance(named, list):
        raise LogRefused("The sender's channels are no list.")
    known = [name for name in dict.fromkeys(named) if isinstance(name, str) and name in CHANNELS]
    if "time_s" not in named or "rpm" not in known:
        raise LogRefused("The sender names neither time_s and rpm, nor anything to go on: see the formats for the names.")  # fmt: skip
    return ("time_s", *[name for name in known if name != "time_s"][:MOST_CHANNELS])


def rows_of_lines(lines: Sequence[bytes], channels: Sequence[str]) -> FloatArray:
    """Return the samples of lines, shape (samples, channels); lines that are none are left out.

    Parameters
    ----------
    lines : sequence of bytes
    channels : sequence of str
        ``time_s`` first; what a line lacks is NaN.
    """
    rows = []
    for line in lines:
        found = _object(line)
        if found is None or not math.isfinite(_number(found.get("time_s"))):
            continue
        rows.append([_number(found.get(name)) for name in channels])
    return np.array(rows, dtype=float).reshape(len(rows), len(channels))


def _object(line: bytes) -> dict[str, Any] | None:
    if len(line) > LONGEST_LINE:
        return None
    try:
        found = json_of(line)
    except ValueError:
        return None
    return found if isinstance(found, dict) else None


def _number(value: object) -> float:
    """Return a number, NaN where it is none or none that can be."""
    if isinstance(value, bool):
        return float(value)
    if isinstance(value, (int, float)) and abs(value) < 1e12:
        return float(value)
    return math.nan

"""ASAM MDF measurement files, 3.3 and 4, in and out, by the reference library for them."""

from __future__ import annotations

import io
from typing import BinaryIO

import numpy as np

from ..errors import LogRefused
from .aligned import MOST_SIGNALS, Signal, aligned_table
from .names import CHANNELS
from .trace import Trace
from .written import unit_of

_MAGIC = b"MDF     "


def is_mdf(data: bytes | BinaryIO) -> bool:
    """Say whether a file begins as a measurement file does."""
    if isinstance(data, bytes):
        return data[:8] == _MAGIC
    data.seek(0)
    head = data.read(8)
    data.seek(0)
    return head == _MAGIC


def mdf_table(data: bytes | BinaryIO) -> bytes:
    """Return a measurement file as the table that the importer of logs reads.

    Groups of several rates are brought to one; conversions are applied, states stay numbers, samples that the file calls
    invalid are missing.

    Parameters
    ----------
    data : bytes or binary stream

    Raises
    ------
    LogRefused
        If it cannot be read, or holds more than a log does.

    Notes
    -----
    A file that somebody damaged on purpose can lead the library round in circles: whoever serves strangers runs this in a
    process of its own with bounds on time and memory.
    """
    # It takes a second to load, and most logs are text.
    from asammdf import MDF

    stream = io.BytesIO(data if isinstance(data, bytes) else data.read())
    try:
        with MDF(stream) as file:
            signals = list(_signals(file))
    except LogRefused:
        raise
    except Exception as error:  # whatever a library makes of a damaged file
        raise LogRefused(
            "The measurement file is damaged, or of a kind that cannot be read."
        ) from error
    return aligned_table(signals)


def _signals(file: object) -> list[Signal]:
    found: list[Signal] = []
    for group in file.virtual_groups:  # type: ignore[attr-defined]
        wanted = file.included_channels(group)[group]  # type: ignore[attr-defined]
        entries = [(None, number, channel) for number, channels in wanted.items() for channel in channels]  # fmt: skip
        if len(found) + len(entries) > 4 * MOST_SIGNALS:
            raise LogRefused(
                "The file holds more signals than a log does. Export the engine's alone."
            )
        for one in file.select(entries, ignore_value2text_conversions=True, copy_master=False):  # type: ignore[attr-defined]
            samples = np.asarray(one.samples)
            if samples.ndim != 1 or samples.dtype.kind not in "iufb":
                continue
            values = samples.astype(float)
            if one.invalidation_bits is not None:
                values[np.asarray(one.invalidation_bits, dtype=bool)] = np.nan
            found.append(Signal(one.name, one.unit or "", np.asarray(one.timestamps, dtype=float), values, samples.dtype.kind in "iub"))  # fmt: skip
    return found


def log_mdf(trace: Trace, comment: str = "") -> bytes:
    """Return a log as a measurement file of version 4: names, units, titles as comments, missing samples marked invalid.

    Parameters
    ----------
    trace : Trace
    comment : str
        Of the file.
    """
    from asammdf import MDF
    from asammdf import Signal as Measured

    with MDF(version="4.10") as file:
        signals = []
        for name in sorted(set(trace.channels) - {"time_s"}):
            values = trace[name]
            missing = ~np.isfinite(values)
            signals.append(
                Measured(
                    np.where(missing, 0.0, values), trace.time_s, name=CHANNELS[name].spellings[0], unit=unit_of(name),
                    comment=CHANNELS[name].title, invalidation_bits=missing if missing.any() else None,
                )
            )  # fmt: skip
        file.append(signals, comment=comment or "Inbetrieb")
        out = io.BytesIO()
        file.save(out)
    return out.getvalue()

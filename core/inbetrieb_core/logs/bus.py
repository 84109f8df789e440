"""Bus logs – candump text, ASC, BLF – decoded with a DBC file, by the usual libraries for them."""

from __future__ import annotations

import io
from collections.abc import Iterable
from typing import Any

import numpy as np

from ..errors import LogRefused
from .aligned import MOST_VALUES, Signal, aligned_table

LARGEST_DBC_BYTES = 4_000_000
_TEXT = ("utf-8-sig", "cp1252")


def is_bus_log(data: bytes) -> bool:
    """Say whether a file looks like a bus log of a kind that can be decoded."""
    return _kind_of(data) is not None


def _kind_of(data: bytes) -> str | None:
    head = data[:400].lstrip()
    if head.startswith(b"LOGG"):
        return ".blf"
    if head.startswith(b"(") and b"#" in data[:200]:
        return ".log"
    if head.lower().startswith((b"date ", b"base hex", b"base dec")):
        return ".asc"
    return None


def bus_table(data: bytes, dbc: bytes) -> bytes:
    """Return a bus log as the table that the importer of logs reads.

    Parameters
    ----------
    data : bytes
        candump text, ASC or BLF.
    dbc : bytes
        That names the signals.

    Raises
    ------
    LogRefused
        If either cannot be read, or nothing in the log is named.
    """
    kind = _kind_of(data)
    if kind is None:
        raise LogRefused("This is no bus log that can be decoded: candump text, ASC and BLF can.")
    if len(dbc) > LARGEST_DBC_BYTES:
        raise LogRefused("The DBC file is larger than 4 MB.")
    database = _database(dbc)
    try:
        signals, unknown, seen = _decoded(_reader(data, kind), database)
    except LogRefused:
        raise
    except Exception as error:  # whatever a library makes of a damaged file
        raise LogRefused("The bus log is damaged, or of a kind that cannot be read.") from error
    if not signals:
        raise LogRefused(f"None of the {seen} messages is named in the DBC file ({unknown} identifiers are unknown).")  # fmt: skip
    return aligned_table(signals)


def _database(dbc: bytes) -> Any:
    import cantools

    for encoding in _TEXT:
        try:
            return cantools.database.load(io.StringIO(dbc.decode(encoding)), database_format="dbc", strict=False)  # fmt: skip
        except UnicodeDecodeError:
            continue
        except Exception as error:  # whatever a library makes of a damaged file
            raise LogRefused("The DBC file cannot be read.") from error
    raise LogRefused("The DBC file is no text.")


def _reader(data: bytes, kind: str) -> Iterable[Any]:
    import can

    if kind == ".blf":
        binary: Iterable[Any] = can.BLFReader(io.BytesIO(data))
        return binary
    text = io.StringIO(data.decode("utf-8", "replace"))
    lines: Iterable[Any] = can.ASCReader(text) if kind == ".asc" else can.CanutilsLogReader(text)
    return lines


def _decoded(messages: Iterable[Any], database: Any) -> tuple[list[Signal], int, int]:
    """Return the signals, how many identifiers are unknown, and how many messages were seen."""
    times: dict[tuple[str, str], list[float]] = {}
    values: dict[tuple[str, str], list[float]] = {}
    units: dict[tuple[str, str], str] = {}
    unknown: set[int] = set()
    known = {message.frame_id: message for message in database.messages}
    seen = total = 0
    for message in messages:
        seen += 1
        if message.is_error_frame or message.is_remote_frame:
            continue
        described = known.get(message.arbitration_id)
        if described is None:
            unknown.add(message.arbitration_id)
            continue
        decoded = described.decode(bytes(message.data), decode_choices=False, allow_truncated=True)
        for name, value in decoded.items():
            if isinstance(value, bool) or not isinstance(value, (int, float)):
                continue
            key = (described.name, name)
            if key not in units:
                units[key] = described.get_signal_by_name(name).unit or ""
            times.setdefault(key, []).append(float(message.timestamp))
            values.setdefault(key, []).append(float(value))
            total += 1
        if total > MOST_VALUES:
            raise LogRefused("The bus log holds more than can be read at once. Cut it.")
    found = [
        Signal(key[1].replace("_", " "), units[key], np.array(times[key]), np.array(values[key]))
        for key in times
    ]
    return found, len(unknown), seen

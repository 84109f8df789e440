"""Samples of logs: compressed chunks per channel with a pyramid of extremes.

Any zoom of any length draws from a bounded read. A level of the pyramid holds the lowest and highest
value of so many samples, and of time the first and last: what is drawn stands where it was logged,
however unevenly that was. Levels are four times as coarse as the one before.
"""

from __future__ import annotations

import zlib
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
from inbetrieb_core.logs import Trace
from inbetrieb_core.quantities import FloatArray

from .models import Log, LogChunk

#: Samples of a chunk; of a level, buckets.
CHUNK = 16_384
STEP = 4
#: A level with fewer buckets than this serves no zoom.
_FEWEST_BUCKETS = 64
#: Times are looked up in buckets of so many samples, and stretches of so many are read as they are.
_INDEX, _READ_WHOLE = 1024, 8192


def write_samples(log: Log, trace: Trace) -> None:
    """Store the samples of a log and their pyramid; callers hold the transaction."""
    rows = (
        LogChunk(log=log, channel=name, level=level, number=number, data=data)
        for name, values in trace.channels.items()
        for part in (samples_of(name, values), pyramid_of(name, values))
        for level, number, data in part
    )
    LogChunk.objects.bulk_create(rows, batch_size=200)


def samples_of(channel: str, values: FloatArray) -> Iterator[tuple[int, int, bytes]]:
    """Yield level, number and packed samples of the chunks of a channel."""
    for number, start in enumerate(range(0, len(values), CHUNK)):
        yield 1, number, _packed(channel, values[start : start + CHUNK])


def pyramid_of(channel: str, values: FloatArray) -> Iterator[tuple[int, int, bytes]]:
    """Yield level, number and packed extremes of the chunks of a channel's pyramid."""
    pair = np.array([values, values])
    for level in levels_of(len(values)):
        pair = _ends(pair) if channel == "time_s" else _extremes(pair)
        for number, start in enumerate(range(0, pair.shape[1], CHUNK)):
            yield level, number, _packed(channel, pair[:, start : start + CHUNK])


def _packed(channel: str, values: FloatArray) -> bytes:
    kind = np.float64 if channel == "time_s" else np.float32
    return zlib.compress(np.ascontiguousarray(values, dtype=kind).tobytes(), 1)


def levels_of(count: int) -> list[int]:
    """Return the samples per bucket of every level that a log of so many samples has."""
    levels, level = [], STEP
    while count >= _FEWEST_BUCKETS * level:
        levels.append(level)
        level *= STEP
    return levels


def _padded(pair: FloatArray, by: int) -> FloatArray:
    """Return low and high in buckets, shape (2, buckets, by); the last one is filled with its last."""
    short = -pair.shape[1] % by
    return np.pad(pair, ((0, 0), (0, short)), mode="edge").reshape(2, -1, by)


def _extremes(pair: FloatArray, by: int = STEP) -> FloatArray:
    """Return lowest and highest value of each bucket, NaN where none is known, shape (2, buckets)."""
    buckets = _padded(pair, by)
    low = np.fmin.reduce(buckets[0], axis=1)
    return np.array([low, np.fmax.reduce(buckets[1], axis=1)])


def _ends(pair: FloatArray, by: int = STEP) -> FloatArray:
    """Return first and last time of each bucket, shape (2, buckets). [s]"""
    buckets = _padded(pair, by)
    return np.array([buckets[0, :, 0], buckets[1, :, -1]])


def read_channel(log: Log, channel: str, first: int = 0, last: int | None = None) -> FloatArray:
    """Return samples first ≤ i < last of a channel, reading only the chunks that hold them."""
    last = log.sample_count if last is None else last
    return np.asarray(_read(log, [channel], 1, first, last)[channel][0])


def _read(log: Log, names: list[str], level: int, first: int, last: int) -> dict[str, FloatArray]:
    """Return buckets first ≤ i < last of a level, shape (rows, n) each, in one query."""
    chunks = LogChunk.objects.filter(
        log=log,
        channel__in=names,
        level=level,
        number__gte=first // CHUNK,
        number__lte=max(0, last - 1) // CHUNK,
    ).order_by("number")
    parts: dict[str, list[FloatArray]] = {name: [] for name in names}
    rows = 1 if level == 1 else 2
    for chunk in chunks:
        kind = np.float64 if chunk.channel == "time_s" else np.float32
        values = np.frombuffer(zlib.decompress(chunk.data), dtype=kind)
        parts[chunk.channel].append(values.reshape(rows, -1).astype(float))
    start = first // CHUNK * CHUNK
    return {
        name: np.concatenate(found, axis=1)[:, first - start : last - start]
        if found
        else np.zeros((rows, 0))
        for name, found in parts.items()
    }


def read_trace(log: Log) -> Trace:
    """Return a whole log."""
    return Trace({name: read_channel(log, name) for name in log.channels})


def read_channels(log: Log, names: Sequence[str]) -> Trace:
    """Return those of some channels that a log has, whole."""
    return Trace({name: read_channel(log, name) for name in names if name in log.channels})


def read_between(log: Log, start_s: float, end_s: float) -> Trace:
    """Return the part of a log with start ≤ time < end, reading only the chunks that hold it. [s]"""
    first, last = _around(log, start_s, end_s)
    read = {name: values[0] for name, values in _read(log, log.channels, 1, first, last).items()}
    return Trace(read).between(start_s, end_s)


def _around(log: Log, start_s: float, end_s: float) -> tuple[int, int]:
    """Return first and last index around a stretch of time, at most a few buckets too wide, by one read."""
    level = _index_level(log)
    times = _read(log, ["time_s"], level, 0, -(-log.sample_count // level))["time_s"]
    # The first bucket that ends after the start, and the last one that begins before the end.
    low = int(np.searchsorted(times[-1], start_s, side="left"))
    high = int(np.searchsorted(times[0], end_s, side="right"))
    return low * level, min(log.sample_count, max(low, high) * level)


def _index_level(log: Log) -> int:
    return max((level for level in levels_of(log.sample_count) if level <= _INDEX), default=1)


@dataclass(frozen=True)
class Window:
    """A part of a log, no finer than asked for.

    Attributes
    ----------
    time_s : ndarray
        Times of the drawn values. [s]
    channels : dict of str to ndarray
        Values; NaN where missing.
    bucket : int
        Samples per drawn pair of extremes; 1 is every sample.
    """

    time_s: FloatArray
    channels: dict[str, FloatArray]
    bucket: int


def read_window(log: Log, channels: list[str], start_s: float, end_s: float, most: int) -> Window:
    """Return the values of a stretch of time with at most `most` points per channel.

    Where there are more samples than that, each pair of points is the lowest and the highest of a
    bucket, at its first and last time; there are more than half as many points as were asked for.
    """
    first, last = _around(log, start_s, end_s)
    pairs = most // 2
    level = 1
    if last - first > _READ_WHOLE:
        # The coarsest level that is still fine enough, whatever lies outside at both ends.
        sure = last - first - 2 * _index_level(log)
        level = max((lv for lv in levels_of(log.sample_count) if sure >= lv * pairs), default=1)
    read = _read(log, [*channels, "time_s"], level, first // level, -(-last // level))
    inside = (read["time_s"][-1] >= start_s) & (read["time_s"][0] <= end_s)
    read = {name: values[:, inside] for name, values in read.items()}
    count = int(inside.sum())
    if level == 1 and count <= most:
        plain = {name: values[0] for name, values in read.items()}
        return Window(plain.pop("time_s"), plain, 1)
    by = max(1, -(-count // pairs))
    if level == 1:
        read = {name: np.repeat(values, 2, axis=0) for name, values in read.items()}
    time = _drawn(_ends(read.pop("time_s"), by))
    return Window(time, {n: _drawn(_extremes(pair, by)) for n, pair in read.items()}, level * by)


def _drawn(pair: FloatArray) -> FloatArray:
    """Return low and high, or first and last, one after the other."""
    return np.asarray(pair.T.reshape(-1))

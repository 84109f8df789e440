"""Samples of logs: compressed chunks per channel with a min/max pyramid.

Any zoom of any length draws from a bounded read: a window asks for at most a few thousand
values, taken from the level whose buckets are just fine enough.
"""

from __future__ import annotations

import zlib
from dataclasses import dataclass

import numpy as np
from inbetrieb_core.logs import Trace
from inbetrieb_core.quantities import FloatArray
from numpy.typing import NDArray

from .models import Log, LogChunk

CHUNK = 16_384
LEVELS = (64, 4096)


def write_samples(log: Log, trace: Trace) -> None:
    """Store the samples of a log and their pyramid; callers hold the transaction."""
    rows = []
    for name, values in trace.channels.items():
        kind = np.float64 if name == "time_s" else np.float32
        for number, start in enumerate(range(0, len(values), CHUNK)):
            rows.append(_row(log, name, 1, number, values[start : start + CHUNK].astype(kind)))
        if name != "time_s":
            for level in LEVELS:
                if len(values) > 4 * level:
                    rows.append(_row(log, name, level, 0, _extremes(values, level)))
    LogChunk.objects.bulk_create(rows, batch_size=200)


def _row(log: Log, channel: str, level: int, number: int, values: NDArray[np.floating]) -> LogChunk:
    data = zlib.compress(np.ascontiguousarray(values).tobytes(), 1)
    return LogChunk(log=log, channel=channel, level=level, number=number, data=data)


def _extremes(values: FloatArray, level: int) -> NDArray[np.float32]:
    """Return lowest and highest value of each bucket, shape (2, buckets)."""
    padded = np.full(-(-len(values) // level) * level, np.nan)
    padded[: len(values)] = values
    buckets = padded.reshape(-1, level)
    some = np.isfinite(buckets).any(axis=1)
    low = np.full(len(buckets), np.nan)
    high = np.full(len(buckets), np.nan)
    low[some] = np.nanmin(buckets[some], axis=1)
    high[some] = np.nanmax(buckets[some], axis=1)
    return np.array([low, high], dtype=np.float32)


def read_channel(log: Log, channel: str, first: int = 0, last: int | None = None) -> FloatArray:
    """Return samples first ≤ i < last of a channel, reading only the chunks that hold them."""
    last = log.sample_count if last is None else last
    kind = np.float64 if channel == "time_s" else np.float32
    chunks = LogChunk.objects.filter(
        log=log,
        channel=channel,
        level=1,
        number__gte=first // CHUNK,
        number__lte=max(0, last - 1) // CHUNK,
    ).order_by("number")
    parts = [np.frombuffer(zlib.decompress(chunk.data), dtype=kind) for chunk in chunks]
    if not parts:
        return np.array([], dtype=float)
    start = first // CHUNK * CHUNK
    return np.concatenate(parts).astype(float)[first - start : last - start]


def read_trace(log: Log) -> Trace:
    """Return a whole log."""
    return Trace({name: read_channel(log, name) for name in log.channels})


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
    """Return the values of a stretch of time with at most about `most` points per channel."""
    rate = (log.sample_count - 1) / log.duration_s if log.duration_s > 0 else 1.0
    # Logs need not be evenly sampled: the index is found in the times themselves.
    if log.sample_count <= 4 * CHUNK:
        time = read_channel(log, "time_s")
        first = int(np.searchsorted(time, start_s, side="left"))
        last = int(np.searchsorted(time, end_s, side="right"))
        time = time[first:last]
    else:
        first = max(0, int((start_s - 1.0) * rate))
        last = min(log.sample_count, int((end_s + 1.0) * rate) + 2)
        time = np.array([])
    count = last - first
    level = next(
        (lv for lv in (1, *LEVELS) if count / lv * (2 if lv > 1 else 1) <= most), LEVELS[-1]
    )
    if level == 1 or log.sample_count <= 4 * level:
        if not time.size:
            time = read_channel(log, "time_s", first, last)
        values = {name: read_channel(log, name, first, last) for name in channels}
        return _thinned(time, values, most)
    return _from_pyramid(log, channels, first, last, level, rate)


def _from_pyramid(
    log: Log, channels: list[str], first: int, last: int, level: int, rate: float
) -> Window:
    low_bucket, high_bucket = first // level, -(-last // level)
    middle = (np.arange(low_bucket, high_bucket) + 0.5) * level / rate
    time = np.repeat(middle, 2)
    time[1::2] += 0.25 * level / rate
    values = {}
    for name in channels:
        chunk = LogChunk.objects.get(log=log, channel=name, level=level)
        pair = np.frombuffer(zlib.decompress(chunk.data), dtype=np.float32).reshape(2, -1)
        drawn = np.empty(2 * (high_bucket - low_bucket))
        drawn[0::2], drawn[1::2] = pair[0, low_bucket:high_bucket], pair[1, low_bucket:high_bucket]
        values[name] = drawn
    return Window(time, values, level)


def _thinned(time: FloatArray, values: dict[str, FloatArray], most: int) -> Window:
    """Return every sample, or lowest and highest of small buckets if there are too many."""
    if len(time) <= most:
        return Window(time, values, 1)
    bucket = -(-2 * len(time) // most)
    drawn = {}
    for name, samples in values.items():
        low, high = _extremes(samples, bucket)
        pair = np.empty(2 * len(low))
        pair[0::2], pair[1::2] = low, high
        drawn[name] = pair
    starts = time[::bucket]
    pairs = np.repeat(starts, 2)
    pairs[1::2] += 0.5 * bucket * float(np.median(np.diff(time)))
    return Window(pairs, drawn, bucket)

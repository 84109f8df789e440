"""The live link: what one process streams to ten browsers, how late it is, and what a long session holds."""

from __future__ import annotations

import statistics
import time
import tracemalloc
from collections.abc import Callable
from types import SimpleNamespace
from unittest.mock import patch

import numpy as np
from inbetrieb_core.basemaps import generate
from inbetrieb_core.bench import NAMED, BenchSource, LiveSetup
from inbetrieb_core.live import Controls

from server.live import hosts, stream
from server.live.hosts import Host, Limits

Line = Callable[[str, str], None]
_BROWSERS = 10
_HOURS = 8


def _host(kept: list[int]) -> Host:
    """Return a host of a warm idling engine whose rows are counted instead of kept."""
    engine = NAMED["port_four"]
    source = BenchSource(
        engine, engine.spec, generate(engine.spec), LiveSetup(80.0), revision=1, tables=""
    )
    opened = source.open()
    host = Host(1, source, opened, Limits(300.0, 6000.0), lambda _: None)
    for controls in (Controls(key=True, starter=True), Controls(key=True)):
        host.begin_with({"key": controls.key, "starter": controls.starter})
        for _ in range(20):
            host.pump(0.1)
    return host


def streaming(line: Line) -> None:
    """Print samples a second to ten browsers, the share of one core, and how late an event is."""
    kept: list[int] = []
    with patch.object(hosts, "write_chunk", lambda _, first, rows: kept.append(len(rows))):
        host = _host(kept)
        session = SimpleNamespace(pk=1, channels=list(host.opened.channels))
        hosts._hosts[1] = host
        feeds = [stream.Feed(session, host.rows) for _ in range(_BROWSERS)]  # type: ignore[arg-type]
        sent, late, cpu, began = 0, [], time.process_time(), time.perf_counter()
        for _ in range(100):
            host.pump(stream.PARCEL_S)
            came = time.perf_counter()
            for feed in feeds:
                before = feed.row or 0
                feed.next()
                sent += (feed.row or 0) - before
                late.append(time.perf_counter() - came)
        wall, used = time.perf_counter() - began, time.process_time() - cpu
        hosts._hosts.clear()
    share = used / (100 * stream.PARCEL_S)
    p95 = statistics.quantiles(late, n=20)[-1]
    line("live: samples a second to ten browsers, one process", f"{sent / wall:,.0f}")
    line("live: one session with ten browsers, of one core", f"{100 * share:.1f} %")
    line("live: an event waits, p95, beside 200 ms for its parcel", f"{1000 * p95:.1f} ms")


def long_session(line: Line) -> None:
    """Print what a session of eight hours holds in memory and on the disk."""
    from server.live.chunks import packed

    host_bytes: list[int] = []
    rows = np.random.default_rng(0).normal(900.0, 20.0, (25, 17)).round(4)
    with patch.object(hosts, "write_chunk", lambda _, first, rows: host_bytes.append(len(packed(rows)))):  # fmt: skip
        host = _host(host_bytes)
        tracemalloc.start()
        for second in range(_HOURS * 3600):
            rows[:, 0] = second + 100.0 + np.arange(25) / 25.0
            with host._lock:
                host._admit(host._guard.take(rows))
                host.keep()
        held, _ = tracemalloc.get_traced_memory()
        tracemalloc.stop()
    line(f"live: {_HOURS} hours at 25 Hz, held in memory", f"{held / 1e6:.1f} MB")
    line(f"live: {_HOURS} hours at 25 Hz, written", f"{sum(host_bytes) / 1e6:.0f} MB")

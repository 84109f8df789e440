"""Speed of what people wait for, as ratios and medians of one run: `make bench`.

Nothing here is a test: machines differ, so figures of one run are only compared with each
other.
"""

from __future__ import annotations

import io
import os
import statistics
import tempfile
import time
from collections.abc import Callable
from typing import Any

import numpy as np
import polars as pl
from inbetrieb_core.basemaps import generate
from inbetrieb_core.bench import NAMED, StartConditions, simulate_start
from inbetrieb_core.logs import Trace, import_log
from inbetrieb_core.starts import StartSetting, judge_log

from .estimating import estimating
from .formats import archive, measurement_files
from .fuelling import solving
from .papers import printing
from .timing import ROUNDS, timed


def line(name: str, value: str, aim: str = "") -> None:
    """Print one figure."""
    print(f"{name:<58} {value:>22}   {aim}")


def bench_engine() -> None:
    """Simulated seconds per second of processor time, per named engine."""
    for key, engine in NAMED.items():
        calibration = generate(engine.spec)
        ratios = []
        for seed in range(ROUNDS):
            began = time.process_time()
            run = simulate_start(engine, engine.spec, calibration, StartConditions(20.0, seed=seed))
            ratios.append(run.simulated_s / (time.process_time() - began))
        line(
            f"bench engine {key}: engine seconds per CPU second",
            f"{statistics.median(ratios):.0f} ×",
            "at least 1000 × is wanted",
        )


def long_log() -> bytes:
    """Return a 60-minute, 50 Hz, 20-channel log as CSV text."""
    count = 60 * 60 * 50
    random = np.random.default_rng(1)
    names = [
        "Time (s)", "RPM", "MAP (kPa)", "CLT (°C)", "IAT (°C)", "TPS (%)", "Lambda", "Lambda Target",
        "PW (ms)", "Battery (V)", "Idle valve (%)", "Spark (°)", "Fuel Pressure (kPa)", "STFT (%)", "Sync",
        "MAF (g/s)", "Knock retard (°)", "Boost duty (%)", "Vehicle speed (km/h)", "Oil pressure (bar)",
    ]  # fmt: skip
    columns = {name: random.uniform(0.5, 100.0, count).round(3) for name in names}
    columns["Time (s)"] = np.arange(count) / 50.0
    out = io.BytesIO()
    pl.DataFrame(columns).write_csv(out)
    return out.getvalue()


def bench_import() -> None:
    """Import of a long log against a bare read of the same bytes in the same run."""
    data = long_log()
    ours = statistics.median(timed(lambda: import_log(data), 5))
    bare = statistics.median(timed(lambda: pl.read_csv(io.BytesIO(data)), 5))
    line("log of 60 min, 50 Hz, 20 channels: size", f"{len(data) / 1e6:.0f} MB")
    line("  import", f"{ours:.2f} s")
    line("  import ÷ bare polars read", f"{ours / bare:.2f}", "under 3")


def bench_analysis() -> None:
    """Judging one start."""
    engine = NAMED["port_four"]
    calibration = generate(engine.spec)
    for rate in (25.0, 50.0):
        run = simulate_start(engine, engine.spec, calibration, StartConditions(20.0, rate_hz=rate))
        trace = Trace(run.channels)
        setting = StartSetting(engine.spec)
        median = statistics.median(timed(lambda t=trace, s=setting: judge_log(t, calibration, s)))
        line(f"start analysis at {rate:.0f} Hz", f"{1000 * median:.1f} ms")


def bench_trigger() -> None:
    """Reading and following a capture, and planning pins."""
    from inbetrieb_core.bench.edges import EdgeConditions, simulate_edges
    from inbetrieb_core.engine import EngineSpec, InjectorSet
    from inbetrieb_core.triggers import PATTERNS, decode, read_capture
    from inbetrieb_core.wiring import PlanEntry, plan_wiring, usual_fitting

    from server.wiring.controllers import shipped

    times = np.cumsum(np.full(1_000_000, 300))
    data = ",crank,1\n".join(map(str, times.tolist())).encode() + b",crank,1\n"
    ours = statistics.median(timed(lambda: read_capture(data), 3))
    bare = statistics.median(timed(lambda: pl.read_csv(io.BytesIO(data), has_header=False), 3))
    line("capture of a million edges: read", f"{ours:.2f} s")
    line("  read ÷ bare polars read", f"{ours / bare:.1f}")
    wheel = PATTERNS["60−2 with cam"]
    capture = simulate_edges(wheel, EdgeConditions(turns=40.0))
    known = statistics.median(timed(lambda: decode(capture, wheel), 3))
    other = statistics.median(timed(lambda: decode(capture, PATTERNS["36−1"]), 3))
    line(
        "  followed on the right wheel, per 1000 edges",
        f"{1e6 * known / capture.crank_s.size:.0f} ms",
    )
    line("  another wheel recognised ÷ right wheel followed", f"{other / known:.1f}")
    for chambers in (4, 8):
        spec = EngineSpec(0.5 * chambers, chambers, injectors=InjectorSet(chambers, 390.0))
        for key, profile in shipped().items():
            entry = PlanEntry(usual_fitting(spec))
            median = statistics.median(
                timed(lambda p=profile, e=entry, s=spec: plan_wiring(s, p, e), 5)
            )
            line(
                f"wiring plan, {chambers} cylinders on {key.split(':')[1]}",
                f"{1000 * median:.0f} ms",
            )


def bench_requests() -> None:
    """95th percentile of the requests people wait for, through the whole server."""
    from django.core.management import call_command
    from django.test import Client

    call_command("migrate", verbosity=0)
    call_command("load_demo", verbosity=0)
    from django.contrib.auth.models import User

    client = Client()
    client.force_login(User.objects.get(username="demo"))
    job = client.get("/api/jobs").json()[0]["id"]
    log = client.post(
        f"/api/jobs/{job}/bench/starts", {"coolant_c": 8}, content_type="application/json"
    ).json()["id"]

    def p95(action: Callable[[], Any], rounds: int = 60) -> str:
        return f"{1000 * np.quantile(timed(action, rounds), 0.95):.1f} ms"

    ladder = ("/api/session", "/api/vocabulary", f"/api/jobs/{job}", f"/api/jobs/{job}/trials",
              f"/api/jobs/{job}/calibration", f"/api/jobs/{job}/revisions")  # fmt: skip
    line(
        "first load of the ladder: all its requests one after the other, p95",
        p95(lambda: [client.get(path) for path in ladder], 20),
    )
    coolant = next(
        row for row in client.get(f"/api/jobs/{job}/sensors").json() if row["function"] == "coolant"
    )
    for name, path, body in (
        ("POST sensor preview", "/api/sensors/preview", {"sensor": coolant["sensor"]}),
        (
            "POST injectors preview",
            f"/api/jobs/{job}/injectors/preview",
            {"injectors": client.get(f"/api/jobs/{job}/injectors").json()["injectors"]},
        ),
        (
            "POST supply preview",
            f"/api/jobs/{job}/supply/preview",
            {"supply": client.get(f"/api/jobs/{job}/supply").json()["supply"]},
        ),
        (
            "POST wiring preview",
            f"/api/jobs/{job}/wiring/preview",
            {"controller": "saved", "entry": client.get(f"/api/jobs/{job}/wiring").json()["entry"]},
        ),
        (
            "POST key-on check, typed",
            f"/api/jobs/{job}/key-on",
            {"readings": {"coolant": {"value": 12.0}}},
        ),
    ):
        line(
            f"{name}, p95",
            p95(lambda p=path, b=body: client.post(p, b, content_type="application/json"), 40),
            "as you type: under 100 ms",
        )
    line("GET calibration, p95", p95(lambda: client.get(f"/api/jobs/{job}/calibration")))
    line(
        "POST trial (log already there), p95",
        p95(
            lambda: client.post(
                f"/api/jobs/{job}/trials", {"log_id": log}, content_type="application/json"
            ),
            40,
        ),
    )
    line(
        "POST bench start, p95",
        p95(
            lambda: client.post(
                f"/api/jobs/{job}/bench/starts", {"coolant_c": 8}, content_type="application/json"
            ),
            20,
        ),
    )


def bench_load() -> None:
    """What reading costs on a full shop: questions to the database, and times an empty request."""
    from django.contrib.auth.models import User
    from django.db import connection
    from django.test import Client
    from django.test.utils import CaptureQueriesContext

    client = Client()
    client.force_login(User.objects.get(username="demo"))
    first = client.get("/api/jobs").json()[0]
    job, kind = first["id"], "application/json"
    log = client.post(f"/api/jobs/{job}/bench/starts", {"coolant_c": 8}, content_type=kind).json()["id"]  # fmt: skip

    def figures() -> dict[str, tuple[int, float]]:
        empty = statistics.median(timed(lambda: client.get("/api/session"), 40))
        found = {}
        for name, path in (
            ("board", "/api/jobs"),
            ("job", f"/api/jobs/{job}"),
            ("trials", f"/api/jobs/{job}/trials"),
            ("revisions", f"/api/jobs/{job}/revisions"),
            ("nearest", f"/api/jobs/{job}/base-maps/nearest"),
            ("samples", f"/api/jobs/{job}/logs/{log}/samples"),
        ):
            took = statistics.median(timed(lambda p=path: client.get(p), 20))
            with CaptureQueriesContext(connection) as queries:
                client.get(path)
            found[name] = (len(queries), took / empty)
        return found

    before = figures()
    engine = {**first["engine"]}
    for number in range(100):
        client.post("/api/jobs", {"name": f"Job {number}", "engine": engine}, content_type=kind)
    for number in range(60):
        seen = {"outcome": "started", "coolant_c": 5.0 + number / 2, "cranking_s": 2.0}
        client.post(f"/api/jobs/{job}/trials", {"observation": seen}, content_type=kind)
        revision = client.get(f"/api/jobs/{job}").json()["revision"]
        table = client.get(f"/api/jobs/{job}/calibration").json()["tables"]["idle_target"]["values"]
        values = [value + (1 if number % 2 else -1) for value in table]
        client.post(
            f"/api/jobs/{job}/calibration",
            {"note": "", "based_on": revision, "tables": {"idle_target": {"values": values}}},
            content_type=kind,
        )
    for name, (queries, ratio) in figures().items():
        small = before[name]
        line(
            f"GET {name}: questions, and times an empty request",
            f"{small[0]} → {queries}, {small[1]:.1f} → {ratio:.1f} ×",
            "4 → 104 jobs, 3 → 63 trials and revisions",
        )


def bench_tables() -> None:
    """Region operations on a table of 32 × 32, a paste, the review, and generating."""
    from inbetrieb_core.basemaps import generate, generated_like
    from inbetrieb_core.engine import EngineSpec, InjectorSet
    from inbetrieb_core.tables.regions import OPERATIONS, Region, operate, paste, read_grid
    from inbetrieb_core.tables.review import ReviewContext, review

    spec = EngineSpec(
        2.2, 4, injectors=InjectorSet(4, 390.0), cam="moderate", compression_ratio=10.2
    )
    large = {"rpm": [400.0 + 200.0 * i for i in range(32)], "map_kpa": [20.0 + 5.0 * i for i in range(32)]}  # fmt: skip
    calibration = generate(spec, large)
    table, whole = calibration["ve"], Region(0, 31, 0, 31)
    slowest = max(
        (float(np.quantile(timed(lambda o=name: operate(table, whole, o, 0.5), 20), 0.95)), name)
        for name in OPERATIONS
    )
    line(
        f"slowest operation on all of 32 × 32 cells ({OPERATIONS[slowest[1]]}), p95",
        f"{1000 * slowest[0]:.1f} ms",
        "under 50 ms",
    )
    text = "\n".join("\t".join("55,5" for _ in range(32)) for _ in range(32))
    line(
        "paste of 32 × 32 cells, median",
        f"{1000 * statistics.median(timed(lambda: paste(table, 0, 0, read_grid(text).values), 20)):.1f} ms",
    )
    context = ReviewContext(spec, generated_like(spec, calibration))
    looked = statistics.median(timed(lambda: review(calibration, context), 10))
    made = statistics.median(timed(lambda: generate(spec, large), 10))
    line("review of a calibration of 32 × 32 maps, median", f"{1000 * looked:.0f} ms")
    line(
        "generating it, median",
        f"{1000 * made:.0f} ms",
        f"{made / looked:.1f} times its review",
    )


def bench_browser() -> None:
    """First load of the ladder, from address to drawn table, and an edit of a large table."""
    try:
        from tests.browser.timing import ladder_first_load_s, table_edit_ms
    except ImportError:
        return
    edits = table_edit_ms()
    line(
        "an edit on a table of 32 × 32 in the browser, median",
        f"{statistics.median(edits):.1f} ms",
        "a frame is 16.7 ms",
    )
    seconds = ladder_first_load_s()
    line(
        "first load of the ladder in the browser, median",
        f"{1000 * statistics.median(seconds):.0f} ms",
    )


def bench_live() -> None:
    """The fuel map, and the live link, whose server needs the settings of this run."""
    from .live import long_session, streaming

    solving(line)
    streaming(line)
    long_session(line)


def main() -> None:
    """Run every benchmark on data of its own."""
    with tempfile.TemporaryDirectory() as folder:
        os.environ["INBETRIEB_DATA"] = folder
        os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.config.settings")
        import django

        django.setup()
        from django.conf import settings

        settings.ALLOWED_HOSTS = ["*"]
        bench_engine()
        bench_import()
        bench_analysis()
        estimating(line)
        bench_trigger()
        bench_tables()
        bench_requests()
        bench_load()
        printing(line)
        bench_live()
        measurement_files(line)
        bench_browser()
        archive(line)


main()

"""Starts of the bench engine, written down as logs."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, replace
from typing import Literal

import numpy as np
from django.contrib.auth.models import User
from inbetrieb_core.bench import (
    IDLE_ONLY,
    NAMED,
    USUAL_POINTS,
    BenchEngine,
    Fault,
    IdleLoops,
    IdleTrouble,
    StartConditions,
    ValveHardware,
    drawn_legs,
    simulate_cranking,
    simulate_drive,
    simulate_held,
    simulate_idle,
    simulate_key_on,
    simulate_light,
    simulate_start,
    stand_in,
    stepped_legs,
    sweep_duty,
)
from inbetrieb_core.engine import EngineSpec
from inbetrieb_core.errors import field_refused
from inbetrieb_core.logs import Trace
from inbetrieb_core.sensors import Circumstances
from inbetrieb_core.triggers import LightReading, read_capture

from server.calibration.services import calibration_of, revision_of
from server.hardware.kinds import sensors_of
from server.jobs.engine_data import spec_of
from server.jobs.models import Job
from server.logbook.models import Log
from server.logbook.services import add_log
from server.tasks.services import Progress
from server.trigger.captures import add_capture
from server.trigger.models import EdgeCapture
from server.trigger.services import trigger_of
from server.wiring.services import fading_of

IdleRun = Literal["idle", "sweep", "returns"]
#: What the warm engine can be asked to do.
IDLE_RUNS: dict[IdleRun, str] = {
    "idle": "idling", "sweep": "idle valve swept", "returns": "pedal blipped and let go",
}  # fmt: skip
STAND_IN = "stand_in"
_WIDEST_SPREAD_PCT = 5.0
#: A drive is logged with a loop that may reach further than usual: at its end it tells nothing. [%]
_DRIVE_AUTHORITY_PCT = 25.0
_STAND_IN_NOTE = "Simulated engine, not a real one."


def bench_engine(spec: EngineSpec, key: str, job: Job) -> BenchEngine:
    """Return a named bench engine, or the stand-in for the job's own engine.

    Raises
    ------
    InputRefused
        If there is none of that name.
    """
    if key == STAND_IN:
        return stand_in(spec, seed=job.pk)
    if key not in NAMED:
        known = ", ".join((STAND_IN, *NAMED))
        raise field_refused("engine", f"There is no bench engine '{key}'; known are {known}.")
    return NAMED[key]


def add_bench_start(
    job: Job,
    user: User,
    *,
    engine: str,
    conditions: StartConditions,
    faults: Sequence[Fault],
    revision: int | None,
) -> Log:
    """Crank the bench engine with the job's tables and write the log."""
    saved = revision_of(job, revision)
    spec = spec_of(job)
    chosen = bench_engine(spec, engine, job)
    run = simulate_start(chosen, spec, calibration_of(saved), conditions, faults, fading_of(job))
    about = {
        "stand_in": _STAND_IN_NOTE,
        "engine": chosen.key,
        "engine_title": chosen.title,
        "revision": saved.number,
        "faults": [asdict(fault) for fault in faults],
        **asdict(conditions),
    }
    name = f"Bench: {chosen.title} at {conditions.coolant_c:g} °C"
    return add_log(job, user, name=name, origin="bench", trace=Trace(run.channels), about=about)


def add_bench_key_on(
    job: Job, user: User, *, circumstances: Circumstances, faults: Sequence[Fault], seed: int
) -> Log:
    """Switch the simulated controller's key on and write the log."""
    trace = simulate_key_on(sensors_of(job), circumstances, faults, seed)
    about = {
        "stand_in": "Simulated controller, not a real one.",
        "run": "key_on",
        "faults": [asdict(fault) for fault in faults],
        "seed": seed,
        **asdict(circumstances),
    }
    return add_log(
        job, user, name="Bench: key on, at rest", origin="bench", trace=trace, about=about
    )


def add_bench_capture(
    job: Job, user: User, *, engine: str, coolant_c: float, crank_s: float,
    faults: Sequence[Fault], seed: int,
) -> EdgeCapture:  # fmt: skip
    """Crank the bench engine and write the edges of its wheel down, read as a file would be."""
    trigger, _ = trigger_of(job)
    spec = spec_of(job)
    chosen = bench_engine(spec, engine, job)
    data = simulate_cranking(
        chosen, spec, calibration_of(revision_of(job)), trigger, coolant_c=coolant_c,
        crank_s=crank_s, faults=faults, engine_seed=job.pk, seed=seed,
    )  # fmt: skip
    about = {
        "stand_in": _STAND_IN_NOTE,
        "engine": chosen.key,
        "coolant_c": coolant_c,
        "crank_s": crank_s,
        "faults": [asdict(fault) for fault in faults],
        "seed": seed,
    }
    name = f"Bench: cranked for {crank_s:g} s at {coolant_c:g} °C"
    return add_capture(job, user, name=name, origin="bench", read=read_capture(data), about=about)


def read_bench_light(job: Job, rpm: float, commanded_deg: float, seed: int) -> LightReading:
    """Return one reading of the timing light on the bench engine.

    Raises
    ------
    InputRefused
        If speed or advance cannot be.
    """
    trigger, _ = trigger_of(job)
    return simulate_light(trigger, rpm, commanded_deg, engine_seed=job.pk, seed=seed)


def add_bench_held(
    job: Job, user: User, *, engine: str, faults: Sequence[Fault], seed: int, idle_only: bool
) -> Log:
    """Hold the warm bench engine at steady points with the job's tables and write the log."""
    saved = revision_of(job)
    spec = spec_of(job)
    chosen = bench_engine(spec, engine, job)
    points = IDLE_ONLY if idle_only else USUAL_POINTS
    reachable = [point for point in points if point.rpm <= spec.rev_limit_rpm]
    trace = simulate_held(chosen, spec, calibration_of(saved), reachable, faults, seed)
    about = {
        "stand_in": _STAND_IN_NOTE,
        "run": "held",
        "engine": chosen.key,
        "engine_title": chosen.title,
        "revision": saved.number,
        "faults": [asdict(fault) for fault in faults],
        "seed": seed,
    }
    name = f"Bench: {chosen.title}, warm, held at {len(reachable)} points"
    return add_log(job, user, name=name, origin="bench", trace=trace, about=about)


def add_bench_idle(
    job: Job, user: User, *, run: IdleRun, valve: ValveHardware, loops: IdleLoops,
    trouble: IdleTrouble, spread_pct: float, seed: int,
) -> Log:  # fmt: skip
    """Let an engine like the job's idle warm, be swept, or be blipped, and write the log.

    Raises
    ------
    InputRefused
        If a figure cannot be.
    """
    if not 0.0 <= spread_pct <= _WIDEST_SPREAD_PCT:
        raise field_refused(
            "spread_pct", f"The throttle comes to rest within {_WIDEST_SPREAD_PCT:.0f} %."
        )
    saved, spec = revision_of(job), spec_of(job)
    engine = bench_engine(spec, STAND_IN, job)
    seconds, commanded = 45.0, None
    rests: tuple[float, ...] = ()
    if run == "sweep":
        # Its valve is driven by hand: the spark stands still, as a sweep wants it.
        loops = replace(loops, spark_gain=0.0)
        commanded, seconds = sweep_duty(begin_pct=0.5 * (valve.opens_pct + valve.full_pct))
    if run == "returns":
        draw = np.random.default_rng([seed, 0x1D])
        rests = tuple(float(abs(r)) for r in spread_pct * draw.normal(size=6))
        seconds = 56.0
    trace = simulate_idle(
        engine, spec, calibration_of(saved), valve=valve, loops=loops, trouble=trouble,
        seconds=seconds, seed=seed, commanded=commanded, rests_pct=rests,
    )  # fmt: skip
    about = {
        "stand_in": _STAND_IN_NOTE, "run": run, "revision": saved.number, "seed": seed,
        "valve": asdict(valve), "loops": asdict(loops), "trouble": asdict(trouble),
    }  # fmt: skip
    return add_log(
        job, user, name=f"Bench: warm, {IDLE_RUNS[run]}", origin="bench", trace=trace, about=about
    )


def add_bench_drive(
    job: Job, user: User, *, engine: str, faults: Sequence[Fault], minutes: float, seed: int,
    pedal_steps: bool, progress: Progress,
) -> Log:  # fmt: skip
    """Drive the warm bench engine with the job's tables through drawn speeds and pedals, and write the log."""
    saved = revision_of(job)
    spec = spec_of(job)
    chosen = bench_engine(spec, engine, job)
    progress.tell(0.1, "It is driven")
    trace = simulate_drive(
        chosen, spec, calibration_of(saved), (stepped_legs if pedal_steps else drawn_legs)(spec, minutes, seed),
        faults=faults, seed=seed, authority_pct=0.0 if pedal_steps else _DRIVE_AUTHORITY_PCT,
    )  # fmt: skip
    about = {
        "stand_in": _STAND_IN_NOTE, "run": "drive", "engine": chosen.key, "revision": saved.number,
        "faults": [asdict(fault) for fault in faults], "minutes": minutes, "seed": seed,
    }  # fmt: skip
    return add_log(
        job,
        user,
        name=f"Bench: {minutes:g} min of {'pedal steps' if pedal_steps else 'driving'}",
        origin="bench",
        trace=trace,
        about=about,
    )

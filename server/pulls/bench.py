"""Pulls of the simulated engine, to practise on: it says so wherever it shows."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict

from django.contrib.auth.models import User
from inbetrieb_core.bench import drawn_truth, simulate_pull, with_pull_faults
from inbetrieb_core.errors import field_refused
from inbetrieb_core.pulls import find_pulls

from server.bench.services import STAND_IN, bench_engine
from server.calibration.services import calibration_of, revision_of
from server.jobs.engine_data import spec_of
from server.jobs.models import Job
from server.logbook.services import add_log

from . import services
from .kinds import Conditions

_NOTE = "Simulated engine, not a real one."


def add_bench_pull(
    job: Job, user: User, conditions: Conditions, *, faults: Sequence[str], change_pct: float, seed: int
) -> int:  # fmt: skip
    """Drive one pull of the simulated engine and keep it; return its number.

    Raises
    ------
    InputRefused
        If a fault or a change cannot be.
    Refusal
        409 where no pull may follow.
    """
    if not -20.0 <= change_pct <= 20.0:
        raise field_refused("change_pct", "A part changes torque by −20 to +20 %.")
    services.refuse_closed(job)
    spec, saved = spec_of(job), revision_of(job)
    engine = bench_engine(spec, STAND_IN, job)
    truth = with_pull_faults(drawn_truth(spec, job.pk), faults)
    number = len(services.rows_of(job))
    trace = simulate_pull(
        engine, spec, calibration_of(saved), truth, duty_pct=conditions.duty_pct or 0.0, number=number,
        change_pct=change_pct, faults=faults, seed=seed,
    )  # fmt: skip
    about = {
        "stand_in": _NOTE, "run": "pull", "revision": saved.number, "faults": list(faults), "change_pct": change_pct, "seed": seed,
        "truth": asdict(truth),
    }  # fmt: skip
    log = add_log(
        job, user, name=f"Bench: pull {number + 1}", origin="bench", trace=trace, about=about
    )
    found = find_pulls(trace)
    if not found:
        raise field_refused("faults", "It does not get through a pull with that in it.")
    return services.add_from_log(
        job, user, log.pk, found[-1].begin_s, found[-1].end_s, conditions, None, stand_in=True
    )

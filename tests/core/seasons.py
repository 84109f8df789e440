"""Seasons of cold starts on drawn engines: advice, one thing at a time, and a plain hand side by side.

The engines' needs come from the bench engine's physics with parameters drawn far outside what the
generator of tables assumes; the tables left in the car are wrong by shares that bend with temperature.
Each season has its own climate. Common practice, no source.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace

import numpy as np
from inbetrieb_core.basemaps import generate
from inbetrieb_core.bench import NAMED, BenchEngine, StartConditions, simulate_start
from inbetrieb_core.estimate import estimate
from inbetrieb_core.logs import Trace
from inbetrieb_core.starts import StartSetting, chances, judge_log, past_try
from inbetrieb_core.tables import Provenance, Table, apply, move_by_factor, rounded

from .test_closed_loop import within_acceptance

CHECK_C = (-10.0, 0.0, 10.0, 20.0, 40.0, 80.0)
FOUND = ("prime_pulse", "cranking_fuel", "after_start_enrichment", "warm_up_enrichment", "idle_valve", "cranking_air")  # fmt: skip
MARK = Provenance("calculated", "season")


@dataclass(frozen=True)
class Season:
    """What became of a season: days until all temperatures were acceptable, None if it never was."""

    days: int | None
    open_c: tuple[float, ...]


def drawn_engine(seed: int) -> BenchEngine:
    """Return a named engine with hidden parameters drawn far outside the generator's."""
    draw = np.random.default_rng([seed, 0x5EA])
    engine = NAMED[list(NAMED)[seed % len(NAMED)]]
    t = engine.truth

    def spread(width):
        return float(np.exp(width * draw.normal()))

    truth = replace(
        t,
        ve_scale=t.ve_scale * spread(0.05),
        friction_scale=t.friction_scale * spread(0.15),
        vapour_shift_k=t.vapour_shift_k + 7.0 * float(draw.normal()),
        film_share=float(np.clip(t.film_share * spread(0.3), 0.1, 0.75)),
        film_time_s=t.film_time_s * spread(0.4),
        stop_gps=t.stop_gps * spread(0.2),
        # Large enough for the cold: what a valve cannot pass no table can mend.
        valve_full_gps=t.valve_full_gps * (1.2 + 0.3 * float(draw.random())),
        flow_scale=t.flow_scale * spread(0.02),
        idle_trim=bool(draw.integers(2)),
    )
    return replace(engine, key=f"drawn-{seed}", truth=truth)


def found_tables(engine, seed):
    """Return generated tables as somebody left them: off by shares that bend with temperature."""
    draw = np.random.default_rng([seed, 0xF0])
    calibration = generate(engine.spec)
    for key in FOUND:
        table = calibration[key]
        points = np.array(table.axes[0].points)
        bend = 0.35 * draw.normal() + 0.2 * draw.normal() * (points - 30.0) / 60.0
        narrow = 0.4 if key == "warm_up_enrichment" else 1.0
        values = table.values * np.exp(np.clip(narrow * bend, -0.7, 0.7))
        values = np.clip(values, table.definition.lower, table.definition.upper)
        calibration = calibration.with_table(Table(key, table.axes, values, table.provenance))
    return calibration


def mornings(seed, days):
    """Return the temperatures of a season with a climate of its own. [°C]"""
    draw = np.random.default_rng([seed, 0xC0])
    mean, width = draw.uniform(-4.0, 8.0), draw.uniform(4.0, 9.0)
    return [float(np.clip(mean + width * draw.normal(), -16.0, 24.0)) for _ in range(days)]


def open_temperatures(engine, calibration):
    """Return where a start is not acceptable yet: time, flare, dip and idle by its log alone. [°C]"""
    found = []
    for place in CHECK_C:
        run = simulate_start(engine, engine.spec, calibration, StartConditions(place, seed=991))
        if not within_acceptance(run, calibration, engine.spec):
            found.append(place)
    return tuple(found)


def by_advice(analysis, calibration, history, *, parts=True):
    """Return the tables after the advice, with or without what was measured by the way."""
    advice = analysis.advice[0] if analysis.advice else None
    if advice is None or advice.table is None:
        return calibration
    taken = [advice, *(advice.measured if parts else ())]
    for part in taken:
        calibration = calibration.with_table(apply(calibration[part.table], part.changes, MARK))
    return calibration


def one_at_a_time(analysis, calibration, history):
    """The school of one change per start."""
    return by_advice(analysis, calibration, history, parts=False)


def by_hand(analysis, calibration, history):
    """A plain hand: the earliest phase that fails, ten per cent, the other way if it got worse."""
    f, verdict = analysis.figures, analysis.verdict
    late = f.run_after_s is not None and f.run_after_s > 1.5
    if verdict in ("no fire", "fired and died") or late:
        key, factor = "cranking_fuel", 1.1
        if history and (history[-1].figures.run_after_s or 9.0) < (f.run_after_s or 9.0):
            factor = 0.9
    elif f.flare_rpm is not None and f.flare_rpm > f.target_rpm + 450.0:
        key, factor = "cranking_air", 0.8
    elif verdict == "started and died" or (f.dip_rpm or f.target_rpm) < f.target_rpm - 250.0:
        key, factor = "after_start_enrichment", 1.1
    elif f.idle_off_rpm is not None and abs(f.idle_off_rpm) > 80.0:
        key, factor = "idle_valve", 1.1 if f.idle_off_rpm < 0 else 0.92
    elif f.mixture_off is not None and abs(f.mixture_off) > 0.05:
        key, factor = "warm_up_enrichment", math.exp(f.mixture_off)
    else:
        return calibration
    table = calibration[key]
    changes = rounded(table, move_by_factor(table, factor, f.coolant_c))
    return calibration.with_table(apply(table, changes, MARK))


def stated(calibration, history, setting, place, tried):
    """Return the chance of a good start as it is told before the start, and its coverage."""
    evidence = [e for past in history for e in past.taught]
    believed = estimate(setting.spec, calibration, evidence)
    (chance,) = chances(believed, calibration, np.array([place]), tried)
    return chance.good, chance.coverage


def season(seed, days, decide, watch=None):
    """Return what became of a season on one drawn engine.

    One true cold start a day, then a warm restart at 80 °C and one at 40 °C. `watch` is given what
    was stated before every start, and whether it was good.
    """
    engine = drawn_engine(seed)
    calibration, history, tried = found_tables(engine, seed), [], []
    setting = StartSetting(engine.spec)
    still = open_temperatures(engine, calibration)
    for day, morning in enumerate(mornings(seed, days), 1):
        for place in (morning, 80.0, 40.0):
            run = simulate_start(
                engine,
                engine.spec,
                calibration,
                StartConditions(place, seed=10 * day + int(place) % 7, run_s=60.0),
            )
            analysis = judge_log(Trace(run.channels), calibration, setting, history[-40:])
            if watch is not None:
                watch(*stated(calibration, history, setting, place, tried), analysis.good)
            tried.append((place, analysis.good))
            past = past_try(analysis, calibration)
            number = len(history) + 1
            history.append(replace(past, taught=tuple(e.of_trial(number) for e in past.taught)))
            calibration = decide(analysis, calibration, history[:-1])
        still = open_temperatures(engine, calibration)
        if not still:
            return Season(day, ())
    return Season(None, still)

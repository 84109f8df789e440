"""What is hidden in a scenario: the engine's needs, the tables left in the car, the weather.

The needs come from the bench engine's physics with parameters drawn far outside what the generator of
tables assumes; the tables are wrong by shares that bend with temperature. Common practice, no source.
"""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..basemaps import generate
from ..bench import BenchEngine, stand_in
from ..engine import EngineSpec, engine_of
from ..tables import Calibration, Table
from .scenario import Scenario

_LEFT_WRONG = (
    "prime_pulse",
    "cranking_fuel",
    "after_start_enrichment",
    "warm_up_enrichment",
    "idle_valve",
    "cranking_air",
)
#: Warm-up is left less wrong than the rest: it was driven with. No cell is off by more. [–, ln]
_WARM_UP_SHARE, _MOST_OFF = 0.4, 0.7
_COLDEST_C, _WARMEST_C = -18.0, 26.0


def hidden_engine(scenario: Scenario) -> BenchEngine:
    """Return the engine as it truly is."""
    draw = np.random.default_rng([scenario.seed, 0x5EA])
    engine = stand_in(engine_of(scenario.engine), scenario.seed)
    t, far = engine.truth, scenario.hidden

    def spread(width: float) -> float:
        return float(np.exp(far * width * draw.normal()))

    truth = replace(
        t,
        ve_scale=t.ve_scale * spread(0.05),
        friction_scale=t.friction_scale * spread(0.15),
        vapour_shift_k=t.vapour_shift_k + far * 7.0 * float(draw.normal()),
        film_share=float(np.clip(t.film_share * spread(0.3), 0.1, 0.75)),
        film_time_s=t.film_time_s * spread(0.4),
        stop_gps=t.stop_gps * spread(0.2),
        # Large enough for the cold: what a valve cannot pass no table can mend.
        valve_full_gps=t.valve_full_gps * (1.2 + 0.3 * float(draw.random())),
        flow_scale=t.flow_scale * spread(0.02),
        idle_trim=bool(draw.integers(2)),
    )
    return replace(engine, key=f"trainer-{scenario.seed}", truth=truth)


def found_tables(scenario: Scenario, spec: EngineSpec | None = None) -> Calibration:
    """Return generated tables as somebody left them: off by shares that bend with temperature."""
    draw = np.random.default_rng([scenario.seed, 0xF0])
    calibration = generate(engine_of(scenario.engine) if spec is None else spec)
    for key in _LEFT_WRONG:
        table = calibration[key]
        points = np.array(table.axes[0].points)
        bend = draw.normal() + 0.57 * draw.normal() * (points - 30.0) / 60.0
        share = scenario.off * (_WARM_UP_SHARE if key == "warm_up_enrichment" else 1.0)
        values = table.values * np.exp(np.clip(share * bend, -_MOST_OFF, _MOST_OFF))
        values = np.clip(values, table.definition.lower, table.definition.upper)
        calibration = calibration.with_table(Table(key, table.axes, values, table.provenance))
    return calibration


def climate(scenario: Scenario) -> tuple[float, ...]:
    """Return the mornings of the season, one a day. [°C]"""
    draw = np.random.default_rng([scenario.seed, 0xC0])
    drawn = scenario.mean_c + scenario.width_k * draw.normal(size=scenario.days)
    return tuple(float(c) for c in np.clip(drawn, _COLDEST_C, _WARMEST_C).round(1))

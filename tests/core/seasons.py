"""Builds and seasons for tests and studies, drawn far outside what the generator of tables assumes.

They are played on the trainer's hidden engines; each has needs, wrong tables and a climate of its own.
Common practice, no source.
"""

from __future__ import annotations

import numpy as np
from inbetrieb_core.engine_data import EngineEntry, InjectorsEntry
from inbetrieb_core.trainer import HANDS, Scenario, play

KINDS = ("port", "boosted", "throttle body", "rotary")


def drawn_scenario(seed, days):
    """Return a random build with a season; its kind is KINDS[seed % 4]."""
    draw = np.random.default_rng([seed, 0xB1])
    kind = KINDS[seed % len(KINDS)]
    chambers = int(draw.choice([4, 6, 8]))
    data = {
        "displacement_l": chambers * float(draw.uniform(0.3, 0.65)),
        "chambers": chambers,
        "cam": str(draw.choice(["mild", "moderate"])),
        "compression_ratio": float(draw.uniform(8.5, 11.0)),
        "rev_limit_rpm": float(draw.uniform(5000.0, 7000.0)),
        "torque_peak_rpm": float(draw.uniform(2600.0, 4200.0)),
    }
    injectors = chambers
    if kind == "boosted":
        data |= {"induction": "boosted", "boost_kpa": float(draw.uniform(40.0, 120.0))}
    if kind == "throttle body":
        data |= {"fuelling": "throttle_body", "crank_to_run_rpm": 420.0}
        injectors = chambers // 2
    if kind == "rotary":
        data |= {"cycle": "rotary", "chambers": 2, "displacement_l": float(draw.uniform(1.0, 1.4))}
        data |= {"rev_limit_rpm": 7500.0, "torque_peak_rpm": 5000.0, "crank_to_run_rpm": 480.0}
        injectors = 2
    power = 62.0 * data["displacement_l"] * (1.0 + data.get("boost_kpa", 0.0) / 100.0)
    flow = 5.9 * power / injectors * float(draw.uniform(0.9, 1.3))
    entry = EngineEntry(**data, injectors=InjectorsEntry(flow_cm3_min=flow, count=injectors))
    mean, width = float(draw.uniform(-4.0, 8.0)), float(draw.uniform(4.0, 9.0))
    return Scenario(f"drawn {seed}", "", entry, seed, 1.0, 0.35, mean, width, days)


def season(seed, days, hand="the estimate's advice"):
    """Return what became of a season on one drawn build."""
    return play(drawn_scenario(seed, days), HANDS[hand])

"""The fuel map: an hour of driving at 50 Hz, sifted and solved, against one assembly and factorisation of the same system."""

from __future__ import annotations

import time
from collections.abc import Callable

import numpy as np
from inbetrieb_core.basemaps import generate
from inbetrieb_core.bench import NAMED
from inbetrieb_core.fuelling import grid_of, roughness_matrix, sift, solve_map
from inbetrieb_core.logs import Trace
from inbetrieb_core.tables.weights import weight_matrix
from scipy.linalg import cho_factor

Line = Callable[[str, str], None]
_RATE_HZ = 50.0


def _drive(hours: float) -> Trace:
    """Return held points for so long, drawn, with what a pass needs."""
    draw = np.random.default_rng(1)
    samples = int(3600 * hours * _RATE_HZ)
    held = np.repeat(np.arange(samples // 400 + 1), 400)[:samples]
    count = int(held[-1]) + 1
    rpm, load = draw.uniform(1300, 6000, count)[held], draw.uniform(30, 98, count)[held]
    lean = 1.0 + 0.05 * np.sin(load / 20) + draw.normal(0.0, 0.01, samples)
    plain = {
        "coolant_c": 90.0,
        "throttle_pct": 20.0,
        "battery_v": 14.0,
        "pulse_ms": 4.0,
        "lambda_target": 1.0,
    }
    channels = {name: np.full(samples, value) for name, value in plain.items()}
    return Trace(
        {
            "time_s": np.arange(samples) / _RATE_HZ,
            "rpm": rpm,
            "map_kpa": load,
            "lambda": lean,
            **channels,
        }
    )


def solving(line: Line) -> None:
    """Print how long an hour takes, against one assembly and factorisation, and how it grows with ten."""
    tables = generate(NAMED["port_four"].spec)
    axes = grid_of(tables["ve"])
    took = {}
    for hours in (1.0, 10.0):
        trace = _drive(hours)
        began = time.perf_counter()
        readings = sift(trace, tables).readings
        sifted = time.perf_counter()
        solve_map(readings, axes)
        took[hours] = (sifted - began, time.perf_counter() - sifted)
        if hours == 1.0:
            began = time.perf_counter()
            matrix = weight_matrix(axes, [trace["rpm"], trace["map_kpa"]])
            rough = roughness_matrix(len(axes[0]), len(axes[1]))
            cho_factor(
                (matrix.T @ matrix).toarray()
                + 1e3 * (rough.T @ rough).toarray()
                + np.eye(matrix.shape[1])
            )
            once = time.perf_counter() - began
    hour = sum(took[1.0])
    line("fuel map: an hour at 50 Hz, sifted and solved", f"{hour:.2f} s")
    line(
        "fuel map: the solve of it / one assembly and factorisation of all its samples",
        f"{took[1.0][1] / once:.1f} ×",
    )
    line("fuel map: ten hours / one", f"{sum(took[10.0]) / hour:.1f} ×")

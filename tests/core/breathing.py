"""A cylinder that fills and empties through its valves, degree by degree: a truth of another form for filling.

Quasi-steady compressible flow through the valve curtain (Heywood, Internal Combustion Engine Fundamentals,
appendix C, from memory), gas that is compressed and mixed without losing heat, and a hump for the waves of the
intake. Nothing of the generator's formula is in it.
"""

from __future__ import annotations

import numpy as np
from inbetrieb_core.engine import EngineSpec, InjectorSet

_GAMMA, _GAS = 1.4, 287.0
_EXHAUST_PA = 104e3
_INTAKE_K, _PORT_WARMS_K, _EXHAUST_K = 305.0, 22.0, 1000.0
_CRITICAL = (2.0 / (_GAMMA + 1.0)) ** (_GAMMA / (_GAMMA - 1.0))
#: By valves: intake valves and their diameter over the bore.
_VALVES = {2: (1, 0.45), 4: (2, 0.37)}
_EXHAUST_OVER_INTAKE = 0.85
SPEEDS = np.arange(1000.0, 9001.0, 100.0)


def _choked(ratio):
    """Flow through an orifice, dimensionless, by the pressure behind over the one before it."""
    held = np.clip(ratio, _CRITICAL, 1.0)
    power = held ** (2.0 / _GAMMA) - held ** ((_GAMMA + 1.0) / _GAMMA)
    return np.sqrt(np.maximum(0.0, 2.0 * _GAMMA / (_GAMMA - 1.0) * power))


def breathed_pct(
    *,
    bore,
    stroke,
    valves,
    lift,
    duration,
    separation,
    compression,
    rod,
    rpm=SPEEDS,
    manifold_kpa=100.0,
):
    """Filling referred to the manifold, without waves. [mm, mm, –, mm, °, °, –, strokes, 1/min, kPa → %]"""
    manifold_pa = 1000.0 * manifold_kpa
    area = np.pi * (bore / 1000.0) ** 2 / 4.0
    swept = area * stroke / 1000.0
    crank, long = stroke / 2000.0, rod * stroke / 1000.0
    number, share = _VALVES[valves]

    def volume(degrees):
        angle = np.radians(degrees)
        depth = (
            crank * (1.0 - np.cos(angle)) + long - np.sqrt(long**2 - (crank * np.sin(angle)) ** 2)
        )
        return swept / (compression - 1.0) + area * depth

    def opening_m2(degrees, centre, diameter):
        off = abs(degrees - centre) / (duration / 2.0)
        if off >= 1.0:
            return 0.0
        risen = lift / 1000.0 * (0.5 * (1.0 + np.cos(np.pi * off))) ** 1.1
        discharge = 0.72 - 0.72 * max(0.0, risen / diameter - 0.15)
        return number * discharge * min(np.pi * diameter * risen, 0.78 * np.pi * diameter**2 / 4.0)

    intake = share * bore / 1000.0
    degrees = np.arange(min(separation - duration / 2.0, -60.0), separation + duration / 2.0)
    step_s = 1.0 / (6.0 * rpm)
    kelvin = np.full(rpm.shape, _EXHAUST_K)
    mass = _EXHAUST_PA * volume(degrees[0]) / (_GAS * kelvin)
    fresh, pushed_back, pushed_k = (np.zeros_like(rpm) for _ in range(3))
    for at in degrees:
        here = volume(at + 1.0)
        kelvin = kelvin * (volume(at) / here) ** (_GAMMA - 1.0)
        for opened, outside_pa, outside_k, is_intake in (
            (opening_m2(at, separation, intake), manifold_pa, _INTAKE_K + _PORT_WARMS_K, True),
            (opening_m2(at, -separation, _EXHAUST_OVER_INTAKE * intake), _EXHAUST_PA, _EXHAUST_K, False),
        ):  # fmt: skip
            pressure = mass * _GAS * kelvin / here
            inward = pressure < outside_pa
            high, low = np.maximum(pressure, outside_pa), np.minimum(pressure, outside_pa)
            # What was pushed back into the port comes first, and comes warm.
            comes_k = np.where(pushed_back > 0.0, pushed_k, outside_k) if is_intake else outside_k
            source_k = np.where(inward, comes_k, kelvin)
            moved = opened * high / np.sqrt(_GAS * source_k) * _choked(low / high) * step_s
            # No more than evens the pressures out.
            evens = 0.5 * (high - low) * here / (_GAS * np.maximum(kelvin, comes_k))
            moved = np.minimum(moved, evens) * np.where(inward, 1.0, -1.0)
            kelvin = (mass * kelvin + moved * _GAMMA * source_k) / (mass + moved)
            mass = mass + moved
            if is_intake:
                fresh = fresh + moved
                left = np.maximum(pushed_back - moved, 0.0)
                warm = np.where(
                    moved < 0.0, pushed_back * pushed_k - moved * kelvin, left * pushed_k
                )
                pushed_back, pushed_k = left, warm / np.maximum(left, 1e-12)
    return 100.0 * fresh * _GAS * _INTAKE_K / (manifold_pa * swept)


def drawn_engine(seed):
    """Return an engine with its valve gear entered, the same without it, and its true filling at SPEEDS.

    The last is a function of the manifold's pressure. [kPa → %]
    """
    draw = np.random.default_rng([seed, 0xB0])
    valves, bore = int(draw.choice([2, 4])), float(draw.uniform(70.0, 104.0))
    parts = {
        "bore": bore, "stroke": bore * float(draw.uniform(0.65, 1.3)), "valves": valves,
        "lift": _VALVES[valves][1] * bore * float(draw.uniform(0.14, 0.34)),
        "duration": float(draw.uniform(235.0, 295.0)), "separation": float(draw.uniform(105.0, 114.0)),
        "compression": float(draw.uniform(8.5, 11.0)), "rod": float(draw.uniform(1.55, 2.0)),
    }  # fmt: skip
    waves = np.log(SPEEDS / draw.uniform(2800.0, 5200.0)) / draw.uniform(0.35, 0.6)
    swings = draw.uniform(0.05, 0.14) * np.exp(-(waves**2))

    def filled_pct(manifold_kpa=100.0):
        # A thinner column of air swings less.
        plain = breathed_pct(**parts, manifold_kpa=manifold_kpa)
        return plain * (1.0 + swings * manifold_kpa / 100.0)

    peak = float(SPEEDS[filled_pct().argmax()])
    common = {
        "displacement_l": 4.0 * np.pi / 4.0 * bore**2 * parts["stroke"] / 1e6, "chambers": 4,
        "compression_ratio": parts["compression"], "valves_per_chamber": valves, "torque_peak_rpm": peak,
        "rev_limit_rpm": min(9000.0, peak * float(draw.uniform(1.4, 2.3))), "injectors": InjectorSet(4, 300.0),
        "cam_duration_deg": parts["duration"], "lobe_separation_deg": parts["separation"],
    }  # fmt: skip
    entered = EngineSpec(
        **common, bore_mm=bore, stroke_mm=parts["stroke"], cam_lift_mm=parts["lift"]
    )
    return entered, EngineSpec(**common), filled_pct

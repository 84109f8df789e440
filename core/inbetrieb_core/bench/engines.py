"""The named bench engines, and a stand-in for any engine that somebody enters."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np

from ..charge.idle_air import idle_air_gps, warm_idle_rpm
from ..engine import EngineSpec, InjectorSet
from .truth import EngineTruth


@dataclass(frozen=True)
class BenchEngine:
    """A simulated engine.

    Attributes
    ----------
    key, title, description : str
        Identifier and wording.
    spec : EngineSpec
        What an honest seller would say of it: the data to enter in a job.
    truth : EngineTruth
        What it really is.
    """

    key: str
    title: str
    description: str
    spec: EngineSpec
    truth: EngineTruth


def _warm_air(spec: EngineSpec) -> float:
    return idle_air_gps(spec, warm_idle_rpm(spec), 85.0)


def _truth(spec: EngineSpec, *, valve: float, stop: float, size: float, **rest: Any) -> EngineTruth:
    """Return a truth whose valve and stop are multiples of the warm idle air, rest by size [l]."""
    air = _warm_air(spec)
    return EngineTruth(
        hardware=spec,
        valve_full_gps=valve * air,
        stop_gps=stop * air,
        inertia_kgm2=0.06 + 0.055 * size,
        starter_stall_nm=24.0 + 46.0 * size,
        battery_ohm=0.008 * (2.2 / max(size, 1.0)) ** 0.5,
        film_share=0.4 if spec.wet_manifold else rest.pop("film_share", 0.35),
        film_time_s=0.35 if spec.wet_manifold else rest.pop("film_time_s", 0.25),
        **rest,
    )


_PORT_FOUR = EngineSpec(
    displacement_l=2.2,
    chambers=4,
    injectors=InjectorSet(4, 390.0),
    cam="moderate",
    compression_ratio=10.2,
    rev_limit_rpm=6600.0,
    torque_peak_rpm=4300.0,
)
_V8 = EngineSpec(
    displacement_l=6.1,
    chambers=8,
    injectors=InjectorSet(4, 900.0),
    cam="mild",
    compression_ratio=8.8,
    valves_per_chamber=2,
    fuelling="throttle_body",
    rev_limit_rpm=5000.0,
    torque_peak_rpm=3000.0,
    crank_to_run_rpm=420.0,
)
_ROTORS = EngineSpec(
    displacement_l=1.2,
    chambers=2,
    injectors=InjectorSet(2, 720.0),
    cycle="rotary",
    rev_limit_rpm=7500.0,
    torque_peak_rpm=5000.0,
    crank_to_run_rpm=480.0,
)

NAMED: dict[str, BenchEngine] = {
    engine.key: engine
    for engine in (
        BenchEngine(
            "port_four",
            "Port-injected four, 2.2 l",
            "Four cylinders, one injector each, moderate cam, petrol.",
            _PORT_FOUR,
            _truth(
                _PORT_FOUR,
                valve=2.4,
                stop=0.42,
                size=2.2,
                ve_scale=0.97,
                ve_speed=0.03,
                ve_load=0.05,
                friction_scale=1.06,
                vapour_shift_k=-3.0,
                flow_scale=1.02,
                dead_time_offset_ms=0.05,
            ),
        ),
        BenchEngine(
            "throttle_body_v8",
            "Throttle-body V8, 6.1 l",
            "Eight cylinders behind four injectors above the throttle: a wet manifold.",
            _V8,
            _truth(
                _V8,
                valve=2.9,
                stop=0.30,
                size=6.1,
                ve_scale=1.04,
                ve_speed=-0.02,
                ve_load=-0.04,
                friction_scale=0.95,
                vapour_shift_k=4.0,
                flow_scale=0.97,
                dead_time_offset_ms=-0.06,
            ),
        ),
        BenchEngine(
            "twin_rotor",
            "Twin rotor, 1.2 l",
            "Two rotors, each one chamber that fires once per shaft turn.",
            _ROTORS,
            _truth(
                _ROTORS,
                valve=2.6,
                stop=0.38,
                size=1.2,
                ve_scale=0.95,
                ve_speed=0.05,
                ve_load=0.03,
                friction_scale=1.03,
                vapour_shift_k=-2.0,
                film_share=0.42,
                film_time_s=0.3,
                starter_free_rpm=360.0,
            ),
        ),
    )
}


def stand_in(spec: EngineSpec, seed: int = 0) -> BenchEngine:
    """Return a bench engine built from entered data, with hidden differences from it.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    seed : int
        Chooses the differences; the same seed gives the same engine. [–]

    Returns
    -------
    BenchEngine
        Filling within about 6 %, friction 8 %, injector flow 3 %, air of valve and stop 12 %
        of what the data suggest.
    """
    draw = np.random.default_rng([seed, 0x1B]).normal
    truth = _truth(
        spec,
        valve=(spec.idle_valve_full_gps or 2.6 * _warm_air(spec))
        / _warm_air(spec)
        * (1.0 if spec.idle_valve_full_gps else float(np.exp(0.08 * draw()))),
        stop=0.35 * float(np.exp(0.12 * draw())),
        size=spec.displacement_l,
        ve_scale=float(np.exp(0.03 * draw())),
        ve_speed=float(0.02 * draw()),
        ve_load=float(0.03 * draw()),
        friction_scale=float(np.exp(0.04 * draw())),
        flow_scale=float(np.exp(0.015 * draw())),
        dead_time_offset_ms=float(0.04 * draw()),
        vapour_shift_k=float(2.5 * draw()),
    )
    return BenchEngine(
        "stand_in",
        "An engine like this job's",
        "Built from the entered data, with differences nobody has told you.",
        spec,
        truth,
    )

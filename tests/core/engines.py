"""Engines for tests, invented."""

from hypothesis import strategies as st
from inbetrieb_core.engine import EngineSpec, InjectorSet, Schools

FOUR = EngineSpec(2.2, 4, injectors=InjectorSet(4, 390.0), cam="moderate", compression_ratio=10.2)
V8_ETHANOL = EngineSpec(
    5.9,
    8,
    injectors=InjectorSet(4, 1250.0),
    fuelling="throttle_body",
    ethanol_volume_share=0.8,
    valves_per_chamber=2,
    rev_limit_rpm=5200.0,
    torque_peak_rpm=3200.0,
)
SMALL_FOUR = EngineSpec(1.1, 4, injectors=InjectorSet(4, 190.0))
ROTORS = EngineSpec(1.2, 2, injectors=InjectorSet(2, 720.0), cycle="rotary", rev_limit_rpm=7500.0)


@st.composite
def plausible_engines(draw):
    """Draw an engine somebody might really build."""
    rotary = draw(st.booleans()) and draw(st.booleans())
    chambers = draw(st.integers(1, 3) if rotary else st.sampled_from([1, 2, 3, 4, 5, 6, 8, 10, 12]))
    limit = draw(st.floats(4500.0, 9000.0))
    boosted = draw(st.booleans())
    return EngineSpec(
        displacement_l=chambers * draw(st.floats(0.2, 0.8)),
        chambers=chambers,
        injectors=InjectorSet(chambers, draw(st.floats(150.0, 1600.0))),
        cycle="rotary" if rotary else "four_stroke",
        compression_ratio=draw(st.floats(7.5, 13.0)),
        valves_per_chamber=draw(st.integers(2, 5)),
        cam=draw(st.sampled_from(["mild", "moderate", "wild"])),
        fuelling=draw(st.sampled_from(["port", "throttle_body"])),
        induction="boosted" if boosted else "natural",
        boost_kpa=draw(st.floats(20.0, 200.0)) if boosted else 0.0,
        ethanol_volume_share=draw(st.floats(0.0, 1.0)),
        rev_limit_rpm=limit,
        torque_peak_rpm=limit * draw(st.floats(0.4, 0.8)),
        altitude_m=draw(st.floats(0.0, 3000.0)),
        schools=Schools(
            prime=draw(st.sampled_from(["shot", "cranking_only"])),
            idle_speed=draw(st.sampled_from(["low", "high"])),
            idle_mixture=draw(st.sampled_from(["rich", "lean"])),
            curve=draw(st.sampled_from(["full", "three_point"])),
        ),
    )

"""What must hold for filling, mixture, idle air and cold fuel of any engine somebody might build.

Not the formulas again: signs, limits, balances and facts that hold whatever the formulas are.
"""

from dataclasses import replace

from django.test import SimpleTestCase
from fluids import ATMOSPHERE_1976
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from inbetrieb_core.air import air_per_chamber_g, flow_function, standard_pressure_kpa
from inbetrieb_core.charge import cold_fuel, filling, idle_air, mixture
from inbetrieb_core.charge.idle_region import idle_share, ramp
from inbetrieb_core.charge.start_values import START_RULES, expected_start_value
from inbetrieb_core.friction import friction_pressure_kpa
from inbetrieb_core.tables import DEFINITIONS

from tests.examples import asked

from .engines import FOUR, plausible_engines

many = settings(max_examples=asked(80), deadline=None, suppress_health_check=list(HealthCheck))
coolant = st.floats(-35.0, 110.0)
load = st.tuples(st.floats(700.0, 6500.0), st.floats(25.0, 180.0))


class FillingTests(SimpleTestCase):
    @many
    @given(plausible_engines(), load)
    def test_filling_is_that_of_an_engine(self, spec, at):
        rpm, kpa = at
        ve = filling.ve_pct(spec, rpm, kpa)
        self.assertTrue(5.0 < ve < 140.0, ve)

    @many
    @given(plausible_engines(), st.floats(900.0, 6000.0))
    def test_air_never_falls_when_the_throttle_is_opened(self, spec, rpm):
        """Air is filling times pressure; it may not fall though filling itself does a little."""
        air = [filling.ve_pct(spec, rpm, kpa) * kpa for kpa in range(25, 110, 5)]
        self.assertEqual(air, sorted(air))

    @many
    @given(plausible_engines(), load)
    def test_the_parts_make_the_whole(self, spec, at):
        rpm, kpa = at
        held = min(135.0, max(15.0, sum(filling.ve_parts(spec, rpm, kpa))))
        self.assertAlmostEqual(filling.ve_pct(spec, rpm, kpa), held, places=9)

    @many
    @given(plausible_engines())
    def test_the_peak_lies_where_it_was_entered(self, spec):
        peak = filling.full_load_ve_pct(spec, spec.torque_peak_rpm)
        for share in (0.4, 0.6, 1.35, 1.6):
            self.assertLessEqual(
                filling.full_load_ve_pct(spec, share * spec.torque_peak_rpm), peak + 1e-6
            )

    @given(st.floats(0.0, 4000.0))
    def test_outside_pressure_is_that_of_the_standard_atmosphere(self, altitude):
        """U.S. Standard Atmosphere 1976, by the fluids library."""
        reference = ATMOSPHERE_1976(altitude).P / 1000.0
        self.assertAlmostEqual(standard_pressure_kpa(altitude), reference, delta=0.002 * reference)

    @given(
        st.floats(30.0, 110.0), st.floats(20.0, 200.0), st.floats(0.1, 1.0), st.floats(240.0, 360.0)
    )
    def test_air_is_the_ideal_gas(self, ve, kpa, litres, kelvin):
        """m = p·V/(R·T), R = 287.05 J/(kg·K) of dry air (ISO 2533)."""
        expected = ve / 100.0 * kpa * litres / (0.28705 * kelvin)
        self.assertAlmostEqual(
            air_per_chamber_g(ve, kpa, litres, kelvin), expected, delta=2e-4 * expected
        )

    @given(st.floats(0.0, 0.999), st.floats(0.0, 0.999))
    def test_flow_through_an_opening_grows_with_the_pressure_drop(self, first, second):
        low, high = sorted((first, second))
        self.assertGreaterEqual(flow_function(low), flow_function(high) - 1e-9)
        self.assertTrue(0.0 <= flow_function(first) <= 1.0 + 1e-9)


class MixtureTests(SimpleTestCase):
    @many
    @given(plausible_engines(), load)
    def test_every_target_burns(self, spec, at):
        """Spark-ignition engines burn between about 0.6 and 1.2 (common practice, no source)."""
        self.assertTrue(0.65 <= mixture.lambda_target(spec, *at) <= 1.08)

    @many
    @given(plausible_engines(), st.floats(1500.0, 6000.0))
    def test_full_load_is_rich_and_more_boost_is_not_leaner(self, spec, rpm):
        full = mixture.full_load_lambda(spec, rpm)
        self.assertLess(full, 0.96)
        if spec.induction == "boosted":
            harder = replace(spec, boost_kpa=spec.boost_kpa + 60.0)
            self.assertLessEqual(mixture.full_load_lambda(harder, rpm), full + 1e-9)

    @many
    @given(plausible_engines())
    def test_the_rich_school_is_not_leaner_at_idle(self, spec):
        rich = replace(spec, schools=replace(spec.schools, idle_mixture="rich"))
        lean = replace(spec, schools=replace(spec.schools, idle_mixture="lean"))
        self.assertLessEqual(mixture.idle_lambda(rich), mixture.idle_lambda(lean))


class IdleTests(SimpleTestCase):
    @many
    @given(plausible_engines(), coolant)
    def test_a_colder_engine_idles_no_slower_and_needs_no_less_air(self, spec, celsius):
        self.assertGreaterEqual(
            idle_air.idle_target_rpm(spec, celsius - 10.0), idle_air.idle_target_rpm(spec, celsius)
        )
        colder, warmer = (
            idle_air.idle_air_gps(spec, idle_air.idle_target_rpm(spec, c), c)
            for c in (celsius - 10.0, celsius)
        )
        self.assertGreater(colder, warmer)

    @many
    @given(plausible_engines())
    def test_air_of_idle_grows_with_the_engine(self, spec):
        larger = replace(spec, displacement_l=1.5 * spec.displacement_l)
        small, large = (idle_air.idle_air_gps(s, 850.0, 80.0) for s in (spec, larger))
        self.assertAlmostEqual(large / small, 1.5, places=6)

    @many
    @given(plausible_engines())
    def test_the_manifold_at_idle_is_below_the_outside(self, spec):
        pressure = idle_air.idle_map_kpa(spec)
        self.assertTrue(12.0 < pressure < spec.barometric_kpa, pressure)

    @many
    @given(plausible_engines(), st.floats(-30.0, 100.0))
    def test_friction_falls_as_the_oil_warms(self, spec, oil):
        self.assertGreater(
            friction_pressure_kpa(900.0, oil - 5.0), friction_pressure_kpa(900.0, oil)
        )

    @many
    @given(plausible_engines(), load)
    def test_a_place_belongs_to_idle_by_a_share(self, spec, at):
        share = idle_share(spec, *at)
        self.assertTrue(0.0 <= share <= 1.0)
        # A longer way begins sooner over pressure, ends later, and they cross in its first half.
        if not 0.44 < at[1] / spec.barometric_kpa < 0.6:
            self.assertGreaterEqual(idle_share(spec, *at, wider=1.0), share - 1e-9)
        self.assertEqual(idle_share(spec, 5000.0, 100.0), 0.0)

    @given(st.floats(-10.0, 20.0), st.floats(-10.0, 20.0))
    def test_a_ramp_rises_from_nothing_to_all(self, first, second):
        low, high = sorted((first, second))
        self.assertLessEqual(ramp(low, 0.0, 10.0), ramp(high, 0.0, 10.0))
        self.assertEqual((ramp(-1.0, 0.0, 10.0), ramp(11.0, 0.0, 10.0)), (0.0, 1.0))


class ColdTests(SimpleTestCase):
    FALLING = (
        "cranking_fuel",
        "after_start_enrichment",
        "warm_up_enrichment",
        "after_start_fade",
        "prime_pulse",
        "idle_target",
    )

    @many
    @given(plausible_engines(), coolant, st.floats(1.0, 30.0))
    def test_a_warmer_engine_never_gets_more(self, spec, celsius, step):
        for key in self.FALLING:
            cold = expected_start_value(spec, key, celsius)
            warm = expected_start_value(spec, key, celsius + step)
            self.assertLessEqual(warm, cold + 1e-9, key)

    @many
    @given(plausible_engines(), coolant)
    def test_every_start_value_is_within_its_table(self, spec, celsius):
        for key in START_RULES:
            definition = DEFINITIONS[key]
            value = expected_start_value(spec, key, celsius)
            self.assertTrue(definition.lower <= value <= definition.upper, (key, value))

    @many
    @given(plausible_engines())
    def test_enrichment_ends_when_the_engine_is_warm(self, spec):
        self.assertAlmostEqual(cold_fuel.warm_up_pct(spec, 95.0), 100.0, places=6)
        self.assertGreater(cold_fuel.warm_up_pct(spec, -10.0), 100.0)

    @many
    @given(plausible_engines(), st.floats(-20.0, 0.0))
    def test_ethanol_and_wet_walls_need_more_in_the_cold(self, spec, celsius):
        """Less of them vaporises (common practice; vapour pressure of ethanol)."""
        dry = replace(spec, ethanol_volume_share=0.0, fuelling="port")
        ethanol = replace(dry, ethanol_volume_share=0.85)
        wet = replace(dry, fuelling="throttle_body")
        plain = cold_fuel.cranking_fuel_pct(dry, celsius)
        self.assertGreater(cold_fuel.cranking_fuel_pct(ethanol, celsius), plain)
        for rule in (cold_fuel.after_start_pct, cold_fuel.warm_up_pct):
            self.assertGreater(rule(wet, celsius), rule(dry, celsius))
        # While cranking a throttle body's manifold keeps what it was given.
        self.assertLessEqual(cold_fuel.cranking_fuel_pct(wet, celsius), plain)

    def test_without_a_shot_cranking_carries_the_prime(self):
        shot = replace(FOUR, schools=replace(FOUR.schools, prime="shot"))
        none = replace(FOUR, schools=replace(FOUR.schools, prime="cranking_only"))
        for celsius in (-20.0, 0.0, 20.0):
            self.assertLess(
                cold_fuel.prime_pulse_ms(none, celsius), cold_fuel.prime_pulse_ms(shot, celsius)
            )
            self.assertGreaterEqual(
                cold_fuel.cranking_fuel_pct(none, celsius),
                cold_fuel.cranking_fuel_pct(shot, celsius),
            )

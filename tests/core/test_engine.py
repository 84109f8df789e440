"""Engine data: ranges, plausibility of the injectors."""

import math
from dataclasses import replace

from django.test import SimpleTestCase
from inbetrieb_core.engine import EngineSpec, InjectorSet
from inbetrieb_core.errors import InputRefused
from inbetrieb_core.sentences import plain
from inbetrieb_core.supply import judge_injectors

from .engines import FOUR, ROTORS, V8_ETHANOL


class CheckTests(SimpleTestCase):
    def assert_refused(self, spec, field):
        with self.assertRaises(InputRefused) as caught:
            spec.check()
        self.assertIn(field, [problem.field for problem in caught.exception.problems])
        return caught.exception

    def test_refuses_what_cannot_be(self):
        for field, value in (
            ("displacement_l", 0.0),
            ("displacement_l", math.nan),
            ("displacement_l", -2.0),
            ("chambers", 0),
            ("compression_ratio", 60.0),
            ("ethanol_volume_share", 85.0),
            ("rev_limit_rpm", 0.0),
            ("altitude_m", 20_000.0),
            ("crank_to_run_rpm", 5000.0),
            ("boost_kpa", 100.0),
            ("idle_valve_full_gps", 0.0),
            ("injections_per_cycle", 0),
        ):
            with self.subTest(field=field, value=value):
                self.assert_refused(replace(FOUR, **{field: value}), field)

    def test_names_every_problem_at_once(self):
        error = self.assert_refused(
            replace(FOUR, displacement_l=0.0, compression_ratio=99.0), "displacement_l"
        )
        self.assertEqual(len(error.problems), 2)

    def test_a_pressure_that_is_psi_is_told_so(self):
        error = self.assert_refused(replace(FOUR, rail_pressure_kpa=43.0), "rail_pressure_kpa")
        self.assertIn("296 kPa", str(error))

    def test_torque_peak_below_the_limit(self):
        self.assert_refused(replace(FOUR, torque_peak_rpm=9000.0), "torque_peak_rpm")


class GeometryTests(SimpleTestCase):
    def test_firing_order_of_kinds(self):
        self.assertEqual(FOUR.firings_per_turn, 2.0)
        self.assertEqual(V8_ETHANOL.firings_per_turn, 4.0)
        # Each rotor is one chamber firing once per shaft turn.
        self.assertEqual(ROTORS.firings_per_turn, 2.0)
        self.assertAlmostEqual(ROTORS.chamber_l, 0.6)

    def test_unreferenced_rail_at_altitude(self):
        high = replace(FOUR, manifold_referenced=False, altitude_m=2000.0)
        # With outside pressure at the tip both regulators see the same difference.
        self.assertAlmostEqual(high.injector_flow_cm3_min, FOUR.injector_flow_cm3_min)


class JudgementTests(SimpleTestCase):
    def test_fits(self):
        judgement = judge_injectors(FOUR)
        self.assertEqual(judgement.level, "fits")
        self.assertTrue(40.0 < judgement.duty_at_limit_pct < 85.0)

    def test_ten_times_too_small_or_too_large_is_implausible(self):
        for factor, word in ((0.1, "far too small"), (10.0, "far too large")):
            with self.subTest(factor=factor):
                flow = FOUR.injectors.flow_cm3_min * factor
                judgement = judge_injectors(replace(FOUR, injectors=InjectorSet(4, flow)))
                self.assertEqual(judgement.level, "implausible")
                self.assertIn(word, " ".join(judgement.sentences))

    def test_somewhat_small_asks_for_attention_and_says_what_is_needed(self):
        judgement = judge_injectors(replace(FOUR, injectors=InjectorSet(4, 215.0)))
        self.assertEqual(judgement.level, "attention")
        self.assertRegex(plain(judgement.sentences[0]), r"about \d+ cm³/min each would be needed")

    def test_two_injections_with_short_pulses_are_advised_against(self):
        spec = replace(FOUR, injectors=InjectorSet(4, 900.0), injections_per_cycle=2)
        self.assertIn("Use one injection per cycle.", " ".join(judge_injectors(spec).sentences))

    def test_power_sanity(self):
        # Common practice, no source: a 2-litre port engine of about 110 kW uses injectors of
        # about 240 to 330 cm³/min at 80 to 85 % duty.
        spec = EngineSpec(2.0, 4, injectors=InjectorSet(4, 280.0), rev_limit_rpm=6500.0)
        self.assertTrue(60.0 < judge_injectors(spec).duty_at_limit_pct < 85.0)

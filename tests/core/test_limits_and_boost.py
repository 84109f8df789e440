"""Limits for a first start, boost tables, a second cam profile, and what to expect."""

from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from hypothesis import HealthCheck, given, settings
from inbetrieb_core.basemaps import generate
from inbetrieb_core.basemaps.axes import AxisLimit, choose_axes, controller_points
from inbetrieb_core.basemaps.boost import boost_duty_pct, boost_target_kpa, reachable_boost_kpa
from inbetrieb_core.basemaps.expected import expected
from inbetrieb_core.basemaps.limits import boost_cut_kpa, first_limit_rpm, rev_limit_rpm
from inbetrieb_core.basemaps.schools import school_choices, with_school
from inbetrieb_core.basemaps.second_cam import switch_over_rpm
from inbetrieb_core.basemaps.throttle import throttle_map_kpa
from inbetrieb_core.basemaps.why import why
from inbetrieb_core.charge.idle_air import idle_air_gps, idle_map_kpa, warm_idle_rpm
from inbetrieb_core.engine import InjectorSet
from inbetrieb_core.errors import InputRefused

from tests.examples import asked

from .engines import FOUR, ROTORS, V8_ETHANOL, plausible_engines

BOOSTED = replace(
    FOUR, induction="boosted", boost_kpa=80.0, compression_ratio=8.8, boost_full_rpm=3000.0
)


class LimitTests(SimpleTestCase):
    def test_facts_of_the_trade(self):
        """Common practice, no source: first limit about 6000 or lower, lower cold and hot; mixture
        authority ±10 %; idle spark ±5° for a clean idle and up to ±35° for a lopey one."""
        calibration = generate(replace(FOUR, rev_limit_rpm=8000.0))
        limit = calibration["rev_limit"]
        self.assertEqual(limit.at(85.0), 6000.0)
        self.assertLess(limit.at(-10.0), 4200.0)
        slow = replace(FOUR, rev_limit_rpm=1800.0)
        for coolant_c in (-30.0, 20.0, 90.0, 115.0):
            self.assertLessEqual(rev_limit_rpm(slow, coolant_c), 1800.0)
        self.assertLess(rev_limit_rpm(FOUR, 112.0), rev_limit_rpm(FOUR, 95.0) - 1500.0)
        self.assertEqual(calibration.setting("closed_loop_authority"), 10.0)
        self.assertEqual(calibration.setting("idle_spark_authority"), 5.0)
        lopey = replace(FOUR, cam="wild", schools=replace(FOUR.schools, idle_spark="lopey"))
        self.assertEqual(generate(lopey).setting("idle_spark_authority"), 35.0)

    def test_a_long_stroke_is_limited_by_its_piston_speed(self):
        # 2·s·n/60: 100 mm at 6000 is 20 m/s (geometry); 18 m/s is 5400.
        long = replace(FOUR, bore_mm=83.7, stroke_mm=100.0, rev_limit_rpm=6000.0)
        self.assertAlmostEqual(long.check().piston_speed_at_limit_m_s, 20.0)
        self.assertAlmostEqual(first_limit_rpm(long), 5400.0)

    def test_bore_and_stroke_must_make_the_displacement(self):
        with self.assertRaises(InputRefused) as caught:
            replace(FOUR, bore_mm=90.0, stroke_mm=100.0).check()
        self.assertIn("2.54 l, not 2.2 l", str(caught.exception))

    def test_big_injectors_get_overrun_thresholds_that_do_not_buck(self):
        small, big = (
            generate(replace(FOUR, injectors=InjectorSet(4, flow))).setting("overrun_resume_rpm")
            for flow in (300.0, 1600.0)
        )
        self.assertGreater(big, small + 200.0)

    @settings(max_examples=asked(80), suppress_health_check=[HealthCheck.too_slow], deadline=None)
    @given(plausible_engines())
    def test_fuel_is_back_before_idle_and_a_cold_idle_never_meets_the_limit(self, spec):
        calibration = generate(spec)
        idle = calibration["idle_target"].values
        self.assertGreater(calibration.setting("overrun_resume_rpm"), warm_idle_rpm(spec) + 300.0)
        self.assertGreater(
            calibration.setting("overrun_cut_rpm"), calibration.setting("overrun_resume_rpm")
        )
        self.assertTrue((calibration["rev_limit"].values > idle + 700.0).all())


class BoostTests(SimpleTestCase):
    def test_never_asks_before_the_charger_can(self):
        calibration = generate(BOOSTED)
        table = calibration["boost_target"]
        for i, rpm in enumerate(table.axes[0].points):
            most = BOOSTED.barometric_kpa + reachable_boost_kpa(BOOSTED, rpm)
            self.assertTrue((table.values[i] <= most + 0.6).all(), rpm)
        self.assertEqual(round(boost_target_kpa(BOOSTED, 1200.0, 0.0)), 101)
        self.assertEqual(round(boost_target_kpa(BOOSTED, 5000.0, 0.0)), 181)

    def test_duty_is_zero_until_the_wastegate_is_measured_then_the_trades_staircase(self):
        """Common practice, no source: 25, 45 and 55 % gave 1.2, 1.6 and 1.8 times the boost at 0 %."""
        self.assertTrue((generate(BOOSTED)["boost_duty"].values == 0.0).all())
        for times, duty in ((1.2, 25.0), (1.6, 45.0), (1.8, 55.0)):
            known = replace(BOOSTED, boost_kpa=50.0 * times, wastegate_kpa=50.0)
            self.assertAlmostEqual(boost_duty_pct(known, 5500.0, 0.0), duty, places=6)

    def test_cut_stands_just_above_the_wastegate_until_that_is_known(self):
        unknown = boost_cut_kpa(BOOSTED) - BOOSTED.barometric_kpa
        # 69 kPa gauge, 10 psi (common practice, no source).
        self.assertAlmostEqual(unknown, 69.0, delta=5.0)
        self.assertAlmostEqual(
            boost_cut_kpa(replace(BOOSTED, wastegate_kpa=45.0)), BOOSTED.barometric_kpa + 90.0
        )

    def test_targets_rise_with_ethanol(self):
        spec = replace(BOOSTED, ethanol_volume_share=0.85)
        row = generate(spec)["boost_target"].values[-3]
        self.assertTrue((np.diff(row) > 0.0).all())

    def test_natural_engines_have_no_boost_tables(self):
        self.assertFalse({"boost_target", "boost_duty", "boost_cut"} & set(generate(FOUR).tables))

    def test_mixture_and_spark_are_safer_under_boost(self):
        calibration = generate(BOOSTED)
        self.assertLess(calibration["lambda_target"].at(4000.0, 180.0), 0.82)
        less = calibration["spark"].at(4000.0, 100.0) - calibration["spark"].at(4000.0, 180.0)
        self.assertGreater(less, 6.0)
        uncooled = generate(replace(BOOSTED, charge_cooling="none"))
        self.assertLess(uncooled["spark"].at(4000.0, 180.0), calibration["spark"].at(4000.0, 180.0))


class SecondCamTests(SimpleTestCase):
    def test_a_pair_and_a_speed_between_the_torque_peaks(self):
        calibration = generate(replace(FOUR, cam="mild", cam_profiles=2))
        speed = calibration.setting("cam_switch_rpm")
        self.assertTrue(FOUR.torque_peak_rpm < speed < 0.95 * FOUR.rev_limit_rpm, speed)
        low, high = speed - 1500.0, speed + 800.0
        first, second = calibration["ve"], calibration["ve_second_cam"]
        self.assertGreater(first.at(low, 100.0), second.at(low, 100.0))
        self.assertGreater(second.at(high, 100.0), first.at(high, 100.0))
        self.assertEqual(switch_over_rpm(replace(FOUR, cam="mild")), speed)


class ExpectedTests(SimpleTestCase):
    def test_idle_pressure_balances_air_and_filling(self):
        """The same air two ways: what friction needs, and speed-density at the pressure found."""
        for spec in (FOUR, ROTORS, V8_ETHANOL):
            pressure, rpm = idle_map_kpa(spec), warm_idle_rpm(spec)
            filled = generate(spec, {"rpm": [rpm], "map_kpa": [round(pressure, 3)]})["ve"]
            ve = float(filled.values[0, 0])
            # m = VE·p·V/(R·T) at 315 K, on every firing (ideal gas).
            air = ve / 100 * pressure * spec.chamber_l / (0.287053 * 315.0)
            air *= spec.firings_per_turn * rpm / 60.0
            self.assertAlmostEqual(air / idle_air_gps(spec, rpm, 85.0), 1.0, delta=0.02)

    def test_what_is_said_of_knock_is_honest(self):
        said = " ".join(expected(replace(FOUR, compression_ratio=12.5)).knock)
        self.assertIn("No knock margin is known", said)
        self.assertIn("high for petrol", said)

    def test_throttle_pressure_is_monotone_and_meets_its_ends(self):
        values = [throttle_map_kpa(FOUR, 3000.0, float(t)) for t in range(0, 101, 5)]
        self.assertEqual(values, sorted(values))
        self.assertGreater(values[-1], FOUR.barometric_kpa - 4.0)
        self.assertLess(values[0], 30.0)


class SchoolTests(SimpleTestCase):
    def test_every_school_of_the_trade_has_two_sides_with_other_consequences(self):
        keys = {choice.key for choice in school_choices(BOOSTED)}
        self.assertEqual(
            keys,
            {
                "prime", "idle_speed", "idle_mixture", "injections_per_cycle", "curve", "step",
                "boost_control", "target", "load", "charge", "idle_spark", "changes",
            },
        )  # fmt: skip
        for choice in school_choices(replace(BOOSTED, wastegate_kpa=40.0)):
            said = {option.consequence for option in choice.options}
            with self.subTest(school=choice.key):
                self.assertIn(choice.chosen, [option.value for option in choice.options])
                # "5 %" and "by manifold" are the same for a port-injected engine.
                self.assertGreaterEqual(len(said), 2)

    def test_a_choice_changes_the_tables_it_speaks_of(self):
        for key, value, table in (
            ("prime", "cranking_only", "prime_pulse"),
            ("idle_speed", "high", "idle_target"),
            ("idle_mixture", "lean", "lambda_target"),
            ("curve", "three_point", "cranking_fuel"),
        ):
            other = generate(with_school(FOUR, key, value))[table]
            same = generate(FOUR)[table]
            with self.subTest(school=key):
                self.assertFalse(
                    other.axes == same.axes and bool((other.values == same.values).all())
                )


class AxisTests(SimpleTestCase):
    def test_a_controller_of_any_size_gets_its_number_of_points(self):
        for most in (2, 3, 5, 8, 12, 20, 32):
            limits = {
                "rpm": AxisLimit(most),
                "map_kpa": AxisLimit(most),
                "coolant_c": AxisLimit(most),
            }
            for spec in (FOUR, BOOSTED, ROTORS):
                axes = choose_axes(spec, controller_points(spec, limits))
                with self.subTest(most=most):
                    self.assertLessEqual(len(axes["rpm"].points), most)
                    self.assertLessEqual(len(axes["map_kpa"].points), most)
                    self.assertGreaterEqual(axes["rpm"].points[-1], 0.98 * spec.rev_limit_rpm)
                    if most > 2:
                        self.assertGreaterEqual(axes["map_kpa"].points[-1], spec.top_map_kpa - 3.0)

    def test_idle_is_resolved_and_fixed_points_are_kept(self):
        axes = choose_axes(FOUR)
        idle = warm_idle_rpm(FOUR)
        near = [p for p in axes["rpm"].points if abs(p - idle) <= 320.0]
        self.assertGreaterEqual(len(near), 3)
        fixed = controller_points(FOUR, {"rpm": AxisLimit(4, (800.0, 2000.0, 4000.0, 6600.0))})
        self.assertEqual(fixed["rpm"], (800.0, 2000.0, 4000.0, 6600.0))


class WhyTests(SimpleTestCase):
    def test_every_cell_of_every_table_is_explained_by_the_value_it_has(self):
        spec = replace(BOOSTED, cam_profiles=2, wastegate_kpa=40.0, use="towing", bore_mm=None)
        for key, table in generate(spec).tables.items():
            for index in list(np.ndindex(table.values.shape))[:: max(1, table.values.size // 7)]:
                place = [a.points[i] for a, i in zip(table.axes, index, strict=True)]
                reason = why(spec, key, *place)
                with self.subTest(table=key, place=place):
                    self.assertAlmostEqual(
                        reason.value,
                        float(table.values[index]),
                        delta=0.51 * table.definition.resolution,
                    )
                    self.assertGreater(len(reason.formula), 10)
                    if reason.is_sum and not reason.held:
                        self.assertAlmostEqual(
                            sum(term.amount for term in reason.terms), reason.value, places=6
                        )

    def test_a_cell_that_is_not_there_is_refused(self):
        for key, place in (("ve", (1.0,)), ("nothing", ()), ("rev_limit", (1.0, 2.0))):
            with self.assertRaises(InputRefused):
                why(FOUR, key, *place)

    def test_what_engine_data_say_nothing_of_is_not_explained(self):
        for key, place in (
            ("boost_target", (3000.0, 0.0)), ("boost_cut", ()), ("learned_trim", (900.0, 40.0)),
            ("ve_second_cam", (5000.0, 100.0)), ("cam_switch_rpm", ()),
        ):  # fmt: skip
            self.assertIsNone(why(FOUR, key, *place), key)

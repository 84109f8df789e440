"""The generated base calibration: physics, invariants, reasons."""

from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from hypothesis import HealthCheck, given, settings
from inbetrieb_core.basemaps import generate
from inbetrieb_core.charge import (
    expected_start_value,
    full_load_ve_pct,
    idle_air_gps,
    idle_target_rpm,
    ve_pct,
)
from inbetrieb_core.engine import DeadTimeCurve, InjectorSet, Schools
from inbetrieb_core.errors import InputRefused
from inbetrieb_core.friction import friction_pressure_kpa, oil_viscosity_cst
from inbetrieb_core.tables import DEFINITIONS, START_TABLES

from tests.examples import asked

from .engines import FOUR, ROTORS, SMALL_FOUR, V8_ETHANOL, plausible_engines


class WholeCalibrationTests(SimpleTestCase):
    def test_has_every_table_on_its_axes(self):
        calibration = generate(FOUR)
        needed = {key for key, definition in DEFINITIONS.items() if not definition.optional}
        self.assertLessEqual(needed, set(calibration.tables))
        for key, table in calibration.tables.items():
            self.assertEqual(tuple(a.name for a in table.axes), DEFINITIONS[key].axes)

    def test_every_cell_says_where_it_comes_from(self):
        for spec in (FOUR, V8_ETHANOL, ROTORS):
            for key, table in generate(spec).tables.items():
                for mark in table.provenance.flat:
                    self.assertIn(mark.kind, ("assumed", "calculated", "data_sheet"), key)
                    self.assertGreater(len(mark.reason), 20, key)

    @settings(max_examples=asked(60), suppress_health_check=[HealthCheck.too_slow], deadline=None)
    @given(plausible_engines())
    def test_no_wild_cell_for_any_plausible_engine(self, spec):
        calibration = generate(spec)
        for key in START_TABLES:
            values = calibration[key].values
            if key == "idle_target":
                self.assertTrue((values >= 600).all() and (values <= 1500).all())
            if key != "idle_valve" or values.max() < 95:
                # Nothing needs more when warmer.
                self.assertTrue((np.diff(values) <= 1e-6).all(), key)
        self.assertTrue((calibration["ve"].values <= 135).all())
        # Filling grows with manifold pressure at every speed.
        self.assertTrue((np.diff(calibration["ve"].values, axis=1) >= 0).all())
        # Neighbouring cells of the fuel surface never jump.
        inner = calibration["ve"].values[:, 2:]
        self.assertTrue((np.abs(np.diff(inner, axis=0)) < 16).all())
        self.assertTrue((np.diff(calibration["spark"].values[:, -3:], axis=1) <= 0.11).all())

    def test_another_engine_gets_visibly_other_tables(self):
        small, large = generate(SMALL_FOUR), generate(V8_ETHANOL)
        for key in ("prime_pulse", "cranking_fuel", "after_start_enrichment", "ve", "spark"):
            with self.subTest(key=key):
                place = (0.0,) if key in START_TABLES else (2500.0, 60.0)
                a, b = small[key].at(*place), large[key].at(*place)
                self.assertGreater(abs(a - b) / max(abs(a), abs(b)), 0.05)
        # Ethanol hardly vaporises in the cold: much more of it is needed.
        self.assertGreater(
            large.at_coolant("cranking_fuel", -10.0) / large.at_coolant("cranking_fuel", 60.0),
            2.0
            * small.at_coolant("cranking_fuel", -10.0)
            / small.at_coolant("cranking_fuel", 60.0),
        )


class StartTableTests(SimpleTestCase):
    def test_facts_of_the_trade(self):
        """Common practice, no source: after-start about 5 s warm, warm-up all but ends at 77 °C,
        idle 700–800 in the low school and 950–1000 in the high one, raised when cold."""
        calibration = generate(FOUR)
        self.assertEqual(calibration.at_coolant("warm_up_enrichment", 100.0), 100.0)
        self.assertTrue(100.0 < calibration.at_coolant("warm_up_enrichment", 80.0) < 105.0)
        self.assertGreater(calibration.at_coolant("warm_up_enrichment", 20.0), 105.0)
        self.assertTrue(4.0 <= calibration.at_coolant("after_start_fade", 85.0) <= 7.0)
        self.assertTrue(700 <= calibration.at_coolant("idle_target", 85.0) <= 800)
        high = generate(replace(FOUR, schools=Schools(idle_speed="high")))
        self.assertTrue(950 <= high.at_coolant("idle_target", 85.0) <= 1000)
        self.assertEqual(idle_target_rpm(FOUR, 62.0), idle_target_rpm(FOUR, 90.0))
        self.assertGreater(idle_target_rpm(FOUR, 0.0), idle_target_rpm(FOUR, 62.0) + 200)

    def test_cranking_fuel_is_of_the_usual_size(self):
        # Common practice, no source: roughly the reference pulse when hot, several times it in frost.
        self.assertTrue(50 < expected_start_value(FOUR, "cranking_fuel", 85.0) < 120)
        self.assertTrue(300 < expected_start_value(FOUR, "cranking_fuel", -20.0) < 800)

    def test_prime_schools(self):
        shot = expected_start_value(FOUR, "prime_pulse", 0.0)
        none = expected_start_value(
            replace(FOUR, schools=Schools(prime="cranking_only")), "prime_pulse", 0.0
        )
        self.assertLess(none, 0.2 * shot)

    def test_three_point_curve_has_the_trades_temperatures(self):
        spec = replace(FOUR, schools=Schools(curve="three_point"))
        points = generate(spec)["cranking_fuel"].axes[0].points
        # 20, 65 and 170 °F: common practice, no source.
        for celsius, fahrenheit in zip(points, (20, 65, 170), strict=True):
            self.assertAlmostEqual(celsius * 1.8 + 32, fahrenheit, delta=1.0)

    def test_own_axes_are_kept_and_checked(self):
        calibration = generate(FOUR, {"coolant_c": [-10, 0, 20, 80]})
        self.assertEqual(calibration["idle_valve"].axes[0].points, (-10.0, 0.0, 20.0, 80.0))
        for axes, field in (
            ({"coolant_c": [0, 20, 10]}, "axes.coolant_c"),
            ({"oil_c": [0, 1]}, "axes.oil_c"),
            ({"rpm": [500, 500]}, "axes.rpm"),
            ({"battery_v": []}, "axes.battery_v"),
        ):
            with self.subTest(axes=axes), self.assertRaises(InputRefused) as caught:
                generate(FOUR, axes)
            self.assertEqual(caught.exception.problems[0].field, field)

    def test_entered_dead_time_is_data_sheet_where_it_is_a_point(self):
        curve = DeadTimeCurve((8.0, 12.0, 14.0), (2.5, 1.2, 0.9))
        spec = replace(FOUR, injectors=InjectorSet(4, 390.0, 300.0, curve, False))
        table = generate(spec)["dead_time"]
        kinds = {v: m.kind for v, m in zip(table.axes[0].points, table.provenance, strict=True)}
        self.assertEqual(
            (kinds[8.0], kinds[10.0], kinds[16.0]), ("data_sheet", "calculated", "assumed")
        )
        self.assertEqual(table.at(12.0), 1.2)


class EfficiencyTests(SimpleTestCase):
    def test_mean_value_form(self):
        """Hendricks & Sorenson, SAE 900616: VE·p is a straight line in p."""
        pressures = np.linspace(35.0, 100.0, 9)
        product = [ve_pct(FOUR, 2500.0, float(p)) * p for p in pressures]
        self.assertLess(np.abs(np.diff(product, 2)).max(), 1e-9 * max(product) + 1e-6)

    def test_full_load_meets_its_curve_and_peaks_at_the_torque_peak(self):
        for rpm in (1000.0, 2500.0, 4000.0, 6000.0):
            self.assertAlmostEqual(
                ve_pct(FOUR, rpm, FOUR.barometric_kpa), full_load_ve_pct(FOUR, rpm), places=9
            )
        speeds = np.arange(1000.0, 6500.0, 100.0)
        best = speeds[np.argmax([full_load_ve_pct(FOUR, s) for s in speeds])]
        self.assertAlmostEqual(best, FOUR.torque_peak_rpm, delta=100.0)

    def test_published_size(self):
        # Naturally aspirated engines fill to 80–90 % at best, tuned ones somewhat above
        # (Heywood, ch. 6.2, memory).
        self.assertTrue(80 <= full_load_ve_pct(SMALL_FOUR, 4000.0) <= 95)


class FrictionTests(SimpleTestCase):
    def test_viscosity_meets_its_two_points_and_grows_steeply_in_frost(self):
        # Walther equation through 95 cSt at 40 °C and 14 cSt at 100 °C (assumed oil).
        self.assertAlmostEqual(oil_viscosity_cst(40.0), 95.0, places=6)
        self.assertAlmostEqual(oil_viscosity_cst(100.0), 14.0, places=6)
        self.assertGreater(oil_viscosity_cst(-20.0), 20 * oil_viscosity_cst(40.0))

    def test_warm_friction_is_of_the_usual_size(self):
        # 70 to 110 kPa at idle (Heywood, fig. 13-8, memory).
        self.assertTrue(60 < friction_pressure_kpa(800.0, 90.0) < 110)

    def test_idle_air_of_a_two_litre_engine(self):
        # About 8 to 14 kg/h at warm idle: common practice, no source.
        spec = replace(SMALL_FOUR, displacement_l=2.0)
        self.assertTrue(7.0 < idle_air_gps(spec, 800.0, 85.0) * 3.6 < 14.0)

"""From signal to reading: lines, tables, thermistors, thermocouples, against published curves."""

import math

import numpy as np
from django.test import SimpleTestCase
from hypothesis import assume, given
from hypothesis import strategies as st
from inbetrieb_core.errors import InputRefused, OutOfRangeError
from inbetrieb_core.sensors.thermistor import (
    ResistanceTable,
    Thermistor,
    beta_curve,
    divider_ohm,
    divider_v,
    steinhart_hart,
)
from inbetrieb_core.sensors.thermocouple import Thermocouple, type_k_mv, type_k_temperature_c
from inbetrieb_core.sensors.transfers import Table, linear_from_points, linear_from_slope
from thermocouples_reference import thermocouples

# A 10 kΩ thermistor of the usual kind, °C and Ω, as makers' tables print it (from memory).
PUBLISHED_10K = {-20.0: 97_070.0, 0.0: 32_650.0, 25.0: 10_000.0, 50.0: 3603.0, 100.0: 678.0}
#: The 2.5 kΩ automotive curve, °C and Ω (from memory).
PUBLISHED_2K5 = (
    (-20.0, 15_460.0), (0.0, 5896.0), (20.0, 2500.0), (40.0, 1175.0), (60.0, 596.0),
    (80.0, 323.0), (100.0, 186.0), (120.0, 113.0),
)  # fmt: skip
# NIST Monograph 175, type K, mV at °C with the cold junction at 0 °C (printed to 1 µV).
NIST_K = {-100.0: -3.554, 0.0: 0.0, 25.0: 1.000, 100.0: 4.096, 500.0: 20.644, 1000.0: 41.276}


def refusal(case, action):
    with case.assertRaises(InputRefused) as refused:
        action()
    return refused.exception.problems[0]


class SteinhartHartTests(SimpleTestCase):
    def test_three_points_of_a_published_curve_predict_the_others(self):
        three = [(c, PUBLISHED_10K[c]) for c in (0.0, 25.0, 50.0)]
        curve = steinhart_hart(three)
        for celsius, ohm in PUBLISHED_10K.items():
            with self.subTest(celsius=celsius):
                # Inside the three points a tenth of a kelvin, beyond them a few tenths.
                inside = 0.0 <= celsius <= 50.0
                self.assertAlmostEqual(
                    curve.temperature_c(ohm), celsius, delta=0.02 if inside else 0.5
                )

    def test_goes_through_its_points_and_back(self):
        curve = steinhart_hart([(-20.0, 15_460.0), (20.0, 2500.0), (100.0, 186.0)])
        for celsius in range(-60, 200, 7):
            self.assertAlmostEqual(
                curve.temperature_c(curve.resistance_ohm(celsius)), celsius, places=6
            )

    def test_coefficients_have_the_size_of_a_thermistors(self):
        """Orders of magnitude of a, b, c as textbooks print them (from memory)."""
        curve = steinhart_hart([(c, PUBLISHED_10K[c]) for c in (0.0, 25.0, 50.0)])
        self.assertAlmostEqual(curve.a, 1.1e-3, delta=0.2e-3)
        self.assertAlmostEqual(curve.b, 2.3e-4, delta=0.3e-4)
        self.assertAlmostEqual(curve.c, 0.9e-7, delta=0.6e-7)

    @given(
        st.floats(200.0, 50_000.0),
        st.floats(2500.0, 4800.0),
        st.lists(st.floats(-30.0, 130.0), min_size=3, max_size=3, unique=True),
    )
    def test_reproduces_any_beta_curve_between_its_points(self, ohm, beta, points):
        assume(min(abs(a - b) for a in points for b in points if a != b) > 10.0)
        truth = beta_curve(25.0, ohm, beta)
        curve = steinhart_hart([(c, truth.resistance_ohm(c)) for c in points])
        for celsius in np.linspace(min(points), max(points), 9):
            found = curve.temperature_c(truth.resistance_ohm(float(celsius)))
            self.assertAlmostEqual(found, float(celsius), delta=0.01)

    def test_beta_is_the_slope_between_its_two_temperatures(self):
        curve = beta_curve(25.0, 10_000.0, 3977.0)
        ratio = curve.resistance_ohm(25.0) / curve.resistance_ohm(85.0)
        beta = math.log(ratio) / (1 / 298.15 - 1 / 358.15)
        self.assertAlmostEqual(beta, 3977.0, places=6)

    def test_refuses_what_is_no_thermistor(self):
        cases = {
            "two equal resistances": [(0.0, 5000.0), (20.0, 5000.0), (80.0, 300.0)],
            "rises with temperature": [(0.0, 100.0), (50.0, 119.4), (100.0, 138.5)],
            "above 0 Ω": [(0.0, 0.0), (20.0, 2500.0), (80.0, 300.0)],
            "not a temperature": [(0.0, 5000.0), (20.0, 2500.0), (900.0, 300.0)],
            "same temperature": [(20.0, 5000.0), (20.0, 2500.0), (80.0, 300.0)],
            "typing error": [(0.0, 300.0), (20.0, 2500.0), (80.0, 5000.0)],
        }
        words = {"two equal resistances": "given both at", "typing error": "rises"}
        for name, points in cases.items():
            with self.subTest(name):
                problem = refusal(self, lambda points=points: steinhart_hart(points))
                self.assertEqual(problem.field, "transfer.points")
                self.assertIn(words.get(name, name), problem.sentence)


class ResistanceTableTests(SimpleTestCase):
    def test_leaving_out_a_published_point_finds_it_again(self):
        for place in range(1, len(PUBLISHED_2K5) - 1):
            celsius, ohm = PUBLISHED_2K5[place]
            rest = PUBLISHED_2K5[:place] + PUBLISHED_2K5[place + 1 :]
            found = ResistanceTable(rest).temperature_c(ohm)
            with self.subTest(celsius=celsius):
                self.assertAlmostEqual(found, celsius, delta=0.35)

    def test_a_point_typed_wrong_stands_out(self):
        bad = tuple((c, o * 1.3 if c == 60.0 else o) for c, o in PUBLISHED_2K5)
        sensor = Thermistor(ResistanceTable(bad), 2490.0, 5.0, bad)
        by_temperature = dict(zip([t for _, t in sensor.points], sensor.residuals, strict=True))
        worst = max(by_temperature, key=lambda c: abs(by_temperature[c]))
        self.assertEqual(worst, 60.0)
        self.assertGreater(abs(by_temperature[60.0]), 4.0)
        good = Thermistor(ResistanceTable(PUBLISHED_2K5), 2490.0, 5.0, PUBLISHED_2K5)
        self.assertLess(max(map(abs, good.residuals)), 0.6)

    def test_a_metal_sensor_may_rise(self):
        platinum = ((0.0, 1000.0), (50.0, 1194.0), (100.0, 1385.1), (150.0, 1573.3))
        table = ResistanceTable(platinum)
        # IEC 60751, Pt1000 at 75 °C: 1289.9 Ω (from memory).
        self.assertAlmostEqual(table.temperature_c(1289.9), 75.0, delta=0.5)

    def test_refuses_points_that_turn_round(self):
        points = ((0.0, 5896.0), (20.0, 2500.0), (40.0, 2600.0), (60.0, 596.0))
        self.assertIn("must fall", refusal(self, lambda: ResistanceTable(points)).sentence)


class DividerTests(SimpleTestCase):
    @given(st.floats(1.0, 1e5), st.floats(100.0, 1e5), st.floats(3.3, 12.0))
    def test_back_and_forth(self, ohm, pull_up, supply):
        back = divider_ohm(divider_v(ohm, pull_up, supply), pull_up, supply)
        self.assertAlmostEqual(back / ohm, 1.0, places=4)

    def test_equal_resistances_halve_the_supply(self):
        self.assertEqual(divider_v(2490.0, 2490.0, 5.0), 2.5)

    def test_a_pull_up_that_cannot_be(self):
        curve = steinhart_hart(PUBLISHED_2K5[:3])
        for ohm, word in ((0.0, "no voltage"), (2.49, "kΩ"), (-5.0, "between"), (math.nan, "nan")):
            with self.subTest(ohm=ohm):
                problem = refusal(
                    self, lambda ohm=ohm: Thermistor(curve, ohm, 5.0, PUBLISHED_2K5[:3])
                )
                self.assertEqual(problem.field, "transfer.pull_up_ohm")
                self.assertIn(word, problem.sentence)


class LinearTests(SimpleTestCase):
    def test_two_points_and_slope_are_the_same_line(self):
        points = linear_from_points(((0.5, 0.0), (4.5, 1000.0)), "V")
        slope = linear_from_slope(250.0, -125.0, "V", 5.0)
        for volts in (0.0, 0.5, 2.0, 5.0):
            self.assertAlmostEqual(points.value(volts), slope.value(volts), places=9)
            self.assertAlmostEqual(points.signal(points.value(volts)), volts, places=9)

    def test_more_points_are_fitted_by_least_squares(self):
        rng = np.random.default_rng(4)
        volts = np.linspace(0.5, 4.5, 9)
        readings = 62.5 * volts - 10.0 + rng.normal(0, 1.0, 9)
        line = linear_from_points(list(zip(volts, readings, strict=True)), "V")
        slope, offset = np.polyfit(volts, readings, 1)
        self.assertAlmostEqual(line.slope, slope, places=9)
        self.assertAlmostEqual(line.offset, offset, places=9)
        self.assertAlmostEqual(sum(line.residuals), 0.0, places=9)

    def test_refuses_a_line_that_says_nothing(self):
        for action in (
            lambda: linear_from_points(((1.0, 5.0), (4.0, 5.0)), "V"),
            lambda: linear_from_slope(0.0, 5.0, "V", 5.0),
        ):
            self.assertIn("does not change", refusal(self, action).sentence)
        self.assertIn(
            "same signal", refusal(self, lambda: linear_from_points(((1, 5), (1, 6)), "V")).sentence
        )
        self.assertIn(
            "At least 2", refusal(self, lambda: linear_from_points(((1, 5),), "V")).sentence
        )


readings = st.lists(st.floats(0.5, 50.0), min_size=2, max_size=8).map(np.cumsum)


class TableTests(SimpleTestCase):
    @given(readings, st.booleans(), st.floats(0.0, 1.0))
    def test_never_overshoots(self, rising, falls, share):
        values = rising[::-1] if falls else rising
        signals = np.linspace(0.2, 4.8, len(values))
        table = Table(tuple(zip(map(float, signals), map(float, values), strict=True)))
        for low, high in zip(table.points, table.points[1:], strict=False):
            between = table.value(low[0] + share * (high[0] - low[0]))
            self.assertLessEqual(between, max(low[1], high[1]) + 1e-9)
            self.assertGreaterEqual(between, min(low[1], high[1]) - 1e-9)

    @given(readings, st.floats(0.02, 0.98))
    def test_back_and_forth(self, values, share):
        signals = np.linspace(0.2, 4.8, len(values))
        table = Table(tuple(zip(map(float, signals), map(float, values), strict=True)))
        reading = float(values[0] + share * (values[-1] - values[0]))
        self.assertAlmostEqual(table.value(table.signal(reading)) / reading, 1.0, places=5)

    def test_refuses_points_that_are_not_monotone(self):
        problem = refusal(self, lambda: Table(((0.5, 0.0), (2.0, 20.0), (3.0, 18.0), (4.0, 40.0))))
        self.assertIn("must rise", problem.sentence)
        self.assertIn("18", problem.sentence)


class ThermocoupleTests(SimpleTestCase):
    def test_matches_a_reference_library_over_the_whole_range(self):
        """ITS-90 by the package thermocouples_reference."""
        reference = thermocouples["K"]
        celsius = np.linspace(-270.0, 1372.0, 1643)
        worst = max(
            abs(mv - type_k_mv(float(c)))
            for c, mv in zip(celsius, reference.func(celsius), strict=True)
        )
        self.assertLess(worst, 1e-8)

    def test_matches_the_printed_table(self):
        for celsius, printed in NIST_K.items():
            self.assertAlmostEqual(type_k_mv(celsius), printed, delta=0.0005)

    @given(st.floats(-200.0, 1372.0))
    def test_back_and_forth(self, celsius):
        self.assertAlmostEqual(type_k_temperature_c(type_k_mv(celsius)), celsius, places=5)

    def test_an_amplifier_that_does_not_know_its_own_temperature(self):
        kind = Thermocouple(0.1, cold_junction_c=25.0)
        blind = Thermocouple(0.1)
        volts = 0.1 * (type_k_mv(800.0) - type_k_mv(25.0))
        self.assertAlmostEqual(kind.value(volts), 800.0, places=4)
        self.assertAlmostEqual(blind.value(volts), 775.9, delta=0.5)

    def test_refuses(self):
        with self.assertRaises(OutOfRangeError):
            type_k_mv(1400.0)
        self.assertIn("gain", refusal(self, lambda: Thermocouple(0.0)).sentence)
        self.assertEqual(
            refusal(self, lambda: Thermocouple(0.1, cold_junction_c=400.0)).field,
            "transfer.cold_junction_c",
        )

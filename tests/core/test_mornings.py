"""Soak, weather, experiments and the season plan."""

import contextlib
import math
from datetime import date

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from inbetrieb_core.basemaps import generate
from inbetrieb_core.errors import InputRefused
from inbetrieb_core.estimate import CrankingOutcome, Evidence, estimate
from inbetrieb_core.mornings import (
    Cooling,
    Morning,
    MorningsEntry,
    ParkedReading,
    checked_mornings,
    days_ahead,
    experiments,
    fit_cooling,
    read_minima,
    ready,
    season_plan,
    season_sentence,
    tomorrow_sentence,
    typed_minima,
)
from inbetrieb_core.mornings.experiments import information
from inbetrieb_core.starts import CHECKS_C, chances, good_of_draws
from scipy.integrate import solve_ivp

from tests.examples import asked

from .engines import FOUR

CALIBRATION = generate(FOUR)
few = settings(max_examples=asked(25), deadline=None)


class SoakTests(SimpleTestCase):
    def test_it_follows_the_differential_equation(self):
        """Newton's law of cooling, integrated numerically by a reference library (SciPy)."""
        cooling = Cooling(2.7, 0.1, 3)
        solved = solve_ivp(lambda t, y: -(y - 4.0) / 2.7, (0.0, 9.0), [85.0], rtol=1e-9)
        self.assertAlmostEqual(cooling.coolant_after(9.0, 85.0, 4.0), solved.y[0, -1], places=4)

    def test_a_textbook_case(self):
        """ln(81/2)·τ: an engine at 85 °C in air of 4 °C is within 2 K after 3.70 time constants."""
        self.assertAlmostEqual(ready(Cooling(1.0, 0.0), 85.0, 4.0).after_h, math.log(40.5))

    @few
    @given(st.floats(1.2, 5.0), st.floats(-15.0, 20.0), st.floats(70.0, 95.0))
    def test_a_hidden_time_constant_is_read(self, tau, air, begin):
        readings = [
            ParkedReading("night", h, air + (begin - air) * math.exp(-h / tau), air)
            for h in (1.0, 2.5, 5.0, 8.0)
        ]
        found = fit_cooling(readings)
        self.assertLess(abs(math.log(found.tau_h / tau)), 0.12)
        self.assertLess(found.spread, 0.2)

    def test_an_air_that_warms_over_the_day_stays_within_what_is_stated(self):
        """A truth of another form: the air swings by 8 K while the engine cools."""
        tau, readings = 3.2, []
        solved = solve_ivp(
            lambda t, y: -(y - (2.0 + 8.0 * math.sin(t / 4.0))) / tau,
            (0.0, 6.0),
            [88.0],
            dense_output=True,
        )
        for h in (1.5, 3.0, 5.0):
            air = 2.0 + 8.0 * math.sin(h / 4.0)
            readings.append(ParkedReading("noon", h, float(solved.sol(h)[0]), air))
        found = fit_cooling(readings)
        self.assertLess(abs(math.log(found.tau_h / tau)), 3.0 * max(found.spread, 0.08))

    def test_without_a_reading_it_is_the_trade_s_figure(self):
        found = fit_cooling([])
        self.assertEqual((found.readings, round(found.tau_h, 1)), (0, 2.5))
        band = ready(found, 85.0, 0.0)
        self.assertLess(band.low_h, band.after_h)
        self.assertLess(band.after_h, band.high_h)

    def test_hours_until(self):
        cooling = Cooling(2.0, 0.1)
        hours = cooling.hours_until(40.0, 85.0, 5.0)
        self.assertAlmostEqual(cooling.coolant_after(hours, 85.0, 5.0), 40.0)
        self.assertIsNone(cooling.hours_until(3.0, 85.0, 5.0))
        self.assertEqual(cooling.hours_until(90.0, 85.0, 5.0), 0.0)

    def test_impossible_entries_are_refused(self):
        for entry in (
            MorningsEntry(parked=(ParkedReading("a", -1.0, 40.0, 5.0),)),
            MorningsEntry(parked=(ParkedReading("a", 3.0, -20.0, 15.0),)),
            MorningsEntry(parked=(ParkedReading("a", 3.0, float("nan"), 15.0),)),
            MorningsEntry(monthly_c=(1.0, 2.0)),
            MorningsEntry(minima=(("2026-02-30", 1.0),)),
            MorningsEntry(minima=(("2026-02-20", 99.0),)),
            MorningsEntry(stopped_at="yesterday"),
            MorningsEntry(stopped_at="2026-11-28T10:00:00"),
        ):
            with self.subTest(entry=entry), self.assertRaises(InputRefused):
                checked_mornings(entry)


class WeatherTests(SimpleTestCase):
    def test_pasted_minima(self):
        text = "2026-12-02 −3,5\n\n2026-12-01; -4 °C\n"
        self.assertEqual(read_minima(text), (("2026-12-01", -4.0), ("2026-12-02", -3.5)))

    def test_what_cannot_be_read_is_said(self):
        for text in ("tomorrow -3", "2026-12-01", "2026-12-01 -3\n2026-12-01 -4", "2026-13-01 2"):
            with self.subTest(text=text), self.assertRaises(InputRefused):
                read_minima(text)

    @few
    @given(st.text(max_size=80))
    def test_any_text_is_read_or_refused(self, text):
        with contextlib.suppress(InputRefused):
            self.assertTrue(all(len(day) == 10 for day, _ in read_minima(text)))

    def test_minima_as_plain_numbers(self):
        self.assertEqual(typed_minima("-3, 1;4.5,−2"), (-3.0, 1.0, 4.5, -2.0))
        self.assertEqual(typed_minima(" , ;"), ())
        for text in ("frost", "1,nan", "inf", "-90", "60", ",".join("1" * 61), "1 2"):
            with self.subTest(text), self.assertRaises(InputRefused):
                typed_minima(text)

    @given(st.lists(st.floats(-60, 45).map(lambda c: round(c, 2)), max_size=60))
    def test_what_is_written_is_read(self, minima):
        self.assertEqual(typed_minima(",".join(map(str, minima))), tuple(minima))

    def test_typed_days_come_before_the_climate(self):
        monthly = tuple(float(m) for m in range(12))
        found = days_ahead(date(2026, 12, 30), (("2026-12-31", -7.0),), monthly, 3)
        self.assertEqual([m.day for m in found], ["2026-12-31", "2027-01-01", "2027-01-02"])
        self.assertEqual((found[0].minimum_c, found[0].forecast), (-7.0, True))
        self.assertFalse(found[1].forecast)
        # Between the middles of December (11) and January (0).
        self.assertTrue(0.0 < found[1].minimum_c < 11.0)
        self.assertLess(found[0].spread_k, found[1].spread_k)

    def test_days_of_which_nothing_is_known_are_left_out(self):
        self.assertEqual(days_ahead(date(2026, 12, 1), (), (), 30), ())


def believed_after(outcomes):
    evidence = [
        Evidence("cranking_fuel", "outcome", c, fuel, 0.0, trial=n, outcome=outcome)
        for n, (c, fuel, outcome) in enumerate(outcomes, 1)
    ]
    return estimate(FOUR, CALIBRATION, evidence)


def ran(c, after_s):
    fuel = CALIBRATION.at_coolant("cranking_fuel", c)
    prime = CALIBRATION.at_coolant("prime_pulse", c)
    return c, fuel, CrankingOutcome(fuel, prime, True, after_s, None)


class PlanTests(SimpleTestCase):
    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        cls.believed = believed_after([ran(10.0, 0.8), ran(12.0, 0.8)])

    def mornings(self, *minima):
        return [Morning(f"2026-12-{i:02d}", c, 1.0, True) for i, c in enumerate(minima, 1)]

    def test_information_of_two_coins_and_of_a_coin_with_itself(self):
        """Cover & Thomas, Elements of Information Theory (2006), ch. 2: I(X;X) is the entropy."""
        rng = np.random.default_rng(1)
        one, other = (rng.integers(0, 2, 4000).astype(float) for _ in range(2))
        self.assertAlmostEqual(information(one, one), 1.0, places=2)
        self.assertLess(information(one, other), 0.01)

    def test_draws_keep_the_chance_of_each_temperature(self):
        at_c = np.array([-10.0, 10.0, 40.0])
        drawn = good_of_draws(self.believed, CALIBRATION, at_c, draws=3000).mean(axis=0)
        stated = [chance.good for chance in chances(self.believed, CALIBRATION, at_c)]
        np.testing.assert_allclose(drawn, stated, atol=0.05)

    def test_a_morning_serves_the_temperatures_near_it(self):
        plan = season_plan(
            self.believed, CALIBRATION, self.mornings(-6.0, 15.0), CHECKS_C, (40.0, 80.0)
        )
        self.assertEqual(plan.mornings[0].serves_c, (-10.0, 0.0))
        self.assertEqual(plan.mornings[1].serves_c, (10.0, 20.0))
        self.assertIn("helps to prove", tomorrow_sentence(plan.mornings[0]))

    def test_what_the_season_does_not_offer_is_said(self):
        plan = season_plan(
            self.believed, CALIBRATION, self.mornings(*[5.0] * 20), CHECKS_C, (40.0, 80.0)
        )
        self.assertEqual(plan.unoffered_c, (-10.0, 20.0))
        self.assertIn("hardly be had", season_sentence(plan))
        self.assertIsNotNone(plan.starts)
        self.assertLessEqual(plan.low, plan.starts)
        self.assertGreaterEqual(plan.starts, 2)  # two good starts prove a temperature

    def test_a_surer_engine_needs_fewer_mornings(self):
        mornings, checks = self.mornings(*[2.0] * 30), (0.0, 10.0)
        unsure = season_plan(self.believed, CALIBRATION, mornings, checks, ())
        wrong = CALIBRATION.with_table(
            type(CALIBRATION["cranking_fuel"])(
                "cranking_fuel",
                CALIBRATION["cranking_fuel"].axes,
                0.4 * CALIBRATION["cranking_fuel"].values,
                CALIBRATION["cranking_fuel"].provenance,
            )
        )
        worse = season_plan(self.believed, wrong, mornings, checks, ())
        self.assertGreater(unsure.mornings[0].good, worse.mornings[0].good)
        self.assertLessEqual(unsure.starts, worse.starts)

    def test_all_proven_needs_nothing(self):
        plan = season_plan(self.believed, CALIBRATION, self.mornings(1.0), (0.0,), (0.0,))
        self.assertEqual((plan.starts, plan.open_c), (0, ()))
        self.assertIn("proven at every", season_sentence(plan))

    def test_experiments_are_ranked_and_half_warm_ones_stand_above_the_air(self):
        found = experiments(
            self.believed,
            CALIBRATION,
            CHECKS_C,
            fit_cooling([]),
            from_c=85.0,
            ambient_c=15.0,
            morning_c=5.0,
        )
        self.assertEqual(
            sorted((e.teaches for e in found), reverse=True), [e.teaches for e in found]
        )
        half = [e for e in found if e.kind == "half-warm"]
        self.assertTrue(all(e.coolant_c > 23.0 and 0.0 < e.after_h <= 8.0 for e in half))

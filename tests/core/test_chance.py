"""What works is left alone: starts that may be chance, and steps that stay where they were asked for."""

from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from inbetrieb_core.basemaps import generate
from inbetrieb_core.estimate import (
    COORDINATES,
    CrankingOutcome,
    Evidence,
    basis_of,
    estimate,
    expected_fuel,
    search_step,
)
from inbetrieb_core.estimate.process import KNOTS_C, Reading, posterior
from inbetrieb_core.starts import StartSetting, chances, judge_log, past_try
from inbetrieb_core.starts.limits import limits_of
from inbetrieb_core.tables import Provenance, Table, filled, values_after

from .engines import FOUR
from .traces import GOOD, LATE, NO_FIRE, RIGHT_MIXTURE, start_trace

CALIBRATION = generate(FOUR)
SETTING = StartSetting(FOUR)


def judged(points, history=(), calibration=CALIBRATION):
    return judge_log(start_trace(points, **RIGHT_MIXTURE), calibration, SETTING, history)


def richer(share):
    table = CALIBRATION["cranking_fuel"]
    values = table.values * share
    marks = filled(values.shape, Provenance("assumed", "for the test"))
    return CALIBRATION.with_table(Table(table.key, table.axes, values, marks))


class ChanceTests(SimpleTestCase):
    def setUp(self):
        self.good = past_try(judged(GOOD), CALIBRATION)

    def test_one_late_start_after_a_good_one_is_repeated(self):
        analysis = judged(LATE, [self.good])
        (advice,) = analysis.advice
        self.assertIsNone(advice.table, advice.reason)
        self.assertIn("passed with the same tables", advice.reason)

    def test_a_second_one_in_a_row_is_no_chance(self):
        late = past_try(judged(LATE, [self.good]), CALIBRATION)
        (advice,) = judged(LATE, [self.good, late]).advice
        self.assertEqual(advice.table, "cranking_fuel")

    def test_other_tables_another_place_or_no_fire_at_all_are_none(self):
        elsewhere = replace(self.good, figures=replace(self.good.figures, coolant_c=70.0))
        for name, points, history, calibration in (
            ("other fuel", LATE, [self.good], richer(0.8)),
            ("elsewhere", LATE, [elsewhere], CALIBRATION),
            ("no fire", NO_FIRE, [self.good], CALIBRATION),
            ("nothing before", LATE, [], CALIBRATION),
        ):
            with self.subTest(name):
                advice = judged(points, history, calibration).advice[0]
                self.assertNotIn("passed with the same tables", advice.reason)


def cranked(coolant_c, share, trial, after_s=None):
    """A start with a share of the expected fuel; no fire where no time is given."""
    expected = float(np.exp(expected_fuel(FOUR, np.array([coolant_c])))[0])
    seen = CrankingOutcome(
        share * expected, 0.0, after_s is not None, after_s, None if after_s else 6.0, 1.0
    )
    return Evidence(
        "cranking_fuel", "outcome", coolant_c, share * expected, 0.0, basis_of(FOUR), trial,
        outcome=seen,
    )  # fmt: skip


class KeptTests(SimpleTestCase):
    LIMITS = limits_of(CALIBRATION)

    def moved_at(self, step, coolant_c):
        table = CALIBRATION["cranking_fuel"]
        values = table.values.copy()
        for change in step.proposal.changes:
            values[change.index] = change.after
        return float(np.interp(coolant_c, table.axes[0].points, values)) / table.at(coolant_c)

    def test_a_step_in_the_cold_leaves_a_hot_engine_that_starts_well(self):
        hot = [cranked(80.0, share, n, 0.7) for n, share in enumerate((1.0, 1.0, 0.97, 1.02))]
        hot += [cranked(80.0, 1.3, 8), cranked(80.0, 1.35, 9)]
        cold = [cranked(5.0, 1.0, 20, 2.6), cranked(5.0, 1.0, 21, 2.8)]
        believed = estimate(FOUR, CALIBRATION, [*hot, *cold])
        step = search_step(believed, CALIBRATION, self.LIMITS, tried_c=5.0, must=True)
        self.assertGreater(self.moved_at(step, 5.0), 1.08)
        self.assertAlmostEqual(self.moved_at(step, 80.0), 1.0, delta=0.04)

    def test_after_an_accepted_start_a_step_for_others_leaves_it_as_likely(self):
        doubtful = [cranked(-12.0, 1.0, 3), cranked(-12.0, 0.8, 4)]
        history = [replace(past_try(judged(LATE), CALIBRATION), taught=tuple(doubtful))]
        analysis = judged(GOOD, history)
        self.assertTrue(analysis.good)
        (step,) = [a for a in analysis.advice if a.rule == "searched"]
        self.assertEqual([p for p in step.measured if p.searched], [])  # one at a time
        place = np.array([analysis.figures.coolant_c])
        evidence = [*doubtful, *past_try(analysis, CALIBRATION).taught]
        table, before = CALIBRATION["cranking_fuel"], CALIBRATION
        stepped = replace(table, values=values_after(table, step.changes))
        self.assertFalse(np.allclose(stepped.values, table.values))
        there, after = (
            chances(estimate(FOUR, c, evidence), c, place)[0].runs
            for c in (before, before.with_table(stepped))
        )
        self.assertGreater(after, there - 0.05)


class TrendTests(SimpleTestCase):
    """A need that leaves the engine data towards the cold goes on doing so below what was seen."""

    def predicted(self, departure, seen_c, at_c, table="warm_up_enrichment"):
        readings = [Reading(c, departure(c), 0.02, n) for n, c in enumerate(seen_c)]
        curve = posterior(np.zeros(KNOTS_C.size), COORDINATES[table], readings)
        return float(curve.at(np.array([at_c]))[0])

    def test_a_slope_is_followed_into_the_cold(self):
        for slope in (-0.004, 0.004):

            def departure(c, slope=slope):
                return slope * (40.0 - c)  # straight: not the form of the process

            for table in ("warm_up_enrichment", "idle_valve"):
                found = self.predicted(departure, (0.0, 8.0, 15.0, 22.0, 35.0), -10.0, table)
                with self.subTest(slope=slope, table=table):
                    self.assertAlmostEqual(found, departure(-10.0), delta=0.03)

    def test_without_evidence_nothing_is_told(self):
        for table, coordinate in COORDINATES.items():
            curve = posterior(np.zeros(KNOTS_C.size), coordinate, [])
            with self.subTest(table):
                self.assertLess(float(curve.told_at(KNOTS_C).max()), 1e-6)

    def test_a_common_departure_is_no_slope(self):
        found = self.predicted(lambda c: 0.1, (0.0, 10.0, 20.0, 40.0, 60.0), -10.0, "idle_valve")
        self.assertAlmostEqual(found, 0.1, delta=0.025)

"""The rulebook: what is advised when, how far, and what has to come first.

The expectations are common practice of the trade with no published source.
"""

import math
from dataclasses import replace
from typing import ClassVar

from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st
from inbetrieb_core.basemaps import generate
from inbetrieb_core.engine import Schools
from inbetrieb_core.starts import (
    RULES,
    Observation,
    StartSetting,
    judge_log,
    judge_observation,
    past_try,
)
from inbetrieb_core.starts.search import next_step
from inbetrieb_core.tables import DEFINITIONS, Provenance, Table, apply, filled

from .engines import FOUR, V8_ETHANOL
from .traces import GOOD, LATE, RIGHT_MIXTURE, start_trace

CALIBRATION = generate(FOUR)
SETTING = StartSetting(FOUR)
#: Manifold pressure of an engine that rests, starts and idles. [s, kPa]
AT_IDLE = [(0, FOUR.barometric_kpa), (3, 95), (4, 33), (45, 33)]
NO_SHOT = StartSetting(replace(FOUR, schools=Schools(prime="cranking_only")))


def observe(outcome, coolant=10.0, setting=SETTING, calibration=CALIBRATION, history=(), **seen):
    return judge_observation(Observation(outcome, coolant, **seen), calibration, setting, history)


def log(points, setting=SETTING, calibration=CALIBRATION, **channels):
    return judge_log(start_trace(points, **channels), calibration, setting)


def with_values(key, change, calibration=CALIBRATION):
    table = calibration[key]
    values = change(table.values)
    marks = filled(values.shape, Provenance("assumed", "for the test"))
    return calibration.with_table(Table(key, table.axes, values, marks))


def moved_value(analysis, calibration=CALIBRATION):
    """Return (before, after) of the advised table at the start's coolant."""
    (advice,) = analysis.advice
    table = calibration[advice.table]
    after = apply(table, advice.changes, Provenance("assumed", "x"))
    place = analysis.figures.coolant_c
    return table.at(place), after.at(place)


class WhichTableTests(SimpleTestCase):
    """practice: change the earliest phase that fails, one change per start."""

    CASES = [
        # outcome, what was seen, setting, table, direction
        ("no fire", {"cranking_s": 7.0}, SETTING, "prime_pulse", +1),
        ("no fire", {"cranking_s": 7.0}, NO_SHOT, "cranking_fuel", +1),
        ("fired and died", {"cranking_s": 1.4}, SETTING, "cranking_fuel", +1),
        ("started", {"cranking_s": 4.0, "settled_rpm": 1030}, SETTING, "cranking_fuel", +1),
        ("started on the pedal", {"cranking_s": 1.0}, SETTING, "cranking_air", +1),
        (
            "started",
            {"cranking_s": 0.8, "flare_rpm": 1700, "settled_rpm": 1030},
            SETTING,
            "cranking_air",
            -1,
        ),
        (
            "started",
            {"cranking_s": 0.8, "flare_rpm": 1200, "dip_rpm": 600, "settled_rpm": 1030},
            SETTING,
            "after_start_enrichment",
            +1,
        ),
        (
            "started and died",
            {"cranking_s": 0.8, "flare_rpm": 1000, "ran_s": 2.0},
            SETTING,
            "after_start_enrichment",
            +1,
        ),
        (
            "started and died",
            {"cranking_s": 0.8, "flare_rpm": 1300, "ran_s": 6.0},
            SETTING,
            "idle_valve",
            +1,
        ),
        (
            "started",
            {"cranking_s": 0.8, "settled_rpm": 1030, "lambda_later": 1.09},
            SETTING,
            "warm_up_enrichment",
            +1,
        ),
        (
            "started",
            {"cranking_s": 0.8, "settled_rpm": 1030, "lambda_later": 0.86},
            SETTING,
            "warm_up_enrichment",
            -1,
        ),
        ("started", {"cranking_s": 0.8, "settled_rpm": 850}, SETTING, "idle_valve", +1),
        ("started", {"cranking_s": 0.8, "settled_rpm": 1250}, SETTING, "idle_valve", -1),
    ]

    def test_each_symptom_changes_its_table_in_its_direction(self):
        for outcome, seen, setting, table, direction in self.CASES:
            with self.subTest(outcome=outcome, seen=seen):
                analysis = observe(outcome, setting=setting, **seen)
                self.assertEqual(analysis.advice[0].table, table)
                before, after = moved_value(analysis)
                self.assertEqual(math.copysign(1, after - before), direction)

    def test_later_phases_wait(self):
        analysis = observe(
            "started", cranking_s=4.0, flare_rpm=1700, settled_rpm=930, lambda_later=1.05
        )
        self.assertEqual(analysis.advice[0].table, "cranking_fuel")
        self.assertEqual(
            [wait.table for wait in analysis.waits],
            ["cranking_air", "warm_up_enrichment", "idle_valve"],
        )

    def test_mixture_is_read_where_the_engine_will_idle(self):
        """Far from its target it runs on other cells of the fuel map: the air comes first."""
        far = observe("started", cranking_s=0.8, settled_rpm=1450, lambda_later=0.8)
        self.assertEqual(far.advice[0].table, "idle_valve")
        self.assertNotIn("warm_up_enrichment", [wait.table for wait in far.waits])

    def test_a_good_start_changes_nothing(self):
        analysis = observe(
            "started",
            cranking_s=0.8,
            flare_rpm=1250,
            dip_rpm=980,
            settled_rpm=1030,
            lambda_later=0.94,
        )
        self.assertTrue(analysis.good)
        self.assertEqual(analysis.advice, ())
        self.assertTrue(log(GOOD, **RIGHT_MIXTURE).good)

    def test_what_was_not_seen_is_not_proven(self):
        unseen = log(GOOD)
        self.assertFalse(unseen.good)
        self.assertEqual(unseen.acceptance.failed, ())
        self.assertEqual(unseen.acceptance.unseen, ("mixture",))
        self.assertEqual(unseen.advice, ())
        self.assertIn("not-proven", [finding.key for finding in unseen.findings])

    def test_the_mixture_has_to_be_right_too(self):
        off = {**RIGHT_MIXTURE, "mixture": [(0, 1.36), (12, 1.36), (12.5, 1.09), (60, 1.08)]}
        analysis = log(GOOD, **off)
        self.assertEqual(analysis.acceptance.failed, ("mixture",))
        self.assertEqual(analysis.advice[0].table, "warm_up_enrichment")

    def test_warm_mixture_is_a_matter_of_the_fuel_table(self):
        rich = [(0, 1.36), (6, 1.36), (6.2, 0.87), (14, 0.86), (25, 0.865)]
        points = [(t, n * 0.82 if t > 3.5 else n) for t, n in GOOD]
        analysis = log(
            points,
            coolant=88.0,
            rate=25.0,
            mixture=rich,
            map_kpa=AT_IDLE,
        )
        self.assertEqual(analysis.advice[0].table, "ve")
        self.assertTrue(all(change.after < change.before for change in analysis.advice[0].changes))

    def test_enrichment_below_none_is_put_right_first(self):
        wrong = with_values("warm_up_enrichment", lambda v: v * 0.7)
        analysis = observe("started and died", calibration=wrong, cranking_s=0.8, ran_s=3.0)
        self.assertEqual(analysis.advice[0].rule, "warm-up-neutral")
        self.assertAlmostEqual(moved_value(analysis, wrong)[1], 100.0, delta=0.1)

    def test_fires_promptly_and_dies_at_the_handover_is_not_cranking_fuel(self):
        burst = [(0, 0), (2, 0), (2.1, 220), (2.4, 235), (2.6, 520), (3.2, 0), (5, 0)]
        analysis = log(burst, coolant=5.0, rate=50.0)
        self.assertEqual(analysis.verdict, "fired and died")
        self.assertEqual(analysis.advice[0].table, "after_start_enrichment")


class HandoverTests(SimpleTestCase):
    """Common practice, no source: what fails on leaving cranking is the last of it or the first after it."""

    FIRED_IN_TIME: ClassVar = [
        (0, 0), (2, 0), (2.1, 220), (2.4, 235), (2.6, 520), (3.2, 260), (7.2, 265)
    ]  # fmt: skip

    def taught_of(self, end):
        analysis = log(self.FIRED_IN_TIME + end, coolant=10.0, rate=50.0)
        return analysis, {evidence.quantity: evidence for evidence in analysis.taught}

    def assert_both_asked(self, taught):
        self.assertTrue(taught["cranking_fuel"].outcome.handover)
        self.assertTrue(taught["after_start_enrichment"].run_up.handover)

    def test_a_start_that_hangs_is_shared_between_both_tables(self):
        analysis, taught = self.taught_of([(7.6, 1000), (12, 1000), (45, 975)])
        self.assertEqual("started", analysis.verdict)
        self.assert_both_asked(taught)
        self.assertAlmostEqual(4.7, taught["after_start_enrichment"].run_up.hung_s, delta=0.3)

    def test_a_start_that_dies_there_too(self):
        analysis, taught = self.taught_of([(7.6, 0), (11, 0)])
        self.assertEqual("fired and died", analysis.verdict)
        self.assert_both_asked(taught)

    def test_a_prompt_start_is_not(self):
        taught = {e.quantity: e for e in log(GOOD).taught}
        self.assertFalse(taught["cranking_fuel"].outcome.handover)


class WhatExplainsWhatTests(SimpleTestCase):
    """Common practice, no source: one symptom is not mended by the table of another."""

    def rich_and_flaring(self, points):
        mixture = [(0, 1.36), (12, 1.36), (12.5, 0.91), (60, 0.9)]
        return log(points, mixture=mixture, lambda_target=1.0)

    def test_a_flare_within_its_limit_waits_for_what_is_outside(self):
        edge = [(t, 1415.0 if t == 4.0 else n) for t, n in GOOD]
        found = self.rich_and_flaring(edge)
        self.assertEqual(("flare",), found.acceptance.at_edge)
        self.assertEqual("warm_up_enrichment", found.advice[0].table)

    def test_a_flare_beyond_it_does_not(self):
        found = self.rich_and_flaring([(t, 1500.0 if t == 4.0 else n) for t, n in GOOD])
        self.assertIn("flare", found.acceptance.failed)
        self.assertEqual("cranking_air", found.advice[0].table)

    def test_air_that_the_loop_takes_away_later_is_the_idle_table_s(self):
        table = CALIBRATION.at_coolant("idle_valve", 20.0)
        flaring = [(t, 1480.0 if t == 4.0 else n) for t, n in GOOD]
        for share, expected in ((0.75, "idle_valve"), (1.0, "cranking_air")):
            valve = [(0, table), (5, table), (9, share * table), (45, share * table)]
            found = log(flaring, idle_valve_pct=valve, **RIGHT_MIXTURE)
            self.assertEqual(expected, found.advice[0].table, share)

    def test_a_mixture_that_is_all_that_failed_comes_before_the_air_that_the_loop_hides(self):
        table = CALIBRATION.at_coolant("idle_valve", 20.0)
        valve = [(0, table), (5, table), (9, 0.8 * table), (95, 0.8 * table)]
        rich = [(0, 1.36), (12, 1.36), (12.5, 1.0), (29, 1.0), (31, 0.9), (43, 0.9), (45, 1.0), (95, 0.995)]  # fmt: skip
        long = [*GOOD, (95.0, 975.0)]
        right = log(long, idle_valve_pct=valve, **RIGHT_MIXTURE)
        found = log(long, idle_valve_pct=valve, **RIGHT_MIXTURE | {"mixture": rich})
        self.assertEqual(found.acceptance.failed, ("mixture",))
        self.assertAlmostEqual(found.figures.need_settled, 1.0, delta=0.03)
        self.assertNotEqual(found.advice[0].rule, "idle-air-held", right.advice)

    def test_a_run_up_within_its_limits_does_not_explain_a_death(self):
        dies = [*GOOD[:6], (6.0, 700), (7.0, 0), (9.0, 0)]
        table = CALIBRATION.at_coolant("idle_valve", 20.0)
        found = log(dies, idle_valve_pct=table)
        self.assertEqual("started and died", found.verdict)
        self.assertNotIn(found.advice[0].table, ("cranking_air", "idle_valve"))


class HowFarTests(SimpleTestCase):
    def test_first_steps_are_those_of_the_trade(self):
        """Port injection 5 % at a time, a wet manifold 10 %."""
        wet = StartSetting(V8_ETHANOL)
        ethanol = generate(V8_ETHANOL)
        before, after = moved_value(observe("fired and died", cranking_s=3.0))
        self.assertAlmostEqual(after / before, 1.05, delta=0.003)
        analysis = observe("fired and died", setting=wet, calibration=ethanol, cranking_s=3.0)
        before, after = moved_value(analysis, ethanol)
        self.assertAlmostEqual(after / before, 1.10, delta=0.003)

    def test_the_school_of_the_job_wins(self):
        ten = StartSetting(replace(FOUR, schools=Schools(step="10")))
        before, after = moved_value(observe("fired and died", setting=ten, cranking_s=3.0))
        self.assertAlmostEqual(after / before, 1.10, delta=0.003)

    def test_between_two_rungs_both_move_and_the_value_moves_by_the_step(self):
        for coolant in (-7.3, 2.5, 13.0, 26.0):
            with self.subTest(coolant=coolant):
                analysis = observe("fired and died", coolant=coolant, cranking_s=3.0)
                self.assertEqual(len(analysis.advice[0].changes), 2)
                before, after = moved_value(analysis)
                self.assertAlmostEqual(after / before, 1.05, delta=0.002)

    def test_measured_mixture_takes_the_measured_amount_up_to_a_limit(self):
        def step(gauge):
            seen = observe("started", cranking_s=0.8, settled_rpm=1030, lambda_later=gauge)
            before, after = moved_value(seen)
            return after / before

        self.assertAlmostEqual(step(0.94 * 1.08), 1.08, delta=0.01)
        self.assertAlmostEqual(step(0.94 * 1.3), 1.3, delta=0.01)
        self.assertAlmostEqual(step(0.94 * 1.6), 1.45, delta=0.01)

    def tries(self, *fuel_and_seconds, coolant=10.0):
        """Return history of late starts at given cranking fuel factors, and the last calibration."""
        history, calibration = [], CALIBRATION
        for factor, seconds in fuel_and_seconds:
            calibration = with_values("cranking_fuel", lambda v, f=factor: v * f)
            seen = observe(
                "started", coolant, calibration=calibration, cranking_s=seconds, settled_rpm=1030
            )
            history.append(past_try(seen, calibration))
        return history[:-1], calibration, fuel_and_seconds[-1][1]

    def advised_factor(self, *fuel_and_seconds):
        history, calibration, seconds = self.tries(*fuel_and_seconds)
        seen = observe(
            "started",
            history=history,
            calibration=calibration,
            cranking_s=seconds,
            settled_rpm=1030,
        )
        before, after = moved_value(seen, calibration)
        return after / before

    def test_goes_on_in_the_better_direction(self):
        self.assertGreater(self.advised_factor((1.0, 4.0), (1.05, 3.0)), 1.05)
        self.assertLess(self.advised_factor((1.0, 4.0), (0.95, 3.0)), 0.95)

    def test_turns_round_by_half_a_step_from_the_best_when_it_got_worse(self):
        # 1.05 was worse than 1.00: next is half a step the other side of 1.00.
        self.assertAlmostEqual(
            1.05 * self.advised_factor((1.0, 3.0), (1.05, 4.0)), 1 / 1.025, delta=0.004
        )

    def test_tries_the_other_side_when_nothing_changed(self):
        self.assertLess(1.05 * self.advised_factor((1.0, 3.0), (1.05, 3.0)), 1.0)

    def test_other_temperatures_do_not_count(self):
        history, calibration, _ = self.tries((1.0, 4.0), (1.05, 3.0), coolant=60.0)
        seen = observe(
            "started", history=history, calibration=calibration, cranking_s=4.0, settled_rpm=1030
        )
        before, after = moved_value(seen, calibration)
        self.assertAlmostEqual(after / before, 1.05, delta=0.003)

    def test_the_generated_curve_is_no_judge(self):
        """A start that caught at last was lean, wherever the table stands."""
        rich = with_values("cranking_fuel", lambda v: v * 1.4)
        seen = observe("started", calibration=rich, cranking_s=4.0, settled_rpm=1030)
        before, after = moved_value(seen, rich)
        self.assertGreater(after, before)


class BlockingTests(SimpleTestCase):
    """Before judging a start: battery charged? pressure built? sync quick?"""

    def assert_check(self, analysis, key):
        (advice,) = analysis.advice
        self.assertEqual((advice.rule, advice.table, advice.changes), (key, None, ()))
        self.assertEqual(analysis.findings[0].level, "blocking")

    def test_causes_under_the_bonnet_come_before_any_table(self):
        flat = [(0, 11.4), (2, 11.4), (2.1, 8.9), (6.5, 9.0), (28, 13.0)]
        late = [(0, 60), (2, 70), (5.6, 300), (28, 300)]
        unknown = [(0, 0), (4.9, 0), (5.0, 1), (28, 1)]
        self.assert_check(log(LATE, battery_v=flat), "weak-battery")
        self.assert_check(log(LATE, fuel_pressure_kpa=late), "late-pressure")
        self.assert_check(log(LATE, sync=unknown), "late-sync")
        self.assert_check(observe("no sync"), "no-sync")
        self.assert_check(observe("no crank"), "no-crank")
        self.assert_check(observe("slow crank"), "weak-battery")

    def test_tables_that_would_be_changed_are_listed_as_waiting(self):
        analysis = log(LATE, fuel_pressure_kpa=[(0, 60), (2, 70), (5.6, 300), (28, 300)])
        self.assertEqual([wait.table for wait in analysis.waits], ["cranking_fuel"])

    def test_quick_pressure_and_full_battery_do_not_block(self):
        analysis = log(
            LATE,
            fuel_pressure_kpa=300.0,
            sync=[(0, 0), (2.2, 0), (2.3, 1), (28, 1)],
            battery_v=[(0, 12.6), (2, 12.6), (2.1, 10.2), (6.5, 10.4), (8, 14), (28, 14)],
        )
        self.assertEqual(analysis.advice[0].table, "cranking_fuel")

    def test_a_valve_at_its_end_is_a_mechanical_job(self):
        low = [(t, n * 0.7 if t > 6 else n) for t, n in GOOD]
        self.assert_check(log(low, idle_valve_pct=99.0), "too-little-air")
        self.assertEqual(log(low, idle_valve_pct=55.0).advice[0].table, "idle_valve")

    def test_a_warm_engine_far_off_is_injector_data_not_a_table(self):
        """250 entered for 480: so rich it is unusable."""
        lean = [(0, 1.36), (6, 1.36), (6.2, 1.22), (14, 1.25), (25, 1.24)]
        points = [(t, n * 0.82 if t > 3.5 else n) for t, n in GOOD]
        analysis = log(points, coolant=88.0, rate=25.0, mixture=lean, map_kpa=AT_IDLE)
        self.assert_check(analysis, "injector-flow")

    def test_warm_start_taken_for_a_cold_one_is_said(self):
        setting = StartSetting(FOUR, ambient_c=5.0, soak_h=2.0)
        keys = [f.key for f in log(GOOD, setting, coolant=25.0).findings]
        self.assertIn("not-soaked", keys)
        self.assertIn("short-soak", keys)
        self.assertNotIn(
            "not-soaked", [f.key for f in log(GOOD, StartSetting(FOUR, ambient_c=20.0)).findings]
        )

    def test_five_failures_in_a_row_raise_a_doubt(self):
        history = []
        for _ in range(5):
            seen = observe("no fire", history=history, cranking_s=7.0)
            history.append(past_try(seen, CALIBRATION))
        keys = [f.key for f in seen.findings]
        self.assertIn("nothing-helps", keys)
        self.assertIn("flooded", keys)


class RulebookTests(SimpleTestCase):
    def test_is_readable_and_sound(self):
        self.assertEqual(len({rule.identifier for rule in RULES}), len(RULES))
        for rule in RULES:
            self.assertIn(rule.table, DEFINITIONS)
            for text in (rule.condition, rule.why, rule.school, rule.disproof):
                self.assertGreater(len(text), 8)


class SearchTests(SimpleTestCase):
    @given(st.floats(-0.45, 0.45), st.sampled_from([0.05, 0.10]), st.sampled_from([1, -1]))
    def test_finds_an_unknown_best_value_in_a_bounded_number_of_tries(self, best, base, first):
        """Outcome worsens with distance on both sides; good within 12 %."""
        tries = []
        value = 0.0
        for _ in range(22):
            badness = 1.0 + 8.0 * abs(value - best)
            tries.append((value, badness))
            if abs(value - best) <= 0.12:
                break
            value += next_step(tries, base, first, tolerance=0.1)
        self.assertLessEqual(abs(value - best), 0.12)

    @given(st.floats(-0.4, 0.4), st.sampled_from([1, -1]))
    def test_finds_it_also_where_nothing_fires_far_away(self, best, first):
        tries = []
        value = 0.0
        for _ in range(20):
            tries.append((value, 30.0 if abs(value - best) > 0.2 else 1.0 + abs(value - best)))
            if tries[-1][1] < 30.0:
                break
            value += next_step(tries, 0.05, first, tolerance=0.1)
        self.assertLess(tries[-1][1], 30.0)

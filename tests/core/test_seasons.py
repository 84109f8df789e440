"""Seasons on the trainer's hidden engines: the advice against one change a start and a plain hand."""

from dataclasses import replace

from django.test import SimpleTestCase
from inbetrieb_core.bench import FAULTS, Fault
from inbetrieb_core.engine import engine_of
from inbetrieb_core.errors import InputRefused
from inbetrieb_core.trainer import (
    HANDS,
    checked_scenario,
    climate,
    found_tables,
    hidden_engine,
    mends,
    open_temperatures,
    play,
    what_it_was,
)

from .seasons import drawn_scenario, season


class SeasonTests(SimpleTestCase):
    def test_the_advice_commissions_drawn_builds_in_few_mornings(self):
        """Needs and wrong tables are drawn; what the advice may know is the log alone."""
        reports = {seed: season(seed, 6) for seed in (1, 3, 4)}
        days = {seed: report.days for seed, report in reports.items()}
        print(f"\nmornings until three drawn builds start well everywhere: {days}")
        self.assertGreaterEqual(sum(found is not None for found in days.values()), 2, reports)

    def test_a_plain_hand_plays_and_loses_nothing(self):
        report = season(5, 2, "a plain hand")
        self.assertEqual(len(report.starts), 6)
        self.assertIn("starts good", report.sentence)

    def test_a_season_has_a_climate_of_its_own_and_comes_again(self):
        first, second = drawn_scenario(1, 9), drawn_scenario(2, 9)
        self.assertNotEqual(climate(first), climate(second))
        self.assertEqual(climate(first), climate(drawn_scenario(1, 9)))
        self.assertEqual(len(climate(first)), 9)

    def test_tables_are_found_wrong(self):
        scenario = drawn_scenario(1, 3)
        engine = hidden_engine(scenario)
        self.assertTrue(open_temperatures(engine, found_tables(scenario)))

    def test_the_truth_is_not_what_was_entered(self):
        scenario = drawn_scenario(7, 3)
        told, true = engine_of(scenario.engine), hidden_engine(scenario).truth
        self.assertEqual(hidden_engine(scenario).spec, told)
        self.assertNotEqual(true.vapour_shift_k, 0.0)
        calm, wild = (hidden_engine(replace(scenario, hidden=h)).truth for h in (0.0, 3.0))
        apart = [abs(t.vapour_shift_k - calm.vapour_shift_k) for t in (calm, true, wild)]
        self.assertEqual(apart[0], 0.0)
        self.assertAlmostEqual(apart[2], 3.0 * apart[1])

    def test_a_hidden_fault_is_found_by_its_family_and_told_at_the_end(self):
        for kind in FAULTS:
            fault = Fault(kind)
            self.assertFalse(mends((), fault))
            self.assertFalse(mends(("wideband-dead",), fault))
            told = what_it_was(hidden_engine(drawn_scenario(1, 2)), (fault,))
            self.assertIn("Hidden fault", told[-1])
        self.assertTrue(mends(("low-pressure",), Fault("injector_flow")))
        self.assertTrue(mends(("no-sync",), Fault("lost_sync")))

    def test_following_the_advice_mends_a_hidden_fault(self):
        scenario = replace(
            drawn_scenario(4, 3), faults=(Fault("slow_pressure", 4.0),), off=0.1, mean_c=5.0
        )
        record = play(scenario, HANDS["the estimate's advice"])
        self.assertEqual(record.faults, ())

    def test_cancelling_ends_it(self):
        class Enough(Exception):
            pass

        def told(day, days):
            raise Enough

        with self.assertRaises(Enough):
            play(drawn_scenario(1, 3), HANDS["a plain hand"], told)

    def test_impossible_scenarios_are_refused_with_a_sentence_each(self):
        scenario = drawn_scenario(1, 3)
        wrong = replace(scenario, days=0, hidden=9.0, title=" ", faults=(Fault("gremlins"),))
        with self.assertRaises(InputRefused) as refused:
            checked_scenario(wrong)
        fields = {problem.field for problem in refused.exception.problems}
        self.assertEqual(fields, {"days", "hidden", "title", "faults"})

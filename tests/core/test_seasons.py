"""A short season: the advice with what was measured, against one change at a time."""

from django.test import SimpleTestCase

from .seasons import by_advice, found_tables, mornings, season


class SeasonTests(SimpleTestCase):
    def test_the_advice_commissions_drawn_engines_in_few_mornings(self):
        """Needs and wrong tables are drawn; what the advice may know is the log alone."""
        reports = {seed: season(seed, 8, by_advice) for seed in (1, 2, 3)}
        print(f"\nseasons of three drawn engines: {reports}")
        done = [report.days for report in reports.values() if report.days is not None]
        self.assertGreaterEqual(len(done), 2, reports)

    def test_a_season_has_a_climate_of_its_own(self):
        self.assertNotEqual(mornings(1, 5), mornings(2, 5))
        self.assertEqual(mornings(1, 5), mornings(1, 5))

    def test_tables_are_found_wrong(self):
        from .seasons import drawn_engine, open_temperatures

        engine = drawn_engine(1)
        self.assertTrue(open_temperatures(engine, found_tables(engine, 1)))

"""An engine that leans out, sinks and is caught by cranking fuel, again and again: written by hand."""

from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from inbetrieb_core.basemaps import generate
from inbetrieb_core.causes import cranked_anew_s
from inbetrieb_core.starts import StartSetting, judge_log

from .engines import FOUR
from .traces import GOOD, start_trace

#: Runs at 3.3 s, sinks at 22 s and at 42 s, and is caught each time.
SINKS = [
    (0, 0), (2, 0), (2.15, 220), (3.0, 230), (3.3, 700), (4.0, 1250), (6.0, 1000), (20.0, 960),
    (22.0, 230), (22.6, 700), (23.0, 1200), (25.0, 980), (40.0, 950), (42.0, 240), (42.6, 700),
    (43.0, 1200), (45.0, 970), (59.0, 950), (61.0, 240), (61.6, 700), (62.0, 1200), (64.0, 960),
]  # fmt: skip
#: The mixture leans out to 14 % lean each time as the after-start enrichment ends.
MIXTURE = [
    (0, 1.36), (9, 1.36), (9.5, 0.92), (20, 1.14), (22, 1.3), (23.5, 0.8), (26, 0.85), (40, 1.14),
    (42, 1.3), (43.5, 0.8), (46, 0.85), (59, 1.14), (61, 1.3), (63, 0.8), (64, 0.85),
]  # fmt: skip


def given(tables, **values):
    for key, value in values.items():
        table = tables[key]
        tables = tables.with_table(replace(table, values=np.full_like(table.values, value)))
    return tables


class CrankedAnewTests(SimpleTestCase):
    def setUp(self):
        self.tables = given(
            generate(FOUR),
            after_start_enrichment=50.0,
            after_start_fade=20.0,
            warm_up_enrichment=100.0,
        )
        self.trace = start_trace(SINKS, mixture=MIXTURE, lambda_target=1.0, end=64.0)

    def judged(self, trace=None):
        return judge_log(trace or self.trace, self.tables, StartSetting(FOUR))

    def test_each_time_is_found(self):
        found = cranked_anew_s(self.trace, 3.3, 64.0, FOUR.crank_to_run_rpm)
        self.assertEqual(3, len(found))
        for at, told in zip((22.4, 42.4, 61.4), found, strict=True):
            self.assertAlmostEqual(at, told, delta=0.3)

    def test_a_dip_above_cranking_is_none(self):
        """Low, but the pulse is no cranking pulse: the controller never went back."""
        points = [
            (t, 0.85 * FOUR.crank_to_run_rpm if rpm in (230, 240) and t > 5 else rpm)
            for t, rpm in SINKS
        ]
        steady = start_trace(points, pulse_ms=3.0)
        self.assertEqual((), cranked_anew_s(steady, 3.3, 64.0, FOUR.crank_to_run_rpm))
        pulse = [(0, 3.0), (21.75, 3.0), (21.95, 12.0), (22.1, 12.0), (22.3, 3.0), (64, 3.0)]
        cranks = start_trace(points, pulse_ms=pulse)
        self.assertEqual(1, len(cranked_anew_s(cranks, 3.3, 64.0, FOUR.crank_to_run_rpm)))

    def test_its_after_start_counts_anew(self):
        """Half the fade after it was caught half of the enrichment is there again."""
        after = [
            s for s in self.judged().observed.stretches if 31.0 < 3.2 + s.after_s + 19.2 < 34.0
        ]
        self.assertTrue(after)
        for stretch in after:
            self.assertAlmostEqual(
                np.log1p(0.5 * (1 - stretch.after_s / 20.0)), stretch.after_start, delta=0.03
            )

    def test_it_asks_for_warm_up_though_nothing_settled(self):
        analysis = self.judged()
        told = [e for e in analysis.taught if e.quantity == "warm_up_enrichment"]
        self.assertTrue(told)
        for evidence in told:
            self.assertGreater(evidence.value, 102.0)
            self.assertGreater(evidence.spread, 0.05)  # the after-start stands beside it
        self.assertIn("cranked-anew", [finding.key for finding in analysis.findings])

    def test_a_start_that_runs_on_is_not_accused(self):
        analysis = self.judged(start_trace(GOOD))
        self.assertNotIn("cranked-anew", [finding.key for finding in analysis.findings])

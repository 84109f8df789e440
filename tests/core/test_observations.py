"""A start as somebody saw and heard it: what is taken, and what is advised from it.

The expectations are common practice of the trade with no published source.
"""

import itertools
import math

from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from inbetrieb_core.errors import InputRefused
from inbetrieb_core.starts import VERDICTS
from inbetrieb_core.tables import DEFINITIONS

from tests.examples import few

from .test_starts_rules import NO_SHOT, log, observe
from .traces import GOOD, NO_FIRE


class ObservationTests(SimpleTestCase):
    def test_counts_less_than_a_log(self):
        seen = observe("no fire", coolant=20.0, setting=NO_SHOT, cranking_s=7.0)
        logged = log(NO_FIRE, NO_SHOT)
        self.assertEqual(seen.advice[0].table, logged.advice[0].table)
        self.assertLess(seen.advice[0].confidence, logged.advice[0].confidence)

    def test_no_figure_is_made_up(self):
        """Nobody measured the throttle: no percentage may stand in the advice."""
        seen = observe("started on the pedal", cranking_s=1.0)
        self.assertIsNone(seen.figures.pedal_pct)
        self.assertNotIn("% throttle", seen.advice[0].reason)
        logged = log(GOOD, throttle_pct=[(0, 0), (2.5, 0), (2.6, 15), (4, 15), (4.2, 0), (25, 0)])
        self.assertIn("(15 % throttle)", logged.advice[0].reason)

    def test_impossible_figures_are_refused_by_field(self):
        for field, value in (
            ("cranking_s", -1.0),
            ("flare_rpm", 90_000.0),
            ("lambda_later", 14.7),
            ("ran_s", math.nan),
        ):
            with self.subTest(field=field), self.assertRaises(InputRefused) as caught:
                observe("started", **{field: value})
            self.assertEqual(caught.exception.problems[0].field, f"observation.{field}")
        with self.assertRaises(InputRefused):
            observe("exploded")

    @settings(max_examples=few(150), deadline=None)
    @given(
        st.sampled_from(VERDICTS),
        st.floats(-35, 110),
        st.none() | st.floats(0, 20),
        st.none() | st.floats(300, 3000),
        st.none() | st.floats(200, 2000),
        st.none() | st.floats(0.65, 1.35),
    )
    def test_whatever_is_seen_at_most_one_thing_is_advised(
        self, outcome, coolant, crank, flare, settled, mixture
    ):
        analysis = observe(
            outcome,
            coolant,
            cranking_s=crank,
            flare_rpm=flare,
            settled_rpm=settled,
            lambda_later=mixture,
        )
        self.assertLessEqual(len(analysis.advice), 1)
        for advice in analysis.advice:
            self.assertTrue(0 < advice.confidence < 1 and advice.reason and advice.disproof)
            for change in advice.changes:
                definition = DEFINITIONS[advice.table]
                self.assertTrue(definition.lower <= change.after <= definition.upper)
                self.assertNotEqual(change.before, change.after)
            self.assertNotIn(advice.table, [wait.table for wait in analysis.waits])

    def test_a_speed_of_the_starter_is_none_it_ran_at(self):
        for seen in ({"flare_rpm": 0.0}, {"flare_rpm": 1e-300}, {"settled_rpm": 0.0}):
            with self.subTest(seen), self.assertRaisesRegex(InputRefused, "between 200 and"):
                observe("started", **seen)

    def test_every_speed_that_is_taken_is_judged(self):
        for flare, settled in itertools.product((200.0, 900.0, 12_000.0), (200.0, 8000.0)):
            self.assertTrue(observe("started", flare_rpm=flare, settled_rpm=settled).sentence)

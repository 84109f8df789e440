"""How far readings are trusted: against engines whose truth is known, and by what may never happen."""

import math
from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st
from inbetrieb_core.basemaps import generate
from inbetrieb_core.estimate import Evidence, estimate
from inbetrieb_core.estimate.coordinates import COORDINATES
from inbetrieb_core.estimate.process import KNOTS_C, Reading, posterior
from inbetrieb_core.estimate.trusted import trusted

from .engines import FOUR

WARM_UP = COORDINATES["warm_up_enrichment"]
NONE = np.zeros(KNOTS_C.size)
READINGS = st.lists(
    st.builds(
        Reading,
        st.floats(-20.0, 95.0),
        st.floats(-0.4, 0.6),
        st.floats(0.01, 0.1),
        st.one_of(st.none(), st.integers(1, 9)),
    ),
    max_size=14,
)


def need(coolant_c):
    """A truth of its own form: it falls with the square of the distance to 90 °C. [ln]"""
    return 0.32 * (max(0.0, 90.0 - coolant_c) / 100.0) ** 2


def read(trial, places, off=0.0, spread=0.02):
    return [Reading(c, need(c) + off, spread, trial) for c in places]


def told_at(readings, coolant_c):
    curve = posterior(NONE, WARM_UP, trusted(NONE, WARM_UP, readings))
    return float(curve.at(np.array([coolant_c]))[0])


class TrustedTests(SimpleTestCase):
    def test_a_reading_that_two_others_contradict_no_longer_pulls(self):
        """A rich misfire that was read as 35 % less, then two mornings that were read rightly."""
        wrong = read(1, (18.0, 23.0), off=-0.35, spread=0.04)
        right = read(2, (19.0, 22.0)) + read(3, (20.0, 24.0))
        self.assertAlmostEqual(need(21.0), told_at([*wrong, *right], 21.0), delta=0.02)
        plain = posterior(NONE, WARM_UP, [*wrong, *right]).at(np.array([21.0]))[0]
        self.assertGreater(abs(plain - need(21.0)), 0.025)

    def test_a_need_that_moves_as_the_idle_is_put_right_is_followed(self):
        readings = []
        for trial, off in enumerate((-0.12, -0.07, -0.03, 0.0, 0.0), start=1):
            readings += read(trial, (44.0, 48.0), off=off)
        plain = posterior(NONE, WARM_UP, readings).at(np.array([46.0]))[0]
        off = abs(told_at(readings, 46.0) - need(46.0))
        self.assertLess(off, 0.035)
        self.assertLess(off, 0.85 * abs(plain - need(46.0)))

    def test_what_agrees_is_left_as_it_is(self):
        readings = read(1, (-5.0, 30.0)) + read(2, (60.0, 85.0))
        self.assertEqual(readings, trusted(NONE, WARM_UP, readings))

    def test_what_like_engines_told_makes_no_reading_older(self):
        """It is no later trial: with it the engine is known better, never worse."""
        own = [
            Evidence("warm_up_enrichment", "measured", c, 120.0, 0.02, "", trial)
            for trial, c in ((1, 8.0), (2, 12.0))
        ]
        like = Evidence("warm_up_enrichment", "like", 10.0, 120.0, 0.2)
        calibration, place = generate(FOUR), np.array([10.0])
        alone, known = (
            estimate(FOUR, calibration, found).curves["warm_up_enrichment"].spread_at(place)[0]
            for found in (own, [*own, like])
        )
        self.assertLessEqual(known, alone)

    def test_a_single_log_is_not_doubted(self):
        readings = read(4, (10.0, 20.0), off=0.5)
        self.assertEqual(readings, trusted(NONE, WARM_UP, readings))

    @given(READINGS)
    def test_no_reading_grows_surer_and_none_is_lost(self, readings):
        after = trusted(NONE, WARM_UP, readings)
        self.assertEqual(len(readings), len(after))
        for before, now in zip(readings, after, strict=True):
            self.assertGreaterEqual(now.spread, before.spread - 1e-12)
            self.assertEqual(replace(now, spread=before.spread), before)

    @given(READINGS, st.randoms(use_true_random=False))
    def test_the_order_does_not_matter(self, readings, chance):
        mixed = list(readings)
        chance.shuffle(mixed)
        here = {(r.coolant_c, r.value, r.spread, r.trial): r for r in readings}
        first = dict(zip(map(repr, readings), trusted(NONE, WARM_UP, readings), strict=True))
        second = dict(zip(map(repr, mixed), trusted(NONE, WARM_UP, mixed), strict=True))
        self.assertEqual(set(first), {repr(r) for r in here.values()})
        for key, reading in first.items():
            self.assertTrue(math.isclose(reading.spread, second[key].spread, rel_tol=1e-5))

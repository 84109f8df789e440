"""Two logs on one clock."""

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from inbetrieb_core.errors import LogRefused
from inbetrieb_core.logs import align

from tests.examples import few


def drive(draw, seconds=240.0):
    """Return times and speeds of a drive: ramps and holds."""
    knots = np.cumsum(draw.uniform(3, 9, 60))
    time = np.arange(0.0, seconds, 0.02)
    return time, np.interp(time, knots, draw.uniform(900, 5500, 60))


class AlignmentTests(SimpleTestCase):
    @settings(max_examples=few(40), deadline=None)
    @given(st.integers(0, 10_000), st.floats(-80.0, 80.0))
    def test_a_shift_is_found_whatever_rate_noise_and_gain(self, seed, shift):
        draw = np.random.default_rng(seed)
        time, rpm = drive(draw)
        other_s = np.arange(30.0, 200.0, draw.uniform(0.03, 0.25))
        # Another logger: its own rate, its own scale, and readings that are missing.
        other = 0.97 * np.interp(other_s, time, rpm) + 40.0 + draw.normal(0, 60, len(other_s))
        other[draw.random(len(other)) < 0.05] = np.nan
        told = align(time, rpm, other_s - shift, other)
        self.assertTrue(told.is_told, told)
        self.assertAlmostEqual(told.shift_s, shift, delta=0.12)

    def test_logs_of_different_drives_are_not_forced_together(self):
        draw = np.random.default_rng(3)
        wrong = 0
        for _ in range(12):
            wrong += align(*drive(draw), *drive(draw)).is_told
        self.assertLessEqual(wrong, 1)

    def test_what_says_nothing_of_time_is_refused(self):
        time = np.arange(0.0, 60.0, 0.1)
        with self.assertRaisesRegex(LogRefused, "does not move"):
            align(time, np.full(600, 900.0), time, np.sin(time))
        with self.assertRaisesRegex(LogRefused, "Three seconds"):
            align(time[:10], np.sin(time[:10]), time, np.sin(time))

"""Decoding of edges that another maker made: own wheel, own speed, own noise.

The edges here are not those of the bench engine: a shaft is turned step by step by torque and
compression, and an edge is noted where it passes a tooth.
"""

import math

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from inbetrieb_core.triggers import PATTERNS, Capture, decode
from inbetrieb_core.triggers.wheel import toothed

from tests.examples import few

TOLD_APART = ("36−1", "60−2", "12−1", "36−2−2−2")


def turned(edges_deg, turn_deg, seconds, mean_rpm, chambers=4, depth=0.3, begin_deg=0.0):
    """Return the times at which a shaft passes the edges of a wheel.

    The shaft is integrated in steps of 20 µs: the starter pulls, each compression brakes and gives
    back, so the speed swings about its mean as that of a cranked engine does. [s]
    """
    step = 2e-5
    count = int(seconds / step)
    firing = 720.0 / chambers
    speed = 6.0 * mean_rpm
    angle = np.empty(count)
    now = begin_deg
    for i in range(count):
        angle[i] = now
        swing = 1.0 - depth * math.sin(math.pi * (now % firing) / firing) ** 2 + depth / 2.0
        now += speed * swing * step
    turns = math.ceil((angle[-1] - begin_deg) / turn_deg) + 2
    first = math.floor(begin_deg / turn_deg) * turn_deg
    places = first + np.concatenate([np.array(edges_deg) + k * turn_deg for k in range(turns)])
    places = places[(places > angle[0]) & (places < angle[-1])]
    return np.interp(places, angle, np.arange(count) * step)


def capture(times):
    return Capture(np.asarray(times), np.array([]))


class OwnShaftTests(SimpleTestCase):
    def edges(self, name, **more):
        wheel = PATTERNS[name]
        return turned(wheel.edges_deg, wheel.turn_deg, 3.0, 190.0, **more)

    def test_each_common_wheel_agrees_with_itself_and_is_told_from_another(self):
        for fitted in TOLD_APART:
            times = self.edges(fitted, depth=0.2)
            for believed in TOLD_APART:
                with self.subTest(fitted=fitted, believed=believed):
                    verdict = decode(capture(times), PATTERNS[believed]).verdict
                    self.assertEqual(verdict, "agrees" if believed == fitted else "other")

    def test_however_hard_the_speed_swings_no_wheel_agrees_with_another(self):
        """A coarse wheel may not be told any more; it is never called the one that is believed."""
        for fitted in TOLD_APART:
            times = self.edges(fitted, depth=0.3)
            for believed in TOLD_APART:
                with self.subTest(fitted=fitted, believed=believed):
                    verdict = decode(capture(times), PATTERNS[believed]).verdict
                    self.assertEqual(verdict == "agrees", believed == fitted)

    def test_too_short_a_capture_proves_nothing_and_says_so(self):
        times = self.edges("60−2", depth=0.3)
        decoded = decode(capture(times[: int(1.4 * 58)]), PATTERNS["36−1"])
        self.assertEqual(decoded.verdict, "unknown", decoded.sentence)
        self.assertIn("crank longer", decoded.sentence)
        # Three turns of a coarse wheel are enough to name it, and never a spoilt fine one.
        coarse = decode(capture(self.edges("12−1", depth=0.3)), PATTERNS["60−2"])
        self.assertEqual((coarse.verdict, coarse.followed.wheel.name), ("other", "12−1"))
        alone = decode(capture(times[: int(1.4 * 58)]), PATTERNS["60−2"])
        self.assertEqual(alone.verdict, "unknown")
        self.assertIn("crank longer", alone.sentence)

    def test_the_speed_is_that_of_the_shaft(self):
        for rpm in (120.0, 250.0, 400.0):
            wheel = PATTERNS["36−1"]
            times = turned(wheel.edges_deg, wheel.turn_deg, 3.0, rpm, depth=0.2)
            turns = (times.size - 1) / 35.0
            expected = 60.0 * turns / (times[-1] - times[0])
            with self.subTest(rpm=rpm):
                decoded = decode(capture(times), wheel)
                self.assertAlmostEqual(decoded.speed_rpm, expected, delta=0.03 * expected)

    def test_where_the_capture_begins_does_not_matter(self):
        for begin in (0.0, 77.0, 181.0, 355.0, 600.0):
            with self.subTest(begin=begin):
                decoded = decode(capture(self.edges("60−2", begin_deg=begin)), PATTERNS["60−2"])
                self.assertEqual(decoded.verdict, "agrees", decoded.sentence)

    def test_other_numbers_of_cylinders_swing_otherwise(self):
        for chambers, depth in ((1, 0.45), (2, 0.4), (3, 0.35), (6, 0.2), (8, 0.12)):
            with self.subTest(chambers=chambers):
                times = self.edges("36−1", chambers=chambers, depth=depth)
                self.assertEqual(decode(capture(times), PATTERNS["36−1"]).verdict, "agrees")

    def test_teeth_that_are_not_cut_evenly(self):
        """A wheel from a drill press: every tooth up to half a degree off its place."""
        chance = np.random.default_rng(4)
        wheel = PATTERNS["36−1"]
        drilled = np.sort(np.array(wheel.edges_deg) + chance.uniform(-0.5, 0.5, 35)) % 360.0
        decoded = decode(capture(turned(np.sort(drilled), 360.0, 3.0, 190.0)), wheel)
        self.assertEqual(decoded.verdict, "agrees", decoded.sentence)

    def test_missed_teeth_are_counted_whatever_they_are(self):
        chance = np.random.default_rng(9)
        times = self.edges("60−2")
        kept = chance.random(times.size) > 0.03
        decoded = decode(capture(times[kept]), PATTERNS["60−2"])
        self.assertEqual(decoded.verdict, "weak", decoded.sentence)
        self.assertAlmostEqual(decoded.lost_share, 1.0 - kept.mean(), delta=0.012)

    def test_spikes_between_the_teeth_are_counted(self):
        chance = np.random.default_rng(10)
        times = self.edges("36−1")
        spikes = chance.uniform(times[0], times[-1], int(0.03 * times.size))
        decoded = decode(capture(np.sort(np.concatenate([times, spikes]))), PATTERNS["36−1"])
        self.assertEqual(decoded.verdict, "noise", decoded.sentence)
        self.assertAlmostEqual(decoded.extra_share, 0.03, delta=0.015)

    def test_a_wheel_of_no_list_is_described_by_its_own_edges(self):
        fitted = toothed("48−1", 48, [47])
        times = turned(fitted.edges_deg, 360.0, 4.0, 210.0, depth=0.2)
        decoded = decode(capture(times), PATTERNS["36−1"])
        self.assertEqual(decoded.verdict, "other", decoded.sentence)
        self.assertEqual(len(decoded.followed.wheel.edges_deg), 47)


class InvarianceTests(SimpleTestCase):
    TIMES = turned(PATTERNS["36−1"].edges_deg, 360.0, 2.0, 200.0, depth=0.2)

    @settings(max_examples=few(12), deadline=None)
    @given(st.floats(0.2, 8.0), st.floats(0.0, 5000.0))
    def test_the_clock_may_run_at_any_rate_from_any_time(self, rate, begin):
        """What stands in the edges are shares of a turn; only the speed has a clock."""
        plain = decode(capture(self.TIMES), PATTERNS["36−1"])
        moved = decode(capture(begin + self.TIMES / rate), PATTERNS["36−1"])
        self.assertEqual(moved.verdict, plain.verdict)
        self.assertAlmostEqual(moved.speed_rpm / plain.speed_rpm, rate, delta=0.01 * rate)

    @settings(max_examples=few(8), deadline=None)
    @given(st.integers(0, 60))
    def test_edges_left_out_at_the_beginning_change_nothing(self, dropped):
        decoded = decode(capture(self.TIMES[dropped:]), PATTERNS["36−1"])
        self.assertEqual(decoded.verdict, "agrees", decoded.sentence)

    @settings(max_examples=few(12), deadline=None)
    @given(st.integers(0, 2**31))
    def test_a_little_jitter_changes_no_verdict(self, seed):
        chance = np.random.default_rng(seed)
        steps = np.diff(self.TIMES)
        shaken = self.TIMES + chance.normal(0.0, 0.01 * float(np.median(steps)), self.TIMES.size)
        self.assertEqual(decode(capture(np.sort(shaken)), PATTERNS["36−1"]).verdict, "agrees")

    @settings(max_examples=few(12), deadline=None)
    @given(st.integers(0, 2**31), st.sampled_from(TOLD_APART))
    def test_edges_of_chance_are_no_wheel(self, seed, believed):
        chance = np.random.default_rng(seed)
        times = np.cumsum(chance.exponential(0.004, 500) + 1e-5)
        self.assertIn(
            decode(capture(times), PATTERNS[believed]).verdict, ("unknown", "noise", "weak")
        )

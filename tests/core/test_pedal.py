"""A foot on the pedal is not idle: what it hides is not told."""

import numpy as np
from django.test import SimpleTestCase
from inbetrieb_core.basemaps import generate
from inbetrieb_core.logs import Trace
from inbetrieb_core.logs.pedal import pedal_opening_pct, pedal_rests
from inbetrieb_core.starts import StartSetting, judge_log

from .engines import FOUR
from .traces import GOOD, RIGHT_MIXTURE, start_trace

CALIBRATION = generate(FOUR)


def judged(points, throttle, **channels):
    trace = start_trace(points, throttle_pct=throttle, **{**RIGHT_MIXTURE, **channels})
    return judge_log(trace, CALIBRATION, StartSetting(FOUR))


class PedalTests(SimpleTestCase):
    REST = [(0, 1.2), (45, 1.2)]

    def test_at_rest_nothing_changes(self):
        for offset in (0.0, 1.2, 14.0):  # a throttle that reads 14 % closed is closed all the same
            self.assertTrue(judged(GOOD, [(0, offset), (45, offset)]).good)

    def test_a_car_driven_away_does_not_idle_too_fast(self):
        away = [*GOOD[:-1], (15, 985), (17, 2006), (45, 2006)]
        for opening in (9.0, 3.0):
            analysis = judged(away, [(0, 1), (15, 1), (15.5, 1 + opening), (45, 1 + opening)])
            self.assertEqual(analysis.verdict, "started")
            self.assertEqual(analysis.advice, ())
            self.assertIn("pedal", [finding.key for finding in analysis.findings])
            self.assertIn("mixture", analysis.acceptance.unseen)

    def test_a_blip_is_no_flare(self):
        blip = [*GOOD[:5], (4.0, 1000), (4.6, 2300), (6.5, 1000), (8.0, 985), (45, 975)]
        pedal = [(0, 1), (3.9, 1), (4.0, 13), (4.6, 13), (4.7, 1), (45, 1)]
        analysis = judged(blip, pedal)
        self.assertIsNone(analysis.figures.flare_rpm)
        self.assertIn("flare", analysis.acceptance.unseen)
        self.assertEqual([a.table for a in analysis.advice], [])

    def test_idle_after_a_drive_is_judged_again(self):
        drive = [*GOOD[:-1], (10, 985), (11, 2500), (14, 2500), (16, 980), (60, 976)]
        pedal = [(0, 1), (10, 1), (10.1, 20), (14, 20), (14.1, 1), (60, 1)]
        figures = judged(drive, pedal).figures
        self.assertAlmostEqual(figures.steady_rpm, 978.0, delta=8.0)
        self.assertLess(abs(figures.idle_off_rpm), 60.0)

    def test_a_foot_that_starts_the_engine_is_said(self):
        analysis = judged(GOOD, [(0, 1), (2.2, 1), (2.4, 12), (4.0, 12), (4.2, 1), (45, 1)])
        self.assertEqual(analysis.verdict, "started on the pedal")

    def test_a_rolling_car_is_not_idling_whatever_the_throttle_says(self):
        away = [*GOOD[:-1], (15, 985), (17, 1900), (45, 1900)]
        analysis = judged(away, self.REST, speed_kmh=[(0, 0), (15, 0), (20, 30), (45, 30)])
        self.assertEqual(analysis.advice, ())

    def test_noise_and_single_odd_samples_are_no_foot(self):
        chance = np.random.default_rng(3)
        trace = start_trace(GOOD, **RIGHT_MIXTURE)
        throttle = 2.0 + chance.normal(0.0, 0.25, trace.time_s.size)
        throttle[::97] = 40.0
        noisy = Trace({**trace.channels, "throttle_pct": throttle})
        self.assertTrue(pedal_rests(noisy, 2.0).all())
        self.assertLess(float(np.nanmax(pedal_opening_pct(noisy, 2.0))), 2.5)

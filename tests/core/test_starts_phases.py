"""Moments and verdicts on traces written by hand, at several rates and with channels missing."""

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from inbetrieb_core.basemaps import generate
from inbetrieb_core.errors import CoreError
from inbetrieb_core.logs import Trace
from inbetrieb_core.logs.usable_lambda import usable_lambda
from inbetrieb_core.starts import NoStartError, StartSetting, find_starts, judge_log

from tests.examples import few

from .engines import FOUR
from .traces import DIED, GOOD, LATE, NO_FIRE, RAN_AND_DIED, RIGHT_MIXTURE, start_trace

CALIBRATION = generate(FOUR)
SETTING = StartSetting(FOUR)


def judge(points, **kinds):
    return judge_log(start_trace(points, **kinds), CALIBRATION, SETTING)


class VerdictTests(SimpleTestCase):
    CASES = {
        "started": (GOOD, {}),
        "no fire": (NO_FIRE, {}),
        "fired and died": (DIED, {}),
        "started and died": (RAN_AND_DIED, {}),
        "started on the pedal": (
            GOOD,
            {"throttle_pct": [(0, 0), (2.5, 0), (2.6, 15), (4, 15), (4.2, 0), (25, 0)]},
        ),
        "slow crank": ([(0, 0), (2, 0), (2.3, 60), (8, 62), (8.3, 0), (10, 0)], {}),
        "no sync": (NO_FIRE, {"sync": 0.0}),
        "no crank": ([(0, 0), (8, 0)], {"battery_v": 12.4}),
    }

    def test_each_verdict_at_each_rate(self):
        for verdict, (points, channels) in self.CASES.items():
            for rate in (5.0, 10.0, 20.0, 50.0, 100.0):
                with self.subTest(verdict=verdict, rate=rate):
                    self.assertEqual(judge(points, rate=rate, **channels).verdict, verdict)

    def test_speed_alone_is_enough_if_coolant_is_told(self):
        setting = StartSetting(FOUR, coolant_c=20.0)
        analysis = judge_log(start_trace(GOOD, coolant=None), CALIBRATION, setting)
        self.assertEqual(analysis.verdict, "started")
        with self.assertRaisesRegex(CoreError, "how warm"):
            judge_log(start_trace(GOOD, coolant=None), CALIBRATION, SETTING)

    def test_a_starter_that_stalls_is_no_crank_although_nothing_turns(self):
        sagging = [(0, 12.5), (2, 12.5), (2.1, 6.2), (6, 6.2), (6.1, 12.2), (8, 12.2)]
        self.assertEqual(judge([(0, 0), (8, 0)], battery_v=sagging).verdict, "no crank")

    def test_a_turning_engine_without_any_speed_is_no_sync(self):
        cranked = [(0, 12.5), (2, 12.5), (2.1, 10.4), (6, 10.4), (6.1, 12.2), (8, 12.2)]
        analysis = judge([(0, 0), (8, 0)], battery_v=cranked)
        self.assertEqual(analysis.verdict, "no sync")
        self.assertEqual(analysis.advice[0].rule, "no-sync")

    @settings(max_examples=few(15), deadline=None)
    @given(st.floats(0.0, 4.0), st.integers(0, 2**32 - 1), st.sampled_from([10.0, 25.0, 50.0]))
    def test_noise_and_ripple_do_not_change_the_verdict(self, noise, seed, rate):
        trace = start_trace(GOOD, rate=rate, **RIGHT_MIXTURE)
        time = trace.time_s
        ripple = 10.0 * np.sin(40 * time) * (trace["rpm"] < 400) * (trace["rpm"] > 0)
        noisy = np.maximum(
            0,
            trace["rpm"] + noise * np.random.default_rng(seed).standard_normal(time.shape) + ripple,
        )
        again = judge_log(Trace({**trace.channels, "rpm": noisy}), CALIBRATION, SETTING)
        self.assertEqual((again.verdict, again.good), ("started", True))


class FigureTests(SimpleTestCase):
    def test_times_and_speeds_of_a_good_start(self):
        f = judge(GOOD, rate=50.0).figures
        self.assertAlmostEqual(f.cranking_rpm, 226, delta=8)
        self.assertAlmostEqual(f.fire_after_s, 1.06, delta=0.12)
        self.assertAlmostEqual(f.flare_rpm, 1250, delta=25)
        self.assertTrue(f.settled_after_s < 4.0)
        self.assertAlmostEqual(f.steady_rpm, 980, delta=6)

    def test_late_fire(self):
        self.assertAlmostEqual(judge(LATE, rate=50.0).figures.fire_after_s, 4.0, delta=0.15)

    def test_phases_stand_in_order_and_cover_the_start(self):
        phases = judge(GOOD).phases
        names = [phase.name for phase in phases]
        for name in (
            "key-on",
            "cranking",
            "first fire",
            "run-up",
            "flare",
            "after-start",
            "settled",
            "warm-up",
        ):
            self.assertIn(name, names)
        starts = [
            phase.start_s
            for phase in phases
            if phase.name in ("key-on", "cranking", "run-up", "flare")
        ]
        self.assertEqual(starts, sorted(starts))
        self.assertIn("stall", [phase.name for phase in judge(RAN_AND_DIED).phases])
        self.assertIn("idle", [phase.name for phase in judge(GOOD, coolant=90.0).phases])

    def test_pressure_sync_and_battery(self):
        f = judge(
            LATE,
            fuel_pressure_kpa=[(0, 80), (2, 90), (4.5, 300), (28, 300)],
            sync=[(0, 0), (3.4, 0), (3.45, 1), (28, 1)],
            battery_v=[(0, 12.4), (2, 12.4), (2.1, 9.8), (6.2, 9.9), (8, 14), (28, 14)],
        ).figures
        self.assertAlmostEqual(f.pressure_late_s, 2.0, delta=0.3)
        self.assertLess(f.pressure_share, 0.6)
        self.assertAlmostEqual(f.sync_late_s, 1.45, delta=0.15)
        self.assertAlmostEqual(f.battery_rest_v, 12.4, delta=0.05)
        self.assertAlmostEqual(f.battery_low_v, 9.8, delta=0.05)

    def test_switching_off_is_not_a_stall(self):
        points = [*GOOD[:-1], (20, 980), (21.2, 0), (23, 0)]
        off = [(0, 0), (2, 20), (19.9, 4), (20, 0), (23, 0)]
        self.assertEqual(judge(points, pulse_ms=off).verdict, "started")
        self.assertEqual(judge(points, pulse_ms=4.0).verdict, "started and died")
        # Without pulses: it held its target to the last, so somebody turned the key.
        self.assertEqual(judge(points).verdict, "started")
        sagging = [*GOOD[:-1], (14, 980), (18, 700), (20, 500), (20.5, 0), (23, 0)]
        self.assertEqual(judge(sagging).verdict, "started and died")

    def test_hunting_is_found_with_its_period(self):
        trace = start_trace(GOOD, rate=25.0, end=40)
        swing = 90 * np.sin(2 * np.pi * trace.time_s / 1.6) * (trace.time_s > 7)
        analysis = judge_log(
            Trace({**trace.channels, "rpm": trace["rpm"] + swing}), CALIBRATION, SETTING
        )
        self.assertAlmostEqual(analysis.figures.hunting_period_s, 1.6, delta=0.15)
        self.assertIsNone(judge(GOOD, rate=25.0).figures.hunting_rpm)


class PositionTests(SimpleTestCase):
    def test_nothing_fires_before_the_position_is_known(self):
        """Without it no spark is given (a fact of the trade, common practice, no source)."""
        for known_s in (2.4, 2.9, 3.05):
            sync = [(0, 0), (known_s - 0.01, 0), (known_s, 1), (60, 1)]
            figures = judge(GOOD, sync=sync).figures
            with self.subTest(known_s=known_s):
                self.assertGreaterEqual(figures.fire_after_s, figures.sync_late_s - 0.051)
        late = judge(GOOD, sync=[(0, 0), (9.0, 0), (9.01, 1), (60, 1)]).figures
        self.assertLess(late.fire_after_s, 2.0)  # a channel that comes once it runs says nothing


class WindowTests(SimpleTestCase):
    def test_restarts_are_starts_of_their_own(self):
        points = [*NO_FIRE, *[(t + 14, n) for t, n in NO_FIRE], *[(t + 28, n) for t, n in GOOD]]
        trace = start_trace(points)
        windows = find_starts(trace, 450.0)
        self.assertEqual(len(windows), 3)
        for window, following in zip(windows, windows[1:], strict=False):
            self.assertLessEqual(window.end_s, following.begin_s + 1e-9)
        verdicts = [judge_log(trace, CALIBRATION, SETTING, (), n).verdict for n in (1, 2, 3)]
        self.assertEqual(verdicts, ["no fire", "no fire", "started"])
        with self.assertRaisesRegex(NoStartError, "no number 4"):
            judge_log(trace, CALIBRATION, SETTING, (), 4)

    def test_dropped_samples_do_not_split_a_start(self):
        trace = start_trace(GOOD, rate=50.0)
        speed = trace["rpm"].copy()
        speed[135:140] = 0.0
        self.assertEqual(len(find_starts(Trace({**trace.channels, "rpm": speed}), 450.0)), 1)

    def test_a_log_of_a_running_engine_holds_no_start(self):
        with self.assertRaisesRegex(NoStartError, "no start in it"):
            judge([(0, 950), (20, 950)])
        with self.assertRaises(NoStartError):
            find_starts(Trace({"time_s": np.arange(9.0), "coolant_c": np.zeros(9)}), 450.0)

    def test_an_earlier_run_before_the_start_is_passed_over(self):
        points = [(0, 900), (4, 900), (5, 0), (9, 0), *[(t + 9.05, n) for t, n in GOOD]]
        self.assertEqual(judge(points).verdict, "started")

    def test_missing_speed_samples_are_not_turning(self):
        trace = start_trace(GOOD)
        speed = trace["rpm"].copy()
        speed[:20] = np.nan
        self.assertEqual(
            judge_log(Trace({**trace.channels, "rpm": speed}), CALIBRATION, SETTING).verdict,
            "started",
        )


class UsableLambdaTests(SimpleTestCase):
    def usable_from(self, points, **kinds):
        trace = start_trace(GOOD, rate=25.0, mixture=points, **kinds)
        return usable_lambda(trace, 3.2)[1]

    def test_parked_readings_never_count(self):
        for parked in (1.36, 1.0, 0.68):
            with self.subTest(parked=parked):
                self.assertIsNone(self.usable_from([(0, parked), (25, parked)]))
                alive = [(0, parked), (14, parked), (14.2, 0.9), (15, 0.92), (20, 0.95), (25, 0.93)]
                self.assertAlmostEqual(self.usable_from(alive), 15.1, delta=0.6)

    def test_a_hot_sensor_counts_soon_after_the_start(self):
        hot = [(0, 1.8), (2, 1.5), (3.5, 1.1), (4.5, 0.92), (10, 0.94), (25, 0.95)]
        self.assertLess(self.usable_from(hot), 6.0)

    def test_saturated_samples_are_left_out(self):
        trace = start_trace(
            GOOD,
            rate=25.0,
            mixture=[
                (0, 1.36),
                (12, 1.36),
                (12.2, 0.9),
                (16, 0.93),
                (16.1, 1.36),
                (17, 1.36),
                (17.1, 0.9),
                (25, 0.93),
            ],
        )
        mask, _ = usable_lambda(trace, 3.2)
        self.assertTrue(mask.any())
        self.assertTrue((trace["lambda"][mask] < 1.33).all())

    def test_need_follows_target_and_correction(self):
        lean = [(0, 1.36), (8, 1.36), (8.2, 1.06), (12, 1.04), (25, 1.034)]
        need = judge(GOOD, rate=25.0, mixture=lean, lambda_target=0.94).figures.need_settled
        self.assertAlmostEqual(need, 1.10, delta=0.02)
        corrected = judge(
            GOOD, rate=25.0, mixture=lean, lambda_target=0.94, lambda_correction_pct=5.0
        ).figures.need_settled
        self.assertAlmostEqual(corrected / need, 1.05, places=6)

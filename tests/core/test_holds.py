"""What a log holds, and where live samples begin anew."""

import numpy as np
from django.test import SimpleTestCase
from inbetrieb_core.logs import Trace, after_newest_pause, what_holds


def trace(seconds=100.0, **channels):
    time = np.arange(0.0, seconds, 0.1)
    return Trace({"time_s": time, **{k: np.asarray(v(time), float) for k, v in channels.items()}})


class HoldsTests(SimpleTestCase):
    def test_starts_run_time_and_what_of_it_is_warm(self):
        found = what_holds(
            trace(
                rpm=lambda t: np.where((t > 10) & (t < 30) | (t > 50), 900.0, 0.0),
                coolant_c=lambda t: t + 10.0,
            )
        )
        self.assertEqual((found.starts, found.pulls), (2, 0))
        self.assertAlmostEqual(found.running_s, 69.8, delta=0.3)
        self.assertAlmostEqual(found.warm_s, 33.0, delta=0.3)

    def test_an_engine_that_runs_from_the_first_sample_did_not_start_in_it(self):
        self.assertEqual(what_holds(trace(rpm=lambda t: 900.0 + 0 * t)).starts, 0)

    def test_a_pull_is_an_open_pedal_and_a_rise(self):
        pulled = trace(
            rpm=lambda t: np.where((t > 20) & (t < 26), 2000.0 + 500.0 * (t - 20), 2000.0),
            throttle_pct=lambda t: np.where((t > 20) & (t < 26) | (t > 60) & (t < 70), 100.0, 10.0),
        )
        self.assertEqual(what_holds(pulled).pulls, 1)  # open at 60 s, and nothing rose

    def test_places_are_squares_of_speed_and_load_that_it_stood_on_warm(self):
        def driven(**more):
            return what_holds(trace(rpm=lambda t: np.where(t < 50, 2200.0, 3100.0), coolant_c=lambda t: 90.0 + 0 * t, **more)).places  # fmt: skip

        self.assertEqual(driven(map_kpa=lambda t: np.where(t < 25, 45.0, 65.0)), 3)
        # What was passed in less than two seconds is none; without a pressure the pedal is the load.
        self.assertEqual(driven(map_kpa=lambda t: np.where((t > 10) & (t < 11.5), 95.0, 45.0)), 2)
        self.assertEqual(driven(throttle_pct=lambda t: np.where(t < 75, 12.0, 33.0)), 3)
        self.assertEqual(driven(), 0)
        cold = trace(rpm=lambda t: 2200.0 + 0 * t, coolant_c=lambda t: 20.0 + 0 * t, map_kpa=lambda t: 45.0 + 0 * t)  # fmt: skip
        self.assertEqual(what_holds(cold).places, 0)

    def test_without_speed_it_holds_nothing(self):
        self.assertEqual(what_holds(trace(coolant_c=lambda t: t)).running_s, 0.0)

    def test_the_newest_pause_at_any_rate(self):
        for rate in (5.0, 25.0, 100.0):
            time = np.concatenate([np.arange(0, 4, 1 / rate), 9.0 + np.arange(0, 4, 1 / rate)])
            first = after_newest_pause(time)
            self.assertEqual(time[first], 9.0)
            self.assertEqual(after_newest_pause(time[:first]), 0)
        self.assertEqual(after_newest_pause(np.array([1.0])), 0)

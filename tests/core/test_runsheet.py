"""Run sheets: steps, stops and the run-in clock."""

import math

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from inbetrieb_core.engine import EngineSpec, InjectorSet
from inbetrieb_core.errors import InputRefused
from inbetrieb_core.runsheet import (
    OUTCOMES,
    Setup,
    judge_reading,
    outcome_of,
    run_in_of,
    steps_of,
)
from inbetrieb_core.sentences import plain
from inbetrieb_core.starts import VERDICTS

SPEC = EngineSpec(2.0, 4, injectors=InjectorSet(4, 300.0))


class SheetTests(SimpleTestCase):
    @given(st.tuples(*[st.booleans()] * 6))
    @settings(deadline=None)
    def test_every_sheet_goes_from_fluids_to_key_off_and_names_each_step_once(self, ticks):
        steps = steps_of(SPEC, Setup(*ticks))
        keys = [step.key for step in steps]
        self.assertEqual(len(keys), len(set(keys)))
        self.assertEqual((keys[0], keys[-1]), ("fluids", "later"))
        self.assertLess(keys.index("kill"), keys.index("crank"))
        self.assertLess(keys.index("key_2"), keys.index("speed_shows"))
        self.assertLess(keys.index("oil_runs"), keys.index("charging"))
        for step in steps:
            self.assertTrue(step.title and step.text)
            for reading in step.readings:
                if reading.stop_below is not None or reading.stop_above is not None:
                    self.assertTrue(reading.stop, reading.key)

    def test_stops_are_those_of_the_trade(self):
        """Common practice, no source: oil within 5 s, charging above 15 V, timing beyond 2°."""
        by_key = {r.key: r for step in steps_of(SPEC, Setup()) for r in step.readings}
        for key, fine, bad in (
            ("charging_v", 14.2, 15.4), ("timing_off_deg", 1.5, 3.0), ("coolant_c", 90.0, 112.0),
            ("oil_kpa", 250.0, 10.0), ("cranking_rpm", 180.0, 0.0), ("rail_kpa", 300.0, 180.0), ("lambda", 0.9, 1.3),
        ):  # fmt: skip
            self.assertEqual(judge_reading(by_key[key], fine).level, "good")
            judged = judge_reading(by_key[key], bad)
            self.assertEqual(judged.level, "stop")
            self.assertTrue(judged.sentence.startswith("STOP"))
            with self.assertRaises(InputRefused):
                judge_reading(by_key[key], math.nan)

    def test_a_stop_never_names_a_reading_that_looks_like_its_limit(self):
        charging = next(r for step in steps_of(SPEC, Setup()) for r in step.readings if r.key == "charging_v")  # fmt: skip
        for value, told in ((12.98, "12.98"), (12.6, "12.6"), (15.004, "15.004")):
            sentence = plain(judge_reading(charging, value).sentence)
            self.assertTrue(sentence.startswith("STOP"))
            self.assertIn(f" {told} V", sentence)

    def test_every_outcome_is_a_verdict_of_the_starts_and_says_one_thing(self):
        for key in OUTCOMES:
            self.assertIn(outcome_of(key).verdict, VERDICTS)
            self.assertTrue(outcome_of(key).next.endswith("."))
        with self.assertRaises(InputRefused):
            outcome_of("explodes")

    def test_the_run_in_counts_time_in_its_band_and_no_pause(self):
        time = np.concatenate([np.arange(0.0, 600.0, 0.1), np.arange(900.0, 1500.0, 0.1)])
        rpm = np.full(time.size, 2550.0)
        rpm[:1000] = 900.0
        found = run_in_of(time, rpm, length_s=1200.0)
        self.assertAlmostEqual(found.counted_s, 1100.0, delta=1.0)
        self.assertAlmostEqual(found.outside_s, 100.0, delta=1.0)
        self.assertFalse(found.done)
        self.assertTrue(run_in_of(time, rpm, length_s=1200.0, before_s=200.0).done)
        with self.assertRaises(InputRefused):
            run_in_of(time, rpm, speed_rpm=math.nan)

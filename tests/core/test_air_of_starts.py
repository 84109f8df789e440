"""Starts in other air than the coolant lets expect: a restart on a warm engine, with cold or with soaked air."""

import math
from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st
from inbetrieb_core.basemaps import generate
from inbetrieb_core.bench import NAMED, StartConditions, simulate_start
from inbetrieb_core.charge.charge_temperature import opening_passes_more, thinner_charge
from inbetrieb_core.estimate.cranking import cranking_posterior
from inbetrieb_core.logs import Trace
from inbetrieb_core.starts import StartSetting, judge_log, past_try

from .engines import FOUR
from .test_estimate import ran
from .traces import GOOD, start_trace

CALIBRATION = generate(FOUR)


def taught_in(intake_c, coolant_c=80.0):
    trace = start_trace(GOOD, coolant=coolant_c, intake_c=intake_c)
    analysis = judge_log(trace, CALIBRATION, StartSetting(FOUR))
    (cranked,) = (
        e for e in past_try(analysis, CALIBRATION).taught if e.quantity == "cranking_fuel"
    )
    return analysis, cranked.outcome


class AirOfStartsTests(SimpleTestCase):
    def test_ordinary_air_is_as_cold_as_a_cold_engine_and_20_at_a_warm_one(self):
        for coolant_c, air_c in ((-10.0, -10.0), (5.0, 5.0), (40.0, 20.0), (80.0, 20.0)):
            self.assertEqual(thinner_charge(air_c, coolant_c), 0.0)

    @given(st.floats(-40.0, 110.0), st.floats(-40.0, 110.0))
    def test_it_follows_the_gas_law_less_what_the_walls_give(self, air_c, coolant_c):
        """Density falls with absolute temperature (ideal gas, ISO 2533); the walls take a part of it off."""
        by_gas = math.log((air_c + 273.15) / (min(coolant_c, 20.0) + 273.15))
        told = thinner_charge(air_c, coolant_c)
        self.assertGreaterEqual(told * by_gas, 0.0)
        self.assertLessEqual(abs(told), abs(by_gas) + 1e-12)

    def test_a_broken_sensor_moves_nothing_far(self):
        self.assertLess(thinner_charge(400.0, 20.0), 0.25)
        self.assertGreater(thinner_charge(-250.0, 20.0), -0.25)
        for nonsense_c in (-1e6, -273.15, 1e6):
            for told in (thinner_charge, opening_passes_more):
                self.assertLess(abs(told(nonsense_c, 20.0)), 0.25)

    def test_a_log_says_in_which_air_it_was_and_one_without_says_nothing(self):
        analysis, soaked = taught_in(75.0)
        self.assertAlmostEqual(analysis.figures.intake_c, 75.0)
        self.assertAlmostEqual(soaked.thinner, thinner_charge(75.0, 80.0))
        self.assertIn("air-not-ordinary", [f.key for f in analysis.findings])
        ordinary, without = taught_in(21.0), judge_log(start_trace(GOOD, coolant=80.0), CALIBRATION, StartSetting(FOUR))  # fmt: skip
        self.assertNotIn("air-not-ordinary", [f.key for f in ordinary[0].findings])
        self.assertIsNone(without.figures.intake_c)

    def test_what_passed_in_soaked_air_needs_more_in_ordinary_air(self):
        said = [ran(80.0, share, 0.8, n) for n, share in enumerate((0.9, 1.0, 1.1), 1)]
        thinner = thinner_charge(80.0, 80.0)
        thin = [replace(e, outcome=replace(e.outcome, thinner=thinner)) for e in said]
        needs = [cranking_posterior(FOUR, e).need_at(np.array([80.0])).mean() for e in (said, thin)]
        self.assertGreater(needs[1] - needs[0], 0.4 * thinner)
        self.assertLess(needs[1] - needs[0], 1.5 * thinner)

    def test_the_bench_engine_asks_for_it_too(self):
        """Its physics knows nothing of the rule: on the lean edge of a hot restart cold air makes it later."""
        for name in ("port_four", "throttle_body_v8"):
            engine, later = NAMED[name], []
            calibration = generate(engine.spec)
            table = calibration["cranking_fuel"]
            for share in (0.55, 0.65, 0.75):
                lean = calibration.with_table(replace(table, values=share * table.values))
                took = []
                for air_c in (55.0, -20.0):
                    conditions = StartConditions(80.0, air_c, seed=3, run_s=8.0)
                    run = simulate_start(engine, engine.spec, lean, conditions)
                    running = np.flatnonzero(run.channels["rpm"] > 500.0)
                    took.append(run.channels["time_s"][running[0]] if running.size else 20.0)
                later.append(took[1] - took[0])
            with self.subTest(name):
                self.assertGreater(min(later), -0.1)
                self.assertGreater(sum(later), 0.5)


class IdleAirTests(SimpleTestCase):
    @given(st.floats(-40.0, 60.0), st.floats(-40.0, 110.0))
    def test_an_opening_passes_no_more_of_cold_air_than_the_root_of_its_temperature(self, air_c, coolant_c):  # fmt: skip
        """Isentropic flow through an orifice goes with 1/√T (compressible flow, Heywood appendix C)."""
        root = 0.5 * math.log((min(coolant_c, 20.0) + 273.15) / (air_c + 273.15))
        told = opening_passes_more(air_c, coolant_c)
        self.assertGreaterEqual(told * root, 0.0)
        self.assertLessEqual(abs(told), abs(root) + 1e-12)

    def test_the_same_engine_reads_the_same_idle_air_on_any_morning(self):
        """Bench engines whose physics knows nothing of the rule idle in air of −15 and of 20 °C."""
        for name in ("port_four", "throttle_body_v8"):
            engine = NAMED[name]
            calibration, read, held = generate(engine.spec), [], []
            for air_c in (-15.0, 20.0):
                conditions = StartConditions(0.0, air_c, seed=3, run_s=110.0)
                run = simulate_start(engine, engine.spec, calibration, conditions).channels
                taught = past_try(judge_log(Trace(run), calibration, StartSetting(engine.spec)), calibration).taught  # fmt: skip
                places = np.array([(e.coolant_c, math.log(e.value)) for e in taught if e.quantity == "idle_valve"])  # fmt: skip
                read.append(np.interp((12.0, 18.0, 24.0), *places.T))
                held.append(float(np.median(run["rpm"][np.abs(run["coolant_c"] - 18.0) < 1.0])))
            with self.subTest(name):
                # Left alone it would idle faster in the cold air: the valve alone tells nothing.
                self.assertGreater(held[0], 1.02 * held[1])
                np.testing.assert_allclose(read[0], read[1], atol=0.02)

    def test_it_is_said_where_it_matters(self):
        told = []
        for air_c, run_s in ((-15.0, 25.0), (12.0, 25.0), (20.0, 25.0), (-15.0, 8.0)):
            run = simulate_start(NAMED["port_four"], FOUR, CALIBRATION, StartConditions(20.0, air_c, seed=3, run_s=run_s))  # fmt: skip
            findings = judge_log(Trace(run.channels), CALIBRATION, StartSetting(FOUR)).findings
            told.append([str(f.sentence) for f in findings if f.key == "idle-in-other-air"])
        # The last is too short for a reading: nothing is reckoned, so nothing is said.
        self.assertEqual([1, 0, 0, 0], [len(sentences) for sentences in told])
        self.assertRegex(told[0][0], r"cold air .* passes more.* [3-9] % wider")

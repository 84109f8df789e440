"""How a controller runs its start fuel down: laws against what can be worked out by hand."""

import math
from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st
from inbetrieb_core.basemaps import generate
from inbetrieb_core.bench import NAMED, StartConditions, simulate_start
from inbetrieb_core.charge.fading import FADE_LAWS, StartFading
from inbetrieb_core.logs import Trace
from inbetrieb_core.starts import StartSetting, judge_log

from .engines import FOUR
from .traces import LATE, start_trace

TIME = np.arange(0.0, 30.0, 0.1)


class LawTests(SimpleTestCase):
    def test_in_seconds_it_is_half_gone_at_half_time(self):
        law = StartFading("linear_time")
        self.assertAlmostEqual(0.5, float(law.left(np.array(5.0), 10.0)), places=6)
        self.assertEqual(0.0, float(law.left(np.array(12.0), 10.0)))

    def test_in_cycles_twice_the_speed_fades_twice_as_fast(self):
        law = StartFading("linear_cycles")
        for rpm, lasts in ((1000.0, 10.0), (2000.0, 5.0), (500.0, 20.0)):
            speed = np.full(TIME.size, rpm)
            self.assertAlmostEqual(lasts, law.lasts_s(TIME, speed, 0.0, 1000.0, 10.0), delta=0.06)

    def test_an_exponential_has_a_twentieth_left_at_its_end(self):
        law = StartFading("exponential_time")
        self.assertAlmostEqual(0.05, float(law.left(np.array(8.0), 8.0)), places=6)
        self.assertAlmostEqual(math.sqrt(0.05), law.left_after(4.0, 0.0, 900.0, 8.0), places=6)

    @given(
        st.sampled_from(sorted(FADE_LAWS)),
        st.floats(0.5, 40.0),
        st.floats(500.0, 2500.0),
        st.floats(0.0, 25.0),
    )
    def test_a_log_reads_what_the_controller_gave(self, law, fade_s, rpm, after_s):
        """The judgement of a log and the controller itself count the same."""
        fading = StartFading(law)
        speed = np.full(TIME.size, rpm)
        clock = float(np.interp(after_s, TIME, fading.clock_s(TIME, speed, 0.0, 900.0)))
        read = float(fading.left(np.array(clock), fade_s))
        gave = fading.left_after(after_s, after_s * rpm / 60.0, 900.0, fade_s)
        self.assertAlmostEqual(read, gave, delta=0.02 + 0.2 / fade_s)

    def test_cranking_fuel_that_stays_is_given_whole(self):
        self.assertEqual(1.0, StartFading().cranking_share(40.0))

    def test_long_cranking_had_less_of_a_fuel_that_falls(self):
        falls = StartFading(cranking_half_turns=8.0)
        self.assertEqual(0.5, falls.cranking_now(8.0))
        self.assertAlmostEqual(1.0, falls.cranking_share(4.0), places=6)
        mean = np.mean([falls.cranking_now(turn) for turn in np.arange(0.0, 30.0, 0.01)])
        first = np.mean([falls.cranking_now(turn) for turn in np.arange(0.0, 4.0, 0.01)])
        self.assertAlmostEqual(mean / first, falls.cranking_share(30.0), delta=0.003)


class OnTheBenchTests(SimpleTestCase):
    """A controller that counts otherwise is judged by its own law."""

    ENGINE = NAMED["port_four"]

    def start(self, fading, believed):
        calibration = generate(self.ENGINE.spec)
        table = calibration["after_start_enrichment"]
        calibration = calibration.with_table(replace(table, values=table.values * 0.0 + 60.0))
        fade = calibration["after_start_fade"]
        calibration = calibration.with_table(replace(fade, values=fade.values * 0.0 + 25.0))
        run = simulate_start(
            self.ENGINE,
            self.ENGINE.spec,
            calibration,
            StartConditions(20.0, 20.0, 3, run_s=70.0),
            (),
            fading,
        )
        setting = StartSetting(self.ENGINE.spec, fading=believed)
        return judge_log(Trace(run.channels), calibration, setting)

    def fade_of(self, analysis):
        return [e.value for e in analysis.taught if e.quantity == "after_start_fade"]

    def test_fuel_that_fell_away_while_cranking_is_told_by_what_was_given(self):
        """Of four seconds at 225 rpm a pulse that halves in eight turns gives less than its table says."""

        def fuel(fading):
            found = judge_log(start_trace(LATE), generate(FOUR), StartSetting(FOUR, fading=fading))
            return next(e.value for e in found.taught if e.quantity == "cranking_fuel")

        falls = StartFading(cranking_half_turns=8.0)
        share = falls.cranking_share(225.0 / 60.0 * 4.0)
        self.assertLess(share, 0.75)
        self.assertAlmostEqual(share, fuel(falls) / fuel(StartFading()), delta=0.02)

    def test_the_advice_says_how_far_cranking_fuel_had_fallen(self):
        falls = StartFading(cranking_half_turns=8.0)
        told = {
            law: judge_log(start_trace(LATE), generate(FOUR), StartSetting(FOUR, fading=law))
            for law in (falls, StartFading())
        }
        for law, analysis in told.items():
            self.assertIn(analysis.advice[0].table, ("cranking_fuel", "prime_pulse"))
            said = "halves cranking fuel every" in analysis.advice[0].reason
            self.assertEqual(law is falls, said)

    def test_the_enrichment_ends_by_the_law_of_the_controller(self):
        cycles = StartFading("linear_cycles")
        read = self.start(cycles, cycles)
        phase = next(p for p in read.phases if p.name == "after-start")
        wrongly = self.start(cycles, StartFading())
        other = next(p for p in wrongly.phases if p.name == "after-start")
        # It idles above its target while it is cold and flares first: cycles are counted faster.
        self.assertNotAlmostEqual(phase.end_s, other.end_s, delta=0.2)


class SaggingTests(SimpleTestCase):
    """An engine that lacks fuel while its after-start enrichment ends, with a loop against it and without."""

    def lasts(self, sag_rpm, opens_pct):
        """Return what is taught of the fade of starts that sag so far while the valve opens so much."""
        calibration = generate(FOUR)
        target = calibration["idle_target"].at(20.0)
        fade = calibration.at_coolant("after_start_fade", 20.0)
        ran, held = 3.3, calibration["idle_valve"].at(20.0)
        begins, ends = ran + 0.75 * fade, ran + fade + 3.0
        points = [
            (0, 0),
            (2, 0),
            (2.15, 220),
            (3.0, 230),
            (ran, 700),
            (4.0, target + 250),
            (6.0, target),
        ]
        points += [
            (begins, target),
            (begins + 1, target - sag_rpm),
            (ends, target - sag_rpm),
            (ends + 1, target),
        ]
        valve = [
            (0, held),
            (begins, held),
            (begins + 1, held + opens_pct),
            (ends, held + opens_pct),
            (ends + 2, held),
        ]
        trace = start_trace([*points, (60, target)], idle_valve_pct=valve)
        taught = judge_log(trace, calibration, StartSetting(FOUR)).taught
        return [e.value / fade for e in taught if e.quantity == "after_start_fade"]

    def test_a_sag_that_the_loop_hides_is_one(self):
        self.assertEqual([], self.lasts(0.0, 0.0))
        for sag_rpm, opens_pct in ((120.0, 0.0), (25.0, 8.0)):
            with self.subTest(sag_rpm=sag_rpm, opens_pct=opens_pct):
                (longer,) = self.lasts(sag_rpm, opens_pct)
                self.assertGreater(longer, 1.2)
        self.assertEqual([], self.lasts(25.0, 0.0))

"""Trigger wheels, captured edges, the timing light and dwell."""

import math

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st
from inbetrieb_core.bench.edges import EdgeConditions, simulate_edges
from inbetrieb_core.errors import InputRefused, LogRefused
from inbetrieb_core.triggers import (
    PATTERNS,
    Capture,
    Coil,
    LightReading,
    Wheel,
    decode,
    dwell_from_coil,
    dwell_from_table,
    dwell_ms,
    fit_timing,
    follow,
    place_cam,
    recognise,
    toothed,
)

CRANKING = {"rpm": 190.0, "ripple": 0.25, "turns": 12.0, "jitter_us": 40.0}
#: Wheels whose edges are the same on crank and cam: only the speed tells them apart.
SAME = {"12−1 on the cam": "12−1"}
#: Patterns that are tried without ripple, too.
SMOOTH = ("60−2", "4+1")


class WheelTests(SimpleTestCase):
    def test_counts_and_gaps_of_the_common_patterns(self):
        """36−1 has 35 teeth 10° apart and one gap of 20° (common practice, no source)."""
        for name, count, step, gap in (
            ("36−1", 35, 10.0, 20.0),
            ("60−2", 58, 6.0, 18.0),
            ("24+1", 24, 30.0, 30.0),
        ):
            wheel = PATTERNS[name]
            self.assertEqual(len(wheel.edges_deg), count)
            self.assertAlmostEqual(min(wheel.steps_deg), step)
            self.assertAlmostEqual(max(wheel.steps_deg), gap)
            self.assertAlmostEqual(sum(wheel.steps_deg), wheel.turn_deg)

    def test_swapped_wires_split_the_gap(self):
        steps = PATTERNS["36−1"].between().steps_deg
        self.assertEqual(sorted(round(s, 6) for s in steps)[-3:], [10.0, 15.0, 15.0])

    def test_refuses_what_is_no_wheel(self):
        for action in (
            lambda: Wheel("x", ()),
            lambda: Wheel("x", (0.0, 400.0)),
            lambda: Wheel("x", (0.0, 90.0, 80.0)),
            lambda: Wheel("x", (0.0, math.nan)),
            lambda: Wheel("x", (0.0,), 180.0),
            lambda: toothed("x", 4, range(4)),
            lambda: toothed("x", 0),
        ):
            with self.assertRaises(InputRefused):
                action()


class RecognitionTests(SimpleTestCase):
    def test_every_common_pattern_is_told_from_all_others_while_cranking(self):
        right = tried = 0
        for name, wheel in PATTERNS.items():
            # Without ripple only two: it is the easy case.
            for seed, ripple in ((0, 0.0), (1, 0.35)) if name in SMOOTH else ((1, 0.35),):
                turns = 30.0 if len(wheel.edges_deg) < 10 else 8.0
                capture = simulate_edges(
                    wheel,
                    EdgeConditions(180.0, ripple=ripple, turns=turns, jitter_us=40.0, seed=seed),
                )
                found = recognise(capture).wheel.name
                tried += 1
                right += found == SAME.get(name, name)
                with self.subTest(name=name, seed=seed):
                    self.assertEqual(found, SAME.get(name, name))
        print(f"\ntrigger patterns recognised: {right} of {tried}")
        self.assertGreaterEqual(len(PATTERNS), 12)


class DecodeTests(SimpleTestCase):
    def capture(self, wheel, **more):
        return simulate_edges(PATTERNS[wheel], EdgeConditions(**(CRANKING | more)))

    def test_verdicts(self):
        for believed, fitted, more, verdict, words in (
            ("36−1", "36−1", {}, "agrees", "at 1"),
            ("60−2", "60−2", {"rpm": 3000.0, "ripple": 0.0, "jitter_us": 3.0}, "agrees", "rpm"),
            ("36−1", "60−2", {}, "other", "those of 60−2"),
            ("60−2", "36−1", {}, "other", "those of 36−1"),
            ("36−1", "36−1", {"swapped": True}, "polarity", "Swap the wires"),
            ("36−1", "36−1", {"lost_share": 0.03}, "weak", "air gap"),
            ("60−2", "60−2", {"extra_share": 0.03}, "noise", "interference"),
        ):  # fmt: skip
            with self.subTest(believed=believed, fitted=fitted, verdict=verdict):
                decoded = decode(self.capture(fitted, **more), PATTERNS[believed])
                self.assertEqual(decoded.verdict, verdict, decoded.sentence)
                self.assertIn(words, decoded.sentence)

    def test_lost_and_extra_edges_are_counted(self):
        lost = extra = found_lost = found_extra = 0
        for seed in range(4):
            clean = self.capture("36−1", seed=seed, turns=20.0)
            spoilt = self.capture("36−1", seed=seed, turns=20.0, lost_share=0.02)
            lost += clean.crank_s.size - spoilt.crank_s.size
            found_lost += follow(spoilt.crank_s, PATTERNS["36−1"]).lost_at_s.size
            noisy = self.capture("36−1", seed=seed, turns=20.0, extra_share=0.02)
            extra += noisy.crank_s.size - clean.crank_s.size
            found_extra += follow(noisy.crank_s, PATTERNS["36−1"]).extra_at_s.size
        print(f"\nlost edges found {found_lost} of {lost}, extra ones {found_extra} of {extra}")
        self.assertAlmostEqual(found_lost / lost, 1.0, delta=0.1)
        self.assertAlmostEqual(found_extra / extra, 1.0, delta=0.15)

    def test_speed_and_cam_position(self):
        decoded = decode(self.capture("36−1 with cam"), PATTERNS["36−1 with cam"])
        self.assertAlmostEqual(decoded.speed_rpm, 190.0, delta=4.0)
        place = place_cam(self.capture("36−1 with cam"), decoded.followed)
        self.assertEqual(len(place.angles_deg), 1)
        # Which of the two turns is the first is not known: the place counts within one turn.
        self.assertAlmostEqual(place.angles_deg[0] % 360.0, 200.0, delta=0.5)
        self.assertLess(place.jitter_deg, 0.5)
        self.assertIsNone(decode(self.capture("36−1"), PATTERNS["36−1"]).cam)

    @given(st.lists(st.floats(0.001, 0.1), min_size=12, max_size=60))
    def test_any_edges_get_a_verdict(self, steps):
        decoded = decode(Capture(np.cumsum(steps), np.array([])), PATTERNS["12−1"])
        self.assertGreater(len(decoded.sentence), 10)
        self.assertTrue(math.isfinite(decoded.speed_rpm))

    def test_refuses_what_is_no_capture(self):
        for crank in ([], [1.0] * 20, [0.0, math.nan] * 8, list(range(20, 0, -1))):
            with self.assertRaises(LogRefused):
                Capture(np.array(crank, dtype=float), np.array([]))


class TimingLightTests(SimpleTestCase):
    SPEEDS = (900.0, 3500.0, 6500.0)

    def readings(self, offset, delay_us, noise=None, repeats=1):
        return [
            LightReading(n, 12.0, 12.0 + offset - 6e-6 * delay_us * n + (noise() if noise else 0.0))
            for n in self.SPEEDS
            for _ in range(repeats)
        ]

    def test_a_slope_of_0_0006_degrees_per_rpm_is_100_microseconds(self):
        """Common practice, no source; follows from 6° a second at 1 rpm."""
        fit = fit_timing(self.readings(0.0, 100.0), 60.0)
        self.assertAlmostEqual(fit.delay_us, 100.0, places=6)
        self.assertAlmostEqual(fit.table[0][1] / fit.table[0][0], 0.0006, places=9)

    def test_the_new_offset_makes_seen_and_commanded_agree(self):
        for advances in (True, False):
            fit = fit_timing(self.readings(3.5, 0.0), 60.0, raising_advances=advances)
            self.assertAlmostEqual(fit.new_offset_deg, 56.5 if advances else 63.5, places=6)
            self.assertEqual(fit.level, "attention")

    def test_commanded_12_seen_20_is_a_stop(self):
        fit = fit_timing([LightReading(900.0, 12.0, 20.0)], 60.0)
        self.assertEqual(fit.level, "stop")
        self.assertIn("Do not run the engine under load", fit.sentences[0])
        self.assertIsNone(fit.delay_us)
        self.assertIn("two higher speeds", fit.sentences[-1])

    def test_a_reading_off_the_line_is_told(self):
        readings = [*self.readings(0.0, 0.0, repeats=2), LightReading(3500.0, 12.0, 8.5)]
        self.assertIn("from a straight line", " ".join(fit_timing(readings, 60.0).sentences))

    def test_with_readings_of_plus_minus_one_degree(self):
        """Twelve readings at each of three speeds: offset within 0.5°, delay within 20 µs."""
        rng = np.random.default_rng(7)
        good = 0
        for _ in range(100):
            offset, delay = rng.uniform(-8, 8), rng.uniform(-50, 200)
            fit = fit_timing(self.readings(offset, delay, lambda: rng.uniform(-1, 1), 12), 60.0)
            good += abs(fit.offset_deg - offset) < 0.5 and abs(fit.delay_us - delay) < 20.0
        self.assertGreaterEqual(good, 97)

    def test_refusals(self):
        for readings in (
            [],
            [LightReading(0.0, 12.0, 12.0)],
            [LightReading(900.0, 12.0, math.nan)],
        ):
            with self.assertRaises(InputRefused):
                fit_timing(readings, 60.0)


class DwellTests(SimpleTestCase):
    COIL = Coil(0.6, 3.5, 7.0)

    def test_the_closed_form(self):
        """L·di/dt = V − R·i from 0 to I, integrated step by step."""
        for volts in (8.0, 12.0, 14.0):
            current, time, step = 0.0, 0.0, 1e-6
            while current < 7.0:
                current += (volts - 0.6 * current) / 3.5e-3 * step
                time += step
            self.assertAlmostEqual(dwell_ms(self.COIL, volts), 1000 * time, delta=0.005)

    def test_falls_with_voltage_and_is_none_where_the_current_is_never_reached(self):
        times = [dwell_ms(self.COIL, v) for v in (6.0, 8.0, 10.0, 12.0, 14.0, 16.0)]
        self.assertEqual(times, sorted(times, reverse=True))
        self.assertIsNone(dwell_ms(self.COIL, 4.0))
        self.assertIsNone(dwell_ms(self.COIL, 0.0))

    def test_one_coil_and_a_distributor_run_out_of_time(self):
        alone = dwell_from_coil(self.COIL, (8.0, 14.0), 7000.0, 0.5)
        shared = dwell_from_coil(Coil(1.5, 8.0, 6.0), (8.0, 14.0), 7000.0, 4.0)
        self.assertEqual(alone.level, "good")
        self.assertEqual(shared.level, "attention" if shared.power_w < 35 else "stop")
        self.assertIn("fits only up to", " ".join(shared.sentences))
        self.assertAlmostEqual(
            shared.full_until_rpm, 7000.0 * shared.longest_ms / dwell_ms(Coil(1.5, 8.0, 6.0), 14.0)
        )

    def test_heat_is_the_integral_of_the_current(self):
        sheet = dwell_from_coil(self.COIL, (14.0,), 6000.0, 0.5)
        tau, end = 3.5 / 0.6, 14.0 / 0.6
        times = np.linspace(0.0, dwell_ms(self.COIL, 14.0), 20_001)
        heat = np.trapezoid(0.6 * (end * (1 - np.exp(-times / tau))) ** 2, times)
        self.assertAlmostEqual(sheet.power_w, heat / (60_000 / 3000.0), places=5)

    def test_a_makers_table_on_the_controllers_axis(self):
        sheet = dwell_from_table(
            [(8, 5.0), (12, 3.0), (14, 2.4)], (6.0, 8.0, 13.0, 16.0), 6500.0, 0.5
        )
        self.assertEqual([c.held for c in sheet.cells], [True, False, False, True])
        self.assertEqual((sheet.cells[0].dwell_ms, sheet.cells[3].dwell_ms), (5.0, 2.4))
        for points in (
            [(8, 3.0)],
            [(8, 3.0), (14, 4.0)],
            [(8, 3000.0), (14, 2000.0)],
            [(8, 3.0), (8, 2.0)],
        ):
            with self.assertRaises(InputRefused):
                dwell_from_table(points, (8.0,), 6500.0, 0.5)

    def test_absurd_coils_are_refused(self):
        for values in ((0.0, 3.5, 7.0), (0.6, math.nan, 7.0), (0.6, 3.5, 400.0)):
            with self.assertRaises(InputRefused):
                Coil(*values)

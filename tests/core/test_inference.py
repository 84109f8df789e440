"""Unknown injectors: what the mixture tells, checked on formulas, by chance, and on the bench engine."""

import itertools
import math
import statistics

import numpy as np
from django.test import SimpleTestCase
from inbetrieb_core.basemaps import generate
from inbetrieb_core.bench import IDLE_ONLY, NAMED, USUAL_POINTS, Fault, HeldPoint, simulate_held
from inbetrieb_core.errors import InputRefused, LogRefused
from inbetrieb_core.injectors import DeadTimeCurve, OperatingPoint, infer_injectors
from inbetrieb_core.logs import Trace
from inbetrieb_core.supply import steady_points

from tests.examples import SHARE

CURVE = DeadTimeCurve((8.0, 14.0), (2.0, 0.8))
FLOW = 390.0


def point(pulse_ms, scale, offset_ms, noise=0.0, trim=0.0, pressure=None):
    """The engine's mixture from first principles: what was believed over what was delivered."""
    dead = CURVE.on_axis((13.8,))[0][0]
    believed = pulse_ms - dead
    delivered = scale * (pulse_ms - dead - offset_ms) * math.sqrt((pressure or 300.0) / 300.0)
    wanted = believed / (1.0 + trim / 100.0)
    mixture = 1.0 * wanted / delivered
    return OperatingPoint(mixture * (1.0 + noise), 1.0, pulse_ms, 13.8, trim, pressure)


def infer(points):
    return infer_injectors(points, flow_cm3_min=FLOW, dead_time=CURVE, believed_kpa=300.0)


class FormulaTests(SimpleTestCase):
    def test_flow_and_dead_time_are_exact_without_noise(self):
        for scale, offset in ((0.8, 0.2), (1.0, 0.0), (1.4, -0.3)):
            points = [point(p, scale, offset) for p in (1.9, 3.0, 6.0, 12.0)]
            result = infer(points)
            with self.subTest(scale=scale, offset=offset):
                self.assertTrue(result.dead_time_told)
                self.assertAlmostEqual(result.flow_scale, scale, places=9)
                self.assertAlmostEqual(result.dead_time_offset_ms, offset, places=9)

    def test_the_correction_and_the_pressure_are_taken_off(self):
        points = [point(p, 1.25, 0.1, trim=-12.0, pressure=345.0) for p in (1.9, 4.0, 11.0)]
        result = infer(points)
        self.assertAlmostEqual(result.flow_scale, 1.25, places=9)
        self.assertAlmostEqual(result.dead_time_offset_ms, 0.1, places=9)

    def test_one_point_tells_the_flow_and_says_that_it_tells_no_dead_time(self):
        result = infer([point(9.0, 1.3, 0.0)])
        self.assertFalse(result.dead_time_told)
        self.assertAlmostEqual(result.flow_scale, 1.3, places=6)
        self.assertIn("Dead time cannot be told", " ".join(result.sentences))
        self.assertGreater(result.flow_error, 0.05)

    def test_a_short_pulse_alone_is_less_sure(self):
        self.assertGreater(
            infer([point(1.6, 1.0, 0.0)]).flow_error, infer([point(9.0, 1.0, 0.0)]).flow_error
        )

    def test_points_that_hardly_differ_tell_no_dead_time(self):
        result = infer([point(p, 1.2, 0.2) for p in (3.0, 3.1, 3.2)])
        self.assertFalse(result.dead_time_told)
        self.assertIsNone(result.dead_time_offset_ms)

    def test_agreement_is_said_as_agreement(self):
        sentences = " ".join(infer([point(p, 1.0, 0.0) for p in (1.9, 4.0, 11.0)]).sentences)
        self.assertIn("agree with the mixture", sentences)
        self.assertIn("dead time agrees", sentences)

    def test_the_stated_range_holds_about_95_of_100_times(self):
        """Points with the errors the method assumes: the truth lies inside ± two errors."""
        rng = np.random.default_rng(11)
        inside_flow = inside_dead = told = 0
        tries = 300
        for _ in range(tries):
            scale, offset = rng.uniform(0.85, 1.4), rng.uniform(-0.2, 0.2)
            common, tilt = rng.normal(0, 0.05), rng.normal(0, 0.03)
            points = []
            for i, pulse in enumerate((2.0, 2.6, 3.6, 5.0, 8.0, 12.0)):
                own = rng.normal(0, math.hypot(0.01, 0.02))
                points.append(point(pulse, scale, offset, common + tilt * (i / 5 - 0.5) + own))
            result = infer(points)
            inside_flow += result.flow_low <= FLOW * scale <= result.flow_high
            if result.dead_time_told:
                told += 1
                inside_dead += (
                    abs(result.dead_time_offset_ms - offset) <= 2 * result.dead_time_error_ms
                )
        self.assertGreater(inside_flow / tries, 0.90)
        self.assertGreater(told, 150)
        self.assertGreater(inside_dead / told, 0.90)

    def test_refusals(self):
        good = point(3.0, 1.0, 0.0)
        cases = [
            ((), "points", "At least one"),
            ((OperatingPoint(14.7, 1.0, 3.0, 13.8),), "points.0.lambda_measured", "AFR"),
            ((good, OperatingPoint(1.0, 1.0, 0.8, 13.8)), "points.1.pulse_ms", "whole pulse"),
            ((OperatingPoint(1.0, math.nan, 3.0, 13.8),), "points.0.lambda_target", "between"),
            ((OperatingPoint(1.0, 1.0, 3.0, 48.0),), "points.0.battery_v", "between"),
            (
                (OperatingPoint(1.0, 1.0, 3.0, 13.8, pressure_kpa=3.0),),
                "points.0.pressure_kpa",
                "between",
            ),
        ]
        for points, field, words in cases:
            with self.subTest(field=field), self.assertRaises(InputRefused) as refused:
                infer(points)
            problem = refused.exception.problems[0]
            self.assertEqual(problem.field, field)
            self.assertIn(words, problem.sentence)


#: Hidden errors; the study among the benchmarks takes more of them.
FLOWS, OFFSETS_MS = (0.6, 0.8, 1.2, 1.4), (-0.3, 0.3)


class BenchTests(SimpleTestCase):
    """Hidden errors of flow ±40 % and dead time ±0.3 ms, read back from noisy logs."""

    def held(self, engine, faults, points=USUAL_POINTS, seed=3):
        trace = simulate_held(engine, engine.spec, generate(engine.spec), points, faults, seed)
        found = steady_points(trace)
        spec = engine.spec
        return infer_injectors(
            found,
            flow_cm3_min=spec.injectors.flow_cm3_min,
            dead_time=spec.injectors.dead_time,
            believed_kpa=spec.rail_pressure_kpa,
        )

    def test_hidden_flow_and_dead_time_are_found_within_what_is_stated(self):
        flow_errors, dead_errors, untold = [], [], 0
        # Both signs of both errors at every run, all pairs by hand.
        pairs = [
            (flow, offset)
            for i, flow in enumerate(FLOWS)
            for j, offset in enumerate(OFFSETS_MS)
            if SHARE == 1.0 or (i + j) % 2 == 0
        ]
        for engine, (flow, offset) in itertools.product(NAMED.values(), pairs):
            faults = [Fault("injector_flow", flow), Fault("dead_time", offset)]
            true_scale = engine.truth.flow_scale * flow
            true_offset = engine.truth.dead_time_offset_ms + offset
            with self.subTest(engine=engine.key, flow=flow, offset=offset):
                try:
                    result = self.held(engine, faults)
                except LogRefused as refused:  # too lean everywhere to be measured
                    self.assertIn("usable lambda", str(refused))
                    untold += 1
                    continue
                error = result.flow_scale / true_scale - 1.0
                flow_errors.append(abs(error))
                self.assertLess(abs(error), 2.0 * result.flow_error + 0.02)
                if result.dead_time_offset_ms is None:
                    untold += 1
                    continue
                off = result.dead_time_offset_ms - true_offset
                dead_errors.append(abs(off))
                self.assertLess(abs(off), 2.0 * result.dead_time_error_ms + 0.02)
        tried = len(NAMED) * len(pairs)
        print(
            f"\ninferred injectors, {tried} hidden errors: flow off by {100 * statistics.median(flow_errors):.1f} % "
            f"(median), {100 * max(flow_errors):.1f} % (worst); dead time by "
            f"{statistics.median(dead_errors):.3f} ms (median), {max(dead_errors):.3f} ms (worst); "
            f"not told {untold} times"
        )
        self.assertGreater(len(dead_errors), 28 / 36 * tried)
        self.assertLess(statistics.median(flow_errors), 0.05)
        # A tenth of a millisecond is what idle pulses of 2 ms let tell.
        self.assertLess(statistics.median(dead_errors), 0.12)

    def test_an_idle_alone_tells_no_dead_time(self):
        result = self.held(NAMED["port_four"], [Fault("injector_flow", 1.2)], IDLE_ONLY)
        self.assertFalse(result.dead_time_told)

    def test_what_cannot_be_held_is_refused(self):
        engine = NAMED["port_four"]
        for points in ((), (HeldPoint(50.0, 0.0),), (HeldPoint(2000.0, 200.0),), USUAL_POINTS * 3):
            with self.assertRaises(InputRefused):
                simulate_held(engine, engine.spec, generate(engine.spec), points)


class SteadyPointTests(SimpleTestCase):
    def trace(self, **changed):
        time = np.arange(0.0, 20.0, 0.05)
        channels = {
            "time_s": time,
            "rpm": np.where(time < 10, 900.0, 2500.0),
            "lambda": 0 * time + 1.02,
            "lambda_target": 0 * time + 1.0,
            "pulse_ms": np.where(time < 10, 2.4, 5.0),
            "battery_v": 0 * time + 14.0,
            "coolant_c": 0 * time + 88.0,
        }
        return Trace({k: v for k, v in (channels | changed).items() if v is not None})

    def test_two_steady_stretches_are_two_points(self):
        points = steady_points(self.trace())
        self.assertEqual([p.pulse_ms for p in points], [2.4, 5.0])
        self.assertEqual(points[0].rpm, 900.0)

    def test_cold_parked_or_shaky_stretches_do_not_count(self):
        time = np.arange(0.0, 20.0, 0.05)
        for changed in (
            {"coolant_c": 0 * time + 40.0},
            {"lambda": 0 * time + 1.36},
            {"pulse_ms": 3.0 + np.sin(3 * time)},
        ):
            with self.subTest(changed=list(changed)), self.assertRaisesRegex(LogRefused, "steady"):
                steady_points(self.trace(**changed))
        with self.assertRaisesRegex(LogRefused, "lambda_target"):
            steady_points(self.trace(lambda_target=None))


class NotToldTests(SimpleTestCase):
    """What no flow explains is said instead of a figure."""

    def infer(self, points, **more):
        return infer_injectors(
            points, flow_cm3_min=400.0, dead_time=CURVE, believed_kpa=300.0, **more
        )

    def points(self, mixtures):
        return [
            OperatingPoint(mixture, 1.0, pulse, 14.0)
            for mixture, pulse in zip(mixtures, (2.0, 3.0, 4.5, 6.0, 9.0), strict=True)
        ]

    def test_points_that_contradict_each_other(self):
        told = self.infer(self.points((1.0, 1.02, 0.99, 1.01, 1.0)))
        self.assertTrue(told.flow_told)
        torn = self.infer(self.points((0.8, 1.25, 0.85, 1.2, 0.9)))
        self.assertFalse(torn.flow_told)
        self.assertIn("contradict", torn.sentences[0])

    def test_more_than_an_injector_is_wrong_by(self):
        self.assertFalse(self.infer(self.points((0.51,) * 5)).flow_told)

    def test_a_computed_filling_is_believed_less(self):
        """A map nobody measured is off by a tenth: the stated range has to hold that."""
        narrow = self.infer(self.points((1.0,) * 5), filling_error=0.03)
        wide = self.infer(self.points((1.0,) * 5), filling_error=0.10)
        self.assertGreater(wide.flow_error, narrow.flow_error)
        self.assertGreaterEqual(wide.flow_high / wide.flow_cm3_min, 1.2)

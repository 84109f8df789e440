"""Load points of a brake as logs have them, and a closed boost loop as a pull shows it."""

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st
from inbetrieb_core.logs import Trace
from inbetrieb_core.pulls import boost_loop_told, gaps_told, held_points, load_points
from inbetrieb_core.pulls.pull import PullRecord

PLAN = load_points(1500.0, 3500.0, 1000.0, (10.0, 100.0))


def brake(holds, seed=0):
    """A log of a brake: (speed, throttle, seconds) one after the other, with the noise of a real shaft."""
    random = np.random.default_rng(seed)
    parts = [np.tile([rpm, throttle, 1.1 * throttle], (round(20 * seconds), 1)) for rpm, throttle, seconds in holds]  # fmt: skip
    rows = np.concatenate(parts)
    rows[:, 0] += 8.0 * random.standard_normal(len(rows))
    return Trace({"time_s": np.arange(len(rows)) / 20.0, "rpm": rows[:, 0], "throttle_pct": rows[:, 1], "torque_nm": rows[:, 2]})  # fmt: skip


class HeldTests(SimpleTestCase):
    def test_what_was_held_is_found_and_what_was_not_is_a_gap(self):
        held = [(p.rpm, p.throttle_pct, p.hold_s + 1.0) for p in PLAN[:-1]]
        found = held_points(PLAN, [brake(held)])
        self.assertEqual([p.is_gap for p in found], [False] * (len(PLAN) - 1) + [True])
        for point in found[:-1]:
            self.assertAlmostEqual(point.torque_nm, 1.1 * point.throttle_pct, delta=0.1)
        self.assertEqual(found[-1].torque_nm, None)
        self.assertIn(f"{PLAN[-1].rpm:.0f} rpm at {PLAN[-1].throttle_pct:.0f} %", gaps_told(found))

    def test_two_short_holds_are_no_long_one(self):
        point = PLAN[0]
        twice = brake([(point.rpm, point.throttle_pct, 5.0), (3000.0, 60.0, 2.0), (point.rpm, point.throttle_pct, 5.0)])  # fmt: skip
        self.assertTrue(held_points([point], [twice])[0].is_gap)
        self.assertFalse(held_points([point], [twice, brake([(point.rpm, point.throttle_pct, 11.0)])])[0].is_gap)  # fmt: skip

    def test_nothing_planned_nothing_logged(self):
        self.assertEqual(gaps_told(held_points([], [])), "No point is planned.")
        self.assertTrue(all(p.is_gap for p in held_points(PLAN, [])))

    @given(st.permutations(range(len(PLAN))))
    def test_the_order_of_driving_does_not_matter(self, order):
        held = [(PLAN[i].rpm, PLAN[i].throttle_pct, PLAN[i].hold_s + 1.0) for i in order]
        self.assertEqual(gaps_told(held_points(PLAN, [brake(held)])), "Every point was held.")


def loop(wind_up=False, gain=0.0, over=0.0, reach=True):
    """Boost against its target over speed; the truth is a first-order build-up with a bump after it."""
    rpm = np.arange(2000.0, 6100.0, 100.0)
    target = np.full(rpm.size, 170.0)
    built = 100.0 + 70.0 * (1.0 - np.exp(-(rpm - 2000.0) / 500.0)) if reach else np.full(rpm.size, 140.0)  # fmt: skip
    since = np.maximum(rpm - 3600.0, 0.0)
    pressure = built + over * np.exp(-(((rpm - 3700.0) / 300.0) ** 2)) + gain * np.sin(since / 120.0) * (since > 0)  # fmt: skip
    duty = np.where(rpm < 3300.0, 98.0 if wind_up else 55.0, 45.0)
    values = {"map_kpa": pressure, "boost_target_kpa": target, "boost_duty_pct": duty}
    return PullRecord(
        tuple(rpm), {k: tuple(v) for k, v in values.items()}, torque="relative", seconds=8.0, origin="log"
    )  # fmt: skip


class BoostLoopTests(SimpleTestCase):
    def test_each_sign_is_told_and_a_good_loop_is_left_alone(self):
        for pull, words in (
            (loop(), None),
            (loop(wind_up=True), None),
            (loop(wind_up=True, over=15.0), "Integral wind-up"),
            (loop(over=15.0), "the duty it starts from is too high"),
            (loop(gain=7.0), "swings about its target"),
            (loop(reach=False), "never reached"),
        ):
            said = " ".join(boost_loop_told(pull))
            with self.subTest(words, said=said):
                if words is None:
                    self.assertEqual(said, "")
                else:
                    self.assertIn(words, said)

    def test_an_open_loop_tells_nothing(self):
        pull = loop(over=30.0)
        blind = PullRecord(pull.rpm, {"map_kpa": pull.values["map_kpa"]}, torque="relative", seconds=8.0, origin="log")  # fmt: skip
        self.assertEqual(boost_loop_told(blind), ())

"""The boost staircase: each step with its reason, and what stops it."""

from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from inbetrieb_core.basemaps import generate
from inbetrieb_core.bench import drawn_truth, simulate_pull, with_pull_faults
from inbetrieb_core.errors import InputRefused
from inbetrieb_core.pulls import (
    BoostStep,
    Feed,
    PullLimits,
    SharedStep,
    boost_tables,
    find_pulls,
    load_points,
    of_one_fuel,
    over_share,
    passed_limits,
    pull_of_log,
    resting,
    staircase,
    supply_line,
)

from tests.examples import few

from .pull_parts import ENGINE, FEED, LIMITS


class StaircaseTests(SimpleTestCase):
    def build(self, seed, faults=()):
        draw = np.random.default_rng(seed)
        boost = float(draw.uniform(40, 140))
        spec = replace(
            ENGINE.spec, boost_kpa=boost, induction="boosted",
            injectors=replace(ENGINE.spec.injectors, flow_cm3_min=ENGINE.spec.injectors.flow_cm3_min * (1 + boost / 90)),
        )  # fmt: skip
        engine = replace(
            ENGINE, spec=spec, truth=replace(ENGINE.truth, hardware=spec, flow_scale=1.0)
        )
        feed = Feed(spec.injections_per_cycle, spec.turns_per_cycle, spec.rail_pressure_kpa, spec.barometric_kpa, spec.manifold_referenced)  # fmt: skip
        limits = PullLimits(
            spec.barometric_kpa + boost,
            1.0,
            980.0,
            3.0,
            100.0,
            25.0,
            120.0,
            spec.rev_limit_rpm + 200,
        )
        truth = with_pull_faults(drawn_truth(spec, seed), faults)
        return engine, spec, generate(spec), truth, feed, limits

    def climb(self, seed, faults=(), most=25):
        engine, spec, tables, truth, feed, limits = self.build(seed, faults)
        steps = []
        for number in range(most):
            stairs = staircase(steps, limits, feed)
            if stairs.outcome in ("stop", "done"):
                break
            trace = simulate_pull(
                engine, spec, tables, truth, duty_pct=stairs.next_duty_pct, number=number, seed=seed
            )
            steps.append(BoostStep(stairs.next_duty_pct, pull_of_log(trace, find_pulls(trace)[0])))
        return stairs, steps, limits, feed

    def test_no_stop_is_passed_by_more_than_one_step_and_the_limit_is_reached(self):
        reached, pulls, outcomes = [], [], []
        for seed in range(1000, 1000 + few(24)):
            stairs, steps, limits, feed = self.climb(seed)
            beyond = [
                bool(passed_limits(s.pull, limits, feed) or supply_line([s.pull], feed).stop)
                for s in steps
            ]
            self.assertFalse(any(beyond[:-1]), seed)
            self.assertTrue(
                all(b.duty_pct - a.duty_pct <= 10.0 for a, b in zip(steps, steps[1:], strict=False))
            )
            pulls.append(len(steps))
            outcomes.append(stairs.outcome)
            if stairs.outcome == "done":
                reached.append(max(stairs.most_kpa) / (limits.boost_kpa - 5.0))
        print(f"\nstaircase: {len(pulls)} builds, {np.median(pulls):.0f} pulls, {outcomes.count('stop')} ended by a stop, the least reached {min(reached):.3f} of what the limit allows")  # fmt: skip
        self.assertGreater(min(reached), 0.95)
        self.assertLess(max(reached), 1.03)

    def test_faults_stop_it_or_are_named(self):
        weak = self.climb(1, ("weak_pump",))[0]
        self.assertEqual(weak.outcome, "stop")
        self.assertIn("uel pressure", " ".join(weak.stops))
        stuck = self.climb(2, ("stuck_valve",), most=5)[0]
        self.assertIn("nothing moved", " ".join(stuck.notes))
        creeping = self.climb(3, ("creep",), most=8)[0]
        self.assertIn("creep", " ".join((*creeping.notes, *creeping.stops)).lower())

    def test_it_begins_with_nothing_and_targets_before_spool_are_refused(self):
        begin = staircase([], LIMITS, FEED)
        self.assertEqual((begin.outcome, begin.next_duty_pct), ("begin", 0.0))
        stairs, _, limits, _ = self.climb(4)
        target = max(stairs.most_kpa) - 5
        found = boost_tables(stairs, target, [2000.0, 3000.0, 4500.0, 6000.0])
        self.assertLess(found.target_kpa[0], target - 5)
        self.assertAlmostEqual(found.target_kpa[3], target, delta=3)
        self.assertIn("cannot make it", found.sentence)
        with self.assertRaisesRegex(InputRefused, "Climb the staircase first"):
            boost_tables(stairs, limits.boost_kpa + 40, [3000.0])

    def test_every_share_of_ethanol_gets_what_was_pulled_on_it_and_no_more_than_is_safe(self):
        stairs = self.climb(4)[0]
        points = [2500.0, 3500.0, 4500.0, 6000.0]
        found = boost_tables(stairs, max(stairs.most_kpa) - 5, points)
        at_rest = resting(stairs, points)
        for share, column in ((3.0, 0), (82.0, 1)):
            target = over_share(None, "boost_target", found, at_rest, share)
            duty = over_share(None, "boost_duty", found, at_rest, share)
            self.assertEqual(list(found.target_kpa), target.values[:, column].tolist())
            self.assertEqual({"measured"}, {m.kind for m in target.provenance[:, column]})
            other = 1 - column
            self.assertEqual({"assumed"}, {m.kind for m in target.provenance[:, other]})
            # Petrol after a staircase on ethanol: the spring alone; ethanol after one on petrol: no more.
            safe = at_rest if other == 0 else found
            self.assertEqual(list(safe.target_kpa), target.values[:, other].tolist())
            self.assertEqual(list(safe.duty_pct), duty.values[:, other].tolist())
        self.assertLess(max(at_rest.target_kpa), max(found.target_kpa) - 5)
        # A staircase of its own stays when the other share is pulled.
        petrol = over_share(None, "boost_target", found, at_rest, 3.0)
        both = over_share(petrol, "boost_target", at_rest, at_rest, 82.0)
        self.assertEqual(list(found.target_kpa), both.values[:, 0].tolist())
        self.assertEqual(list(at_rest.target_kpa), both.values[:, 1].tolist())

    def test_pulls_on_another_fuel_are_another_staircase(self):
        steps = [SharedStep(1, 5.0), SharedStep(2, 8.0), SharedStep(3, 78.0), SharedStep(4, 82.0)]
        self.assertEqual((3, 4), of_one_fuel(steps))
        self.assertEqual((1, 2), of_one_fuel(steps[:2]))
        self.assertEqual((), of_one_fuel([]))

    def test_a_plan_of_load_points_goes_from_light_to_heavy(self):
        points = load_points(1500, 3500, 500, (40.0, 10.0))
        self.assertEqual(len(points), 10)
        self.assertEqual([p.throttle_pct for p in points], [10.0] * 5 + [40.0] * 5)
        self.assertEqual(points[5].rpm, 3500)

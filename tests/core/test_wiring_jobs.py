"""Whole jobs on every shipped controller: a plan is found, or why there is none."""

import itertools
from dataclasses import replace

from django.test import SimpleTestCase
from inbetrieb_core.errors import InputRefused
from inbetrieb_core.injectors import judge_driver
from inbetrieb_core.wiring import (
    OUTPUT_KINDS,
    SWITCH_INPUTS,
    PlanEntry,
    can_serve_all,
    functions_of,
    plan_wiring,
    remedies,
    smallest_that_fits,
    usual_fitting,
)
from inbetrieb_core.wiring.remedies import leave_out, possible_changes

from server.wiring.controllers import shipped

from .test_wiring_allocation import engine, pin_of


class JobTests(SimpleTestCase):
    """Every shipped controller with every usual kind of engine."""

    def engines(self):
        for chambers, cycle in ((3, "four_stroke"), (4, "four_stroke"), (6, "four_stroke"), (8, "four_stroke"), (2, "rotary")):  # fmt: skip
            yield engine(chambers, cycle)

    def fittings(self, spec):
        usual = usual_fitting(spec)
        for change in (
            {}, {"injector_ohm": 2.4}, {"crank_sensor": "inductive"}, {"idle_valve": "stepper"},
            {"ignition": "wasted_spark"}, {"ignition": "distributor"}, {"coils": "plain"},
            {"sensors": tuple(k for k in usual.sensors) + ("fuel_pressure", "oil_pressure", "flexible_fuel")},
        ):  # fmt: skip
            fitting = replace(usual, **change)
            try:
                yield fitting.check(spec)
            except InputRefused:
                continue

    def test_a_plan_is_found_when_there_is_one_and_explained_when_not(self):
        whole = short = helped = 0
        for spec in self.engines():
            for profile in shipped().values():
                for fitting in self.fittings(spec):
                    plan = plan_wiring(spec, profile, PlanEntry(fitting))
                    possible = can_serve_all(profile, functions_of(spec, fitting, profile))
                    with self.subTest(spec=spec.chambers, profile=profile.name, fitting=fitting):
                        self.assertEqual(plan.allocation.is_whole, possible)
                        self.assertTrue(plan.sentences)
                        if possible:
                            whole += 1
                            self.assertIsNone(plan.remedy)
                            continue
                        short += 1
                        self.assertEqual(plan.level, "stop")
                        if plan.remedy is not None:
                            helped += 1
                            after = plan_wiring(spec, profile, PlanEntry(plan.remedy.fitting))
                            self.assertTrue(after.allocation.is_whole)
        print(f"\nwiring plans: {whole} whole, {short} short, {helped} of those mended by a change")
        self.assertGreater(whole, 40)
        self.assertGreater(short, 20)
        self.assertGreater(helped, 0.6 * short)

    def test_the_remedy_is_the_cheapest_of_all(self):
        spec, profile = engine(), shipped()["shipped:prahm-24"]
        fitting = usual_fitting(spec)
        steps = [*possible_changes(spec, fitting, profile), *leave_out(fitting).values()]
        best = None
        for count in range(1, 5):
            for chosen in itertools.combinations(steps, count):
                changed = fitting
                for _, change in chosen:
                    changed = change(changed)
                try:
                    changed.check(spec)
                except InputRefused:
                    continue
                cost = sum(change.cost for change, _ in chosen)
                if can_serve_all(profile, functions_of(spec, changed, profile)):
                    best = cost if best is None else min(best, cost)
        remedy = remedies(spec, fitting, profile)[0]
        self.assertAlmostEqual(remedy.cost, best)
        self.assertIn("built_in_pressure", {change.key for change in remedy.changes})

    def test_a_lamp_goes_before_the_way_the_engine_is_fuelled(self):
        """What a practitioner gives up first (common practice, no source)."""
        spec, profile = engine(), shipped()["shipped:kutter-52"]
        outputs = ("main_relay", "fuel_pump", "fan_1", "tachometer")
        more = tuple(k for k in OUTPUT_KINDS if k not in outputs)
        for count in range(1, len(more) + 1):
            fitting = replace(usual_fitting(spec), outputs=(*outputs, *more[:count]))
            plan = plan_wiring(spec, profile, PlanEntry(fitting))
            if plan.remedy is None:
                continue
            with self.subTest(loads=count):
                self.assertEqual(fitting.injection, plan.remedy.fitting.injection)
                costs = [plan.remedy.cost, *(other.cost for other in plan.others)]
                self.assertEqual(sorted(costs), costs)
                for one in (plan.remedy, *plan.others):
                    after = plan_wiring(spec, profile, PlanEntry(one.fitting))
                    self.assertEqual("good", after.level, after.sentences)

    def test_many_loads_too_many_are_answered(self):
        """Every load and input there is, with plain coils, on the smallest controller."""
        spec, profile = engine(), shipped()["shipped:prahm-24"]
        loads = tuple(key for key in OUTPUT_KINDS if key != "electronic_throttle")
        fitting = replace(usual_fitting(spec), outputs=loads, inputs=tuple(SWITCH_INPUTS))
        plan = plan_wiring(spec, profile, PlanEntry(fitting))
        self.assertIsNotNone(plan.remedy)
        self.assertGreater(len(plan.remedy.changes), 3)

    def test_what_modern_engines_have_finds_its_pins_or_the_controller_is_too_small(self):
        spec = engine()
        fitting = replace(
            usual_fitting(spec), idle_valve="none",
            outputs=("main_relay", "fuel_pump", "electronic_throttle", "cam_phaser"),
            inputs=("knock", "wideband_2", "cam_2", "gear_position", "clutch_switch"),
        )  # fmt: skip
        large = shipped()["shipped:schoner-96"]
        plan = plan_wiring(spec, large, PlanEntry(fitting))
        self.assertEqual("good", plan.level, plan.sentences)
        pins = [placed.pin for placed in plan.allocation.placed]
        self.assertEqual(len(pins), len(set(pins)))
        served = {placed.function: large.pin(placed.pin) for placed in plan.allocation.placed}
        self.assertIn("bridge", served["throttle_motor_1"].capabilities)
        self.assertIn("knock", served["knock"].capabilities)
        self.assertIn("pedal_2", served)
        small = plan_wiring(spec, shipped()["shipped:prahm-24"], PlanEntry(fitting))
        self.assertEqual("stop", small.level)
        self.assertIsNone(small.remedy)

    def test_an_injector_needs_a_limit_exactly_where_its_judge_says_so(self):
        profile = shipped()["shipped:schoner-96"]
        for ohm in (1.9, 4.9, 8.9, 9.1, 14.0):
            fitting = replace(usual_fitting(engine()), injector_ohm=ohm)
            first = next(f for f in functions_of(engine(), fitting, profile) if f.group == "fuel")
            with self.subTest(ohm=ohm):
                limited = first.ways[0].injector_class == "current_limiting"
                self.assertEqual(limited, judge_driver(ohm).series_ohm is not None)

    def test_the_smallest_controller_that_fits_is_proposed(self):
        for spec, key in ((engine(4), "kutter-52"), (engine(8), "schoner-96")):
            found = smallest_that_fits(spec, usual_fitting(spec), shipped())
            self.assertEqual(found, f"shipped:{key}")

    def test_a_distributor_frees_outputs_that_can_be_kept_for_later(self):
        spec, profile = engine(), shipped()["shipped:kutter-52"]
        fitting = replace(
            usual_fitting(spec), ignition="distributor", reserve_coil_per_cylinder=True
        )
        plan = plan_wiring(spec, profile, PlanEntry(fitting))
        later = [f.key for f in plan.functions if f.importance == "later"]
        self.assertEqual(later, ["coil_2", "coil_3", "coil_4"])
        for key in later:
            self.assertIn("ignition_logic", profile.pin(pin_of(plan.allocation, key)).capabilities)

    def test_the_built_in_sensor_frees_an_input(self):
        spec, profile = engine(), shipped()["shipped:kutter-52"]
        wired = plan_wiring(spec, profile, PlanEntry(usual_fitting(spec)))
        inside = plan_wiring(
            spec, profile, PlanEntry(replace(usual_fitting(spec), built_in_pressure=True))
        )
        self.assertEqual(len(inside.allocation.spare), len(wired.allocation.spare) + 1)
        self.assertIsNone(pin_of(inside.allocation, "manifold_pressure"))

"""Functions to pins: every capability respected, the cheapest plan found, the impossible explained."""

import itertools
from dataclasses import replace

from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from inbetrieb_core.engine import EngineSpec, InjectorSet
from inbetrieb_core.errors import InputRefused
from inbetrieb_core.wiring import (
    FORMAT,
    BuiltInPressure,
    Connector,
    ControllerProfile,
    Fitting,
    OwnFunction,
    Pin,
    PlanEntry,
    Way,
    WiredFunction,
    allocate,
    can_serve_all,
    coil_count,
    injector_groups,
    plan_wiring,
    sparks_per_turn,
    usual_fitting,
)
from inbetrieb_core.wiring.allocate import way_cost
from inbetrieb_core.wiring.capability import CAPABILITIES, SHARED
from inbetrieb_core.wiring.wired_function import shortfall

from server.wiring.controllers import shipped
from tests.examples import few

ABLE = [key for key in CAPABILITIES if key not in SHARED]


def pin_of(allocation, function):
    """The pin that a function was given; None where it has none."""
    return next((p.pin for p in allocation.placed if p.function == function), None)


def engine(chambers=4, cycle="four_stroke", **more):
    return EngineSpec(
        0.5 * chambers, chambers, injectors=InjectorSet(chambers, 390.0), cycle=cycle, **more
    )


def controller(*pins, **more):
    named = [
        replace(pin, name=f"A{i}", connector="A", row=1, column=i) for i, pin in enumerate(pins, 1)
    ]
    plug = Connector("A", "Plug", 1, max(1, len(named)))
    return ControllerProfile(FORMAT, "Probe", (plug,), tuple(named), **more)


def pin(*capabilities, **more):
    return Pin("", "", 1, 1, capabilities, **more)


def function(key, *ways, importance="needed"):
    return WiredFunction(key, key.title(), "own", ways, importance)


pins = st.builds(
    Pin,
    st.just(""), st.just(""), st.just(1), st.just(1),
    st.lists(st.sampled_from(ABLE), max_size=3, unique=True).map(tuple),
    st.sampled_from(["none", "switchable"]),
    st.none(),
    st.none() | st.floats(0.1, 10.0),
    st.sampled_from(["plain", "current_limiting"]),
    st.none() | st.floats(1.0, 40.0),
    st.none() | st.floats(50.0, 900.0),
)  # fmt: skip
ways = st.builds(
    Way,
    st.sampled_from(ABLE),
    st.sampled_from([0.0, 0.5, 2.0]),
    st.booleans(),
    st.floats(0.0, 6.0),
    st.none() | st.just((20.0, 60.0)),
)
functions = st.lists(
    st.tuples(st.lists(ways, min_size=1, max_size=2), st.sampled_from(["needed", "wanted", "later"])),
    max_size=9,
).map(lambda drawn: [function(f"f{i}", *w, importance=n) for i, (w, n) in enumerate(drawn)])  # fmt: skip


class AllocationTests(SimpleTestCase):
    @settings(max_examples=few(300), deadline=None)
    @given(st.lists(pins, min_size=1, max_size=12), functions)
    def test_no_pin_twice_and_every_capability_respected(self, drawn, wanted):
        profile = controller(*drawn)
        plan = allocate(profile, wanted)
        used = [placed.pin for placed in plan.placed]
        self.assertEqual(len(used), len(set(used)))
        by_key = {f.key: f for f in wanted}
        for placed in plan.placed:
            self.assertIn(placed.way, by_key[placed.function].ways)
            self.assertIsNone(shortfall(profile.pin(placed.pin), placed.way))
        self.assertEqual(
            {p.function for p in plan.placed} | {left.function for left in plan.left_out},
            set(by_key),
        )
        self.assertEqual(set(plan.spare) & set(used), set())
        served = [f for f in wanted if f.importance != "later"]
        self.assertEqual(plan.is_whole, can_serve_all(profile, served))

    def cheapest(self, profile, wanted):
        """Try every way to put functions on pins: (left out needed, wanted, later), then cost."""
        best = None
        names = [*range(len(profile.pins)), *[None] * len(wanted)]
        for places in set(itertools.permutations(names, len(wanted))):
            cost, left = 0.0, {"needed": 0, "wanted": 0, "later": 0}
            for entry, place in zip(wanted, places, strict=True):
                if place is None:
                    left[entry.importance] += 1
                    continue
                at = profile.pins[place]
                good = [way for way in entry.ways if shortfall(at, way) is None]
                if not good:
                    break
                cost += way_cost(at, min(good, key=lambda way: way.cost))
            else:
                key = (left["needed"], left["wanted"], left["later"], cost)
                best = key if best is None or key < best else best
        return best

    @settings(max_examples=few(60), deadline=None)
    @given(
        st.lists(pins, min_size=1, max_size=4),
        functions.filter(lambda drawn: len(drawn) <= 4),
    )
    def test_as_good_as_trying_everything(self, drawn, wanted):
        profile = controller(*drawn)
        plan = allocate(profile, wanted)
        left = [
            sum(e.importance == n for e in plan.left_out) for n in ("needed", "wanted", "later")
        ]
        cost = sum(way_cost(profile.pin(p.pin), p.way) for p in plan.placed)
        best = self.cheapest(profile, wanted)
        self.assertEqual(tuple(left), best[:3])
        self.assertAlmostEqual(cost, best[3], delta=0.02)

    def test_is_not_greedy(self):
        """The only pulse pin goes to the valve that needs it, although the lamp comes first."""
        profile = controller(pin("pwm", "low_side"), pin("low_side"))
        lamp = function("lamp", Way("low_side"))
        valve = function("valve", Way("pwm"))
        plan = allocate(profile, [lamp, valve])
        self.assertEqual((pin_of(plan, "lamp"), pin_of(plan, "valve")), ("A2", "A1"))

    def test_what_matters_less_is_left_out(self):
        profile = controller(pin("low_side"))
        plan = allocate(
            profile,
            [
                function("later", Way("low_side"), importance="later"),
                function("wanted", Way("low_side"), importance="wanted"),
                function("needed", Way("low_side")),
            ],
        )
        self.assertEqual([placed.function for placed in plan.placed], ["needed"])

    def test_a_pin_fixed_by_its_maker_serves_nothing_else(self):
        fixed = pin("low_side", function="pump")
        lamp, pump = function("lamp", Way("low_side")), function("pump", Way("low_side"))
        alone = allocate(controller(fixed), [lamp])
        self.assertEqual(alone.placed, ())
        both = allocate(controller(pin("low_side"), fixed), [pump, lamp])
        self.assertEqual((pin_of(both, "pump"), pin_of(both, "lamp")), ("A2", "A1"))


class ByHandTests(SimpleTestCase):
    PROFILE = controller(
        pin("pwm", "low_side"), pin("low_side"), pin("low_side", function="pump"), pin("analogue")
    )
    LAMP, VALVE = function("lamp", Way("low_side")), function("valve", Way("pwm"))

    def test_a_choice_that_can_be_is_kept(self):
        plan = allocate(self.PROFILE, [self.LAMP], {"lamp": "A1"})
        self.assertEqual([(p.pin, p.by_hand) for p in plan.placed], [("A1", True)])

    def test_conflicts_are_explained(self):
        for by_hand, words in (
            ({"valve": "A2"}, ("Valve needs pulse-width output", "pin A2 is: low-side switch")),
            ({"lamp": "A2", "valve": "A2"}, ("both set on pin A2",)),
            ({"lamp": "A9"}, ("no pin A9",)),
            ({"lamp": "A3"}, ("fixed to another function",)),
        ):
            with self.subTest(by_hand=by_hand):
                plan = allocate(self.PROFILE, [self.LAMP, self.VALVE], by_hand)
                self.assertFalse(plan.is_whole)
                for word in words:
                    self.assertIn(word, " ".join(plan.conflicts))

    def test_a_function_no_longer_fitted_is_no_conflict(self):
        self.assertEqual(allocate(self.PROFILE, [self.LAMP], {"gone": "A2"}).conflicts, ())

    def test_says_when_the_choice_by_hand_is_what_is_in_the_way(self):
        spec = engine()
        profile = shipped()["shipped:kutter-52"]
        fitting = replace(usual_fitting(spec), outputs=("fuel_pump", "boost_valve", "tachometer"))
        self.assertEqual(plan_wiring(spec, profile, PlanEntry(fitting)).level, "good")
        blocked = plan_wiring(spec, profile, PlanEntry(fitting, {"tachometer": "B14"}))
        self.assertEqual(blocked.level, "stop")
        self.assertIn("Without the pins chosen by hand", " ".join(blocked.sentences))
        self.assertIsNone(blocked.remedy)


class ExplanationTests(SimpleTestCase):
    def test_nothing_can(self):
        plan = allocate(
            controller(pin("low_side")), [function("valve", Way("pwm", hz=(20.0, 60.0)))]
        )
        self.assertIn("needs pulse-width output at 20 to 60 Hz; no pin", plan.left_out[0].sentence)

    def test_something_is_nearly_right(self):
        for wanted, pins_there, words in (
            (Way("low_side", current_a=3.0), pin("low_side", current_a=1.0), "carries only 1 A"),
            (Way("analogue", pull_up=True), pin("analogue"), "has no pull-up"),
            (Way("injector", injector_class="current_limiting"), pin("injector"), "does not limit"),
            (Way("pwm", hz=(300.0, 400.0)), pin("pwm", highest_hz=100.0), "pulses at 0 to 100 Hz only"),
        ):  # fmt: skip
            with self.subTest(words=words):
                plan = allocate(controller(pins_there), [function("x", wanted)])
                self.assertIn(words, plan.left_out[0].sentence)

    def test_too_many_share_the_pins(self):
        three = [function(name, Way("analogue")) for name in ("oil", "fuel", "boost")]
        plan = allocate(controller(pin("analogue"), pin("analogue"), pin("frequency")), three)
        (left,) = plan.left_out
        self.assertEqual((left.function, set(left.rivals)), ("boost", {"oil", "fuel"}))
        self.assertEqual(left.contested, ("A1", "A2"))
        self.assertIn("one pin too few", left.sentence)

    def test_what_many_miss_is_said_once(self):
        spec = engine(6)
        fitting = replace(usual_fitting(spec), coils="plain")
        plan = plan_wiring(spec, shipped()["shipped:kutter-52"], PlanEntry(fitting))
        self.assertEqual(len(plan.sentences), 1)
        self.assertIn("Ignition coil 1, Ignition coil 2", plan.sentences[0])
        self.assertIn("no pin of this controller can", plan.sentences[0])


class FunctionTests(SimpleTestCase):
    def test_counts_of_coils_and_injector_outputs(self):
        """A coil for each plug, one for two plugs, or one for all; rotors have two plugs."""
        for spec, ignition, coils, sparks in (
            (engine(4), "coil_per_cylinder", 4, 0.5),
            (engine(6), "wasted_spark", 3, 1.0),
            (engine(8), "distributor", 1, 4.0),
            (engine(2, "rotary"), "coil_per_cylinder", 4, 1.0),
        ):
            fitting = Fitting(ignition=ignition)
            with self.subTest(ignition=ignition, chambers=spec.chambers):
                self.assertEqual(coil_count(spec, fitting), coils)
                self.assertEqual(sparks_per_turn(spec, fitting), sparks)

    def test_injectors_share_outputs(self):
        self.assertEqual(injector_groups(engine(4), Fitting(injection="paired")), ((1, 4), (2, 3)))
        together = injector_groups(engine(6), Fitting(injection="simultaneous"))
        self.assertEqual(sorted(n for group in together for n in group), [1, 2, 3, 4, 5, 6])
        self.assertEqual(len(together), 2)

    def test_without_a_cam_signal_only_some_modes_are_possible(self):
        for change in ({"injection": "sequential"}, {"injection": "paired"}):
            with self.assertRaises(InputRefused) as caught:
                Fitting(cam_sensor="none", **change).check(engine())
            self.assertIn("cam signal", str(caught.exception))
        Fitting(cam_sensor="none", injection="paired", ignition="wasted_spark").check(engine())

    def test_refuses_what_cannot_be_fitted(self):
        for change, field in (
            ({"sensors": ("crystal",)}, "sensors"),
            ({"outputs": ("fan_1", "fan_1")}, "outputs"),
            ({"injector_ohm": 0.01}, "injector_ohm"),
            ({"own": (OwnFunction(" ", "low_side"),)}, "own.0.title"),
            ({"own": (OwnFunction("x", "supply"),)}, "own.0.capability"),
            ({"ignition": "wasted_spark"}, "ignition"),
        ):
            with self.subTest(field=field), self.assertRaises(InputRefused) as caught:
                Fitting(**change).check(engine(5))
            self.assertIn(field, [problem.field for problem in caught.exception.problems])


class ProfileTests(SimpleTestCase):
    def test_the_shipped_ones_are_sound_and_grow(self):
        sizes = [len(profile.pins) for profile in shipped().values()]
        self.assertEqual(len(sizes), 3)
        self.assertEqual(sizes, sorted(sizes))

    def test_refuses_what_makes_no_sense(self):
        good = controller(pin("analogue", pull_up="switchable"), pin("pwm", current_a=2.0))
        good.check()
        first, second = good.pins
        for profile, words in (
            (replace(good, pins=(first, replace(second, name="A1"))), "Pin A1 is listed twice, as number 1 and 2"),
            (replace(good, pins=(first, replace(second, column=1))), "share one place"),
            (replace(good, pins=(replace(first, connector="Z"),)), "no connector 'Z'"),
            (replace(good, pins=(replace(first, column=9),)), "outside connector A"),
            (replace(good, pins=(replace(second, pull_up="fixed"),)), "pull-up but is no input"),
            (replace(good, pins=(replace(second, lowest_hz=90.0, highest_hz=10.0),)), "do not rise"),
            (replace(good, pins=(replace(first, current_a=3.0),)), "current but is no output"),
            (replace(good, pins=()), "without pins"),
            (replace(good, name=" "), "a name"),
            (replace(good, built_in_pressure=BuiltInPressure(200.0, 20.0)), "lower to a higher"),
            (replace(good, crank_to_run_rpm=20.0), "Crank-to-run speed"),
        ):  # fmt: skip
            with self.subTest(words=words), self.assertRaisesRegex(InputRefused, words):
                profile.check()

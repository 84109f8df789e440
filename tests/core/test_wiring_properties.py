"""What must hold for any wiring plan, whatever is fitted and whichever controller it meets."""

from dataclasses import replace

from django.test import SimpleTestCase
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from inbetrieb_core.errors import InputRefused
from inbetrieb_core.sentences import plain
from inbetrieb_core.wiring import PlanEntry, plan_wiring, usual_fitting
from inbetrieb_core.wiring.fitting import OUTPUT_KINDS, SWITCH_INPUTS
from inbetrieb_core.wiring.functions import functions_of
from inbetrieb_core.wiring.wire import fuse_for, size_wire, wire_resistance_ohm

from server.wiring.controllers import shipped
from tests.examples import asked

from .engines import FOUR, ROTORS, SMALL_FOUR, V8_ETHANOL

PROFILES = list(shipped().values())
ENGINES = [FOUR, ROTORS, SMALL_FOUR, V8_ETHANOL]
#: Copper at 20 °C: 0.017241 Ω·mm²/m (IEC 60028).
COPPER = 0.017241
#: Blade fuses as sold (ISO 8820-3).
SOLD_A = {1.0, 2.0, 3.0, 4.0, 5.0, 7.5, 10.0, 15.0, 20.0, 25.0, 30.0, 40.0}
SOLD_A |= {50.0, 60.0, 70.0, 80.0}  # the large size of blade
few = settings(max_examples=asked(8), deadline=None, suppress_health_check=list(HealthCheck))


@st.composite
def fittings(draw, spec):
    """Draw what somebody might fit to an engine."""
    usual = usual_fitting(spec)
    return replace(
        usual,
        coils=draw(st.sampled_from(["with_igniter", "plain"])),
        ignition=draw(st.sampled_from(["coil_per_cylinder", "wasted_spark", "distributor"])),
        injection=draw(st.sampled_from(["sequential", "paired", "simultaneous"])),
        injector_ohm=draw(st.sampled_from([None, 2.4, 12.0, 16.0])),
        crank_sensor=draw(st.sampled_from(["inductive", "hall"])),
        cam_sensor=draw(st.sampled_from(["none", "inductive", "hall"])),
        outputs=tuple(draw(st.lists(st.sampled_from(sorted(OUTPUT_KINDS)), unique=True, max_size=8))),
        inputs=tuple(draw(st.lists(st.sampled_from(sorted(SWITCH_INPUTS)), unique=True, max_size=4))),
        idle_valve=draw(st.sampled_from(["none", "two_wire", "three_wire", "stepper"])),
        bus=draw(st.booleans()),
    )  # fmt: skip


@st.composite
def plans(draw):
    """Draw an engine, a controller and a plan for them; None where the parts do not go together."""
    spec, profile = draw(st.sampled_from(ENGINES)), draw(st.sampled_from(PROFILES))
    fitting = draw(fittings(spec))
    try:
        return spec, profile, fitting, plan_wiring(spec, profile, PlanEntry(fitting))
    except InputRefused:
        return None


class PlanTests(SimpleTestCase):
    @few
    @given(plans())
    def test_any_plan_is_whole(self, drawn):
        if drawn is None:
            return
        self.assert_placed_once(*drawn)
        self.assert_pins_can(*drawn)
        self.assert_wires(drawn[3])

    def assert_placed_once(self, spec, profile, fitting, plan):
        wanted = {function.key for function in functions_of(spec, fitting, profile)}
        placed = [entry.function for entry in plan.allocation.placed]
        left = [entry.function for entry in plan.allocation.left_out]
        self.assertEqual(sorted(placed + left), sorted(wanted))
        pins = [entry.pin for entry in plan.allocation.placed]
        self.assertEqual(len(set(pins)), len(pins))
        for entry in plan.allocation.left_out:
            self.assertTrue(plain(entry.sentence).endswith("."), entry.sentence)

    def assert_pins_can(self, spec, profile, fitting, plan):
        known = {pin.name: pin for pin in profile.pins}
        ways = {function.key: function.ways for function in functions_of(spec, fitting, profile)}
        for entry in plan.allocation.placed:
            self.assertIn(entry.way.capability, known[entry.pin].capabilities)
            self.assertIn(entry.way, ways[entry.function])

    def assert_wires(self, plan):
        for line in plan.lines:
            if line.fuse_a is not None:
                self.assertIn(line.fuse_a, SOLD_A)
                self.assertGreaterEqual(line.fuse_a, line.current_a)
            if line.current_a > 0.0:
                least = line.current_a * COPPER * line.length_m / line.size_mm2
                self.assertGreaterEqual(line.drop_v, 0.9 * least)
                self.assertLess(line.drop_v, 3.0 * least + 1e-3)
            for text in (line.supply, line.ground, line.pull_up, line.protection, line.note):
                self.assertNotIn("None", plain(text or ""))


class WireTests(SimpleTestCase):
    @given(st.floats(0.05, 30.0), st.floats(0.2, 8.0))
    def test_a_longer_wire_and_a_larger_current_never_get_a_thinner_one(self, current, length):
        for use in ("switch", "feed", "ground"):
            size = size_wire(current, length, use)
            self.assertGreaterEqual(size_wire(current, length * 1.5, use).size_mm2, size.size_mm2)
            more = size_wire(min(30.0, current * 1.5), length, use)
            self.assertGreaterEqual(more.size_mm2, size.size_mm2)

    @given(st.sampled_from([0.35, 0.5, 0.75, 1.0, 1.5, 2.5, 4.0, 6.0]), st.floats(0.1, 10.0))
    def test_resistance_is_that_of_copper(self, size, length):
        """IEC 60228 gives stranded conductors up to a third above plain copper of that section."""
        plain_copper = COPPER * length / size
        found = wire_resistance_ohm(size, length)
        self.assertTrue(0.99 * plain_copper <= found <= 1.35 * plain_copper, found / plain_copper)
        self.assertGreater(wire_resistance_ohm(size, length, 90.0), found)

    @given(st.floats(0.01, 30.0))
    def test_a_fuse_is_sold_and_holds(self, current):
        fuse = fuse_for(current)
        if fuse is not None:
            self.assertIn(fuse, SOLD_A)
            self.assertGreaterEqual(fuse, current)

"""Wire sizes, the wiring list, its checks and changes; pin lists, unknown sensors, outputs."""

import math
from dataclasses import replace

from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st
from inbetrieb_core.engine import EngineSpec, InjectorSet
from inbetrieb_core.errors import InputRefused
from inbetrieb_core.injectors import judge_driver
from inbetrieb_core.sensors import SensorEntry, ThermistorEntry
from inbetrieb_core.sentences import plain
from inbetrieb_core.wiring import (
    CAPABILITIES,
    LETTERS,
    LineEdit,
    OutputSettings,
    PlanEntry,
    WireReading,
    changes_between,
    fan_picture,
    fan_runs,
    fuse_for,
    gauge_number,
    identify_three_wires,
    judge_check,
    output_sheets,
    plan_wiring,
    pump_runs,
    read_pin_list,
    size_wire,
    sizes_mm2,
    usual_fitting,
    usual_settings,
    wire_resistance_ohm,
)
from inbetrieb_core.wiring.pin_list import capabilities_in
from inbetrieb_core.wiring.wire import ALLOWED_V, CONTINUOUS_A, ISO_6722_MOHM_M

from server.wiring.controllers import shipped

#: IEC 60228, class 5 (flexible), plain annealed copper: highest resistance at 20 °C [mΩ/m] (memory).
IEC_60228_CLASS_5 = {
    0.5: 39.0, 0.75: 26.0, 1.0: 19.5, 1.5: 13.3, 2.5: 7.98, 4.0: 4.95, 6.0: 3.30, 10.0: 1.91,
    16.0: 1.21, 25.0: 0.780,
}  # fmt: skip
#: IEC 60028: annealed copper has 1/58 Ω·mm²/m at 20 °C.
COPPER_OHM_MM2_M = 1.0 / 58.0
#: ASTM B258: diameters of solid wires by gauge [mm].
ASTM_B258_MM = {24: 0.5106, 22: 0.6438, 20: 0.8118, 18: 1.024, 16: 1.291, 14: 1.628, 12: 2.053, 10: 2.588, 8: 3.264,
}  # fmt: skip
SPEC = EngineSpec(2.2, 4, injectors=InjectorSet(4, 390.0))
KUTTER = shipped()["shipped:kutter-52"]
COOLANT = SensorEntry(
    "coolant", "Sender", ThermistorEntry("thermistor", 2490.0, ((-20.0, 15460.0), (20.0, 2500.0), (100.0, 186.0)))
)  # fmt: skip


def planned(edits=None, entered=(), **fitting):
    entry = PlanEntry(replace(usual_fitting(SPEC), **fitting), {}, edits or {})
    return plan_wiring(SPEC, KUTTER, entry, entered)


def line_of(plan, key):
    return next(line for line in plan.lines if line.key == key)


class WireTests(SimpleTestCase):
    def test_resistance_lies_between_pure_copper_and_flexible_cable(self):
        for size, published in IEC_60228_CLASS_5.items():
            pure = 1000.0 * COPPER_OHM_MM2_M / size
            with self.subTest(size=size):
                self.assertGreater(ISO_6722_MOHM_M[size], pure)
                self.assertLess(ISO_6722_MOHM_M[size], published)
                self.assertAlmostEqual(wire_resistance_ohm(size, 1000.0), ISO_6722_MOHM_M[size])

    def test_drop_is_ohms_law_in_a_warm_bay(self):
        """10 A over 3 m of 2.5 mm²: 10 · 3 · 7.60 mΩ, and 0.393 % more for each kelvin to 70 °C."""
        self.assertAlmostEqual(wire_resistance_ohm(2.5, 3.0), 0.0228, places=6)
        size = size_wire(10.0, 3.0, "feed", fused=True)
        self.assertEqual((size.size_mm2, size.is_enough), (2.5, True))
        self.assertAlmostEqual(size.drop_v, 10.0 * 3.0 * 7.60e-3 * (1 + 0.00393 * 50.0), places=6)

    @given(
        st.floats(0.01, 30.0),
        st.floats(0.1, 8.0),
        st.sampled_from(sorted(ALLOWED_V)),
        st.booleans(),
    )
    def test_the_thinnest_that_is_enough(self, current, length, use, fused):
        size = size_wire(current, length, use, fused=fused)
        carried = max(current, size.fuse_a or 0.0)

        def is_enough(mm2):
            drop = current * wire_resistance_ohm(mm2, length, 70.0)
            return drop <= ALLOWED_V[use] and CONTINUOUS_A[mm2] >= carried

        self.assertEqual(size.is_enough, is_enough(size.size_mm2))
        least = 0.75 if use in ("feed", "ground") else 0.5
        for thinner in (mm2 for mm2 in sizes_mm2() if least <= mm2 < size.size_mm2):
            self.assertFalse(is_enough(thinner))

    def test_a_size_of_ones_own_is_told_whether_it_is_enough(self):
        self.assertFalse(size_wire(18.0, 2.5, "feed", fused=True, wanted_mm2=1.0).is_enough)
        self.assertTrue(size_wire(18.0, 2.5, "feed", fused=True, wanted_mm2=6.0).is_enough)

    def test_fuses_are_those_sold_and_are_not_worked_hard(self):
        """Ratings of blade fuses after ISO 8820-3; three quarters of one is common practice."""
        for current, fuse in ((2.0, 3.0), (9.0, 15.0), (7.5, 10.0), (18.0, 25.0)):
            self.assertEqual(fuse_for(current), fuse)
        self.assertIsNone(fuse_for(200.0))

    def test_american_gauge_is_at_least_as_thick_and_the_next_is_not(self):
        for size in sizes_mm2()[1:7]:
            gauge = gauge_number(size)
            with self.subTest(size=size, gauge=gauge):
                self.assertGreaterEqual(math.pi / 4.0 * ASTM_B258_MM[gauge] ** 2, size)
                if gauge + 2 in ASTM_B258_MM:
                    self.assertLess(math.pi / 4.0 * ASTM_B258_MM[gauge + 2] ** 2, size)

    def test_refuses_what_is_no_wire(self):
        for current, length in ((-1.0, 1.0), (100.0, 1.0), (1.0, 0.0), (1.0, 99.0)):
            with self.assertRaises(InputRefused):
                size_wire(current, length, "switch")


class ListTests(SimpleTestCase):
    def test_every_placed_function_and_every_shared_pin_has_a_line(self):
        plan = planned()
        keys = {line.key for line in plan.lines}
        self.assertLessEqual({placed.function for placed in plan.allocation.placed}, keys)
        for pin in KUTTER.pins:
            if pin.is_shared:
                self.assertIn(f"pin_{pin.name}", keys)
        self.assertLessEqual({"feed_injectors", "feed_coils", "feed_fuel_pump", "feed_main"}, keys)
        self.assertEqual(len(keys), len(plan.lines))

    def test_no_two_wires_of_a_plug_look_alike(self):
        for profile in shipped().values():
            plan = plan_wiring(SPEC, profile, PlanEntry(usual_fitting(SPEC)))
            for connector in profile.connectors:
                colours = [line.colour for line in plan.lines if line.connector == connector.name]
                with self.subTest(profile=profile.name, connector=connector.name):
                    self.assertEqual(len(colours), len(set(colours)))
                    for colour in colours:
                        self.assertLessEqual(set(colour.split("-")), set(LETTERS))

    def test_what_each_part_needs_beside_its_signal(self):
        plan = planned(crank_sensor="inductive", bus=True)
        throttle, coolant = line_of(plan, "throttle"), line_of(plan, "coolant")
        self.assertIn("5 V of pin A", throttle.supply)
        self.assertIn("sensor ground, pin A", throttle.ground)
        self.assertEqual((coolant.supply, coolant.pull_up), ("", "on, 2490 Ω"))
        self.assertIn("shielded pair", line_of(plan, "crank").protection)
        self.assertIn("twisted", line_of(plan, "bus_high").protection)
        self.assertIn("low: switches to ground", line_of(plan, "injector_1").active)
        self.assertIn("high", line_of(plan, "coil_1").active)
        pump, feed = line_of(plan, "fuel_pump"), line_of(plan, "feed_fuel_pump")
        self.assertTrue(pump.relay and feed.relay)
        self.assertLess(pump.current_a, 0.5)
        self.assertGreater(feed.size_mm2, pump.size_mm2)
        self.assertEqual(feed.fuse_a, fuse_for(feed.current_a))

    def test_a_longer_wire_gets_thicker_and_a_thin_one_is_marked(self):
        long = line_of(planned({"feed_fan_1": LineEdit(length_m=9.0)}), "feed_fan_1")
        usual = line_of(planned(), "feed_fan_1")
        self.assertGreater(long.size_mm2, usual.size_mm2)
        plan = planned({"feed_fan_1": LineEdit(size_mm2=1.0)})
        self.assertTrue(line_of(plan, "feed_fan_1").too_thin)
        self.assertEqual(plan.level, "attention")
        self.assertIn("Too thin", " ".join(plan.sentences))

    def test_what_a_meter_must_read_follows_the_length(self):
        near, far = planned(), planned({"throttle": LineEdit(length_m=12.0)})
        more = line_of(far, "throttle").check.upper - line_of(near, "throttle").check.upper
        self.assertAlmostEqual(more, (12.0 - 1.5) * 0.0371, delta=0.01)  # 0.5 mm² in ISO 6722-1

    def test_edits_that_are_none_are_refused(self):
        for edit, field in (
            (LineEdit(length_m=99.0), "length_m"),
            (LineEdit(size_mm2=0.6), "size_mm2"),
            (LineEdit(colour="pink"), "colour"),
            (LineEdit(note="x" * 999), "note"),
        ):
            with self.subTest(field=field), self.assertRaises(InputRefused) as caught:
                planned({"coolant": edit})
            self.assertEqual(caught.exception.problems[0].field, f"edits.coolant.{field}")

    def test_changes_are_told_line_by_line(self):
        before = planned().lines
        after = planned(
            {"coolant": LineEdit(colour="TQ-BK", note="new")},
            outputs=("main_relay", "fuel_pump", "fan_1", "warning_lamp"),
        ).lines
        changes = {change.key: change for change in changes_between(before, after)}
        self.assertEqual(changes["warning_lamp"].kind, "added")
        self.assertEqual(changes["tachometer"].kind, "removed")
        self.assertIn("colour GN → TQ-BK", changes["coolant"].sentence)
        self.assertEqual(changes_between(before, before), ())


class CheckTests(SimpleTestCase):
    def test_expected_readings_follow_from_what_is_fitted(self):
        plan = planned(
            injector_ohm=13.0, bus=True, sensors=("coolant", "throttle", "manifold_pressure")
        )
        injector = line_of(plan, "injector_1").check
        self.assertTrue(injector.lower < 13.0 < injector.upper)
        self.assertEqual(
            line_of(plan, "bus_high").check.lower, 54.0
        )  # ISO 11898: 120 Ω at each end
        paired = line_of(planned(injector_ohm=13.0, injection="paired"), "injector_1").check
        self.assertTrue(paired.lower < 6.5 < paired.upper < 13.0)

    def test_series_resistors_are_measured_with_the_injector(self):
        check = line_of(planned(injector_ohm=2.4, series_resistors=True), "injector_1").check
        whole = 2.4 + judge_driver(2.4, "plain").series_ohm
        self.assertTrue(check.lower < whole < check.upper)

    def test_a_thermistor_is_checked_by_its_own_curve(self):
        check = line_of(planned(entered=(COOLANT,)), "coolant").check
        self.assertTrue(check.lower < 2500.0 < check.upper)
        self.assertIn("about 2500 Ω at 20 °C", plain(check.basis))
        bare = line_of(planned(), "coolant").check
        self.assertLess(bare.upper, 5.0)

    def test_a_reading_is_judged_and_a_fault_named(self):
        check = line_of(planned(injector_ohm=13.0), "injector_1").check
        for reading, good, words in (
            (13.2, True, "is right"),
            (0.3, False, "a short"),
            (2e6, False, "open"),
            (20.0, False, "instead of"),
        ):
            with self.subTest(reading=reading):
                result = judge_check(check, reading, "Ω")
                self.assertEqual(result.is_good, good)
                self.assertIn(words, result.sentence)
        for reading, unit in ((1.0, "V"), (float("nan"), "Ω"), (1e9, "Ω")):
            with self.assertRaises(InputRefused):
                judge_check(check, reading, unit)


class PinListTests(SimpleTestCase):
    TEXT = (
        "Pin\tAbility\tPull-up\tCurrent\tFrequency range\tNote\n"
        "A1\tBattery supply 12 V\t\t\t\tfused\n"
        "A2\tAnalogue input 0-5V\tswitchable 2,49 kΩ\n"
        "A3\tHall / frequency\t1000 ohm\n"
        "A4\tSensor ground\n"
        "B1\tInjector / low side\t\t4 A\n"
        "B2\tPWM\t\t2,5 A\t10 to 500\n"
        "B2\tPWM\n"
        "B3\tsomething magic\n"
    )

    def test_reads_a_list_and_says_what_it_passed_over(self):
        read = read_pin_list(self.TEXT)
        by_name = {pin.name: pin for pin in read.pins}
        self.assertEqual(set(by_name), {"A1", "A2", "A3", "A4", "B1", "B2", "B3"})
        self.assertEqual([connector.name for connector in read.connectors], ["A", "B"])
        self.assertEqual((by_name["A2"].pull_up, by_name["A2"].pull_up_ohm), ("switchable", 2490.0))
        self.assertEqual(by_name["A3"].capabilities, ("hall", "frequency"))
        self.assertEqual(by_name["B1"].capabilities, ("injector", "low_side"))
        self.assertEqual((by_name["B2"].current_a, by_name["B2"].highest_hz), (2.5, 500.0))
        self.assertEqual(by_name["B3"].capabilities, ())
        text = " ".join(read.sentences)
        self.assertIn("pin B2 is listed twice", text)
        self.assertIn("'something magic' is no ability", text)

    def test_semicolons_places_and_fixed_functions(self):
        read = read_pin_list("pin;type;row;column;fixed\n1;low side;2;3;fuel_pump\n2;analog;1;1;\n")
        self.assertEqual((read.pins[0].row, read.pins[0].column), (2, 3))
        self.assertEqual((read.pins[0].function, read.connectors[0].rows), ("fuel_pump", 2))

    def test_words_and_keys_both_mean_an_ability(self):
        for key, words in CAPABILITIES.items():
            with self.subTest(key=key):
                self.assertIn(key, capabilities_in(key))
                self.assertIn(key, capabilities_in(words))

    def test_as_installers_write_it(self):
        for words, capabilities in (
            ("Analog in 3", ("analogue",)), ("Sensor GND", ("sensor_ground",)), ("GND", ("power_ground",)),
            ("Hall/VR crank", ("hall", "inductive")), ("CAN H", ("bus_high",)), ("5V supply", ("sensor_supply",)),
            ("Battery 12V", ("supply",)), ("Ignition coil driver", ("ignition",)),
            ("Injector peak & hold", ("injector",)), ("Low side PWM", ("pwm",)),
        ):  # fmt: skip
            with self.subTest(words=words):
                self.assertEqual(capabilities_in(words), capabilities)
        read = read_pin_list("pin;ability;pull up\n1;analog;2k49\n2;injector peak and hold;\n")
        self.assertEqual(read.pins[0].pull_up_ohm, 2490.0)
        self.assertEqual(read.pins[1].injector_class, "current_limiting")

    def test_refuses_what_is_no_list(self):
        for text in ("", "   \n", "x" * 300_000):
            with self.assertRaises(InputRefused):
                read_pin_list(text)

    @given(st.text(max_size=300))
    def test_any_text_is_read_or_refused(self, text):
        try:
            read = read_pin_list(text)
        except InputRefused as refused:
            self.assertTrue(str(refused))
        else:
            self.assertEqual(len({pin.name for pin in read.pins}), len(read.pins))


class ThreeWireTests(SimpleTestCase):
    def roles(self, *wires):
        return identify_three_wires([WireReading("", *wire) for wire in wires])

    def test_a_plain_sensor(self):
        found = self.roles((0.01,), (5.0,), (2.2,))
        self.assertEqual(found.roles, ("ground", "supply", "signal"))
        self.assertTrue(found.is_sure)

    def test_a_pulled_up_signal_is_told_by_plugging_in(self):
        unsure = self.roles((5.02,), (4.98,), (0.0, 0.4))
        self.assertEqual(unsure.roles, ("unknown", "unknown", "ground"))
        self.assertIn("Plug the sensor in", " ".join(unsure.sentences))
        sure = self.roles((5.02, None, 5.01), (4.98, None, 0.6), (0.0, 0.4, 0.0))
        self.assertEqual(sure.roles, ("supply", "signal", "ground"))

    def test_two_dead_wires_are_told_by_resistance(self):
        unsure = self.roles((5.0,), (0.0,), (0.02,))
        self.assertFalse(unsure.is_sure)
        self.assertIn("key off", " ".join(unsure.sentences))
        sure = self.roles((5.0,), (0.0, 0.8), (0.02, 12000.0))
        self.assertEqual(sure.roles, ("supply", "ground", "signal"))

    def test_a_sensor_fed_with_battery_is_not_moved_to_5_v(self):
        found = self.roles((12.4,), (5.0,), (0.01,))
        self.assertEqual(found.roles, ("supply", "signal", "ground"))
        self.assertIn("battery voltage", " ".join(found.sentences))

    def test_no_supply_is_looked_for_first(self):
        found = self.roles((0.0, 0.5), (0.0, 9e5), (0.3,))
        self.assertIn("No wire carries 5 V", " ".join(found.sentences))
        self.assertFalse(found.is_sure)

    def test_refuses_other_than_three_readings(self):
        for wires in ([(5.0,)] * 2, [(float("nan"),)] * 3, [(99.0,)] * 3, [(5.0, -1.0)] * 3):
            with self.assertRaises(InputRefused):
                self.roles(*wires)


class OutputTests(SimpleTestCase):
    def test_a_fan_has_hysteresis_and_rests_with_the_engine(self):
        """Starts above about 82 °C, stops below 79, never standing (common practice, no source)."""
        running, seen = False, []
        for coolant, rpm in ((70, 900), (81, 900), (83, 900), (80, 900), (78, 900), (90, 900), (90, 0)):  # fmt: skip
            running = fan_runs(82.0, 79.0, coolant, rpm, running)
            seen.append(running)
        self.assertEqual(seen, [False, False, True, True, False, True, False])

    @given(st.floats(60.0, 110.0), st.floats(1.0, 20.0))
    def test_the_picture_is_a_loop(self, on, width):
        picture = fan_picture(on, on - width)
        rising = [runs for _, runs in picture.rising]
        falling = [runs for _, runs in picture.falling]
        self.assertEqual(rising, sorted(rising))
        self.assertEqual(falling, sorted(falling, reverse=True))
        self.assertGreater(sum(falling), sum(rising))

    def test_the_pump_primes_runs_and_stops_by_itself(self):
        settings = OutputSettings(pump_prime_s=2.0, pump_stops_s=1.0)
        for key_on, rpm, since, runs in (
            (1.0, 0.0, float("inf"), True),
            (3.0, 0.0, float("inf"), False),
            (9.0, 200.0, 0.0, True),
            (9.0, 0.0, 0.5, True),
            (9.0, 0.0, 2.0, False),
        ):
            self.assertEqual(pump_runs(settings, key_on, rpm, since), runs)

    def test_each_output_has_conditions_a_test_and_its_caution(self):
        fitting = replace(
            usual_fitting(SPEC), outputs=("fuel_pump", "fan_1", "fan_2", "tachometer", "boost_valve", "compressor", "purge_valve"),
        )  # fmt: skip
        sheets = {s.key: s for s in output_sheets(SPEC, fitting, usual_settings(SPEC))}
        self.assertEqual(set(sheets), {*fitting.outputs, "idle_valve"})
        for key in ("fuel_pump", "fan_1", "boost_valve"):
            self.assertIn("Local codes", sheets[key].caution)
        self.assertIn("100 Hz", sheets["tachometer"].test)  # 3000 rpm, two pulses in a turn

    def test_doubtful_settings_are_remarked_on(self):
        settings = OutputSettings(fan_on_c=70.0, fan_off_c=65.0, tachometer_pulses=1.0)
        sheets = {s.key: s for s in output_sheets(SPEC, usual_fitting(SPEC), settings)}
        self.assertIn("never gets warm", sheets["fan_1"].remarks[0])
        self.assertIn("0.50 times", sheets["tachometer"].remarks[0])

    def test_refuses_a_fan_that_would_chatter(self):
        with self.assertRaisesRegex(InputRefused, "chatters"):
            OutputSettings(fan_on_c=90.0, fan_off_c=90.0).check()
        with self.assertRaises(InputRefused):
            OutputSettings(idle_hz=float("nan")).check()

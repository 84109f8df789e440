"""The key-on check: every fault of the simulated controller, and what each is taken for."""

import math
from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from inbetrieb_core.air import standard_pressure_kpa
from inbetrieb_core.bench import SENSOR_FAULTS, Fault, simulate_key_on
from inbetrieb_core.errors import InputRefused, LogRefused
from inbetrieb_core.logs import Trace
from inbetrieb_core.sensors import (
    FUNCTIONS,
    LIBRARY,
    Circumstances,
    KeyOnReading,
    check_key_on,
    key_on_readings,
)
from inbetrieb_core.sensors.diagnosis import implied_pull_up_ohm
from inbetrieb_core.sensors.sheet import USUAL_PULL_UPS_OHM
from inbetrieb_core.sensors.thermistor import Thermistor, divider_v

from tests.examples import asked

AROUND = Circumstances(ambient_c=12.0, soak_h=14.0, altitude_m=0.0, meter_v=12.55)


def first_of(function, part=""):
    return next(item for item in LIBRARY if item.function == function and part in item.name)


SENSORS = [
    first_of("throttle"),
    first_of("manifold_pressure", "2.5-bar"),
    first_of("coolant"),
    first_of("intake_air", "10 kΩ"),
    first_of("wideband"),
    first_of("fuel_pressure"),
    first_of("battery"),
]
#: What each fault of the bench is found as: function, state, words of the reason.
FOUND = {
    "pull_up_off": ("coolant", "fail", "Pull-up off"),
    "open_wire": ("coolant", "fail", "Wire open"),
    "map_signal": ("manifold_pressure", "fail", "signal is at ground"),
    "ground_offset": ("manifold_pressure", "suspicious", "look at the sensor ground first"),
    "battery_drop": ("battery", "fail", "voltage is lost"),
    "throttle_reach": ("throttle", "fail", "does not reach"),
    "wideband_off": ("wideband", "fail", "no voltage"),
    "weak_pump": ("fuel_pressure", "fail", "is wanted"),
}


def check(faults=(), sensors=SENSORS, around=AROUND, seed=0):
    trace = simulate_key_on(sensors, around, faults, seed)
    return check_key_on(sensors, key_on_readings(trace), around)


def judged(result):
    return {judgement.function: judgement for judgement in result.judgements}


def readings(**values):
    good = {
        "throttle": KeyOnReading(0.2, 99.9),
        "manifold_pressure": KeyOnReading(101.0),
        "coolant": KeyOnReading(12.5),
        "intake_air": KeyOnReading(11.8),
        "wideband": KeyOnReading(1.36),
        "fuel_pressure": KeyOnReading(303.0),
        "battery": KeyOnReading(12.5),
    }
    return good | {
        k: v if isinstance(v, KeyOnReading) else KeyOnReading(v) for k, v in values.items()
    }


class SimulatedTests(SimpleTestCase):
    def test_sound_sensors_pass_whatever_the_noise_and_weather(self):
        for seed in range(6):
            for ambient, soak, height in (
                (-15.0, 30.0, 0.0),
                (12.0, 14.0, 300.0),
                (32.0, 9.0, 1500.0),
            ):
                around = Circumstances(ambient, None, height, soak, 12.4)
                result = check(around=around, seed=seed)
                with self.subTest(seed=seed, ambient=ambient):
                    self.assertEqual(result.state, "pass", result.sentence)

    def test_every_fault_is_found_and_named(self):
        self.assertEqual(set(FOUND) | {"pull_up"}, set(SENSOR_FAULTS))
        for kind, (function, state, words) in FOUND.items():
            judgement = judged(check([Fault(kind)]))[function]
            with self.subTest(kind):
                self.assertEqual(judgement.state, state, judgement.sentence)
                self.assertIn(words, judgement.sentence)
                self.assertTrue(judgement.look_at)

    @settings(deadline=None, max_examples=asked(60))
    @given(
        st.sampled_from(USUAL_PULL_UPS_OHM),
        st.sampled_from(USUAL_PULL_UPS_OHM),
        st.floats(-10.0, 32.0),
        st.integers(0, 9),
    )
    def test_a_wrong_pull_up_is_named_by_its_size(self, entered, real, ambient, seed):
        item = SENSORS[2]
        coolant = replace(item, transfer=replace(item.transfer, pull_up_ohm=entered))
        around = replace(AROUND, ambient_c=ambient, soak_h=40.0)
        result = check([Fault("pull_up", real)], [coolant], around, seed)
        judgement = judged(result)["coolant"]
        if abs(real / entered - 1.0) < 0.2:  # 2490 and 2700 Ω are nearly the same
            self.assertNotEqual(judgement.state, "fail", judgement.sentence)
            return
        self.assertIn(judgement.state, ("suspicious", "fail"), judgement.sentence)
        near = [ohm for ohm in USUAL_PULL_UPS_OHM if abs(ohm / real - 1.0) < 0.15]
        self.assertTrue(
            any(f"{ohm:g} Ω instead" in judgement.sentence for ohm in near)
            or "the hottest" in judgement.sentence
            or "the coldest" in judgement.sentence,
            judgement.sentence,
        )

    def test_several_explanations_are_told_and_the_true_one_is_among_them(self):
        """Mistakes drawn one at a time; the truth is made by the laws of the circuit, not by the rule."""
        draw = np.random.default_rng(31)
        coolant = SENSORS[2].made()
        assert isinstance(coolant, Thermistor)
        named = cases = 0
        for _ in range(40):
            ambient = float(draw.uniform(-8.0, 28.0))
            around = replace(AROUND, ambient_c=ambient, soak_h=40.0)
            ohm = coolant.curve.resistance_ohm(ambient)
            kind = str(draw.choice(["pull_up", "unit", "heat", "ground"]))
            if kind == "pull_up":
                real = float(draw.choice([1000.0, 4700.0, 10_000.0]))
                shown, words = coolant.value(divider_v(ohm, real, 5.0)), f"{real:g} Ω instead"
            elif kind == "unit":
                shown, words = 1.8 * ambient + 32.0, "°F"
            elif kind == "heat":
                shown, words = ambient + float(draw.uniform(15.0, 40.0)), "heat left from a run"
            else:
                lifted = divider_v(ohm, coolant.pull_up_ohm, 4.85) + 0.15
                shown, words = coolant.value(lifted), "ground"
            shown += float(draw.normal(0.0, 0.4))
            result = check_key_on(SENSORS, readings(coolant=shown, intake_air=ambient), around)
            found = judged(result)["coolant"]
            if found.state == "pass":
                continue
            cases += 1
            named += words in found.sentence or "the coldest" in found.sentence
            self.assertNotIn("exactly", found.sentence)
        print(f"\nthe true mistake is among those named: {named} of {cases}")
        self.assertGreater(cases, 20)
        self.assertGreaterEqual(named, 0.85 * cases)

    def test_a_barometer_reduced_to_sea_level_and_units_are_named(self):
        around = replace(AROUND, altitude_m=900.0, barometric_kpa=101.6)
        true = standard_pressure_kpa(900.0) + 0.3
        found = judged(check_key_on(SENSORS, readings(manifold_pressure=true), around))
        self.assertIn("reduced to sea level", found["manifold_pressure"].sentence)
        around = replace(AROUND, barometric_kpa=100.0)
        for shown, unit in ((14.5, "psi"), (29.5, "inHg")):
            found = judged(check_key_on(SENSORS, readings(manifold_pressure=shown), around))
            self.assertIn(unit, found["manifold_pressure"].sentence)

    def test_a_ground_shared_by_sensors_is_found_beside_others_that_cannot_show_it(self):
        kinds = {sensor.function: sensor.made() for sensor in SENSORS}
        for volts in (0.12, -0.15, 0.25):

            def off(key, true, volts=volts):
                return kinds[key].value(kinds[key].signal(true) + volts)

            lifted = divider_v(
                kinds["coolant"].curve.resistance_ohm(12.0), kinds["coolant"].pull_up_ohm, 5.0 - volts
            ) + volts  # fmt: skip
            shown = readings(
                manifold_pressure=off("manifold_pressure", 101.325),
                throttle=KeyOnReading(off("throttle", 0.0), off("throttle", 100.0)),
                coolant=kinds["coolant"].value(lifted),
            )
            found = judged(check_key_on(SENSORS, shown, AROUND))
            with self.subTest(volts=volts):
                self.assertIn("sensor ground first", found["manifold_pressure"].sentence)

    def test_the_implied_pull_up_is_exact_without_noise(self):
        transfer = SENSORS[2].made()
        assert isinstance(transfer, Thermistor)
        for real in (800.0, 4321.0):
            ohm = transfer.curve.resistance_ohm(15.0)
            shown = transfer.value(divider_v(ohm, real, transfer.supply_v))
            self.assertAlmostEqual(implied_pull_up_ohm(transfer, shown, 15.0) / real, 1.0, places=6)

    def test_bad_faults_are_refused(self):
        for fault in (Fault("gremlins"), Fault("pull_up", 0.0), Fault("battery_drop", math.nan)):
            with self.assertRaises(InputRefused):
                check([fault])
        with self.assertRaisesRegex(InputRefused, "Enter a sensor"):
            simulate_key_on([], AROUND)


class TypedTests(SimpleTestCase):
    def state_of(self, function, value, around=AROUND, sensors=SENSORS):
        result = check_key_on(sensors, readings(**{function: value}), around)
        return judged(result)[function]

    def test_tolerances_are_those_of_the_trade(self):
        """±2 kPa, ±3 K, ±1 %, ±0.2 V (common practice, no source)."""
        air = standard_pressure_kpa(0.0)
        known = replace(AROUND, barometric_kpa=air)
        cases = [
            ("manifold_pressure", air + 1.9, "pass"), ("manifold_pressure", air - 2.2, "suspicious"),
            ("manifold_pressure", air - 5.5, "fail"),
            ("coolant", 12.0 - 2.9, "pass"), ("coolant", 12.0 - 4.0, "suspicious"), ("coolant", 2.0, "fail"),
            ("throttle", KeyOnReading(0.9, 99.2), "pass"), ("throttle", KeyOnReading(2.0, 99.9), "suspicious"),
            ("throttle", KeyOnReading(9.0, 100.0), "fail"), ("throttle", KeyOnReading(0.0, None), "suspicious"),
            ("battery", 12.40, "pass"), ("battery", 12.25, "suspicious"), ("battery", 11.5, "fail"),
            ("fuel_pressure", 280.0, "pass"), ("fuel_pressure", 250.0, "suspicious"), ("fuel_pressure", 0.0, "fail"),
            ("wideband", 1.35, "pass"), ("wideband", 1.0, "fail"),
        ]  # fmt: skip
        for function, value, state in cases:
            with self.subTest(function=function, value=value):
                judgement = self.state_of(function, value, known)
                self.assertEqual(judgement.state, state, judgement.sentence)

    def test_one_simple_mistake_is_named(self):
        cases = [
            ("manifold_pressure", 14.7, "psi"),
            ("manifold_pressure", 0.4, "gauge pressure"),
            ("coolant", 53.6, "°F"),
            ("fuel_pressure", 43.5, "psi"),
            ("fuel_pressure", 401.3, "absolute pressure"),
            ("throttle", KeyOnReading(99.0, 1.0), "reversed"),
            ("throttle", KeyOnReading(47.0, 47.5), "does not move"),
            ("wideband", 0.68, "no voltage"),
            ("wideband", 1.0, "default"),
            ("intake_air", -40.0, "pull-up off"),
        ]
        for function, value, words in cases:
            with self.subTest(function=function, value=value):
                self.assertIn(words, self.state_of(function, value).sentence)

    def test_another_fitted_sensor_is_recognised(self):
        map_sensor, other = SENSORS[1], first_of("manifold_pressure", "3-bar")
        volts = other.made().signal(101.3)
        shown = map_sensor.made().value(volts)
        self.assertIn("3-bar", self.state_of("manifold_pressure", shown).sentence)

    def test_heat_left_in_the_engine_is_allowed_for(self):
        soon = replace(AROUND, soak_h=3.0)
        self.assertEqual(self.state_of("coolant", 30.0, soon).state, "pass")
        self.assertEqual(self.state_of("coolant", 30.0).state, "fail")
        # Never colder than outside, however short it stood.
        self.assertEqual(self.state_of("coolant", 2.0, soon).state, "fail")
        unknown = replace(AROUND, soak_h=None)
        self.assertEqual(self.state_of("coolant", 30.0, unknown).state, "suspicious")

    def test_air_pressure_by_altitude_leaves_room_for_the_weather(self):
        high = Circumstances(12.0, None, 1500.0, 14.0, 12.55)
        self.assertEqual(
            self.state_of("manifold_pressure", standard_pressure_kpa(1500.0) - 4.0, high).state,
            "pass",
        )
        self.assertEqual(self.state_of("manifold_pressure", 101.3, high).state, "fail")

    def test_a_sensor_that_does_not_read_fails(self):
        result = check_key_on(SENSORS, {"coolant": KeyOnReading(12.0)}, AROUND)
        self.assertEqual(result.state, "fail")
        states = {j.function: j.state for j in result.judgements}
        self.assertEqual(states["battery"], "not_read")
        self.assertEqual(states["coolant"], "pass")

    def test_needed_sensors_are_asked_for_even_if_none_is_entered(self):
        result = check_key_on([], {}, AROUND)
        always = [key for key, definition in FUNCTIONS.items() if definition.needed == "always"]
        self.assertEqual([j.function for j in result.judgements], always)

    def test_bad_numbers_are_refused(self):
        for bad in (
            {"nonsense": KeyOnReading(1.0)},
            {"coolant": KeyOnReading(math.inf)},
            {"throttle": KeyOnReading(0.0, math.nan)},
        ):
            with self.assertRaises(InputRefused):
                check_key_on(SENSORS, bad, AROUND)
        for field, value in (
            ("ambient_c", 200.0),
            ("barometric_kpa", 1013.0),
            ("altitude_m", math.nan),
            ("soak_h", -1.0),
            ("meter_v", 0.0),
            ("ethanol_pct", 500.0),
        ):
            with self.subTest(field), self.assertRaises(InputRefused) as refused:
                Circumstances(**{field: value})
            self.assertEqual(refused.exception.problems[0].field, field)
        with self.assertRaisesRegex(InputRefused, "101.3 kPa"):
            Circumstances(barometric_kpa=1013.0)


class LogReadingTests(SimpleTestCase):
    def trace(self, **channels):
        time = np.arange(0.0, 6.0, 0.1)
        return Trace({"time_s": time, "rpm": np.zeros_like(time), **channels})

    def test_reads_only_until_the_engine_turns(self):
        time = np.arange(0.0, 6.0, 0.1)
        rpm = np.where(time > 4.0, 220.0, 0.0)
        coolant = np.where(time > 4.0, 99.0, 11.0)
        found = key_on_readings(Trace({"time_s": time, "rpm": rpm, "coolant_c": coolant}))
        self.assertEqual(found["coolant"].value, 11.0)

    def test_throttle_ends_and_the_prime(self):
        time = np.arange(0.0, 6.0, 0.1)
        pedal = np.where((time > 2) & (time < 4), 99.5, 0.3)
        rail = 300.0 * (1 - np.exp(-time / 0.4))
        found = key_on_readings(self.trace(throttle_pct=pedal, fuel_pressure_kpa=rail))
        self.assertEqual((found["throttle"].value, found["throttle"].opened), (0.3, 99.5))
        self.assertAlmostEqual(found["fuel_pressure"].value, 300.0, delta=0.5)
        self.assertIsNone(
            key_on_readings(self.trace(throttle_pct=0 * time + 0.3))["throttle"].opened
        )

    def test_refuses_a_log_that_holds_none(self):
        time = np.arange(0.0, 6.0, 0.1)
        with self.assertRaisesRegex(LogRefused, "turns from the first sample"):
            key_on_readings(Trace({"time_s": time, "rpm": time + 300.0, "coolant_c": time}))
        with self.assertRaisesRegex(LogRefused, "no sensor's channel"):
            key_on_readings(self.trace())

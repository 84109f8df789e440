"""What a sensor's sheet shows: resolution, fault limits, mistakes, tables, and refusals."""

import math
from dataclasses import replace

from django.test import SimpleTestCase
from inbetrieb_core.errors import CoreError, InputRefused
from inbetrieb_core.fuel import Fuel
from inbetrieb_core.sensors import (
    FUNCTIONS,
    LIBRARY,
    FrequencyEntry,
    LinearEntry,
    SensorEntry,
    TableEntry,
    ThermistorEntry,
    ThermocoupleEntry,
    blend_need,
    capture_throttle,
    ethanol_share,
    fit_agreement,
    fuel_level_sheet,
    sensor_sheet,
    share_in_use,
    sold_blends,
    value_table,
)
from inbetrieb_core.sensors.transfers import linear_from_points
from inbetrieb_core.sentences import plain

POINTS = ((-20.0, 15_460.0), (20.0, 2500.0), (100.0, 186.0))
COOLANT = SensorEntry(
    "coolant", "Sender", ThermistorEntry("thermistor", 2490.0, POINTS), "measured"
)
MAP = SensorEntry(
    "manifold_pressure", "Plenum", LinearEntry("linear", ((0.4, 20.0), (4.65, 250.0))), "data_sheet"
)


def problem_of(case, sensor):
    with case.assertRaises(InputRefused) as refused:
        sensor.made()
    return refused.exception.problems[0]


class LibraryTests(SimpleTestCase):
    def test_every_shipped_sensor_makes_a_whole_sheet(self):
        seen = set()
        for item in LIBRARY:
            with self.subTest(item.name):
                sheet = sensor_sheet(item)
                seen.add(item.function)
                self.assertGreater(len(sheet.curve), 20)
                self.assertTrue(any(not point.extrapolated for point in sheet.curve))
                self.assertTrue(sheet.resolutions)
                self.assertEqual(len(value_table(item)), 17)
                self.assertTrue(any("assumed" in remark for remark in sheet.remarks))
        self.assertEqual(seen, set(FUNCTIONS))

    def test_the_curve_stays_where_the_quantity_can_be(self):
        for item in LIBRARY:
            definition = FUNCTIONS[item.function]
            for point in sensor_sheet(item).curve:
                self.assertGreaterEqual(point.value, definition.lower)
                self.assertLessEqual(point.value, definition.upper)


class ResolutionTests(SimpleTestCase):
    def test_of_a_line_is_slope_times_a_count(self):
        sheet = sensor_sheet(MAP)
        slope = (250.0 - 20.0) / (4.65 - 0.4)
        for row in sheet.resolutions:
            self.assertAlmostEqual(row.step, slope * 5.0 / 1023.0, places=6)
        fine = sensor_sheet(replace(MAP, adc_bits=12)).resolutions
        self.assertAlmostEqual(sheet.resolutions[0].step / fine[0].step, 4095 / 1023, places=6)

    def test_of_a_thermistor_is_worst_at_the_ends(self):
        steps = {row.at: row.step for row in sensor_sheet(COOLANT).resolutions}
        self.assertLess(steps[20.0], steps[-20.0])
        self.assertLess(steps[20.0], steps[110.0])

    def test_working_points_beyond_the_sensor_are_left_out_or_flagged(self):
        sheet = sensor_sheet(MAP)
        self.assertEqual([row.at for row in sheet.resolutions], [25.0, 40.0, 100.0, 200.0])
        flagged = {row.at: row.extrapolated for row in sensor_sheet(COOLANT).resolutions}
        self.assertTrue(flagged[110.0])
        self.assertFalse(flagged[20.0])


class FaultLimitTests(SimpleTestCase):
    def test_lie_between_the_working_range_and_the_rails(self):
        limits = sensor_sheet(MAP).fault_limits
        self.assertAlmostEqual(limits.below, 0.2, places=6)
        self.assertAlmostEqual(limits.above, (4.65 + 5.0) / 2, places=6)

    def test_of_a_thermistor_name_open_and_short(self):
        limits = sensor_sheet(COOLANT).fault_limits
        self.assertIn("short", limits.below_means)
        self.assertIn("open", limits.above_means)
        self.assertLess(limits.below, COOLANT.made().signal(150.0))
        self.assertGreater(limits.above, COOLANT.made().signal(-40.0))

    def test_are_absent_where_the_range_reaches_the_rail(self):
        full = replace(
            MAP, function="wideband", transfer=LinearEntry("linear", ((0.0, 0.68), (5.0, 1.36)))
        )
        limits = sensor_sheet(full).fault_limits
        self.assertIsNone(limits.below)
        self.assertIn("no limit", limits.above_means)


class MistakeTests(SimpleTestCase):
    def test_another_pull_up_reads_what_the_divider_says(self):
        transfer = COOLANT.made()
        sheet = sensor_sheet(COOLANT)
        row = next(w for w in sheet.what_ifs if w.case == "pull-up really 1000 Ω")
        at_20 = row.readings[sheet.true_points.index(20.0)]
        volts = 5.0 * 2500.0 / (2500.0 + 1000.0)
        ohm = 2490.0 * volts / (5.0 - volts)
        self.assertAlmostEqual(at_20, transfer.curve.temperature_c(ohm), places=6)
        self.assertLess(at_20, 0.0)

    def test_pull_up_off_and_open_wire_read_the_two_ends(self):
        by_case = {w.case: w.readings for w in sensor_sheet(COOLANT).what_ifs}
        off = next(r for c, r in by_case.items() if c.startswith("pull-up off"))
        wire = next(r for c, r in by_case.items() if c.startswith("wire open"))
        self.assertEqual(set(off), {150.0})
        self.assertEqual(set(wire), {-40.0})

    def test_the_entered_pull_up_is_no_mistake(self):
        cases = [w.case for w in sensor_sheet(COOLANT).what_ifs]
        self.assertNotIn("pull-up really 2490 Ω", cases)
        self.assertEqual(sensor_sheet(MAP).what_ifs, ())


class ValueTableTests(SimpleTestCase):
    def test_on_the_controllers_own_axis(self):
        rows = value_table(MAP, axis=[4.65, 0.4, 5.0])
        self.assertEqual([row.at for row in rows], [0.4, 4.65, 5.0])
        self.assertAlmostEqual(rows[0].value, 20.0)
        self.assertEqual([row.extrapolated for row in rows], [False, False, True])

    def test_over_resistance(self):
        rows = value_table(COOLANT, "resistance", [186.0, 2500.0, 90_000.0])
        self.assertAlmostEqual(rows[1].value, 20.0, places=6)
        self.assertEqual([row.extrapolated for row in rows], [False, False, True])

    def test_refusals(self):
        for action, field in (
            (lambda: value_table(MAP, "resistance"), "of"),
            (lambda: value_table(MAP, axis=[]), "axis"),
            (lambda: value_table(MAP, axis=[1.0, 1.0]), "axis"),
            (lambda: value_table(MAP, axis=[math.nan]), "axis"),
            (lambda: value_table(COOLANT, "resistance", [-5.0]), "axis"),
        ):
            with self.subTest(field=field), self.assertRaises(InputRefused) as refused:
                action()
            self.assertEqual(refused.exception.problems[0].field, field)


class EntryTests(SimpleTestCase):
    def test_absurd_values_get_a_sentence_on_their_field(self):
        line = LinearEntry("linear", ((0.5, 0.0), (4.5, 1000.0)))
        fuel = SensorEntry("fuel_pressure", "Rail", line)
        cases = [
            (replace(fuel, function="nonsense"), "function", "no function"),
            (replace(fuel, name="  "), "name", "what is fitted"),
            (replace(fuel, transfer=FrequencyEntry("frequency", ((50.0, 0.0), (150.0, 100.0)))), "transfer.kind", "entered as linear or table"),
            (replace(fuel, transfer=LinearEntry("linear", ((0.5, 0.0), (4.5, 43.0)))), "transfer.points", "296 kPa"),
            (replace(fuel, transfer=LinearEntry("linear", ((0.0, 5.0), (1000.0, 0.5)))), "transfer.points", "swapped"),
            (replace(fuel, transfer=LinearEntry("linear", None, None, 3.0)), "transfer.points", "two points"),
            (replace(fuel, transfer=LinearEntry("linear", None, 1e9, 0.0)), "transfer.slope", "cannot be"),
            (replace(COOLANT, transfer=ThermistorEntry("thermistor", 2490.0, POINTS[:2])), "transfer.points", "At least 3"),
            (replace(COOLANT, transfer=ThermistorEntry("thermistor", 2490.0, POINTS, beta_k=3900.0)), "transfer.points", "exactly one"),
            (replace(COOLANT, transfer=ThermistorEntry("thermistor", 2490.0, POINTS[:1], beta_k=5.0)), "transfer.beta_k", "Beta"),
            (replace(COOLANT, transfer=ThermistorEntry("thermistor", 2490.0, POINTS, supply_v=0.0)), "transfer.supply_v", "supply"),
            (replace(COOLANT, transfer=ThermocoupleEntry("thermocouple", 0.1)), "transfer.kind", "thermistor or table"),
            (replace(MAP, freeze_rpm=-1.0), "freeze_rpm", "between"),
            (replace(MAP, lamp_share_pct=math.nan), "lamp_share_pct", "between"),
            (replace(MAP, dead_zone_pct=99.0), "dead_zone_pct", "between"),
            (replace(MAP, capacity_l=-2.0), "capacity_l", "tank"),
        ]  # fmt: skip
        for sensor, field, words in cases:
            with self.subTest(field=field, words=words):
                problem = problem_of(self, sensor)
                self.assertEqual(problem.field, field)
                self.assertIn(words, plain(problem.sentence))


class ThrottleTests(SimpleTestCase):
    def test_ends_reach_0_and_100_inside_the_dead_zone(self):
        for closed, opened in ((0.6, 4.2), (4.3, 0.7)):
            capture = capture_throttle(closed, opened, 2.0)
            sensor = SensorEntry("throttle", "Pot", capture.entry)
            transfer = sensor.made()
            self.assertEqual(capture.rising, opened > closed)
            self.assertAlmostEqual(transfer.value(closed), -2.0 / 0.96, places=3)
            self.assertGreater(transfer.value(opened), 100.0)
            self.assertEqual(capture.level, "good")

    def test_small_span_and_ends_at_the_rail_are_remarked(self):
        self.assertEqual(capture_throttle(1.0, 2.5).level, "attention")
        self.assertIn("broken wire", " ".join(capture_throttle(0.02, 4.0).sentences))
        for closed, opened in ((2.0, 2.1), (-1.0, 4.0), (0.5, 7.0), (math.nan, 4.0)):
            with self.assertRaises(InputRefused):
                capture_throttle(closed, opened)


class FuelLevelTests(SimpleTestCase):
    SENDER = SensorEntry(
        "fuel_level", "Float", TableEntry("table", ((3.1, 0.0), (1.0, 40.0), (0.4, 60.0)))
    )

    def test_volume_table_and_lamp(self):
        sheet = fuel_level_sheet(self.SENDER)
        self.assertEqual(sheet.volumes[0][:2], (0.0, 0.0))
        self.assertAlmostEqual(sheet.volumes[-1][2], 0.4, places=6)
        self.assertEqual(sheet.lamp_l, 7.2)
        self.assertAlmostEqual(self.SENDER.made().value(sheet.lamp_v), 7.2, places=5)
        self.assertFalse(sheet.rising)

    def test_refuses_a_tank_smaller_than_a_fill(self):
        with self.assertRaisesRegex(InputRefused, "holds 50 l, but a fill of 60 l"):
            fuel_level_sheet(replace(self.SENDER, capacity_l=50.0))
        with self.assertRaises(CoreError):
            fuel_level_sheet(MAP)


class FlexibleFuelTests(SimpleTestCase):
    def test_50_hz_is_petrol_and_150_hz_ethanol(self):
        """Common practice, no source."""
        self.assertEqual([ethanol_share(hz) for hz in (50.0, 100.0, 150.0)], [0.0, 0.5, 1.0])
        self.assertEqual([ethanol_share(hz) for hz in (20.0, 170.0)], [0.0, 1.0])

    def test_is_frozen_at_speed_and_without_a_signal(self):
        self.assertEqual(share_in_use(120.0, 900.0, 0.1), 0.7)
        self.assertEqual(share_in_use(120.0, 3500.0, 0.1), 0.1)
        self.assertEqual(share_in_use(0.0, 900.0, 0.1), 0.1)

    def test_blends_on_sale(self):
        """E10 → 14.1, E85 → 9.8 (common practice); volume by mass balance."""
        blends = {blend.ethanol_pct: blend for blend in sold_blends()}
        self.assertAlmostEqual(blends[10.0].stoichiometric_afr, 14.1, delta=0.05)
        self.assertAlmostEqual(blends[85.0].stoichiometric_afr, 9.8, delta=0.1)
        self.assertEqual(blends[0.0].volume_factor, 1.0)
        for share, blend in blends.items():
            fuel = Fuel(share / 100.0)
            air = 1000.0
            petrol = air / Fuel(0.0).stoichiometric_afr / Fuel(0.0).density_kg_m3
            needed = air / fuel.stoichiometric_afr / fuel.density_kg_m3
            self.assertAlmostEqual(blend.volume_factor, needed / petrol, places=9)
            self.assertAlmostEqual(ethanol_share(blend.signal_hz), share / 100.0, places=9)
        with self.assertRaises(CoreError):
            blend_need("x", 1.2)


class AgreementTests(SimpleTestCase):
    LINE = linear_from_points(((0.0, 0.68), (5.0, 1.36)), "V")
    TRUTH = (0.78, 0.85, 0.92, 1.0, 1.08, 1.2)

    def test_a_ground_offset_is_named_with_its_voltage(self):
        # 120 mV too little at the input, everywhere.
        pairs = [(t, self.LINE.value(self.LINE.signal(t) - 0.12)) for t in self.TRUTH]
        result = fit_agreement(pairs, self.LINE)
        self.assertEqual(result.verdict, "ground_offset")
        self.assertAlmostEqual(result.ground_offset_v, -0.12, delta=0.003)
        self.assertIn("ground", result.sentence)
        corrected = SensorEntry("wideband", "W", result.proposal).made()
        for truth in self.TRUTH:
            self.assertAlmostEqual(corrected.value(self.LINE.signal(truth) - 0.12), truth, places=6)

    def test_another_transfer_shows_as_a_gain(self):
        other = linear_from_points(((0.0, 0.5), (5.0, 1.5)), "V")
        pairs = [(t, self.LINE.value(other.signal(t))) for t in self.TRUTH]
        result = fit_agreement(pairs, self.LINE)
        self.assertEqual(result.verdict, "gain")
        self.assertAlmostEqual(result.gain, 0.2 / 0.136, places=4)
        corrected = SensorEntry("wideband", "W", result.proposal).made()
        self.assertAlmostEqual(corrected.value(2.5), other.value(2.5), places=6)

    def test_small_scatter_agrees_and_changes_nothing(self):
        pairs = [
            (t, t + d)
            for t, d in zip(self.TRUTH, (0.003, -0.004, 0.002, 0, -0.003, 0.004), strict=True)
        ]
        result = fit_agreement(pairs, self.LINE)
        self.assertEqual((result.verdict, result.proposal), ("agree", None))

    def test_a_reversed_output_is_told_as_reversed(self):
        volts = [self.LINE.signal(t) for t in self.TRUTH]
        pairs = [(t, self.LINE.value(5.0 - v)) for t, v in zip(self.TRUTH, volts, strict=True)]
        result = fit_agreement(pairs, self.LINE)
        self.assertIn("reversed", result.sentence)
        corrected = SensorEntry("wideband", "W", result.proposal).made()
        self.assertAlmostEqual(corrected.value(5.0 - self.LINE.signal(0.9)), 0.9, places=6)

    def test_pairs_at_an_end_of_the_output_are_left_out(self):
        shifted = [(t, self.LINE.value(self.LINE.signal(t) - 0.12)) for t in self.TRUTH]
        stuck = [(1.45, 1.36), (1.6, 1.36), (0.6, 0.68)]
        result = fit_agreement(shifted + stuck, self.LINE)
        self.assertEqual(result.verdict, "ground_offset")
        self.assertIn("3 pairs were left out", result.sentence)

    def test_pairs_at_one_mixture_tell_no_gain(self):
        result = fit_agreement([(1.0, 1.05), (1.01, 1.05), (0.99, 1.04)], self.LINE)
        self.assertEqual(result.verdict, "unclear")
        self.assertIsNone(result.gain_error)
        self.assertIn("add rich and lean", result.sentence)

    def test_refusals(self):
        for pairs, word in (
            ([(1.0, 1.0)], "Three pairs"),
            ([(14.7, 14.7), (12.0, 12.1), (13.0, 13.0)], "AFR"),
            ([(1.0, math.nan), (1.0, 1.0), (0.9, 0.9)], "lambda lies"),
            ([(1.0,), (0.9,), (0.8,)], "two numbers"),
        ):
            with self.subTest(word), self.assertRaisesRegex(InputRefused, word):
                fit_agreement(pairs, self.LINE)

"""Other tables that logs correct: second cam profile, air meter, learned trims, corrections; logs read after a repair."""

from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from inbetrieb_core.basemaps import generate
from inbetrieb_core.bench import NAMED, simulate_drive, stepped_legs
from inbetrieb_core.bench.drive import drawn_legs
from inbetrieb_core.errors import InputRefused, LogRefused
from inbetrieb_core.fuelling import (
    Mended,
    correction_table,
    corrections_of,
    fingerprint,
    grid_of,
    propose,
    readings_of_trims,
    sift,
    solve_map,
    without,
)
from inbetrieb_core.logs import Trace
from inbetrieb_core.provenance import Provenance
from inbetrieb_core.tables import Table, filled, make_axis

ENGINE = NAMED["port_four"]
TABLES = generate(ENGINE.spec)
MARK = Provenance("assumed", "")


def held(seconds=6.0, points=60, seed=0, **columns):
    """Return a drive of held points, each channel given per point; noise on lambda only."""
    draw = np.random.default_rng(seed)
    time = np.arange(0.0, points * seconds, 0.1)
    at = np.minimum((time / seconds).astype(int), points - 1)
    usual = {"coolant_c": 90.0, "throttle_pct": 20.0, "battery_v": 14.0, "pulse_ms": 4.0, "lambda_target": 1.0}  # fmt: skip
    channels = {name: np.full(time.shape, value) for name, value in usual.items()}
    channels |= {name: np.asarray(values, dtype=float)[at] for name, values in columns.items()}
    channels["lambda"] = channels["lambda"] * np.exp(draw.normal(0.0, 0.006, time.shape))
    # The engine has run for long: no start enrichment.
    return Trace({"time_s": time, **channels})


def curve(key, axis, points, values):
    return Table(key, (make_axis(axis, points),), np.array(values, dtype=float), filled((len(points),), MARK))  # fmt: skip


class MeterTests(SimpleTestCase):
    def test_the_curve_of_a_hot_wire_is_found(self):
        # King's law: V² = A + B·ṁ^0.5 (L. V. King, 1914; from memory). The entered curve is another sensor's.
        draw = np.random.default_rng(1)
        flow = np.exp(draw.uniform(np.log(3.0), np.log(150.0), 90))
        signal = np.sqrt(0.6 + 1.5 * flow**0.5)
        points = np.linspace(1.2, 4.6, 12)
        true = ((points**2 - 0.6) / 1.5) ** 2
        entered = true * (1.0 + 0.12 * np.sin(points * 1.4))
        tables = TABLES.with_table(curve("air_meter", "meter_v", points, entered))
        believed = np.interp(signal, points, entered)
        trace = held(points=90, rpm=draw.uniform(1500, 5000, 90), map_kpa=draw.uniform(30, 95, 90), meter_v=signal, **{"lambda": flow / believed})  # fmt: skip
        readings = sift(trace, tables, key="air_meter").readings
        table = tables["air_meter"]
        fit = solve_map(readings, grid_of(table))
        done = propose(table, fit, authority=0.3)
        self.assertEqual(done.values.shape, (1, 12))
        seen = (fit.hits[0] > 5) & (points > 1.8)
        before, after = (np.abs(v / true - 1.0)[seen].max() for v in (entered, done.values[0]))
        self.assertGreater(before, 0.1)
        self.assertLess(after, 0.035)
        told = fingerprint(readings, ENGINE.spec, table)
        self.assertNotIn("map-sensor", {cause.key for cause in told.causes})

    def test_a_job_without_its_channel_is_told(self):
        tables = TABLES.with_table(curve("air_meter", "meter_hz", [100, 5000], [5, 200]))
        trace = held(rpm=[2000.0] * 60, map_kpa=[50.0] * 60, **{"lambda": [1.0] * 60})
        with self.assertRaisesRegex(LogRefused, "missing: meter_hz"):
            sift(trace, tables, key="air_meter")


class CamTests(SimpleTestCase):
    def tables(self):
        ve = TABLES["ve"]
        second = Table("ve_second_cam", ve.axes, ve.values * 1.05, ve.provenance)
        switch = Table("cam_switch_rpm", (), np.array(4200.0), filled((), MARK))
        return TABLES.with_table(second).with_table(switch)

    def test_each_profile_is_corrected_for_itself(self):
        draw = np.random.default_rng(2)
        rpm = draw.uniform(1800, 6000, 120)
        load = draw.uniform(35, 95, 120)
        lean = np.where(rpm > 4200, 1.08, 0.97)
        trace = held(points=120, rpm=rpm, map_kpa=load, **{"lambda": lean})
        for key, factor in (("ve", 0.97), ("ve_second_cam", 1.08)):
            readings = sift(trace, self.tables(), key=key).readings
            self.assertAlmostEqual(float(np.exp(np.median(readings.need))), factor, delta=0.01)
            inside = readings.rpm > 4275 if key == "ve_second_cam" else readings.rpm < 4125
            self.assertTrue(inside.all())
        # Where the profile is logged it counts, whatever the speed.
        logged = held(points=120, rpm=rpm, map_kpa=load, cam_profile=np.where(load > 60, 2.0, 1.0), **{"lambda": lean})  # fmt: skip
        second = sift(logged, self.tables(), key="ve_second_cam").readings
        self.assertGreater(second.load.min(), 55)


class TrimTests(SimpleTestCase):
    def test_learned_trims_are_read_as_evidence(self):
        ve = TABLES["ve"]
        axes = (make_axis("rpm", (1500, 3000, 5000)), make_axis("map_kpa", (30, 60, 90)))
        learned = np.array([[4.0, 6, 5], [5, 8, 6], [6, 7, 0]])
        trims = Table("learned_trim", axes, learned, filled((3, 3), MARK))
        readings = readings_of_trims(trims, ve)
        self.assertEqual(len(readings), 8)  # what never learned is no evidence
        np.testing.assert_allclose(np.exp(readings.need[:3]), [1.04, 1.06, 1.05])
        fit = solve_map(readings, grid_of(ve))
        self.assertAlmostEqual(replace(ve, values=100 * fit.factor).at(3000, 60), 108, delta=2)
        with self.assertRaisesRegex(LogRefused, "learned nothing"):
            readings_of_trims(replace(trims, values=np.zeros((3, 3))), ve)
        with self.assertRaisesRegex(LogRefused, "another load"):
            readings_of_trims(Table("learned_trim", (axes[0], make_axis("throttle_pct", (3, 50, 90))), np.ones((3, 3)), filled((3, 3), MARK)), ve)  # fmt: skip


class MendedTests(SimpleTestCase):
    def test_the_same_drive_read_again_without_the_mended_cause_blames_nobody(self):
        spec = ENGINE.spec
        truth = replace(ENGINE.truth, flow_scale=0.8, dead_time_offset_ms=0.0)
        engine = replace(ENGINE, truth=truth)
        trace = simulate_drive(engine, spec, TABLES, drawn_legs(spec, 5.0, 8), seed=8, authority_pct=25)  # fmt: skip
        readings = sift(trace, TABLES).readings
        told = fingerprint(readings, spec, TABLES["ve"])
        self.assertTrue(told.blocks)
        left = without(
            readings, [Mended("fuel-per-pulse", told.causes[0].size)], spec, TABLES["ve"]
        )
        self.assertFalse(fingerprint(left, spec, TABLES["ve"]).blocks)
        self.assertLess(abs(np.median(left.need)), 0.4 * abs(np.median(readings.need)))

    def test_what_cannot_be_is_refused(self):
        readings = sift(held(rpm=[2400.0] * 60, map_kpa=[60.0] * 60, **{"lambda": [1.02] * 60}), TABLES).readings  # fmt: skip
        for key, size, words in (
            ("gremlins", 1.0, "no cause"),
            ("dead-time", 40.0, "cannot be"),
            ("dead-time", float("nan"), "cannot be"),
            ("map-sensor", 3.0, "cannot show"),
        ):
            with self.subTest(key), self.assertRaisesRegex(InputRefused, words):
                without(readings, [Mended(key, size)], ENGINE.spec, TABLES["ve"])


class CorrectionTests(SimpleTestCase):
    def readings(self, per_10k=0.0, span=40.0, seed=0, baro=0.0):
        draw = np.random.default_rng(seed)
        count = 160
        load, intake = draw.uniform(35, 95, count), draw.uniform(15, 15 + span, count)
        pressure = draw.uniform(80, 100, count) if baro else np.full(count, np.nan)
        # A law of its own: charge takes up a share of the wall's heat, no straight line in the sensor's reading.
        wrong = np.exp(per_10k / 100 * (intake - 30) / 10 + 0.02 * np.sin(load / 15))
        if baro:
            wrong *= np.exp(baro / 100 * (pressure - 90) / 10)
        columns = {"intake_c": intake, "barometric_kpa": pressure} if baro else {"intake_c": intake}
        trace = held(points=count, rpm=draw.uniform(1500, 5500, count), map_kpa=load, seed=seed, **columns, **{"lambda": wrong})  # fmt: skip
        return sift(trace, TABLES).readings

    def told(self, **more):
        axes = grid_of(TABLES["ve"])
        return {c.key: c for c in corrections_of(self.readings(**more), axes, TABLES)}

    def test_a_slope_over_intake_air_is_found_within_its_band(self):
        inside = []
        for seed, per_10k in enumerate((-3.0, -1.5, 1.0, 2.5)):
            told = self.told(per_10k=per_10k, seed=seed)["charge_temperature_correction"]
            self.assertAlmostEqual(told.percent, per_10k, delta=0.8)
            self.assertEqual(len(told.points), len(told.values))
            inside.append(told.low <= per_10k <= told.high)
            table = correction_table(told, "fuel map 1")
            self.assertLess(abs(table.at(60.0) / table.at(20.0) - np.exp(per_10k / 100 * 3.5)), 0.03)  # fmt: skip
        self.assertGreaterEqual(sum(inside), 3)

    def test_no_slope_little_span_and_no_channel_change_nothing(self):
        flat = self.told(per_10k=0.0)["charge_temperature_correction"]
        self.assertTrue(flat.is_told)
        self.assertEqual(flat.points, ())
        short = self.told(per_10k=3.0, span=6.0)
        self.assertIn("12 K are needed", short["charge_temperature_correction"].sentence)
        self.assertIn("not logged", short["barometric_correction"].sentence)

    def test_air_pressure_likewise(self):
        told = self.told(baro=-4.0, span=5.0)["barometric_correction"]
        self.assertAlmostEqual(told.percent, -4.0, delta=1.0)


class PedalStepTests(SimpleTestCase):
    def test_a_drive_of_steps_holds_steps_and_overruns(self):
        legs = stepped_legs(ENGINE.spec, 4.0, 3)
        self.assertGreater(sum(leg.moves_s < 0.5 for leg in legs), 8)
        self.assertTrue(any(leg.pedal_pct == 0 for leg in legs))

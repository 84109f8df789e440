"""What a drive shows beside its map's needs: a known pressure, misfires, a second bank, and what the rail is read against."""

import math
from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st
from inbetrieb_core.bench import Fault
from inbetrieb_core.fuelling import fingerprint, sift
from inbetrieb_core.fuelling.beside import Banks, Beside, banks_of, misfires_of
from inbetrieb_core.fuelling.known_pressure import PressureSeen, pressure_seen, reads_low
from inbetrieb_core.injectors import across_injectors_kpa
from inbetrieb_core.logs import Trace

from .test_fuelling import ENGINES, FOUR, TABLES, calm, drive, healthy

BARO = FOUR.spec.barometric_kpa


def exhaust(seconds, rate, lag_s, noise, seed):
    """Lambda of a drive in which cylinders miss at random: each lets air past a sensor of first order."""
    random = np.random.default_rng(seed)
    step = 0.05
    count = int(seconds / step)
    air = np.where(random.random(count) < rate * step, 1.0, 0.0)
    reading, out = 0.0, np.empty(count)
    for place in range(count):
        reading += (air[place] - reading) * step / lag_s
        out[place] = reading
    return 0.95 + 0.9 * out + noise * random.standard_normal(count)


class KnownPressureTests(SimpleTestCase):
    def wide(self, map_kpa, rpm=2600.0, throttle=100.0, seconds=60.0):
        return calm(seconds, map_kpa=map_kpa, rpm=rpm, throttle_pct=throttle)

    def test_full_throttle_and_rest_tell_a_sensor_that_reads_low(self):
        for apart in (-6.0, 0.0, 5.0):
            wide = pressure_seen(self.wide(BARO - 0.8 - apart))
            rest = pressure_seen(self.wide(BARO - apart, rpm=0.0, throttle=0.0))
            for seen in (wide, rest):
                with self.subTest(apart=apart, seen=seen):
                    low = reads_low([seen], FOUR.spec)
                    self.assertLess(abs(low.kpa - apart), 1.645 * low.error_kpa)

    def test_a_wide_throttle_under_boost_and_a_drive_at_part_load_tell_nothing(self):
        boosted = replace(FOUR.spec, induction="boosted", boost_kpa=50.0)
        self.assertIsNone(reads_low([pressure_seen(self.wide(140.0))], boosted))
        self.assertIsNone(reads_low([pressure_seen(calm())], FOUR.spec))
        self.assertIsNone(reads_low([PressureSeen()], FOUR.spec))

    def test_a_blip_is_no_full_throttle(self):
        blip = self.wide(60.0, throttle=lambda t: np.where((t > 9) & (t < 9.6), 100.0, 12.0))
        self.assertTrue(math.isnan(pressure_seen(blip).open_kpa))

    def test_it_parts_the_sensor_from_what_looks_like_it(self):
        """The bench engine, its sensor 5 kPa low: what full throttle reads decides."""
        engine, tables = ENGINES["twin_rotor"]
        trace = drive(healthy(engine), tables, 3.0, 41, authority_pct=25.0, faults=[Fault("map_sensor", 5.0)])  # fmt: skip
        sifted = sift(trace, tables)
        without, with_it = (
            {c.key: c for c in fingerprint(sifted.readings, engine.spec, tables["ve"], drives=d).causes}
            for d in ((), (sifted.beside,))
        )  # fmt: skip
        self.assertGreater(with_it["map-sensor"].probability, without["map-sensor"].probability)
        self.assertGreater(with_it["map-sensor"].probability, 0.8)
        self.assertLess(abs(with_it["map-sensor"].size - 5.0), 1.5)


class MisfireTests(SimpleTestCase):
    def found(self, reading, **more):
        trace = calm(len(reading) * 0.05, **{"lambda": lambda t: reading[: t.size], **more})
        sifted = sift(trace, TABLES)
        return fingerprint(sifted.readings, FOUR.spec, TABLES["ve"], drives=[sifted.beside])

    def test_cylinders_that_miss_are_named_and_the_map_waits(self):
        for seed, rate in ((1, 1.0), (2, 2.5)):
            found = self.found(exhaust(200.0, rate, 0.15, 0.004, seed))
            with self.subTest(rate=rate, said=found.sentence):
                self.assertTrue(found.blocks)
                self.assertIn("misfire", found.sentence)
                self.assertIn("plugs", found.test)
                cause = next(c for c in found.causes if c.key == "misfire")
                # A mended plug is no number that comes off the same log.
                self.assertFalse(cause.comes_off)
                self.assertTrue(0.0 <= cause.low < cause.size < cause.high <= 100.0)

    def test_noise_of_any_size_is_no_misfire(self):
        for noise in (0.004, 0.02, 0.05):
            found = self.found(exhaust(200.0, 0.0, 0.15, noise, 3))
            self.assertNotIn("misfire", [c.key for c in found.causes if c.probability > 0.1])

    def test_misfires_under_load_are_told_from_those_everywhere(self):
        missing = exhaust(200.0, 2.0, 0.15, 0.004, 4)
        loaded = lambda t: np.where((t % 60.0) > 40.0, 95.0, 45.0)  # noqa: E731
        steady = 0.95 + 0.004 * np.random.default_rng(5).standard_normal(missing.size)
        under = np.where((np.arange(missing.size) * 0.05 % 60.0) > 41.0, missing, steady)
        self.assertIn("under load", self.found(under, map_kpa=loaded).causes[0].title)
        self.assertNotIn("under load", self.found(missing, map_kpa=loaded).causes[0].title)

    def test_too_little_tells_none(self):
        self.assertIsNone(misfires_of([Beside(steady_s=10.0, misfires_s=10.0)]))
        self.assertIsNone(misfires_of([Beside(steady_s=100.0, misfires_s=2.0)]))


class BankTests(SimpleTestCase):
    def told(self, ratio):
        trace = calm(lambda_2=0.97 * ratio)
        sifted = sift(trace, TABLES)
        return fingerprint(sifted.readings, FOUR.spec, TABLES["ve"], drives=[sifted.beside])

    def test_a_bank_that_runs_leaner_is_named_with_its_size(self):
        for ratio in (0.88, 1.1):
            found = self.told(ratio)
            cause = next(c for c in found.causes if c.key == "one-bank")
            self.assertTrue(found.blocks, found.sentence)
            self.assertAlmostEqual(cause.size, 100.0 * (ratio - 1.0), delta=1.0)
            self.assertLess(cause.low, 100.0 * (ratio - 1.0))
            self.assertGreater(cause.high, 100.0 * (ratio - 1.0))

    def test_two_banks_as_good_sensors_read_them_are_alike(self):
        self.assertFalse(self.told(1.01).blocks)
        self.assertIsNone(banks_of([Beside(), Beside()]))

    @given(st.floats(-0.3, 0.3), st.floats(0.002, 0.1))
    def test_the_chance_grows_with_the_difference(self, apart, error):
        self.assertLessEqual(Banks(apart, error).probability, Banks(1.2 * apart, error).probability + 1e-12)  # fmt: skip
        self.assertTrue(0.0 <= Banks(apart, error).probability <= 0.98)


class LoggedRailTests(SimpleTestCase):
    """Regulator on the manifold, 300 kPa: facts of the trade (common practice, no source)."""

    map_kpa = np.linspace(25.0, 160.0, 60)

    def across(self, rail, referenced=True, kpa=None):
        return across_injectors_kpa(
            rail, self.map_kpa if kpa is None else kpa, wanted_kpa=300.0, barometric_kpa=100.0, manifold_referenced=referenced
        )  # fmt: skip

    def test_gauge_and_difference_are_told_apart_and_a_pump_that_falls_away_hides_neither(self):
        falls = np.where(self.map_kpa > 110.0, (self.map_kpa - 110.0) * 0.9, 0.0)
        for missing in (np.zeros(60), falls, np.full(60, 40.0)):
            true = 300.0 - missing
            for logged in (true, true + self.map_kpa - 100.0):
                np.testing.assert_allclose(self.across(logged), true, atol=1e-9)

    def test_at_one_load_the_likelier_one_is_taken(self):
        held = np.full(60, 40.0)
        np.testing.assert_allclose(self.across(np.full(60, 240.0), kpa=held), 300.0)
        np.testing.assert_allclose(self.across(np.full(60, 300.0), kpa=held), 300.0)

    def test_a_regulator_on_the_air_leaves_more_across_under_vacuum(self):
        np.testing.assert_allclose(
            self.across(np.full(60, 300.0), referenced=False), 400.0 - self.map_kpa
        )

    def test_without_manifold_pressure_it_stays_as_logged(self):
        blind = np.full(60, np.nan)
        np.testing.assert_allclose(self.across(np.full(60, 287.0), kpa=blind), 287.0)

    def test_a_gauge_on_a_sound_rail_blames_no_pressure(self):
        trace = drive(healthy(FOUR), TABLES, 3.0, 29)
        gauge = trace["fuel_pressure_kpa"] + trace["map_kpa"] - BARO
        logged = Trace({**{k: trace[k] for k in trace.channels}, "fuel_pressure_kpa": gauge})
        found = fingerprint(sift(logged, TABLES).readings, FOUR.spec, TABLES["ve"])
        self.assertNotIn("low-pressure", [c.key for c in found.causes if c.probability > 0.1])

"""Causes that came after earlier drives: named, sized, and never an engine's own."""

from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from inbetrieb_core.bench import Fault
from inbetrieb_core.fuelling import (
    Mended,
    PastPass,
    fingerprint_of_drives,
    joined,
    reckoned_alike,
    that_tell,
    without,
)
from inbetrieb_core.fuelling.map_prior import CORRECTED

from .paired_faults import Driven
from .test_fuelling import ENGINES, TABLES

_TENTH = 0.1
#: Fault of the bench, the cause it is, its size, and how that is built. A leak at one port makes its cylinder misfire,
#: which reads as more air than it is: its size is not asked for.
_CAME = (
    ("injector_flow", "fuel-per-pulse", 100.0 * (1.0 / 0.84 - 1.0), 0.84),
    ("dead_time", "dead-time", 0.28, 0.28),
    ("dead_time", "dead-time", -0.2, -0.2),
    ("map_sensor", "map-sensor", 5.0, 5.0),
    ("port_leak", "air-after-throttle", None, 1.2),
)
#: What the way of a fault is called: of an injector that passes less, of a sensor that reads less.
_SENSES = {
    ("injector_flow", False): "too little fuel",
    ("dead_time", True): "more than entered",
    ("dead_time", False): "less than entered",
    ("map_sensor", True): "too low",
}


class EarlierDriveTests(SimpleTestCase):
    def test_what_came_on_another_day_is_named_with_its_size(self):
        firsts = []
        for number, key in enumerate(ENGINES):
            made = Driven(key, 310 + number, 1)
            for place, (fault, cause, size, built) in enumerate(_CAME):
                found = made.told(made.read(330 + 10 * number + place, 24.0, Fault(fault, built)))
                with self.subTest(engine=key, fault=fault, size=size, said=found.sentence):
                    self.assertTrue(found.blocks)
                    self.assertIn("came after the drives before", found.sentence)
                    firsts.append((found.causes[0].key, found.causes[0].since) == (cause, True))
                    self.assertLessEqual({c.key for c in found.causes if c.probability > 0.8}, {cause})  # fmt: skip
                    true = next(c for c in found.causes if c.key == cause)
                    self.assertEqual(true.sense, _SENSES.get((fault, built > (1.0 if fault == "injector_flow" else 0.0)), ""))  # fmt: skip
                    self.assertTrue(true.since)
                    if size is not None:
                        self.assertLess(abs(true.size / size - 1.0), _TENTH)
                        self.assertTrue(true.low <= size <= true.high)
            sound = made.told(made.read(390 + number, 30.0))
            self.assertFalse(sound.blocks, sound.sentence)
            self.assertGreater(sound.table, 0.3)
        self.assertGreaterEqual(np.mean(firsts), 0.9)

    def test_a_fault_of_all_drives_did_not_come_since(self):
        made = Driven("port_four", 350, 1)
        leaks = [made.read(seed, air, Fault("map_sensor", 5.0)) for seed, air in ((351, 5.0), (352, 25.0))]  # fmt: skip
        found = made.told(leaks[1], leaks[0])
        self.assertLess(sum(c.probability for c in found.causes if c.since), 0.1)

    def test_of_several_drives_the_last_is_held_against_the_others(self):
        made = Driven("port_four", 360, 1)
        sound = [made.read(seed, 15.0) for seed in (361, 362)]
        faulty = made.read(363, 20.0, Fault("injector_flow", 0.84))
        spec, table = made.engine.spec, made.tables["ve"]
        told = fingerprint_of_drives([*sound, faulty], spec, table, CORRECTED)
        self.assertEqual((told.blocks, told.causes[0].key, told.causes[0].since), (True, "fuel-per-pulse", True))  # fmt: skip
        # What is taken off the last as mended leaves nothing; the same fault in all of them is none that came.
        mended = without(faulty, [Mended("fuel-per-pulse", told.causes[0].size, since=True)], spec, table)  # fmt: skip
        self.assertFalse(fingerprint_of_drives([*sound, mended], spec, table, CORRECTED).blocks)
        alike = [replace(part, need=part.need + 0.2) for part in (*sound, mended)]
        found = fingerprint_of_drives(alike, spec, table, CORRECTED)
        self.assertTrue(found.blocks)
        self.assertFalse(found.causes[0].since)

    def test_days_that_differ_as_days_do_blame_nobody(self):
        made = Driven("twin_rotor", 370, 1)
        readings = made.read(371, 20.0)
        for off in (-0.02, 0.02):
            other = replace(readings, need=readings.need + off)
            self.assertFalse(made.told(other).blocks, off)

    def test_few_earlier_readings_are_none(self):
        made = Driven("port_four", 380, 1)
        readings = made.read(381, 20.0, Fault("injector_flow", 0.84))
        few = made.earlier.chosen(np.arange(10))
        alone, beside = made.told(readings, joined(())), made.told(readings, few)
        self.assertEqual(alone.causes, beside.causes)
        self.assertFalse(any(cause.since for cause in beside.causes))


class PastPassTests(SimpleTestCase):
    def told(self, *passes):
        """Passes as (what is odd about them), newest first."""
        usual = {"table": "ve", "engine": "a", "blocks": False, "taken": False, "is_mended": False}
        past = [PastPass(len(passes) - n, **{**usual, **odd}) for n, odd in enumerate(passes)]
        return that_tell(past, "ve", "a")

    def test_what_a_cause_spoke_against_tells_nothing_until_it_was_taken_all_the_same(self):
        self.assertEqual(self.told({}, {"blocks": True}, {"table": "air_meter"}, {"is_mended": True}, {}), [5, 1])  # fmt: skip
        self.assertEqual(self.told({}, {"blocks": True, "taken": True}, {}), [3, 2])

    def test_nothing_tells_from_before_other_engine_data(self):
        self.assertEqual(self.told({}, {"engine": "b"}, {}), [3])
        self.assertEqual(self.told({"engine": "b"}, {}), [])


class ReckonedAlikeTests(SimpleTestCase):
    def test_the_map_may_differ_and_dead_time_may_not(self):
        def times(key):
            return TABLES.with_table(replace(TABLES[key], values=TABLES[key].values * 1.02))

        self.assertTrue(reckoned_alike(TABLES, times("ve"), "ve"))
        self.assertTrue(reckoned_alike(TABLES, times("warm_up_enrichment"), "ve"))
        self.assertFalse(reckoned_alike(TABLES, times("dead_time"), "ve"))
        self.assertFalse(reckoned_alike(TABLES, times("ve"), "air_meter"))

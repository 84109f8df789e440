"""Advice in parts: what is taken when nobody says is a school, and what is named is taken alone."""

from dataclasses import replace

from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st
from inbetrieb_core.basemaps import generate
from inbetrieb_core.bench import NAMED, Fault, StartConditions, simulate_start
from inbetrieb_core.engine import Schools
from inbetrieb_core.errors import InputRefused
from inbetrieb_core.logs import Trace
from inbetrieb_core.starts import (
    Advice,
    MeasuredPart,
    StartSetting,
    judge_log,
    parts_of,
    parts_taken,
)
from inbetrieb_core.tables import CellChange

TOGETHER, ALONE = Schools(), Schools(changes="one_at_a_time")
TABLES = ("cranking_fuel", "idle_valve", "warm_up_enrichment", "after_start_enrichment")


def change(value=1.0):
    return CellChange((3,), (10.0,), 50.0, 50.0 + value)


def advice(table="cranking_fuel", others=(), **more):
    measured = tuple(MeasuredPart(key, (change(),), "Measured.", searched=s) for key, s in others)
    return Advice("late", table, () if table is None else (change(),), "It was late.", 0.6, "It fires later.", measured, **more)  # fmt: skip


class KindTests(SimpleTestCase):
    def test_what_was_read_is_measured_and_what_is_tried_is_searched(self):
        first, second, third = parts_of(
            advice(others=(("idle_valve", False), ("after_start_enrichment", True)))
        )
        self.assertEqual((first.part, second.part, third.part), ("search", "measured", "search"))
        self.assertEqual((second.kind, third.kind), ("measured", "change"))

    def test_a_rule_whose_cells_were_read_is_measured(self):
        (part,) = parts_of(advice(seen=(True,), bands=((40.0, 60.0),)))
        self.assertEqual((part.part, part.bands), ("measured", ((40.0, 60.0),)))
        (part,) = parts_of(advice(seen=(False,), bands=((40.0, 60.0),)))
        self.assertEqual(part.part, "search")

    def test_what_has_no_table_is_to_be_mended(self):
        (part,) = parts_of(advice(None))
        self.assertEqual((part.part, part.table, part.changes), ("mend", None, ()))
        self.assertEqual(parts_taken(advice(None), TOGETHER, None), ())

    def test_each_part_says_why(self):
        for part in parts_of(advice(others=(("idle_valve", False),))):
            self.assertTrue(part.reason)
            self.assertTrue(part.disproof)
            self.assertEqual(part.confidence, 0.6)


class TakenTests(SimpleTestCase):
    WHOLE = advice(others=(("idle_valve", False), ("warm_up_enrichment", False)))

    def tables(self, schools=TOGETHER, wanted=None):
        return [part.table for part in parts_taken(self.WHOLE, schools, wanted)]

    def test_when_nobody_says_it_is_the_school(self):
        self.assertEqual(self.tables(), ["cranking_fuel", "idle_valve", "warm_up_enrichment"])
        self.assertEqual(self.tables(ALONE), ["cranking_fuel"])

    def test_what_is_named_is_taken_by_either_school(self):
        for schools in (TOGETHER, ALONE):
            self.assertEqual(
                self.tables(schools, ["measured"]), ["idle_valve", "warm_up_enrichment"]
            )
            self.assertEqual(self.tables(schools, ["search"]), ["cranking_fuel"])
            self.assertEqual(self.tables(schools, ["idle_valve"]), ["idle_valve"])
            self.assertEqual(self.tables(schools, []), [])

    def test_what_is_not_there_is_refused(self):
        for strange in (["spark"], ["mend"], ["idle_valve", "ve"], [""]):
            with self.assertRaisesRegex(InputRefused, "no part"):
                self.tables(wanted=strange)

    @given(
        st.lists(st.tuples(st.sampled_from(TABLES[1:]), st.booleans()), unique_by=lambda p: p[0]),
        st.data(),
    )
    def test_only_what_is_there_and_in_its_order(self, others, data):
        whole = advice(others=others)
        there = [part.table for part in parts_of(whole)]
        wanted = data.draw(st.none() | st.lists(st.sampled_from(there), unique=True))
        for schools in (TOGETHER, ALONE):
            taken = [part.table for part in parts_taken(whole, schools, wanted)]
            self.assertEqual(taken, [table for table in there if table in taken])
            if wanted is not None:
                self.assertEqual(set(taken), set(wanted))


class SizeTests(SimpleTestCase):
    """What a hidden fault is read back as: within what is stated, whichever engine it is.

    The engines and their faults are the bench's, drawn beyond what the reading assumes; the error that
    is stated has to cover the truth in most of them.
    """

    def size_of(self, key, fault, cause, coolant=85.0, seed=1):
        engine = NAMED[key]
        run = simulate_start(
            engine,
            engine.spec,
            generate(engine.spec),
            StartConditions(coolant, seed=seed, run_s=90.0),
            [fault],
        )
        said = judge_log(Trace(run.channels), generate(engine.spec), StartSetting(engine.spec))
        return next((r.size for r in said.causes.ranked if r.key == cause), None)

    def test_injector_flow(self):
        off = []
        for key in NAMED:
            for factor in (0.72, 1.3, 1.5):
                size = self.size_of(key, Fault("injector_flow", factor), "injector-flow")
                if size is not None:
                    self.assertEqual(size.unit, "%")
                    off.append(abs(size.value - 100.0 * (factor - 1.0)) / size.error)
        self.assertGreaterEqual(len(off), 4)  # of nine: the others are not told to be a flow
        self.assertLessEqual(sum(one > 2.0 for one in off), 0.25 * len(off), off)

    def test_dead_time_in_milliseconds(self):
        for key in NAMED:
            for longer in (0.35, -0.3):
                size = self.size_of(key, Fault("dead_time", longer), "dead-time")
                if size is not None:
                    with self.subTest(key, longer=longer):
                        self.assertEqual(size.unit, "ms")
                        self.assertEqual(size.value > 0, longer > 0)
                        self.assertLess(abs(size.value - longer), 3.0 * size.error)

    def test_every_size_has_a_unit_and_an_error(self):
        engine = NAMED["port_four"]
        for fault in (Fault("injector_flow", 0.75), Fault("dead_time", 0.3)):
            run = simulate_start(
                engine,
                engine.spec,
                generate(engine.spec),
                StartConditions(40.0, run_s=60.0),
                [fault],
            )
            said = judge_log(Trace(run.channels), generate(engine.spec), StartSetting(engine.spec))
            for entry in said.causes.ranked:
                if entry.size is not None:
                    with self.subTest(entry.key):
                        self.assertIn(entry.size.unit, ("%", "ms", "kPa"))
                        self.assertGreater(entry.size.error, 0.0)

    def test_only_what_a_log_can_size_has_a_size(self):
        sized = {
            "injector-flow", "dead-time", "low-pressure", "wideband-biased", "map-sensor",
            "air-leak", "too-little-air",
        }  # fmt: skip
        seen = set()
        for engine in NAMED.values():
            for fault in (Fault("injector_flow", 1.4), Fault("lost_sync", 1.5)):
                calibration = generate(engine.spec)
                conditions = StartConditions(85.0, run_s=60.0)
                run = simulate_start(engine, engine.spec, calibration, conditions, [fault])
                said = judge_log(Trace(run.channels), calibration, StartSetting(engine.spec))
                with_size = {r.key for r in said.causes.ranked if r.size is not None}
                self.assertLessEqual(with_size, sized)
                seen |= with_size
        self.assertIn("injector-flow", seen)

    def test_the_way_is_right(self):
        for key in NAMED:
            for factor in (0.7, 1.45):
                size = self.size_of(key, Fault("injector_flow", factor), "injector-flow")
                if size is not None:
                    self.assertEqual(size.value > 0, factor > 1, (key, factor, size))

    def test_a_healthy_engine_has_no_size_that_it_is_sure_of(self):
        for key, engine in NAMED.items():
            run = simulate_start(
                engine, engine.spec, generate(engine.spec), StartConditions(85.0, run_s=90.0)
            )
            said = judge_log(Trace(run.channels), generate(engine.spec), StartSetting(engine.spec))
            for entry in said.causes.ranked:
                if entry.size is not None and entry.size.unit == "%":
                    self.assertLess(abs(entry.size.value), 4.0 * entry.size.error, (key, entry))


class SchoolTests(SimpleTestCase):
    def test_the_school_changes_nothing_of_what_is_advised(self):
        engine = NAMED["port_four"]
        calibration = generate(engine.spec)
        run = simulate_start(engine, engine.spec, calibration, StartConditions(5.0, seed=2))
        said = [
            judge_log(
                Trace(run.channels),
                calibration,
                StartSetting(replace(engine.spec, schools=schools)),
            )
            for schools in (TOGETHER, ALONE)
        ]
        self.assertEqual(said[0].advice, said[1].advice)

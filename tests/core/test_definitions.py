"""Every table and axis that is defined: bounds, words, and every form it travels in.

The definitions are walked, not listed, so that a table added tomorrow is held to the same.
"""

import json

import numpy as np
from django.test import SimpleTestCase
from hypothesis import example, given, settings
from hypothesis import strategies as st
from inbetrieb_core.basemaps import generate
from inbetrieb_core.errors import InputRefused
from inbetrieb_core.provenance import KINDS, Provenance
from inbetrieb_core.sentences import plain
from inbetrieb_core.tables import (
    AXES,
    DEFINITIONS,
    AxisError,
    Table,
    TableError,
    make_axis,
    read_calibration,
    write_csv,
    write_json,
)
from inbetrieb_core.tables.calibration import from_plain, to_plain
from inbetrieb_core.tables.controller_form import controller_form, offered_units
from inbetrieb_core.tables.file_sets import find_tables, write_csv_set, write_workbook
from inbetrieb_core.tables.grids import grid_of, read_grid_table
from inbetrieb_core.tables.table import filled

from tests.examples import asked

from .engines import FOUR

#: Every table over every set of axes that it may run over.
VARIANTS = [
    (key, axes)
    for key, definition in DEFINITIONS.items()
    for axes in (definition.axes, *definition.alternatives)
]


@st.composite
def tables(draw, variants=tuple(VARIANTS)):
    """Draw a table with breakpoints and values anywhere in their bounds."""
    key, names = draw(st.sampled_from(variants))
    axes = []
    for name in names:
        axis = AXES[name]
        shares = draw(st.lists(st.integers(0, 200), min_size=2, max_size=6, unique=True))
        span = axis.upper - axis.lower
        points = [round(axis.lower + span * share / 200.0, 3) for share in sorted(shares)]
        axes.append(make_axis(name, points))
    definition = DEFINITIONS[key]
    shape = tuple(len(axis.points) for axis in axes)
    shares = draw(
        st.lists(st.floats(0.0, 1.0), min_size=int(np.prod(shape)), max_size=int(np.prod(shape)))
    )
    values = definition.lower + (definition.upper - definition.lower) * np.array(shares)
    values = np.clip(np.round(values, 4), definition.lower, definition.upper).reshape(shape)
    kind = draw(st.sampled_from(KINDS))
    mark = Provenance(kind, draw(st.sampled_from(["", "Typed.", "=1+1", 'A "quoted", one'])))
    return Table(key, tuple(axes), values, filled(shape, mark))


#: Breakpoints of three decimals each: their point parts no thousands.
THREE_DECIMALS = Table(
    "ve",
    (make_axis("rpm", (0.0, 125.0)), make_axis("map_kpa", (7.975, 13.925))),
    np.full((2, 2), 5.0),
    filled((2, 2), Provenance("measured", "")),
)


def with_table(table):
    return generate(FOUR).with_table(table)


class FormTests(SimpleTestCase):
    def assert_same(self, found, table):
        self.assertEqual(found.axes, table.axes)
        np.testing.assert_allclose(found.values, table.values, rtol=1e-12)

    @settings(max_examples=asked(60), deadline=None)
    @given(tables())
    def test_json_and_csv_with_every_mark(self, table):
        calibration = with_table(table)
        for data in (write_json(calibration, {}), write_csv(calibration)):
            found = read_calibration(data)[table.key]
            self.assert_same(found, table)
            first = tuple(0 for _ in table.axes)
            self.assertEqual(found.mark(first).kind, table.mark(first).kind)
            self.assertEqual(found.mark(first).reason, table.mark(first).reason)

    @settings(max_examples=asked(60), deadline=None)
    @given(tables())
    def test_the_plain_form(self, table):
        plain_form = json.loads(json.dumps(to_plain(with_table(table))))
        self.assert_same(from_plain(plain_form)[table.key], table)

    @settings(max_examples=asked(100), deadline=None)
    @given(tables())
    def test_a_grid_that_says_what_it_is(self, table):
        self.assert_same(read_grid_table(grid_of(table)).table, table)

    @settings(max_examples=asked(20), deadline=None)
    @given(tables())
    @example(THREE_DECIMALS)
    def test_sets_of_files_and_workbooks(self, table):
        for name, data in (
            ("set.zip", write_csv_set([table])),
            ("book.xlsx", write_workbook([table], "Probe")),
        ):
            found = find_tables(data, name)
            self.assertEqual([t.key for t in found.tables], [table.key], found.passed_over)
            self.assert_same(found.tables[0], table)

    @settings(max_examples=asked(100), deadline=None)
    @given(tables(), st.data())
    def test_a_controllers_form_is_within_half_a_step_and_comes_back(self, table, data):
        unit = data.draw(st.sampled_from(offered_units(table.key)))
        form = controller_form(table.key, unit)
        for value in table.values.ravel()[:4]:
            shown = value * form.factor + form.offset
            self.assertLessEqual(abs(form.shown(value) - shown), form.step / 2 + 1e-6)
            self.assertAlmostEqual(form.shown(form.stored(value)), form.shown(value), places=6)


class BoundTests(SimpleTestCase):
    def table(self, key, names, value, points=2):
        axes = tuple(
            make_axis(n, np.linspace(AXES[n].lower, AXES[n].upper, points).round(3)) for n in names
        )
        shape = tuple(len(axis.points) for axis in axes)
        return Table(key, axes, np.full(shape, value), filled(shape, Provenance("assumed", "")))

    def test_both_bounds_are_possible_and_nothing_beyond(self):
        for key, names in VARIANTS:
            definition = DEFINITIONS[key]
            with self.subTest(key=key, axes=names):
                self.table(key, names, definition.lower)
                self.table(key, names, definition.upper)
                span = definition.upper - definition.lower
                for beyond in (definition.lower - 0.01 * span, definition.upper + 0.01 * span):
                    with self.assertRaises(TableError) as refused:
                        self.table(key, names, beyond)
                    self.assertIn(definition.title, str(refused.exception))
                for none in (np.nan, np.inf):
                    with self.assertRaises(TableError):
                        self.table(key, names, none)

    def test_breakpoints_keep_to_their_axis(self):
        for name, axis in AXES.items():
            span = axis.upper - axis.lower
            with self.subTest(axis=name):
                make_axis(name, [axis.lower, axis.upper])
                for points in (
                    [axis.lower - 0.1 * span, axis.upper],
                    [axis.lower, axis.upper + 0.1 * span],
                    [axis.upper, axis.lower],
                    [axis.lower, axis.lower],
                    [axis.lower, np.nan],
                    [],
                ):
                    with self.assertRaises(AxisError):
                        make_axis(name, points)

    def test_axes_of_another_table_are_refused(self):
        for key, definition in DEFINITIONS.items():
            foreign = ("battery_v",) if definition.axes != ("battery_v",) else ("coolant_c",)
            with self.subTest(key=key), self.assertRaises(TableError):
                self.table(key, foreign, definition.lower)

    def test_maps_run_over_one_load_axis_only(self):
        with self.assertRaises(TableError):
            self.table("ve", ("map_kpa", "rpm"), 80.0)
        with self.assertRaises(TableError):
            self.table("ve", ("throttle_pct", "rpm"), 80.0)
        self.assertTrue(self.table("ve", ("rpm", "throttle_pct"), 80.0).by_throttle)

    def test_the_load_axis_decides_what_a_map_reads(self):
        by_throttle = self.table("spark", ("rpm", "throttle_pct"), 10.0, 3)
        values = np.array([[0.0, 5.0, 10.0]] * 3)
        by_throttle = Table("spark", by_throttle.axes, values, by_throttle.provenance)
        by_pressure = self.table("spark", ("rpm", "map_kpa"), 10.0, 3)
        by_pressure = Table("spark", by_pressure.axes, values, by_pressure.provenance)
        middle = (AXES["map_kpa"].lower + AXES["map_kpa"].upper) / 2.0
        self.assertAlmostEqual(by_throttle.at_load(3000.0, middle, 100.0), 10.0)
        self.assertAlmostEqual(by_pressure.at_load(3000.0, middle, 100.0), 5.0, places=2)


class WordingTests(SimpleTestCase):
    def test_what_people_read_is_there_once(self):
        titles = [d.title for d in DEFINITIONS.values()]
        shorts = [d.short for d in DEFINITIONS.values()]
        self.assertEqual(len(set(titles)), len(titles))
        self.assertEqual(len(set(shorts)), len(shorts))
        for key, definition in DEFINITIONS.items():
            with self.subTest(key=key):
                self.assertEqual(definition.meaning[-1], ".")
                self.assertLessEqual(len(definition.short), 14)
                self.assertGreater(definition.resolution, 0.0)
                self.assertLess(definition.lower, definition.upper)
                if definition.neutral is not None:
                    self.assertTrue(definition.lower <= definition.neutral <= definition.upper)
                self.assertEqual(bool(definition.axes), definition.group != "setting")

    def test_alternatives_have_as_many_axes(self):
        for key, definition in DEFINITIONS.items():
            for axes in definition.alternatives:
                with self.subTest(key=key):
                    self.assertEqual(len(axes), len(definition.axes))
                    self.assertTrue(definition.runs_over(axes))
                    self.assertEqual(definition.axes_of(axes), axes)
            self.assertEqual(definition.axes_of([None, "nothing"]), definition.axes)

    def test_a_place_is_named_with_its_units(self):
        table = BoundTests().table("ve", ("rpm", "throttle_pct"), 80.0)
        self.assertEqual(plain(table.place((1, 1))), "at 25000 rpm, 100 %")
        setting = BoundTests().table("boost_cut", (), 200.0)
        self.assertEqual(setting.place(()), "")


class GridRefusalTests(SimpleTestCase):
    def test_each_says_what_is_wrong(self):
        cases = (
            ([["no such table"], [1, 2]], "", "which table"),
            ([["ve [%]", "map_kpa [kPa]"]], "", "no rows"),
            ([["ve [%]", "map_kpa [kPa]"], ["rpm", 30, 60]], "spark", "not spark"),
            ([["meter_v [V]", "value"], [0.5, 3.0], [4.5, "much"]], "air_meter", "much"),
            ([[]], "ve", "empty"),
            ([["idle_load_fan [%]", "plenty"]], "", "no number"),
            ([["cranking_air [%]"], ["coolant_c [°C]", "value"], [0, -3e7], [80, 0]], "", "−30"),
        )
        for rows, key, word in cases:
            with self.subTest(word=word), self.assertRaises(InputRefused) as refused:
                read_grid_table(rows, key)
            self.assertIn(word, str(refused.exception))

    def test_cranking_air_may_be_taken_away(self):
        rows = [["cranking_air [%]"], ["coolant_c [°C]", "value"], [0, -30], [80, -12.5]]
        self.assertEqual(read_grid_table(rows).table.values.tolist(), [-30.0, -12.5])

    def test_a_meter_by_voltage_is_known_by_the_name_of_its_axis(self):
        rows = [["air_meter [kg/h]"], ["meter_v [V]", "value"], [0.5, 3.6], [4.5, 720]]
        found = read_grid_table(rows)
        self.assertEqual(found.table.axes[0].name, "meter_v")
        np.testing.assert_allclose(found.table.values, [1.0, 200.0])
        self.assertIn("kg/h", " ".join(found.sentences))


class ForeignAxisTests(SimpleTestCase):
    """Breakpoints of another quantity are never taken for a table's own."""

    def test_a_plain_form_that_names_another_axis_is_refused(self):
        plain_form = to_plain(generate(FOUR))
        for key, foreign in (("cranking_fuel", "battery_v"), ("dead_time", "coolant_c"), ("ve", "coolant_c")):  # fmt: skip
            spoilt = json.loads(json.dumps(plain_form))
            spoilt[key]["axes"][0]["name"] = foreign
            with self.subTest(key=key), self.assertRaises(InputRefused) as refused:
                from_plain(spoilt)
            self.assertIn(AXES[foreign].title.lower(), str(refused.exception))

    def test_words_that_name_no_axis_say_nothing(self):
        plain_form = json.loads(json.dumps(to_plain(generate(FOUR))))
        plain_form["cranking_fuel"]["axes"][0]["name"] = "water, left bank"
        self.assertEqual(from_plain(plain_form)["cranking_fuel"].axes[0].name, "coolant_c")

    def test_a_grid_that_names_another_axis_is_refused(self):
        rows = [["dwell [ms]"], ["coolant_c [°C]", "value"], [0, 3.0], [80, 2.5]]
        with self.assertRaisesRegex(InputRefused, "battery voltage, not over coolant"):
            read_grid_table(rows)
        surface = [["spark [°]", "battery_v [V]"], ["rpm [rpm]", 8, 14], [800, 10, 10], [4000, 20, 20]]  # fmt: skip
        with self.assertRaisesRegex(InputRefused, "not over battery voltage"):
            read_grid_table(surface)

    def test_a_csv_that_names_another_axis_is_refused(self):
        text = write_csv(generate(FOUR)).decode("utf-8-sig")
        spoilt = "\n".join(
            line.replace("coolant_c", "battery_v") if line.startswith("idle_valve,") else line
            for line in text.splitlines()
        )
        with self.assertRaisesRegex(InputRefused, "not over battery voltage"):
            read_calibration(spoilt.encode())

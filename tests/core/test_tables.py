"""Tables: interpolation, moving a value exactly, differences, refusals."""

import math

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st
from inbetrieb_core.tables import (
    DEFINITIONS,
    Axis,
    AxisError,
    CellChange,
    Provenance,
    Table,
    TableError,
    apply,
    difference,
    filled,
    make_axis,
    move_by,
    move_by_factor,
    rounded,
)

MARK = Provenance("assumed", "for the test")


def curve(values, points=None, key="cranking_fuel"):
    points = points or [float(10 * i) for i in range(len(values))]
    axis = Axis("coolant_c", "°C", tuple(points))
    return Table(key, (axis,), np.array(values, float), filled((len(values),), MARK))


def surface(values):
    rows = Axis("rpm", "rpm", tuple(500.0 * (i + 1) for i in range(len(values))))
    columns = Axis("map_kpa", "kPa", tuple(20.0 * (i + 1) for i in range(len(values[0]))))
    array = np.array(values, float)
    return Table("ve", (rows, columns), array, filled(array.shape, MARK))


curves = st.lists(st.floats(50.0, 600.0), min_size=2, max_size=12).map(curve)
surfaces = (
    st.integers(2, 5)
    .flatmap(
        lambda width: st.lists(
            st.lists(st.floats(20.0, 120.0), min_size=width, max_size=width), min_size=2, max_size=5
        )
    )
    .map(surface)
)


class InterpolationTests(SimpleTestCase):
    def test_between_and_beyond(self):
        table = curve([100.0, 200.0, 400.0])
        self.assertEqual(table.at(5.0), 150.0)
        self.assertEqual(table.at(10.0), 200.0)
        self.assertEqual(table.at(-50.0), 100.0)  # the ends hold, as controllers do it
        self.assertEqual(table.at(500.0), 400.0)

    @given(curves, st.floats(-40.0, 140.0))
    def test_stays_within_the_neighbouring_cells(self, table, place):
        cells = [table.values[index] for index, _ in table.weights(place)]
        self.assertTrue(min(cells) - 1e-9 <= table.at(place) <= max(cells) + 1e-9)

    @given(curves, st.floats(-40.0, 140.0))
    def test_weights_sum_to_one(self, table, place):
        self.assertTrue(math.isclose(sum(w for _, w in table.weights(place)), 1.0))

    @given(surfaces, st.floats(0.0, 4000.0), st.floats(0.0, 150.0))
    def test_bilinear_stays_within_its_four_cells(self, table, rpm, kpa):
        cells = [table.values[index] for index, _ in table.weights(rpm, kpa)]
        self.assertLessEqual(len(cells), 4)
        self.assertTrue(min(cells) - 1e-9 <= table.at(rpm, kpa) <= max(cells) + 1e-9)

    def test_refuses_a_place_that_is_no_number(self):
        with self.assertRaises(AxisError):
            curve([1e2, 2e2]).at(math.nan)


class MoveTests(SimpleTestCase):
    @given(curves, st.floats(0.7, 1.4), st.floats(-20.0, 130.0))
    def test_moves_the_value_by_exactly_the_factor(self, table, factor, place):
        moved = apply(table, move_by_factor(table, factor, place), MARK)
        self.assertTrue(math.isclose(moved.at(place), factor * table.at(place), rel_tol=1e-9))

    @given(surfaces, st.floats(0.8, 1.25), st.floats(0.0, 3000.0), st.floats(0.0, 120.0))
    def test_moves_a_surface_by_exactly_the_factor(self, table, factor, rpm, kpa):
        moved = apply(table, move_by_factor(table, factor, rpm, kpa), MARK)
        self.assertTrue(math.isclose(moved.at(rpm, kpa), factor * table.at(rpm, kpa), rel_tol=1e-9))

    def test_shares_by_squared_weights(self):
        # Δ_i = δ·w_i/Σw²: a quarter of the way, weights 3/4 and 1/4, Σw² = 10/16.
        changes = move_by(curve([100.0, 100.0]), 10.0, 2.5)
        self.assertAlmostEqual(changes[0].after, 112.0)
        self.assertAlmostEqual(changes[1].after, 104.0)

    def test_a_cell_at_its_bound_leaves_its_part_to_the_other(self):
        table = curve([0.0, 50.0], key="idle_valve")  # bounds 0..100
        moved = apply(table, move_by(table, -10.0, 5.0), MARK)
        self.assertEqual(moved.values[0], 0.0)
        self.assertAlmostEqual(moved.at(5.0), 15.0)

    @given(
        st.lists(st.floats(0.0, 100.0), min_size=2, max_size=6),
        st.floats(-200, 200),
        st.floats(0, 50),
    )
    def test_never_leaves_the_bounds_nor_overshoots(self, values, delta, place):
        table = curve(values, key="cranking_air")
        moved = apply(table, move_by(table, delta, place), MARK)
        got = moved.at(place) - table.at(place)
        self.assertTrue(min(0.0, delta) - 1e-9 <= got <= max(0.0, delta) + 1e-9)

    def test_refuses_a_factor_that_is_none(self):
        for factor in (0.0, -1.0, math.nan, math.inf):
            with self.subTest(factor=factor), self.assertRaises(TableError):
                move_by_factor(curve([100.0, 200.0]), factor, 5.0)

    def test_rounding_keeps_to_the_resolution_and_drops_nothing_moves(self):
        table = curve([100.0, 200.0])
        changes = rounded(
            table,
            (
                CellChange((0,), (0.0,), 100.0, 103.2749),
                CellChange((1,), (10.0,), 200.0, 200.01),
            ),
        )
        self.assertEqual([(c.index, c.after) for c in changes], [((0,), 103.3)])


class DifferenceTests(SimpleTestCase):
    @given(curves, st.data())
    def test_applying_the_difference_gives_the_other_table(self, table, data):
        other = curve(
            data.draw(
                st.lists(
                    st.floats(50.0, 600.0), min_size=len(table.values), max_size=len(table.values)
                )
            )
        )
        again = apply(table, difference(table, other), MARK)
        np.testing.assert_array_equal(again.values, other.values)

    def test_names_cells_and_breakpoints(self):
        (change,) = difference(curve([100.0, 200.0]), curve([100.0, 220.0]))
        self.assertEqual(
            (change.index, change.at, change.before, change.after), ((1,), (10.0,), 200.0, 220.0)
        )

    def test_refuses_other_axes(self):
        with self.assertRaisesRegex(TableError, "axes differ"):
            difference(curve([100.0, 200.0]), curve([100.0, 200.0], points=[0.0, 20.0]))


class RefusalTests(SimpleTestCase):
    def test_axis(self):
        for points, words in (
            ((0.0, 10.0, 10.0), "must rise"),
            ((20.0, 10.0), "must rise"),
            ((), "breakpoints"),
            ((math.nan,), "finite"),
            (tuple(map(float, range(65))), "1 to 64"),
        ):
            with self.subTest(points=points), self.assertRaisesRegex(AxisError, words):
                Axis("coolant_c", "°C", points)
        with self.assertRaisesRegex(AxisError, "between −50 and 150 °C, not 400"):
            make_axis("coolant_c", [0.0, 400.0])

    def test_table(self):
        with self.assertRaisesRegex(TableError, "between 10 and 1500 %"):
            curve([100.0, 9999.0])
        with self.assertRaises(TableError):
            curve([100.0, math.nan])
        with self.assertRaisesRegex(TableError, "no cell"):
            apply(curve([100.0, 200.0]), (CellChange((7,), (70.0,), 0.0, 100.0),), MARK)

    @given(curves)
    def test_a_table_cannot_be_changed(self, table):
        with self.assertRaises(ValueError):
            table.values[0] = 1.0

    def test_every_definition_is_sound(self):
        for definition in DEFINITIONS.values():
            with self.subTest(key=definition.key):
                self.assertLess(definition.lower, definition.upper)
                self.assertGreater(definition.resolution, 0.0)
                if definition.neutral is not None:
                    self.assertTrue(definition.lower <= definition.neutral <= definition.upper)

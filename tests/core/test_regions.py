"""Region operations: exactly the cells asked for, straight in the breakpoints, within bounds."""

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st
from inbetrieb_core.errors import InputRefused
from inbetrieb_core.tables import CellChange, Provenance, Table, make_axis
from inbetrieb_core.tables.edits import apply
from inbetrieb_core.tables.regions import OPERATIONS, Region, operate, paste, read_grid
from inbetrieb_core.tables.table import filled

RPM = (500.0, 800.0, 1500.0, 3000.0, 6000.0)
MAP = (20.0, 40.0, 70.0, 100.0)
MARK = Provenance("measured", "by hand")


def ve(values=None):
    values = np.array(
        values if values is not None else [[50.0 + 5 * i + j for j in range(4)] for i in range(5)]
    )
    return Table(
        "ve", (make_axis("rpm", RPM), make_axis("map_kpa", MAP)), values, filled((5, 4), MARK)
    )


def curve(values):
    axis = make_axis("coolant_c", tuple(float(10 * i) for i in range(len(values))))
    return Table("idle_target", (axis,), np.array(values), filled((len(values),), MARK))


def after(table, operated):
    return apply(table, operated.changes, MARK).values if operated.changes else table.values


regions = st.tuples(st.integers(0, 4), st.integers(0, 4), st.integers(0, 3), st.integers(0, 3)).map(
    lambda r: Region(min(r[:2]), max(r[:2]), min(r[2:]), max(r[2:]))
)
tables = st.lists(st.floats(20.0, 120.0), min_size=20, max_size=20).map(
    lambda drawn: ve(np.round(np.array(drawn).reshape(5, 4), 1))
)


class OperationTests(SimpleTestCase):
    @given(tables, regions, st.sampled_from(sorted(OPERATIONS)), st.floats(0.05, 1.0))
    def test_only_the_region_changes_and_stays_in_bounds(self, table, region, operation, amount):
        values = after(table, operate(table, region, operation, amount))
        inside = np.zeros(values.shape, dtype=bool)
        inside[
            region.first_row : region.last_row + 1, region.first_column : region.last_column + 1
        ] = True
        np.testing.assert_array_equal(values[~inside], table.values[~inside])
        self.assertTrue(((values >= 5.0) & (values <= 200.0)).all())
        np.testing.assert_allclose(values * 10, np.round(values * 10), atol=1e-6)

    @given(tables, regions, st.sampled_from(sorted(OPERATIONS)), st.floats(0.05, 1.0))
    def test_what_was_done_can_be_taken_back(self, table, region, operation, amount):
        done = operate(table, region, operation, amount).changes
        if done:
            changed = apply(table, done, MARK)
            back = [CellChange(c.index, c.at, c.after, c.before) for c in done]
            np.testing.assert_array_equal(apply(changed, back, MARK).values, table.values)

    def test_set_add_and_percent(self):
        one = Region(1, 1, 2, 2)
        for operation, amount, value in (("set", 77.0, 77.0), ("add", -3.0, 54.0), ("percent", 10.0, 62.7)):  # fmt: skip
            values = after(ve(), operate(ve(), one, operation, amount))
            self.assertAlmostEqual(values[1, 2], value)

    def test_interpolation_is_straight_in_the_breakpoints(self):
        """From 500 to 6000 rpm the cell at 1500 lies 1000/5500 of the way, not half-way."""
        table = ve(np.array([[40.0] * 4, [90.0] * 4, [10.0] * 4, [99.0] * 4, [95.0] * 4]))
        values = after(table, operate(table, Region(0, 4, 0, 3), "interpolate_down"))
        self.assertAlmostEqual(values[2, 0], 40.0 + 55.0 * 1000.0 / 5500.0, delta=0.05)
        across = after(ve(), operate(ve(), Region(0, 0, 0, 3), "interpolate_across"))
        self.assertAlmostEqual(across[0, 1], 50.0 + 3.0 * 20.0 / 80.0, delta=0.051)

    def test_between_the_corners_a_region_becomes_bilinear(self):
        table = ve(
            np.array(
                [[20.0, 50, 50, 40], [9, 9, 9, 9], [9, 9, 9, 9], [9, 9, 9, 9], [60, 9, 9, 120]]
            )
        )
        values = after(table, operate(table, Region(0, 4, 0, 3), "interpolate"))
        u = (np.array(RPM) - 500.0) / 5500.0
        v = (np.array(MAP) - 20.0) / 80.0
        wanted = np.outer(1 - u, 20 + 20 * v) + np.outer(u, 60 + 60 * v)
        np.testing.assert_allclose(values, wanted, atol=0.051)

    @given(st.floats(-0.002, 0.002), st.floats(-0.2, 0.2), st.floats(0.1, 1.0))
    def test_smoothing_leaves_a_plane_and_levels_a_spike(self, by_rpm, by_map, how_far):
        plane = 60.0 + by_rpm * np.array(RPM)[:, None] + by_map * np.array(MAP)[None, :]
        table = ve(plane)
        self.assertLessEqual(
            max((abs(c.after - c.before) for c in operate(table, Region(0, 4, 0, 3), "smooth", how_far).changes), default=0.0),
            0.051,
        )  # fmt: skip
        spiked = plane.copy()
        spiked[2, 2] += 20.0
        values = after(ve(spiked), operate(ve(spiked), Region(2, 2, 2, 2), "smooth", how_far))
        self.assertAlmostEqual(values[2, 2] - plane[2, 2], 20.0 * (1 - how_far), delta=0.06)

    def test_locked_cells_stay_and_are_leaned_on(self):
        done = operate(ve(), Region(0, 4, 0, 3), "add", 5.0, locked=[(1, 1), (2, 2)])
        self.assertEqual((done.locked, len(done.changes)), (2, 18))
        self.assertIn("2 locked", done.sentence)

    def test_bounds_hold_and_are_counted(self):
        done = operate(ve(), Region(0, 4, 0, 3), "percent", 400.0)
        self.assertEqual(done.held, 20)
        self.assertIn("20 stop at the bound", done.sentence)

    def test_a_curve_is_a_table_of_one_column(self):
        table = curve([1500.0, 1400.0, 900.0, 800.0])
        values = after(table, operate(table, Region(0, 3), "interpolate_down"))
        np.testing.assert_allclose(values, [1500, 1267, 1033, 800])

    def test_says_what_will_happen_before_it_happens(self):
        for operation, amount, words in (
            ("set", 70.0, "Sets 4 cells to 70 %."),
            ("percent", -5.0, "by −5 %"),
            ("add", 2.5, "Adds +2.5 %"),
            ("interpolate_across", 0.0, "Interpolate across: 4 cells."),
        ):
            self.assertIn(words, operate(ve(), Region(0, 1, 0, 1), operation, amount).sentence)

    def test_refuses_what_it_cannot_do(self):
        for region, operation, amount in (
            (Region(0, 9, 0, 0), "set", 1.0),
            (Region(2, 1, 0, 0), "set", 1.0),
            (Region(0, 0, 0, 0), "set", float("nan")),
            (Region(0, 0, 0, 0), "smooth", 2.0),
            (Region(0, 0, 0, 0), "explode", 2.0),
        ):
            with self.assertRaises(InputRefused):
                operate(ve(), region, operation, amount)


class PasteTests(SimpleTestCase):
    def test_a_block_from_a_spreadsheet(self):
        for text in ("61,5\t62\n63\t64,25", "61.5;62\r\n63;64.25\r\n"):
            grid = read_grid(text)
            np.testing.assert_allclose(grid.values, [[61.5, 62], [63, 64.25]])
        values = after(ve(), paste(ve(), 1, 2, grid.values))
        np.testing.assert_allclose(values[1:3, 2:], [[61.5, 62.0], [63.0, 64.2]])

    def test_ragged_rows_and_text_leave_cells_as_they_are(self):
        grid = read_grid("61\t=SUM(A1)\t63\n64\n\tbig")
        self.assertEqual(grid.values.shape, (3, 3))
        self.assertIn("differ in length", grid.sentences[1])
        self.assertIn("'=SUM(A1)', 'big'", grid.sentences[2])
        values = after(ve(), paste(ve(), 0, 0, grid.values))
        self.assertEqual((values[0, 1], values[1, 1], values[2, 0]), (51.0, 56.0, 60.0))

    def test_what_lies_outside_is_left_out_and_said(self):
        done = paste(ve(), 4, 3, np.full((3, 2), 70.0))
        self.assertEqual(len(done.changes), 1)
        self.assertIn("5 cell(s) lie outside", done.sentence)

    def test_refuses_what_is_no_block(self):
        for text in ("", "\n\n", "a\tb", "1\t" * 5000, "1\n" * 9000):
            with self.assertRaises(InputRefused):
                read_grid(text)
        with self.assertRaises(InputRefused):
            paste(ve(), 9, 0, np.array([[1.0]]))

    @given(st.text(max_size=200))
    def test_any_text_is_read_or_refused(self, text):
        try:
            grid = read_grid(text)
        except InputRefused:
            return
        self.assertTrue(np.isfinite(grid.values).any())

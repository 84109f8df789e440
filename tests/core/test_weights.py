"""Blending between breakpoints, against another interpolator.

Reference: ``scipy.interpolate.RegularGridInterpolator`` and ``numpy.interp``, which hold the ends
only where they are told to.
"""

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st
from inbetrieb_core.provenance import Provenance
from inbetrieb_core.tables import Table, make_axis
from inbetrieb_core.tables.table import filled
from inbetrieb_core.tables.weights import locate, located, weight_matrix
from scipy.interpolate import RegularGridInterpolator

breakpoints = st.lists(
    st.integers(-400, 4000).map(lambda n: n / 4.0), min_size=1, max_size=24, unique=True
).map(sorted)
places = st.lists(
    st.floats(-500.0, 1500.0, allow_nan=False) | st.just(float("nan")), min_size=1, max_size=40
)


class LocateTests(SimpleTestCase):
    @given(breakpoints, st.floats(-500.0, 1500.0))
    def test_the_blend_is_that_of_numpy(self, points, value):
        left, share = locate(points, value)
        right = min(left + 1, len(points) - 1)
        blended = points[left] * (1.0 - share) + points[right] * share
        self.assertAlmostEqual(blended, float(np.interp(value, points, points)), places=9)
        self.assertTrue(0.0 <= share <= 1.0)

    @given(breakpoints, places)
    def test_many_at_once_are_each_alone(self, points, values):
        left, share = located(points, np.array(values))
        for value, at, part in zip(values, left, share, strict=True):
            if np.isnan(value):
                self.assertTrue(np.isnan(part))
                continue
            alone = locate(points, value)
            # A place on a breakpoint may be told from either side.
            right = min(at + 1, len(points) - 1)
            blend = points[at] * (1.0 - part) + points[right] * part
            expected = points[alone[0]] * (1.0 - alone[1]) + (
                points[min(alone[0] + 1, len(points) - 1)] * alone[1]
            )
            self.assertAlmostEqual(blend, expected, places=9)

    def test_on_a_breakpoint_only_that_one_counts(self):
        points = [0.0, 10.0, 30.0]
        for i, point in enumerate(points):
            left, share = locate(points, point)
            self.assertIn((left, share), {(i, 0.0), (i - 1, 1.0)})

    def test_one_breakpoint_holds_everywhere(self):
        self.assertEqual(locate([5.0], -99.0), (0, 0.0))
        self.assertEqual(locate([5.0], 99.0), (0, 0.0))


class MatrixTests(SimpleTestCase):
    @given(breakpoints, breakpoints, st.integers(0, 2**31))
    def test_two_axes_agree_with_the_reference(self, rows, columns, seed):
        if len(rows) < 2 or len(columns) < 2:
            return
        chance = np.random.default_rng(seed)
        values = chance.normal(50.0, 20.0, (len(rows), len(columns)))
        x = chance.uniform(rows[0] - 50.0, rows[-1] + 50.0, 30)
        y = chance.uniform(columns[0] - 50.0, columns[-1] + 50.0, 30)
        reference = RegularGridInterpolator((rows, columns), values)(
            np.column_stack([np.clip(x, rows[0], rows[-1]), np.clip(y, columns[0], columns[-1])])
        )
        ours = weight_matrix([rows, columns], [x, y]) @ values.ravel()
        np.testing.assert_allclose(ours, reference, atol=1e-8)

    @given(breakpoints, breakpoints, places)
    def test_a_row_sums_to_one_or_is_empty(self, rows, columns, values):
        across = np.array(values)[::-1]
        matrix = weight_matrix([rows, columns], [np.array(values), across])
        sums = np.asarray(matrix.sum(axis=1)).ravel()
        missing = np.isnan(values) | np.isnan(across)
        np.testing.assert_allclose(sums[~missing], 1.0, atol=1e-12)
        np.testing.assert_allclose(sums[missing], 0.0)
        self.assertLessEqual(int(np.diff(matrix.indptr).max()), 4)
        self.assertGreaterEqual(float(matrix.min()), 0.0)

    def test_nothing_asked_is_nothing_weighed(self):
        self.assertEqual(weight_matrix([[0.0, 1.0]], [np.array([])]).shape, (0, 2))

    def test_axes_and_places_must_match(self):
        with self.assertRaises(ValueError):
            weight_matrix([[0.0, 1.0], [0.0, 1.0]], [np.array([0.5])])

    def test_a_table_reads_by_the_same_weights(self):
        axes = (make_axis("rpm", [800, 2000, 5000]), make_axis("map_kpa", [30, 60, 100]))
        values = np.arange(9.0).reshape(3, 3) * 7.0 + 20.0
        table = Table("ve", axes, values, filled((3, 3), Provenance("assumed", "test")))
        chance = np.random.default_rng(3)
        rpm, kpa = chance.uniform(500, 6000, 50), chance.uniform(10, 130, 50)
        at_once = weight_matrix([a.points for a in axes], [rpm, kpa]) @ values.ravel()
        one_by_one = [table.at(r, k) for r, k in zip(rpm, kpa, strict=True)]
        np.testing.assert_allclose(at_once, one_by_one, atol=1e-9)

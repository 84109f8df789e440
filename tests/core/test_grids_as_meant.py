"""Tables that stand as programs and people write them: turned, as shares, over gauge pressure, by throttle."""

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from inbetrieb_core.tables.grids import read_grid_table
from inbetrieb_core.tables.regions import cells_of, read_grid

from tests.examples import asked

RPM, KPA = (500, 1000, 2000, 4000, 6500), (20, 40, 60, 100)
VE = np.array([[40 + 0.005 * r / 10 + 0.3 * k for k in KPA] for r in RPM]).round(1)


def rows(down, across, values, corner=""):
    return [[corner, *map(str, across)]] + [
        [str(d), *map(str, line)] for d, line in zip(down, values, strict=True)
    ]


class AsMeantTests(SimpleTestCase):
    def read(self, lines, key="ve"):
        return read_grid_table(lines, key)

    def test_a_table_without_names_that_lies_on_its_side_is_turned(self):
        read = self.read(rows(KPA, RPM, VE.T))
        self.assertEqual(read.table.axes[0].points, tuple(map(float, RPM)))
        np.testing.assert_allclose(read.table.values, VE)
        self.assertIn("turned", " ".join(read.sentences))
        self.assertEqual(self.read(rows(RPM, KPA, VE)).sentences, ())

    def test_filling_as_a_share_of_one(self):
        read = self.read(rows(RPM, KPA, (VE / 100).round(3)))
        np.testing.assert_allclose(read.table.values, VE, atol=0.05)
        self.assertIn("share of one", " ".join(read.sentences))

    def test_pressures_counted_from_outside(self):
        gauge = [-80, -40, 0, 60]
        read = self.read(rows(RPM, gauge, VE))
        self.assertAlmostEqual(read.table.axes[1].points[0], 21.3)
        self.assertIn("101.3 kPa", " ".join(read.sentences))

    def test_marks_between_thousands_of_breakpoints(self):
        text = 'x,20,40,60,100\n500,40,46,52,64\n"1,000",41,47,53,65\n"2,000",42,48,54,66\n'
        read = self.read(cells_of(text))
        self.assertEqual(read.table.axes[0].points, (500.0, 1000.0, 2000.0))

    def test_an_opening_of_the_throttle_stays_one(self):
        read = self.read(rows(RPM, (0, 10, 40, 100), VE))
        self.assertEqual(read.table.axes[1].name, "throttle_pct")
        self.assertIn("throttle", " ".join(read.sentences))
        # A start table over 0 to 100 °C is none.
        self.assertEqual(
            self.read([["-20", "0", "40"], ["200", "150", "90"]], "cranking_fuel").sentences, ()
        )

    def test_the_comma_example_of_the_formats_pastes(self):
        text = "ve [%],map_kpa [kPa]\nrpm [rpm],20,30,40\n500,34.6,52.5,61.4\n700,42.7,57.8,65.4\n"
        read = self.read(cells_of(text), "")
        self.assertEqual(read.table.axes[1].points, (20.0, 30.0, 40.0))
        self.assertEqual(float(read.table.values[1, 2]), 65.4)

    @given(st.lists(st.integers(10, 999), min_size=1, max_size=6))
    @settings(deadline=None, max_examples=asked(40))
    def test_decimal_commas_stay_decimal(self, tenths):
        text = " ".join(f"{t // 10},{t % 10}" for t in tenths)
        np.testing.assert_allclose(read_grid(text).values[0], [t / 10 for t in tenths])

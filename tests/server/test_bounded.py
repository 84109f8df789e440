"""Reading apart: with so much time and memory and no more, and the same refusals."""

import io
import time
import zipfile

import numpy as np
from django.test import SimpleTestCase
from inbetrieb_core.basemaps import generate
from inbetrieb_core.errors import CoreError, InputRefused, field_refused
from inbetrieb_core.tables.file_sets import find_tables, write_csv_set
from PIL import Image

from server.config.bounded import bounded
from server.intake.pictures import kept_picture
from tests.core.engines import FOUR


def endless():
    """Never come to an end."""
    while True:
        pass


def greedy():
    """Write to two gigabytes."""
    return int(np.ones(250_000_000).sum())


def refused():
    """Refuse a field."""
    raise field_refused("here", "It must be above 3 kPa.")


class BoundedTests(SimpleTestCase):
    def test_what_comes_back_is_what_the_function_returns(self):
        data = write_csv_set(generate(FOUR).tables.values())
        here, apart = find_tables(data, "set.zip"), bounded(find_tables, data, "set.zip")
        self.assertEqual(here.understood, apart.understood)
        self.assertGreater(len(apart.tables), 5)
        for one, other in zip(here.tables, apart.tables, strict=True):
            np.testing.assert_array_equal(one.values, other.values)

    def test_refusals_are_the_same(self):
        with self.assertRaises(InputRefused) as caught:
            bounded(refused)
        self.assertEqual([p.field for p in caught.exception.problems], ["here"])
        with self.assertRaisesRegex(CoreError, "no picture that can be read"):
            bounded(kept_picture, b"not a picture")

    def test_what_takes_too_long_or_too_much_is_ended(self):
        for function in (endless, greedy):
            began = time.monotonic()
            with self.subTest(function.__name__), self.assertRaisesRegex(CoreError, "given up"):
                bounded(function, seconds=1, megabytes=500)
            self.assertLess(time.monotonic() - began, 10)

    def test_a_workbook_that_explodes_is_refused(self):
        """A sheet of one cell repeated, 100 MB of rows in some hundred kB."""
        row = b'<row r="%d"><c r="A%d" t="inlineStr"><is><t>' + b"x" * 800 + b"</t></is></c></row>"
        rows = b"".join(row % (i, i) for i in range(1, 60_000))
        sheet = b'<worksheet xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"><sheetData>'
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("xl/worksheets/sheet1.xml", sheet + rows + b"</sheetData></worksheet>")
            archive.writestr("xl/workbook.xml", b"<workbook/>")
        self.assertLess(len(out.getvalue()), 1_000_000)
        with self.assertRaises(CoreError):
            bounded(find_tables, out.getvalue(), "bomb.xlsx", seconds=5)

    def test_a_picture_of_many_pixels_in_few_bytes_is_refused(self):
        out = io.BytesIO()
        Image.new("1", (10_000, 9000)).save(out, "PNG")
        self.assertLess(len(out.getvalue()), 30_000)
        with self.assertRaisesRegex(CoreError, "80 million pixels|no picture"):
            bounded(kept_picture, out.getvalue())

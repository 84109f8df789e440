"""Reading apart: with so much time and memory and no more, and the same refusals."""

import io
import os
import re
import signal
import subprocess
import sys
import time
import zipfile
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

import numpy as np
from django.conf import settings
from django.test import SimpleTestCase
from inbetrieb_core.basemaps import generate
from inbetrieb_core.errors import CoreError, InputRefused, field_refused
from inbetrieb_core.tables.file_sets import find_tables, write_csv_set
from openpyxl import Workbook
from PIL import Image

from server.config import bounded as bounds
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


def whose():
    """Return the number of this process, and of the one that it comes from."""
    return os.getpid(), os.getppid()


def mistaken():
    """Fail as a program does."""
    return 1 / 0


def one_row_of(cells):
    """Return a workbook whose only sheet has one row of so many cells."""
    plain = io.BytesIO()
    Workbook().save(plain)
    row = b'<row r="1">' + b"<c><v>1</v></c>" * cells + b"</row>"
    out = io.BytesIO()
    with zipfile.ZipFile(plain) as old, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new:
        for entry in old.infolist():
            data = old.read(entry)
            if entry.filename == "xl/worksheets/sheet1.xml":
                data = re.sub(
                    b"<sheetData ?/>|<sheetData>.*</sheetData>",
                    b"<sheetData>" + row + b"</sheetData>",
                    data,
                )
            new.writestr(entry.filename, data)
    return out.getvalue()


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

    def test_a_workbook_that_takes_too_long_is_ended(self):
        """One row of a million and a half cells, which its reader goes through before it can stop."""
        data = one_row_of(1_400_000)
        self.assertLess(len(data), 3_000_000)
        with self.assertRaisesRegex(CoreError, "given up"):
            bounded(find_tables, data, "wide.xlsx", seconds=2)
        with self.assertRaisesRegex(CoreError, "no table in it"):
            bounded(find_tables, one_row_of(20), "narrow.xlsx")

    def test_each_file_has_a_process_of_its_own_and_the_reader_is_started_again(self):
        first, second = bounded(whose), bounded(whose)
        self.assertEqual(len({os.getpid(), first[0], second[0]}), 3)
        self.assertEqual(first[1], second[1])
        os.kill(first[1], signal.SIGKILL)
        bounds._Reader.process.wait(10)
        third = bounded(whose)
        self.assertNotEqual(third[1], first[1])

    def test_a_reader_that_ends_while_it_is_asked_is_no_fault_of_the_file(self):
        first = bounded(whose)[1]
        os.kill(first, signal.SIGSTOP)  # it takes what is asked, and does nothing
        with ThreadPoolExecutor(1) as pool:
            asked = pool.submit(bounded, whose)
            time.sleep(0.3)
            os.kill(first, signal.SIGKILL)
            self.assertNotEqual(asked.result(60)[1], first)

    def test_a_reader_ends_with_its_server(self):
        script = "from tests.server.test_bounded import whose; from server.config.bounded import bounded; print(bounded(whose)[1])"
        done = subprocess.run(
            [sys.executable, "-c", script],
            capture_output=True,
            text=True,
            check=True,
            cwd=settings.ROOT,
            env={**os.environ, "DJANGO_SETTINGS_MODULE": "server.config.settings_test"},
        )
        number, until = int(done.stdout), time.monotonic() + 10
        while time.monotonic() < until and Path(f"/proc/{number}/cmdline").exists():
            time.sleep(0.05)
        self.assertFalse(Path(f"/proc/{number}/cmdline").exists())

    def test_many_ask_at_once(self):
        with ThreadPoolExecutor(4) as pool:
            lengths = list(pool.map(lambda size: bounded(len, bytes(size)), [3_000_000, 1, 7, 0]))
        self.assertEqual(lengths, [3_000_000, 1, 7, 0])

    def test_a_mistake_of_the_program_is_none_of_the_file(self):
        with self.assertRaisesRegex(RuntimeError, "ZeroDivisionError"):
            bounded(mistaken)

    def test_a_picture_of_many_pixels_in_few_bytes_is_refused(self):
        out = io.BytesIO()
        Image.new("1", (10_000, 9000)).save(out, "PNG")
        self.assertLess(len(out.getvalue()), 30_000)
        with self.assertRaisesRegex(CoreError, "80 million pixels|no picture"):
            bounded(kept_picture, out.getvalue())

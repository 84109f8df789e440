"""Text that somebody wrote to be slow is read in one pass: twice as long takes about twice as long.

Time is processor time of this process, with a wide bound: the defects were quadratic and cubic.
"""

import contextlib
import time

from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st
from inbetrieb_core.delimited import LONGEST_CELL, name_and_unit, number_of, parted
from inbetrieb_core.errors import CoreError
from inbetrieb_core.logs.mapping import split_unit
from inbetrieb_core.pasted import WantedColumn, read_pasted
from inbetrieb_core.starts.window import _highest_since
from inbetrieb_core.tables.grids import read_grid_table
from inbetrieb_core.tables.table import TableError
from inbetrieb_core.wiring import read_pin_list


def seconds(work, text):
    """Return the processor time of reading a text, refused or not; the quickest of three. [s]"""
    took = []
    for _ in range(3):
        began = time.process_time()
        with contextlib.suppress(CoreError, TableError):  # refused: as well, and as quickly
            work(text)
        took.append(time.process_time() - began)
    return min(took)


def pin_list(text):
    read_pin_list(f"pin\tability\tpull-up\nA1\tanalogue input\t{text}")


WANTED = (WantedColumn("a", "Resistance", "resistance", "ohm", ("r",)), WantedColumn("b", "T", "temperature", "degC", ("t",)))  # fmt: skip
READERS = {
    "head of a log": split_unit,
    "label": name_and_unit,
    "cells": lambda text: parted(text, ","),
    "number": number_of,
    "paste": lambda text: read_pasted(text, WANTED),
    "pin list": pin_list,
    "table": lambda text: read_grid_table([[text, None], [text, "value"], [1, 2]]),
}
NASTY = {
    "blanks": " ",
    "brackets": "[",
    "round ones": "R ((((",
    "open and blank": "[ ",
    "closed": "] ]",
    "digits": "7",
    "commas and blanks": ", ",
    "separators": " ,/",
    "slashes": "a/ ",
}


class LinearTests(SimpleTestCase):
    def test_twice_as_long_takes_no_four_times_as_long(self):
        for reader, work in READERS.items():
            for name, piece in NASTY.items():
                for end in ("", "x", "]"):
                    short = seconds(work, piece * (40_000 // len(piece)) + end)
                    long = seconds(work, piece * (80_000 // len(piece)) + end)
                    with self.subTest(reader=reader, of=name, end=end):
                        self.assertLess(long, 2.8 * short + 0.05)
                        self.assertLess(long, 1.0)


class LabelTests(SimpleTestCase):
    def test_names_and_units(self):
        for label, expected in (
            ("Speed [rpm]", ("Speed", "rpm")),
            ("  Coolant (°F) ", ("Coolant", "°F")),
            ("Air {g/s}", ("Air", "g/s")),
            ("A (b) [c]", ("A (b)", "c")),
            ("[rpm]", ("", "rpm")),
            ("Speed []", ("Speed", "")),
            ("Speed", None),
            ("Speed ]", None),
            ("", None),
            ("Speed [rpm] raw", None),
        ):
            with self.subTest(label):
                self.assertEqual(name_and_unit(label), expected)

    @given(st.text(max_size=80))
    def test_any_text_has_an_answer(self, text):
        found = name_and_unit(text)
        if found is not None:
            self.assertNotIn("]", found[1])
            self.assertIn(found[0], text)


class LongCellTests(SimpleTestCase):
    def test_a_cell_is_cut_and_what_stands_before_it_is_kept(self):
        first, long, last = parted(f"rpm,{'x' * 5000},900", ",")
        self.assertEqual((first, last), ("rpm", "900"))
        self.assertEqual(long, "x" * LONGEST_CELL)

    def test_a_number_of_usual_length_is_never_cut(self):
        for text in ("1234.5678901234567890", "-0." + "3" * 300):
            self.assertEqual(parted(f"{text};1", ";")[0], text)

    def test_in_quotes_and_between_blanks(self):
        self.assertEqual(parted(f'"{"y" * 900}",2', ",")[0], "y" * LONGEST_CELL)
        self.assertEqual(parted("z" * 900 + " 3", " "), ["z" * LONGEST_CELL, "3"])


class HighestSinceTests(SimpleTestCase):
    @given(st.lists(st.floats(-1e3, 1e3), min_size=1, max_size=200), st.data())
    def test_is_the_plain_maximum(self, values, data):
        import numpy as np

        array = np.array(values)
        since = np.array([data.draw(st.integers(0, i)) for i in range(len(values))])
        expected = [array[b : i + 1].max() for i, b in enumerate(since)]
        np.testing.assert_array_equal(_highest_since(array, since), expected)

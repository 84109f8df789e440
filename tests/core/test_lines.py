"""Lines of JSON from a logger of somebody's own: what is a sample is taken, what is none is left out."""

import json

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st
from inbetrieb_core.errors import LogRefused
from inbetrieb_core.live import channels_of, rows_of_lines

CHANNELS = ("time_s", "rpm", "coolant_c")


class LineTests(SimpleTestCase):
    def test_the_first_line_says_what_comes(self):
        sample = json.dumps(
            {"rpm": 900, "time_s": 0.1, "coolant_c": 20, "weather": "fine"}
        ).encode()
        self.assertEqual(channels_of(sample), CHANNELS)
        head = json.dumps({"channels": ["time_s", "rpm", "coolant_c"]}).encode()
        self.assertEqual(channels_of(head), CHANNELS)
        for bad in (
            b"",
            b"[1, 2]",
            b"rpm 900",
            b'{"rpm": 900}',
            b'{"channels": 5}',
            b'{"time_s": 1}',
        ):
            with self.subTest(bad), self.assertRaises(LogRefused):
                channels_of(bad)

    def test_lines_that_are_none_are_left_out_and_gaps_are_missing(self):
        lines = [
            b'{"time_s": 0.0, "rpm": 900, "coolant_c": 20}', b"half a li", b'{"rpm": 901}', b'{"time_s": "now", "rpm": 902}',
            b'{"time_s": 0.2, "rpm": null, "coolant_c": true}', b'{"time_s": 1e400}', b"[" * 9000, b"x" * 20_000,
        ]  # fmt: skip
        rows = rows_of_lines(lines, CHANNELS)
        np.testing.assert_array_equal(rows, [[0.0, 900.0, 20.0], [0.2, np.nan, 1.0]])

    @given(st.lists(st.binary(max_size=200), max_size=20))
    def test_whatever_comes_it_is_rows(self, lines):
        self.assertEqual(rows_of_lines(lines, CHANNELS).shape[1], 3)

    @given(st.lists(st.tuples(st.floats(0, 1e6), st.floats(-1e9, 1e9)), min_size=1, max_size=20))
    def test_there_and_back(self, samples):
        lines = [json.dumps({"time_s": t, "rpm": r}).encode() for t, r in samples]
        np.testing.assert_allclose(rows_of_lines(lines, ("time_s", "rpm")), samples)

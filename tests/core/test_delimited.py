"""The one reader of delimited text: bytes to lines, lines to cells, cells to numbers, blocks."""

import io

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from inbetrieb_core.delimited import (
    COMMA_AND_BLANK,
    Columns,
    LineFeed,
    NotText,
    as_stream,
    bare,
    best_mark,
    first_lines,
    first_mark,
    is_clock,
    is_empty,
    is_number,
    line_blocks,
    number_of,
    parted,
    read_block,
    read_blocks,
    uses_decimal_comma,
)

from tests.examples import asked

letters = st.characters(min_codepoint=32, max_codepoint=0x2FFF, exclude_characters="\x7f\x85\u2028")
text_lines = st.lists(st.text(letters, max_size=30), min_size=1, max_size=40)


class Trickle(io.BytesIO):
    """A stream that gives a few bytes at a time, as a slow connection does."""

    def __init__(self, data, piece):
        super().__init__(data)
        self.piece = piece

    def read(self, size=-1):
        return super().read(min(self.piece, size) if size > 0 else self.piece)


class LineTests(SimpleTestCase):
    @given(text_lines, st.integers(1, 11), st.sampled_from(["\n", "\r\n"]))
    def test_lines_do_not_depend_on_where_blocks_are_cut(self, lines, piece, end):
        data = ("\ufeff" + end.join(lines)).encode()
        blocks = list(line_blocks(Trickle(data, max(piece, 4))))
        self.assertEqual(b"".join(blocks).decode(), end.join(lines))
        for block in blocks[:-1]:
            self.assertTrue(block.endswith(b"\n"))

    @given(st.lists(st.text("aäß€0123,;. ", max_size=12), min_size=2, max_size=20))
    def test_every_usual_encoding_gives_the_same_lines(self, lines):
        text = "\r\n".join(["Zeit;Größe", *lines])
        for encoding, name in (("utf-8-sig", "UTF-8"), ("utf-16", "UTF-16"), ("cp1252", None)):
            with self.subTest(encoding=encoding):
                found, called = first_lines(io.BytesIO(text.encode(encoding)))
                self.assertEqual(found, text.split("\r\n"))
                if name:
                    self.assertEqual(called, name)

    def test_utf16_is_known_without_a_mark(self):
        for encoding in ("utf-16-le", "utf-16-be"):
            with self.subTest(encoding=encoding):
                found, called = first_lines(io.BytesIO("time;rpm\n0;900\n".encode(encoding)))
                self.assertEqual((found[0], called), ("time;rpm", "UTF-16"))

    def test_a_letter_cut_in_two_by_a_block_is_whole(self):
        data = "ä\n€\n".encode("utf-16")
        feed = LineFeed()
        lines = feed.feed(data[:5]) + feed.feed(data[5:9]) + feed.feed(data[9:]) + feed.finish()
        self.assertEqual(lines.decode(), "ä\n€\n")

    def test_ends_of_lines_of_old_machines(self):
        self.assertEqual(b"".join(line_blocks(io.BytesIO(b"a;b\r1;2\r"))), b"a;b\n1;2\n")

    def test_what_is_no_text_says_what_it_is(self):
        cases = {
            b"\xff\xd8\xff\xe0 JFIF": "JPEG",
            b"\x89PNG\r\n\x1a\n": "PNG",
            b"%PDF-1.7": "PDF",
            b"PK\x03\x04rest": "workbook",
            b"\x1f\x8b\x08": "compressed",
            bytes(range(256)) * 8: "binary",
            b"\x01\x02\x03\x04\x05\x06\x9d\x9e" * 50: "binary",
        }
        for data, word in cases.items():
            with self.subTest(word=word), self.assertRaises(NotText) as refused:
                first_lines(io.BytesIO(data))
            self.assertIn(word, str(refused.exception))

    def test_an_empty_file_and_an_endless_line(self):
        for data in (b"", b"  \r\n "):
            with self.assertRaisesRegex(NotText, "empty"):
                first_lines(io.BytesIO(data))
        with self.assertRaisesRegex(NotText, "million"):
            list(line_blocks(Trickle(b"1;" * 900_000, 1 << 18)))

    @settings(max_examples=asked(60))
    @given(st.binary(max_size=400))
    def test_any_bytes_are_lines_or_refused(self, data):
        try:
            blocks = list(line_blocks(io.BytesIO(data)))
            for block in blocks[:-1]:
                self.assertTrue(block.endswith(b"\n"))
            # A torn letter stays torn: whoever reads it puts a mark in its place.
            b"".join(blocks).decode(errors="replace")
        except NotText as refused:
            self.assertTrue(str(refused).endswith("."))

    def test_looking_at_the_head_leaves_the_stream_at_its_beginning(self):
        stream = io.BytesIO(b"a,b\n1,2\n")
        first_lines(stream)
        self.assertEqual(stream.tell(), 0)
        stream.read()
        self.assertEqual(as_stream(stream).tell(), 0)
        self.assertEqual(as_stream(b"x").read(), b"x")


class CellTests(SimpleTestCase):
    def test_marks(self):
        self.assertEqual(parted("1;2; 3 ", ";"), ["1", "2", "3"])
        self.assertEqual(parted("  1   2\t3", " "), ["1", "2", "3"])
        self.assertEqual(parted("1,5, 2,5", COMMA_AND_BLANK), ["1,5", "2,5"])
        self.assertEqual(parted('"a,b",2', ","), ["a,b", "2"])
        self.assertEqual(parted('"never closed,2', ",")[-1].rstrip('"')[-1], "2")

    def test_the_best_mark_is_the_one_that_parts_evenly(self):
        def widest(rows, mark):
            widths = {len(row) for row in rows}
            return (float(widths.pop()),) if len(widths) == 1 else None

        self.assertEqual(best_mark(["1;2;3", "4;5;6"], widest), ";")
        self.assertEqual(best_mark(["1,5|2", "4,1|6"], widest, ("|", ";")), "|")
        self.assertIsNone(best_mark(["1", "1;2"], lambda rows, mark: None))

    def test_the_first_mark_that_occurs(self):
        self.assertEqual(first_mark(["1 2", "1;2"], ("\t", ";"), " "), ";")
        self.assertEqual(first_mark(["1 2"], ("\t", ";"), " "), " ")


class NumberTests(SimpleTestCase):
    @given(st.floats(-1e9, 1e9, allow_nan=False).map(lambda x: round(x, 4)))
    def test_a_number_is_read_however_it_is_written(self, value):
        for text in (f"{value:.4f}", f"{value:.4f}".replace(".", ","), f' "{value:.4f}" '):
            self.assertAlmostEqual(number_of(text), value, places=4)
        if value < 0:
            self.assertAlmostEqual(number_of(f"{value:.4f}".replace("-", "−")), value, places=4)

    def test_what_is_none(self):
        for cell in ("", "-", "NaN", "n/a", "#N/A", "abc", "1.2.3", "1e999", "1_000", "0x10", None,
                     True, float("inf"), float("nan"), [1]):  # fmt: skip
            with self.subTest(cell=cell):
                self.assertIsNone(number_of(cell))

    def test_thousands(self):
        self.assertEqual(number_of("1,234.5"), 1234.5)
        self.assertEqual(number_of("12 500"), 12500.0)
        self.assertEqual(number_of("12\u00a0500,5"), 12500.5)

    def test_empty_and_clocks(self):
        for text in ("", " - ", "null", "INF", '"NaN"'):
            self.assertTrue(is_empty(text), text)
        for text in (
            "10:32",
            "10:32:07.5",
            "2025-03-01 10:32:07",
            "1.3.2025 10:32:07",
            "0:00:01,25",
        ):
            self.assertTrue(is_clock(text) and is_number(text), text)
        for text in ("10", "a:b", "1:2:3:4", "10:3"):
            self.assertFalse(is_clock(text), text)
        self.assertEqual(bare(' "x" '), "x")

    def test_the_decimal_mark_is_that_of_most_numbers(self):
        self.assertTrue(uses_decimal_comma([["1,5", "2,25"], ["3.5", "x,y"]]))
        self.assertFalse(uses_decimal_comma([["1.5", "2"], ["word, word"]]))


class BlockTests(SimpleTestCase):
    @settings(max_examples=asked(40))
    @given(
        st.lists(st.tuples(*[st.floats(-1e4, 1e4).map(lambda x: round(x, 3))] * 3), min_size=1, max_size=30),
        st.sampled_from([(";", False), (";", True), ("\t", True), (",", False), (" ", False)]),
    )  # fmt: skip
    def test_what_was_written_is_read(self, rows, dialect):
        mark, comma = dialect
        text = "\n".join(
            mark.join(f"{v:.3f}".replace(".", ",") if comma else f"{v:.3f}" for v in row)
            for row in rows
        )
        for loose in (False, True):
            frame = read_block(text.encode(), Columns(mark, 3, decimal_comma=comma, loose=loose))
            np.testing.assert_allclose(frame.to_numpy(), np.array(rows), atol=1e-9)

    def test_a_cell_that_is_no_number_is_missing_and_its_row_stays(self):
        frame = read_block(b"1;2\nx;4\n5;-\n;\n", Columns(";", 2))
        self.assertEqual(frame.rows(), [(1.0, 2.0), (None, 4.0), (5.0, None)])

    def test_short_and_long_rows(self):
        frame = read_block(b"1;2;3\n4;5\n6;7;8;9\n", Columns(";", 3))
        self.assertEqual(frame.rows(), [(1.0, 2.0, 3.0), (4.0, 5.0, None), (6.0, 7.0, 8.0)])

    def test_only_the_wanted_columns_under_their_own_numbers(self):
        frame = read_block(b"1;on;3\n4;off;6\n", Columns(";", 3, (1, 2), {1}))
        self.assertEqual(frame.columns, ["c1", "c2"])
        self.assertEqual(frame.rows(), [("on", 3.0), ("off", 6.0)])

    def test_quoted_cells_with_the_mark_in_them(self):
        frame = read_block(
            b'"1,5","2"\n" 3,25 ","4"\n', Columns(",", 2, decimal_comma=True, loose=True)
        )
        self.assertEqual(frame.rows(), [(1.5, 2.0), (3.25, 4.0)])

    def test_lines_above_the_rows_are_skipped_even_across_blocks(self):
        body = b"".join(b"note %d\n" % i for i in range(5)) + b"1;2\n3;4"
        frames = [f for _, f in read_blocks(Trickle(body, 7), Columns(";", 2), skip=5)]
        self.assertEqual(
            [row for frame in frames for row in frame.rows()], [(1.0, 2.0), (3.0, 4.0)]
        )

    def test_blocks_joined_are_the_whole(self):
        chance = np.random.default_rng(5)
        values = chance.normal(size=(400, 2)).round(4)
        data = "\n".join(f"{a:.4f}\t{b:.4f}" for a, b in values).encode()
        rows = [
            row
            for _, frame in read_blocks(Trickle(data, 97), Columns("\t", 2), 0)
            for row in frame.rows()
        ]
        np.testing.assert_allclose(np.array(rows), values)

    def test_nothing_in_nothing_out(self):
        self.assertEqual(read_block(b"", Columns(";", 2)).height, 0)
        self.assertEqual(list(read_blocks(io.BytesIO(b""), Columns(";", 2), 0)), [])

    @settings(max_examples=asked(60))
    @given(st.binary(max_size=300))
    def test_any_bytes_give_rows_or_a_refusal(self, data):
        for columns in (
            Columns(";", 3),
            Columns(",", 2, decimal_comma=True, loose=True),
            Columns("\t"),
        ):
            try:
                frame = read_block(data, columns)
            except ValueError:  # CoreError is one
                continue
            self.assertLessEqual(frame.height, data.count(b"\n") + data.count(b"\r") + 1)

"""Pasted tables: separators, decimal commas, headings, units, and what is passed over."""

from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st
from inbetrieb_core.errors import InputRefused
from inbetrieb_core.pasted import PURPOSES, read_pasted


def rows(text, purpose="resistance"):
    return read_pasted(text, PURPOSES[purpose]).rows


class ReadTests(SimpleTestCase):
    def test_separators_and_decimal_commas(self):
        wanted = ((0.0, 5896.5), (20.0, 2500.0))
        for text in (
            "0\t5896,5\n20\t2500",
            "0;5896,5\n20;2500",
            "0, 5896.5\n20, 2500",
            "0,5896.5\n20,2500",
            "0 5896.5\n20 2500",
            "0 | 5896.5\n20 | 2500\n",
            "  0   5896,5\r\n\r\n  20   2500\r\n",
            "\u22120\t5896.5\n20\t2500",
        ):
            with self.subTest(text):
                self.assertEqual(rows(text), wanted)

    def test_headings_give_order_and_units(self):
        text = "R [kΩ];Temp [°F]\n5,896;32\n2,5;68\n"
        found = rows(text)
        for (celsius, ohm), (c, o) in zip(found, ((0.0, 5896.0), (20.0, 2500.0)), strict=True):
            self.assertAlmostEqual(celsius, c, places=6)
            self.assertAlmostEqual(ohm, o, places=6)

    def test_headings_as_people_write_them(self):
        for head in (
            "Temperature(C),Resistance(Ohm)", "Temp,Ohms", "°C;Ω", "T [degC]\tR [ohm]", "deg C;ohm",
            "Some sensor, data sheet\nTemp;Res", "Temp;Res\n°C;Ω", "# a note\n\nTemp | Resistance",
        ):  # fmt: skip
            mark = next((m for m in (";", "|", "\t") if m in head), ",")
            with self.subTest(head):
                found = rows(f"{head}\n0{mark}5896\n20{mark}2500")
                self.assertEqual(found, ((0.0, 5896.0), (20.0, 2500.0)))

    def test_columns_without_heading_the_other_way_round(self):
        found = read_pasted("45300\t-40\n5896\t0\n186\t100", PURPOSES["resistance"])
        self.assertEqual(found.rows[0], (-40.0, 45300.0))
        self.assertIn("other way round", " ".join(found.sentences))

    def test_units_in_the_cells(self):
        self.assertEqual(rows("20 °C\t2.5 kΩ"), ((20.0, 2500.0),))
        self.assertAlmostEqual(rows("8 V\t2400 µs", "dead_time")[0][1], 2.4, places=9)

    def test_columns_that_are_not_wanted_are_named(self):
        found = read_pasted(
            "No;Volt;Latency (ms);Remark\n1;8;2,4;x\n2;14;0,9;y", PURPOSES["dead_time"]
        )
        self.assertEqual(found.rows, ((8.0, 2.4), (14.0, 0.9)))
        self.assertIn("Not used: No, Remark.", found.sentences)

    def test_a_numbering_column_is_not_data(self):
        wanted = ((400.0,), (404.0,), (380.0,))
        for mark in ("\t", ";", " ", "|"):
            for head in ("", f"Injector{mark}Flow\n"):
                text = head + f"1{mark}400\n2{mark}404\n3{mark}380"
                with self.subTest(text):
                    self.assertEqual(rows(text, "flows"), wanted)

    def test_rows_without_numbers_are_passed_over_and_said(self):
        found = read_pasted("0\t5896\nabout\t2500\n40\t1175", PURPOSES["resistance"])
        self.assertEqual(len(found.rows), 2)
        self.assertIn("Row 2 was passed over", " ".join(found.sentences))

    def test_pressures_in_bar_and_psi(self):
        self.assertAlmostEqual(rows("V;Pressure [bar];Flow [l/h]\n13,5;3;190", "pump")[0][1], 300.0)
        self.assertAlmostEqual(rows("s;psi\n1;43.5", "prime")[0][1], 299.92, places=2)
        self.assertAlmostEqual(rows("sec;kPa\n90;250", "decay")[0][0], 1.5)

    def test_refusals(self):
        for text, words in (
            ("", "Nothing was pasted"),
            ("5\n6\n7", "2 columns are needed"),
            ("a\tb\nc\td", "No row with"),
            ("Temp;Colour;Taste\n1;2;3", "No column for resistance"),
            ("1\t2\n" * 3000, "more than 2000 rows"),
        ):
            with self.subTest(words), self.assertRaisesRegex(InputRefused, words):
                rows(text)

    @given(st.text(max_size=300), st.sampled_from(sorted(PURPOSES)))
    def test_any_text_is_read_or_refused_with_a_sentence(self, text, purpose):
        try:
            found = read_pasted(text, PURPOSES[purpose])
        except InputRefused as refused:
            self.assertGreater(len(str(refused)), 10)
            return
        width = len(PURPOSES[purpose])
        self.assertTrue(found.rows and all(len(row) == width for row in found.rows))

"""Pasted values that may mean two things are asked about; those that can mean one are read."""

from django.test import SimpleTestCase
from inbetrieb_core.pasted import PURPOSES, read_pasted


class DoubtTests(SimpleTestCase):
    def read(self, purpose, text, **factors):
        return read_pasted(text, PURPOSES[purpose], factors)

    def test_what_can_mean_two_things_is_asked(self):
        for purpose, text, factor in (
            ("resistance", "-20\t16,867 Ω\n0\t6,120 Ω\n40\t1,175 Ω", 1000.0),
            ("resistance", "20\t6\n80\t1.2", 1000.0),
            ("pressure_signal", "0.5\t0\n4.5\t4", 100.0),
            ("pressure_signal", "0.5\t0.1\n4.5\t0.4", 100.0),
            ("dead_time", "8\t0.0025\n14\t0.0008", 1000.0),
            ("dead_time", "8\t2500\n14\t800", 0.001),
        ):
            with self.subTest(text=text):
                doubts = self.read(purpose, text).doubts
                self.assertEqual(1, len(doubts))
                self.assertEqual(factor, doubts[0].factor)

    def test_an_answer_is_taken_and_not_asked_again(self):
        text = "-20\t16,867\n0\t6,120"
        self.assertEqual(16.867, self.read("resistance", text).rows[0][1])
        answered = self.read("resistance", text, resistance=1000.0)
        self.assertEqual((16867.0, ()), (answered.rows[0][1], answered.doubts))
        self.assertEqual((), self.read("resistance", text, resistance=1.0).doubts)

    def test_what_can_mean_one_thing_is_read(self):
        for purpose, text, first in (
            ("resistance", "-20\t16,867\n0\t6,120\n80\t329\n100\t180", 16867.0),
            ("resistance", "-40\t45'313\n0\t5'896\n80\t322", 45313.0),
            ("resistance", "T °C;R kΩ\n-20;16,8\n20;2,5", 16800.0),
            ("resistance", "Temp [°C]\tR [k-ohm]\n-20\t15.5\n20\t2.45", 15500.0),
            ("pressure_signal", "V\tMPa\n0.5\t0.1\n4.5\t1.0", 100.0),
            ("dead_time", "Battery V\tdead time s\n8\t0.0025\n14\t0.0008", 2.5),
        ):
            with self.subTest(text=text):
                pasted = self.read(purpose, text)
                self.assertAlmostEqual(first, pasted.rows[0][1])
                self.assertEqual((), pasted.doubts)

    def test_only_the_mark_between_thousands_is_left_out(self):
        """The other mark stays the decimal one, in every number of the column."""
        for text, values in (
            ("-40\t45'313,5\n0\t12,25", (45313.5, 12.25)),
            ("-40\t45.313,5\n0\t912,25", (45313.5, 912.25)),
            ("-40\t1,045,313.5\n0\t912.25", (1045313.5, 912.25)),
        ):
            with self.subTest(text=text):
                rows = self.read("resistance", text).rows
                self.assertEqual(values, tuple(row[1] for row in rows))

    def test_columns_the_other_way_round_are_asked_about_by_their_own_name(self):
        pasted = self.read("resistance", "45,300\t-40\n5,896\t0\n0,186\t100")
        self.assertEqual((), tuple(d for d in pasted.doubts if d.column == "temperature"))

    def test_odd_numbers_beside_it_break_nothing(self):
        for other in ("1.2.3", "1'2", "5 Ω Ω", "..", "-", "’"):
            self.read("resistance", f"20\t16,867\n30\t{other}\n40\t6,120")

    def test_a_second_column_of_the_kind_is_told(self):
        said = " ".join(
            self.read("dead_time", "V\tms\tms cold\n8\t2.5\t2.6\n14\t0.8\t0.9").sentences
        )
        self.assertIn("ms cold", said)

"""Sentences that carry quantities: canonical text, template and typed numbers."""

import math

from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st
from inbetrieb_core.sentences import (
    celsius,
    fixed,
    injector_flow,
    kilopascal,
    mixture,
    number,
    plain,
    quantity,
    significant,
    temperature_step,
    typed,
)

FINITE = st.floats(allow_nan=False, allow_infinity=False)


class PlainTextTests(SimpleTestCase):
    def test_a_range_has_its_unit_once(self):
        text = f"between {celsius(25, bare=True)} and {celsius(85)}"
        self.assertEqual(plain(text), "between 25 and 85 °C")

    def test_each_kind(self):
        for text, written in (
            (celsius(-6.5, 1), "−6.5 °C"),
            (celsius(-0.2), "0 °C"),
            (celsius(-4.5), "−5 °C"),
            (celsius(2.5), "3 °C"),
            (temperature_step(12), "12 K"),
            (kilopascal(101.325, 1), "101.3 kPa"),
            (mixture(0.9), "lambda 0.90"),
            (injector_flow(331.6), "332 cm³/min"),
            (quantity(0.94, "–"), "0.94"),
            (quantity(3.25, "V"), "3.25 V"),
            (quantity(40.0, "kPa", signed=True), "+40 kPa"),
            (quantity(2.5, "%", signed=True), "+2.5 %"),
            (quantity(700, ""), "700"),
        ):
            with self.subTest(written):
                self.assertEqual(plain(text), written)

    def test_a_text_that_is_cut_keeps_no_half_mark(self):
        text = f"Starts at {celsius(-10)} well, and at {celsius(40)} too."
        for end in range(len(text)):
            self.assertTrue(plain(text[:end]).isprintable(), end)
        self.assertEqual(plain(text[:14]), "Starts at ")

    def test_lower_case_does_not_spoil_a_mark(self):
        self.assertEqual(plain(f"AT {celsius(7)}".lower()), "at 7 °C")

    @given(st.text(max_size=60).filter(lambda text: text not in tuple("tdpfl")))
    def test_what_people_type_is_never_a_mark(self, text):
        for odd in (text, f"\ue000{text}\ue001", f"\ue0001\ue002{text}\ue0021\ue002\ue001"):
            self.assertNotIn("\ue000", plain(odd))
            self.assertEqual(typed(odd).quantities, ())

    def test_numbers_that_are_none(self):
        for value in (math.nan, math.inf):
            self.assertEqual(plain(celsius(value)), "no number °C")


class TypedTests(SimpleTestCase):
    def test_template_and_quantities(self):
        said = typed(f"{{odd}} {kilopascal(300)} at {mixture(0.94)}")
        self.assertEqual(said.template, "{{odd}} {0} at {1}")
        self.assertEqual([q.unit for q in said.quantities], ["kPa", "lambda"])
        self.assertEqual([q.decimals for q in said.quantities], [0, 2])

    @given(FINITE, st.sampled_from(["°C", "K", "kPa", "lambda", "cm³/min"]), st.integers(0, 4))
    def test_the_value_travels_whole(self, value, unit, decimals):
        (found,) = typed(quantity(value, unit, decimals)).quantities
        self.assertEqual((found.value, found.unit, found.decimals), (value, unit, decimals))


class NumberTests(SimpleTestCase):
    def test_as_people_write_them(self):
        for value, digits, written in (
            (4312.0, 2, "4312"),
            (1.5e7, 3, "15000000"),
            (0.000421, 2, "0.00042"),
            (-0.5, 3, "−0.5"),
            (0.0, 3, "0"),
            (2.50, 6, "2.5"),
        ):
            with self.subTest(written):
                self.assertEqual(number(value, digits), written)

    @given(st.floats(-1e12, 1e12), st.integers(1, 9))
    def test_never_an_exponent_and_close_enough(self, value, digits):
        text = number(value, digits)
        self.assertNotRegex(text, "[eE]")
        back = float(text.replace("−", "-"))
        self.assertAlmostEqual(
            back, value, delta=max(1e-11, 0.51 * abs(value) * 10.0 ** (1 - digits))
        )

    @given(FINITE, st.integers(0, 6))
    def test_fixed_has_no_negative_zero(self, value, decimals):
        self.assertNotRegex(fixed(value, decimals), r"^[−+]0(\.0*)?$")

    def test_significant(self):
        self.assertEqual(significant(1234.5, 2), 1200.0)
        self.assertEqual(significant(0.0, 3), 0.0)

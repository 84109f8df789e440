"""Units at the border."""

import math

from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st
from inbetrieb_core.quantities import (
    UnknownUnitError,
    convert,
    recognise_unit,
)

PAIRS = [
    ("degC", "degF"),
    ("kPa", "psi"),
    ("kPa", "bar"),
    ("kPa", "inHg"),
    ("s", "ms"),
    ("km/h", "mph"),
    ("g/s", "kg/h"),
    ("V", "mV"),
    ("kPa", "millibar"),
]


class ConversionTests(SimpleTestCase):
    def test_published_values(self):
        # NIST SP 811, appendix B.8: psi, inHg; exact: °F, bar, mile.
        self.assertAlmostEqual(convert(1.0, "psi", "kPa"), 6.894757, places=6)
        self.assertAlmostEqual(convert(1.0, "inHg", "kPa"), 3.386389, places=4)
        self.assertAlmostEqual(convert(212.0, "degF", "degC"), 100.0)
        self.assertAlmostEqual(convert(-40.0, "degC", "degF"), -40.0)
        self.assertAlmostEqual(convert(1.0, "bar", "kPa"), 100.0)
        self.assertAlmostEqual(convert(100.0, "mph", "km/h"), 160.9344)

    @given(st.sampled_from(PAIRS), st.floats(-1e4, 1e4))
    def test_there_and_back(self, pair, value):
        there, back = pair
        result = convert(convert(value, there, back), back, there)
        self.assertTrue(math.isclose(result, value, rel_tol=1e-9, abs_tol=1e-6))

    def test_refuses_unknown_or_unlike_units(self):
        for pair in (("kPa", "degC"), ("furlong", "kPa"), ("2**9**9", "kPa")):
            with self.subTest(pair=pair), self.assertRaises(UnknownUnitError):
                convert(1.0, *pair)


class RecognitionTests(SimpleTestCase):
    def test_spellings(self):
        for text, unit in {
            "[°F]": "degF",
            "(kPa)": "kPa",
            "U/min": "rpm",
            "1/min": "rpm",
            " MS ": "ms",
            "μs": "us",
            "µs": "us",
            "hPa": "millibar",
            "%": "percent",
            "°BTDC": "degree",
        }.items():
            with self.subTest(text=text):
                self.assertEqual(recognise_unit(text)[1], unit)
        self.assertIsNone(recognise_unit("bananas"))

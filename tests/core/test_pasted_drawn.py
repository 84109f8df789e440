"""Tables pasted in any dialect: what was copied is what is read.

A writer of its own draws order, heading, units, marks and what stands around the numbers.
"""

import random

from django.test import SimpleTestCase
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from inbetrieb_core.errors import InputRefused
from inbetrieb_core.pasted import PURPOSES, read_pasted
from inbetrieb_core.wiring.pin_list import read_pin_list

from tests.examples import asked

many = settings(max_examples=asked(120), deadline=None, suppress_health_check=list(HealthCheck))
#: Purpose: for each column (range, decimals, and heads with how they are written).
TABLES = {
    "resistance": (
        ((-40, 140), [("Temp [°C]", lambda v: v), ("Temperature (°F)", lambda v: v * 1.8 + 32.0)]),
        ((100, 90_000), [("Resistance [Ω]", lambda v: v), ("R [kΩ]", lambda v: v / 1000.0)]),
    ),
    "dead_time": (
        ((7, 17), [("Voltage [V]", lambda v: v)]),
        ((0.4, 4), [("Dead time [ms]", lambda v: v), ("Latency [µs]", lambda v: v * 1000.0)]),
    ),
}


class PastedText:
    """A pasted table with what was true of it."""

    def __init__(self, seed, purpose):
        chance = random.Random(seed)
        columns = TABLES[purpose]
        count = chance.randint(3, 12)
        first = sorted(chance.sample(range(100), count))
        (low, high), _ = columns[0]
        self.rows = []
        for i, place in enumerate(first):
            (least, most), _ = columns[1]
            # A falling curve, as thermistors and dead times are.
            self.rows.append((low + (high - low) * place / 99.0, most * (least / most) ** (i / (count - 1))))  # fmt: skip
        mark, comma = chance.choice(
            [("\t", True), ("\t", False), (";", True), (";", False), (" | ", False)]
        )
        heads = [chance.choice(ways) for _, ways in columns]
        order = chance.choice([(0, 1), (1, 0)])
        lines = []
        if chance.random() < 0.3:
            lines.append("# from the data sheet")
        lines.append(mark.join(heads[i][0] for i in order))
        for row in self.rows:
            cells = [f"{heads[i][1](row[i]):.5f}" for i in order]
            lines.append(mark.join(c.replace(".", ",") if comma else c for c in cells))
            if chance.random() < 0.1:
                lines.append("")
        self.text = chance.choice(["\n", "\r\n"]).join(lines)


class DrawnTableTests(SimpleTestCase):
    @many
    @given(st.integers(0, 10**6), st.sampled_from(sorted(TABLES)))
    def test_what_was_copied_is_read(self, seed, purpose):
        pasted = PastedText(seed, purpose)
        found = read_pasted(pasted.text, PURPOSES[purpose])
        self.assertEqual(len(found.rows), len(pasted.rows), pasted.text)
        for got, true in zip(found.rows, pasted.rows, strict=True):
            self.assertAlmostEqual(got[0], true[0], delta=1e-4 * (1.0 + abs(true[0])))
            self.assertAlmostEqual(got[1], true[1], delta=0.01 + 1e-4 * true[1])
        self.assertIn(f"{len(pasted.rows)} rows read", found.sentences[0])

    @many
    @given(st.integers(0, 10**6), st.integers(0, 10**6))
    def test_a_line_of_words_between_is_passed_over_and_said(self, seed, where):
        pasted = PastedText(seed, "resistance")
        lines = pasted.text.splitlines()
        at = len(lines) - 1 - where % max(1, len(pasted.rows) - 1)
        text = "\n".join([*lines[:at], "see page two", *lines[at:]])
        found = read_pasted(text, PURPOSES["resistance"])
        self.assertEqual(len(found.rows), len(pasted.rows))
        self.assertGreater(len(found.sentences), 1)

    @many
    @given(st.integers(0, 10**6), st.sampled_from(sorted(TABLES)), st.integers(1, 400))
    def test_a_text_that_was_cut_is_read_or_refused(self, seed, purpose, kept):
        pasted = PastedText(seed, purpose)
        try:
            found = read_pasted(pasted.text[:kept], PURPOSES[purpose])
        except InputRefused as refused:
            self.assertTrue(str(refused).endswith("."))
            return
        self.assertLessEqual(len(found.rows), len(pasted.rows))


class DrawnPinListTests(SimpleTestCase):
    ABILITIES = {
        "low side": "low_side", "high side": "high_side", "analogue": "analogue", "injector": "injector",
        "power ground": "power_ground", "sensor ground": "sensor_ground", "battery supply": "supply",
    }  # fmt: skip

    @many
    @given(st.lists(st.sampled_from(sorted(ABILITIES)), min_size=1, max_size=30), st.sampled_from([";", "\t", ","]), st.booleans())  # fmt: skip
    def test_every_pin_keeps_its_ability(self, abilities, mark, reverse):
        heads = ["pin", "ability"]
        rows = [[f"A{i + 1}", ability] for i, ability in enumerate(abilities)]
        if reverse:
            heads, rows = heads[::-1], [row[::-1] for row in rows]
        found = read_pin_list("\n".join(mark.join(row) for row in [heads, *rows]))
        told = {pin.name: pin.capabilities for pin in found.pins}
        self.assertEqual(set(told), {f"A{i + 1}" for i in range(len(abilities))})
        for i, ability in enumerate(abilities):
            self.assertIn(self.ABILITIES[ability], told[f"A{i + 1}"])

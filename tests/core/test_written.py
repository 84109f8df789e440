"""Logs and differences as files: what was written is read back."""

from dataclasses import replace

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given
from hypothesis import strategies as st
from inbetrieb_core.basemaps import generate
from inbetrieb_core.bench import NAMED
from inbetrieb_core.logs import CHANNELS, Trace, head_of, import_log, log_csv
from inbetrieb_core.tables import difference_csv

TABLES = generate(NAMED["port_four"].spec)
#: What a channel usually holds; others lie between 1 and 9.
USUAL = {"rpm": (700, 5000), "map_kpa": (25, 105), "coolant_c": (-20, 95), "intake_c": (-20, 60), "lambda": (0.8, 1.2),
         "lambda_2": (0.8, 1.2), "lambda_target": (0.8, 1.1), "battery_v": (9, 14.5), "throttle_pct": (0, 100),
         "fuel_pressure_kpa": (200, 400), "barometric_kpa": (80, 104), "pulse_ms": (1, 20), "boost_target_kpa": (100, 200)}  # fmt: skip


def drawn(names, seed, samples=60):
    random = np.random.default_rng(seed)
    columns = {
        name: random.uniform(*USUAL.get(name, (1.0, 9.0)), samples).round(3) for name in names
    }
    return Trace({"time_s": np.round(np.cumsum(random.uniform(0.02, 0.08, samples)), 4), **columns})


class LogCsvTests(SimpleTestCase):
    def test_every_head_is_understood_as_what_it_is(self):
        for name in CHANNELS:
            if name == "time_s":
                continue
            with self.subTest(head_of(name)):
                back = import_log(log_csv(drawn([*{name, "rpm"}], 3))).trace
                self.assertIn(name, back.channels)

    @given(
        st.sets(st.sampled_from(sorted(set(USUAL) - {"rpm"})), min_size=1, max_size=6),
        st.integers(0, 10_000),
    )
    def test_there_and_back_sample_for_sample(self, names, seed):
        trace = drawn(["rpm", *sorted(names)], seed)
        back = import_log(log_csv(trace)).trace
        np.testing.assert_allclose(back.time_s, trace.time_s - trace.time_s[0], atol=1e-9)
        for name in set(trace.channels) - {"time_s"}:
            np.testing.assert_allclose(back[name], trace[name], rtol=1e-9, atol=1e-9)


class DifferenceTests(SimpleTestCase):
    def test_each_cell_that_differs_is_a_line(self):
        values = np.array(TABLES["cranking_fuel"].values)
        values[2] *= 1.1
        other = TABLES.with_table(replace(TABLES["cranking_fuel"], values=values))
        lines = difference_csv(TABLES, other).decode().splitlines()
        self.assertEqual(len(lines), 2)
        self.assertTrue(lines[1].startswith("cranking_fuel,"))
        self.assertEqual(float(lines[1].split(",")[-1]), values[2])

    def test_two_engines_with_other_breakpoints_say_so(self):
        said = difference_csv(TABLES, generate(NAMED["throttle_body_v8"].spec)).decode()
        self.assertIn("has other breakpoints", said)
        self.assertEqual(difference_csv(TABLES, TABLES).decode().count("\n"), 1)

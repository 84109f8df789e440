"""Logs drawn in any dialect: what was recorded is what is read, whatever stands around it.

The writer here knows nothing of the reader: it draws order, names, units, decimal sign, preamble,
distractors and gaps, and keeps what was true in canonical units beside the file.
"""

import random

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from inbetrieb_core.errors import LogRefused
from inbetrieb_core.logs import import_log, preview_log

from tests.examples import few

#: Channel: usual range, and (head, unit, how it is written from the canonical value).
WAYS = {
    "rpm": ((0.0, 7000.0), [("RPM", "", lambda v: v), ("Engine Speed", "1/min", lambda v: v), ("Drehzahl", "U/min", lambda v: v)]),
    "coolant_c": ((-20.0, 105.0), [("CLT", "°C", lambda v: v), ("Coolant Temp", "°F", lambda v: v * 1.8 + 32.0), ("Kühlmitteltemperatur", "K", lambda v: v + 273.15)]),
    "map_kpa": ((20.0, 200.0), [("MAP", "kPa", lambda v: v), ("Manifold Pressure", "psi", lambda v: v / 6.894757293), ("Saugrohrdruck", "mbar", lambda v: 10.0 * v)]),
    "lambda": ((0.7, 1.3), [("Lambda", "", lambda v: v), ("AFR", "", lambda v: 14.7 * v), ("Wideband", "AFR", lambda v: 14.7 * v)]),
    "throttle_pct": ((0.0, 100.0), [("TPS", "%", lambda v: v), ("Throttle Position", "%", lambda v: v)]),
    "battery_v": ((8.0, 14.5), [("Battery", "V", lambda v: v), ("Battery Voltage", "mV", lambda v: 1000.0 * v)]),
    "pulse_ms": ((0.8, 20.0), [("PW", "ms", lambda v: v), ("Injector Pulse Width", "us", lambda v: 1000.0 * v)]),
    "oil_pressure_kpa": ((50.0, 600.0), [("Oil Pressure", "kPa", lambda v: v), ("Öldruck", "bar", lambda v: v / 100.0)]),
    "idle_target_rpm": ((700.0, 1500.0), [("Idle Target", "rpm", lambda v: v), ("Leerlaufsolldrehzahl", "1/min", lambda v: v)]),
    "torque_nm": ((10.0, 500.0), [("Torque", "Nm", lambda v: v), ("Engine Torque", "lb·ft", lambda v: v / 1.3558179483)]),
}  # fmt: skip
#: Columns of loggers that are no channel.
DISTRACTORS = ["Lap", "Loop count", "Marker", "CPU load", "Table cell x", "Rev limiter cut", "Gear ratio error"]  # fmt: skip
ENCODINGS = ["utf-8", "utf-8-sig", "cp1252", "utf-16"]


class Drawn:
    """A file with what was true of it."""

    def __init__(self, seed):
        chance = random.Random(seed)
        count = chance.randint(30, 80)
        self.rate = chance.choice([5.0, 10.0, 25.0, 50.0])
        self.time = np.arange(count) / self.rate + chance.choice([0.0, 3.0, 1000.0])
        self.decimal = chance.choice([".", ","])
        self.mark = chance.choice([";", "\t"] if self.decimal == "," else [",", ";", "\t", "|"])
        self.encoding = chance.choice(ENCODINGS)
        channels = ["rpm", *chance.sample([c for c in WAYS if c != "rpm"], chance.randint(1, 6))]
        draw = np.random.default_rng(seed)
        self.truth, columns = {}, []
        in_milliseconds = chance.random() < 0.3
        columns.append(("Time", "ms" if in_milliseconds else "s", self.time * (1000.0 if in_milliseconds else 1.0)))  # fmt: skip
        for channel in channels:
            (low, high), ways = WAYS[channel]
            # A slow walk through the range, its ends included: sizes are then what they are.
            values = low + (high - low) * (0.5 - 0.5 * np.cos(np.linspace(0.0, np.pi, count)))
            values = np.clip(values + draw.normal(0.0, 0.002 * (high - low), count), low, high)
            head, unit, write = chance.choice(ways)
            self.truth[channel] = values
            columns.append((head, unit, write(values)))
        for name in chance.sample(DISTRACTORS, chance.randint(0, 3)):
            columns.append((name, "", draw.integers(0, 4, count).astype(float)))
        chance.shuffle(columns)
        self.holes = {
            (chance.randrange(count), name)
            for name in self.truth
            if name != "rpm" and chance.random() < 0.4
        }
        self.channel_of_head = dict(zip([c[0] for c in columns], columns, strict=True))
        self.lines = self.written(chance, columns)
        self.data = self.end.join(self.lines).encode(self.encoding, errors="replace")

    def written(self, chance, columns):
        self.end = chance.choice(["\n", "\r\n"])
        units_row = chance.random() < 0.4
        heads = [h if units_row or not u else f"{h} [{u}]" for h, u, _ in columns]
        lines = ["Recorder of the shop", ""][: chance.choice([0, 0, 2])]
        lines.append(self.mark.join(heads))
        if units_row:
            lines.append(self.mark.join(u or "-" for _, u, _ in columns))
        names = {id(values): head for head, _, values in columns}
        by_head = {
            head: next((c for c, (_, ways) in WAYS.items() if head in [w[0] for w in ways]), "")
            for head in names.values()
        }
        for i in range(len(self.time)):
            cells = []
            for head, _, values in columns:
                hole = (i, by_head[head]) in self.holes
                cells.append("" if hole else f"{values[i]:.6f}".replace(".", self.decimal))
            lines.append(self.mark.join(cells))
        if chance.random() < 0.3:
            lines.append("")
        return lines


class DrawnLogTests(SimpleTestCase):
    @settings(max_examples=few(150), deadline=None)
    @given(st.integers(0, 10**6))
    def test_what_was_recorded_is_read(self, seed):
        drawn = Drawn(seed)
        imported = import_log(drawn.data)
        trace = imported.trace
        np.testing.assert_allclose(trace.time_s, drawn.time - drawn.time[0], atol=2e-6 * 1000)
        self.assertEqual(set(trace.channels) - {"time_s"}, set(drawn.truth), drawn.lines[:4])
        for channel, truth in drawn.truth.items():
            kept = np.ones(len(truth), dtype=bool)
            for i, name in drawn.holes:
                if name == channel:
                    kept[i] = False
            np.testing.assert_allclose(
                trace[channel][kept], truth[kept], atol=2e-3, rtol=2e-5, err_msg=channel
            )
            self.assertTrue(np.isnan(trace[channel][~kept]).all(), "a hole was filled")

    @settings(max_examples=few(40), deadline=None)
    @given(st.integers(0, 10**6))
    def test_the_preview_promises_what_the_import_does(self, seed):
        drawn = Drawn(seed)
        promised = preview_log(drawn.data).uses
        done = import_log(drawn.data).uses
        self.assertEqual(
            [(u.column.header, u.channel, u.unit) for u in promised],
            [(u.column.header, u.channel, u.unit) for u in done],
        )
        self.assertTrue(all(use.reason.endswith(".") for use in promised))

    @settings(max_examples=few(40), deadline=None)
    @given(st.integers(0, 10**6))
    def test_a_choice_of_the_person_wins_over_any_guess(self, seed):
        drawn = Drawn(seed)
        mapping = {
            use.column.header: None
            for use in preview_log(drawn.data).uses
            if use.channel not in (None, "time_s", "rpm")
        }
        imported = import_log(drawn.data, mapping)
        self.assertEqual(set(imported.trace.channels), {"time_s", "rpm"})
        self.assertLessEqual(set(mapping), {use.column.header for use in imported.ignored})

    @settings(max_examples=few(40), deadline=None)
    @given(st.integers(0, 10**6), st.floats(0.05, 0.98))
    def test_a_file_that_was_cut_off_gives_its_beginning_or_a_sentence(self, seed, share):
        drawn = Drawn(seed)
        cut = drawn.data[: int(share * len(drawn.data))]
        try:
            trace = import_log(cut).trace
        except LogRefused as refused:
            self.assertTrue(str(refused))
            return
        count = trace.time_s.size
        self.assertLessEqual(count, drawn.time.size)
        expected = drawn.time[: count - 1] - drawn.time[0]
        np.testing.assert_allclose(trace.time_s[: count - 1], expected, atol=2e-3)

    @settings(max_examples=few(25), deadline=None)
    @given(st.integers(0, 10**6), st.integers(1, 400))
    def test_the_same_however_the_file_arrives(self, seed, size):
        import io

        class Pieces(io.BytesIO):
            def read(self, wanted=-1):
                return super().read(size if wanted < 0 else min(size, wanted))

        drawn = Drawn(seed)
        whole, pieces = import_log(drawn.data), import_log(Pieces(drawn.data))
        for name, values in whole.trace.channels.items():
            np.testing.assert_array_equal(values, pieces.trace[name])

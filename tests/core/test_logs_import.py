"""Log import: many dialects give one and the same log; hostile files give a sentence."""

import contextlib
import io

import numpy as np
import polars as pl
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from inbetrieb_core.errors import CoreError, InputRefused, LogRefused
from inbetrieb_core.logs import CHANNELS, Trace, import_log, preview_log
from inbetrieb_core.logs.columns import Column
from inbetrieb_core.logs.mapping import propose, split_unit
from inbetrieb_core.logs.words import normalise_name

from tests.examples import few

TIMES = [0.0, 0.04, 0.08, 0.12]
RPM = [0.0, 180.0, 230.0, 245.0]
COOLANT = [10.0, 10.0, 10.0, 10.0]
MAP = [100.0, 97.0, 95.0, 94.0]
LAMBDA = [1.2, 1.1, 0.9, 0.88]


def rows(separator, decimal, *columns):
    lines = []
    for values in zip(*columns, strict=True):
        cells = [v if isinstance(v, str) else f"{v:.4f}".replace(".", decimal) for v in values]
        lines.append(separator.join(cells))
    return "\n".join(lines) + "\n"


def fahrenheit(values):
    return [v * 1.8 + 32 for v in values]


def psi(values):
    return [v / 6.894757 for v in values]


PLAIN = "time_s,rpm,coolant_c,map_kpa,lambda\n" + rows(",", ".", TIMES, RPM, COOLANT, MAP, LAMBDA)
MS = [1000 * t for t in TIMES]
AFR = [14.7 * v for v in LAMBDA]
CLOCK = [f"07:59:59.{i}" if i < 3 else "08:00:00.0" for i in (7, 8, 9)] + ["08:00:00.0"]

#: One recording in the variety of the trade. All of them must give the same channels.
DIALECTS = {
    "canonical": PLAIN,
    "milliseconds, AFR, °F, psi": "Time (ms),RPM,CLT (°F),MAP (psi),AFR\n"
    + rows(",", ".", MS, RPM, fahrenheit(COOLANT), psi(MAP), AFR),
    "semicolon and decimal comma": "Zeit;Drehzahl;Kühlmitteltemperatur;Saugrohrdruck;Lambda\n"
    + rows(";", ",", TIMES, RPM, COOLANT, MAP, LAMBDA),
    "preamble and units row": "Recorder 7\nDriver;nobody\n\nTime;Engine Speed;Coolant Temp;Manifold Pressure;"
    "Wideband\ns;1/min;°F;bar;AFR\n"
    + rows(";", ".", TIMES, RPM, fahrenheit(COOLANT), [v / 100 for v in MAP], AFR),
    "tab separated": "Time [s]\tEngine Speed [rpm]\tECT [degC]\tMAP [mbar]\tLambda [-]\n"
    + rows("\t", ".", TIMES, RPM, COOLANT, [10 * v for v in MAP], LAMBDA),
    "blanks for columns": "time rpm coolant map lambda\n"
    + rows("   ", ".", TIMES, RPM, COOLANT, MAP, LAMBDA),
    "quoted, with commas inside": '"Time","Engine RPM","Coolant","MAP","Lambda"\n'
    + "".join(
        ",".join(f'"{v:.4f}"'.replace(".", ",") for v in line) + "\n"
        for line in zip(TIMES, RPM, COOLANT, MAP, LAMBDA, strict=True)
    ),
    "padded cells": "Time , RPM , CLT , MAP , Lambda \n"
    + rows(" , ", ".", TIMES, RPM, COOLANT, MAP, LAMBDA),
    "camel case and underscores": "LogTime_s,EngineSpeed_rpm,CoolantTemp_C,ManifoldPressure_kPa,LambdaActual\n"
    + rows(",", ".", TIMES, RPM, COOLANT, MAP, LAMBDA),
    "kelvin and equivalence ratio": "t,n,T coolant,p manifold,phi\n"
    + rows(",", ".", TIMES, RPM, [v + 273.15 for v in COOLANT], MAP, [1 / v for v in LAMBDA]),
    "unnamed milliseconds": "timestamp;rpm;clt;map;o2\n"
    + rows(";", ".", MS, RPM, COOLANT, MAP, LAMBDA),
    "carriage returns": PLAIN.replace("\n", "\r\n"),
}


class DialectTests(SimpleTestCase):
    def assert_same_recording(self, trace):
        for name, expected in {
            "time_s": TIMES,
            "rpm": RPM,
            "coolant_c": COOLANT,
            "map_kpa": MAP,
            "lambda": LAMBDA,
        }.items():
            # Four printed decimals, times the unit's size.
            np.testing.assert_allclose(trace[name], expected, rtol=0, atol=0.02, err_msg=name)

    def test_every_dialect_gives_the_same_channels(self):
        for name, text in DIALECTS.items():
            with self.subTest(dialect=name):
                self.assert_same_recording(import_log(text.encode()).trace)

    def test_every_usual_encoding(self):
        text = DIALECTS["semicolon and decimal comma"]
        for encoding in ("utf-8", "utf-8-sig", "utf-16", "utf-16-le", "cp1252"):
            with self.subTest(encoding=encoding):
                self.assert_same_recording(import_log(text.encode(encoding)).trace)

    def test_clock_times_and_midnight(self):
        text = "Time,RPM\n23:59:59.96,0\n00:00:00.00,180\n00:00:00.04,230\n00:00:00.08,245\n"
        np.testing.assert_allclose(import_log(text.encode()).trace.time_s, TIMES, atol=1e-6)
        dated = "Date Time;RPM\n2026-02-03 07:00:00.00;0\n2026-02-03 07:00:00.04;9\n"
        np.testing.assert_allclose(import_log(dated.encode()).trace.time_s, TIMES[:2], atol=1e-6)

    def test_odd_but_real_ways_of_writing(self):
        for name, text in {
            "old line ends": "time,rpm\r0,0\r0.04,180\r0.08,230\r0.12,245\r",
            "blank lines": "time,rpm\n\n0,0\n\n0.04,180\n0.08,230\n0.12,245\n\n",
            "comment head": "# made by me\n# time_s, rpm\n0, 0\n0.04, 180\n0.08, 230\n0.12, 245\n",
            "last separator": "time;rpm;\n0;0;\n0,04;180;\n0,08;230;\n0,12;245;\n",
            "microseconds": "t_us,rpm\n0,0\n40000,180\n80000,230\n120000,245\n",
            "minutes": "Time,RPM\n0:00.00,0\n0:00.04,180\n0:00.08,230\n0:00.12,245\n",
            "footer": "time,rpm\n0,0\n0.04,180\n0.08,230\n0.12,245\nend of recording\n",
            "module prefix": "Unit.Time,Unit.RPM\n0,0\n0.04,180\n0.08,230\n0.12,245\n",
        }.items():
            with self.subTest(name=name):
                trace = import_log(text.encode()).trace
                np.testing.assert_allclose(trace.time_s, TIMES, atol=1e-9)
                np.testing.assert_allclose(trace["rpm"], RPM)

    def test_names_that_only_their_unit_explains(self):
        heads = "Elapsed [ms];Motor rpm;Water °F;Boost abs [psi];Rail [bar];Limiter rpm\n"
        log = import_log((heads + "0;0;50;14.5;3;7000\n40;200;50;14.5;3;7000\n").encode())
        read = {use.column.header: use.channel for use in log.uses}
        self.assertEqual(
            list(read.values()),
            ["time_s", "rpm", "coolant_c", "map_kpa", "fuel_pressure_kpa", None],
        )
        self.assertAlmostEqual(log.trace["coolant_c"][0], 10.0)

    def test_states_in_words(self):
        text = b"time,rpm,sync\n0,0,no\n0.1,200,Yes\n0.2,210,on\n"
        np.testing.assert_array_equal(import_log(text).trace["sync"], [0, 1, 1])

    def test_unnamed_temperatures_follow_an_imperial_log(self):
        imperial = import_log(b"time,rpm,clt,map (psi)\n0,0,50,14.7\n0.1,200,50,14.6\n")
        self.assertAlmostEqual(imperial.trace["coolant_c"][0], 10.0)
        self.assertIn("like the rest", " ".join(use.reason for use in imperial.uses))
        metric = import_log(b"time,rpm,clt,map (kPa)\n0,0,50,100\n0.1,200,50,99\n")
        self.assertEqual(metric.trace["coolant_c"][0], 50.0)

    def test_a_correction_around_100_has_its_base_taken_off(self):
        text = "time,rpm,short term trim\n0,0,100\n0.1,200,104\n0.2,210,98\n"
        np.testing.assert_allclose(
            import_log(text.encode()).trace["lambda_correction_pct"], [0, 4, -2]
        )

    def test_times_begin_at_zero(self):
        self.assertEqual(import_log(b"time,rpm\n100.5,0\n100.6,9\n").trace.time_s[0], 0.0)


class PreambleTests(SimpleTestCase):
    """What stands above the heads, whatever marks it has of its own."""

    ROWS = "\n".join(
        f"{i * 0.05:.2f}\t{900 + i % 7}\t20.5\t{0.98 + i % 9 / 1e3:.3f}" for i in range(80)
    )
    HEAD = "Zeit [s]\tDrehzahl [1/min]\tWasser [°C]\tLambda\n"

    def test_a_date_above_a_table_of_tabs(self):
        for above in (
            "Date: 12.01.2026, 10:32:07\n",
            "Date\t12.01.2026\nTime\t10:32:07\n",
            "Recorded 2026-01-12, 10:32, cell 3, v1.2, 3 runs\nEngine, four, 1.7 l, 98\n\n",
            "12.01.2026\t10:32\n\n",
            "Datum;12.01.2026;10:32;5;6\n",
            "Log 1,2,3,4\n1,2,3,4\n",
        ):
            for rows in (self.ROWS, self.ROWS.replace(".", ",")):
                log = import_log((above + self.HEAD + rows).encode())
                self.assertEqual(list(log.trace.channels), ["time_s", "rpm", "coolant_c", "lambda"])
                self.assertEqual(log.trace.time_s.size, 80, above)


class MappingTests(SimpleTestCase):
    def test_unknown_columns_are_listed_with_a_reason(self):
        log = import_log(b"time,rpm,gearbox oil temp,Gauge 5\n0,0,1,2\n0.1,200,1,2\n")
        self.assertEqual(
            [use.column.header for use in log.ignored], ["gearbox oil temp", "Gauge 5"]
        )
        self.assertTrue(all(use.reason for use in log.uses))

    def test_targets_and_limits_are_not_taken_for_measurements(self):
        heads = [
            "time",
            "Idle Target RPM",
            "RPM limit",
            "Engine RPM",
            "AFR Target",
            "AFR",
            "Fuel Temp",
        ]
        text = ",".join(heads) + "\n0,900,7000,0,13.8,14.7,30\n0.1,900,7000,200,13.8,14.7,30\n"
        read = {
            use.channel: use.column.header for use in import_log(text.encode()).uses if use.channel
        }
        self.assertEqual(
            read,
            {
                "time_s": "time",
                "idle_target_rpm": "Idle Target RPM",
                "rpm": "Engine RPM",
                "lambda_target": "AFR Target",
                "lambda": "AFR",
            },
        )

    def test_own_decisions_win(self):
        text = b"time,a,b\n0,0,50\n0.1,200,50\n"
        log = import_log(text, {"a": "rpm", "b": {"channel": "coolant_c", "unit": "°F"}})
        np.testing.assert_allclose(log.trace["coolant_c"], 10.0)
        dropped = import_log(b"time,rpm,clt\n0,0,1\n0.1,9,1\n", {"clt": None})
        self.assertNotIn("coolant_c", dropped.trace.channels)

    def test_impossible_decisions_are_refused(self):
        for mapping, words in (
            ({"zzz": "rpm"}, "no column"),
            ({"rpm": "zzz"}, "no channel"),
            ({"rpm": "rpm", "x": "rpm"}, "cannot both"),
            ({"rpm": {"channel": "rpm", "unit": "°C"}}, "not a unit"),
        ):
            with self.subTest(mapping=mapping), self.assertRaisesRegex(InputRefused, words):
                import_log(b"time,rpm,x\n0,0,1\n0.1,9,1\n", mapping)

    def test_units_from_heads(self):
        for head, expected in {
            "Coolant [°F]": ("Coolant", "°F"),
            "MAP (kPa)": ("MAP", "kPa"),
            "CLT_F": ("CLT", "F"),
            "Batt V": ("Batt", "V"),
            "RPM": ("RPM", ""),
            "Throttle position %": ("Throttle position", "%"),
        }.items():
            with self.subTest(head=head):
                self.assertEqual(split_unit(head), expected)

    def test_names_are_normalised(self):
        self.assertEqual(normalise_name("EngineSpeed"), "engine speed")
        self.assertEqual(normalise_name("Kühlmittel-Temperatur"), "kuhlmittel temperatur")
        self.assertEqual(normalise_name("λ target"), "lambda target")

    def test_no_spelling_names_two_channels(self):
        seen = {}
        for channel in CHANNELS.values():
            for spelling in channel.spellings:
                self.assertNotIn(spelling, seen, f"{channel.channel} and {seen.get(spelling)}")
                seen[spelling] = channel.channel

    @given(
        st.lists(st.sampled_from([s for c in CHANNELS.values() for s in c.spellings]), max_size=12)
    )
    def test_no_channel_is_used_twice(self, heads):
        columns = [Column(i, head, head, "", np.array([1.0, 2.0])) for i, head in enumerate(heads)]
        used = [use.channel for use in propose(columns) if use.channel]
        self.assertEqual(len(used), len(set(used)))
        self.assertEqual(len(propose(columns)), len(heads))


class BadFileTests(SimpleTestCase):
    def test_each_gets_a_sentence_that_says_what_is_wrong(self):
        for data, words in {
            b"": "empty",
            b"  \n \n": "empty",
            b"\xff\xd8\xff\xe0JFIF": "JPEG photo",
            b"PK\x03\x04" + bytes(99): "spreadsheet",
            bytes(range(256)) * 64: "binary",
            b"just words\nand more\n": "No table of numbers",
            b"0,0\n0.1,200\n": "no names",
            b"time,foo\n0,1\n0.1,2\n": "engine speed",
            b"foo,rpm\na,1\nb,2\n0,3\n": "time",
            b"time,rpm\n" + b"".join(b"%d,900\n" % ((7 * i) % 10) for i in range(40)): "backwards",
            b"time,rpm\n5,0\n5,9\n5,9\n": "still",
            b"time,rpm\n0,x\n0.1,y\n0.2,z\n": "No table|no numbers|engine speed",
        }.items():
            with self.subTest(data=data[:30]), self.assertRaisesRegex(CoreError, words):
                import_log(data)

    def test_no_rpm_says_which_columns_there_are(self):
        with self.assertRaises(LogRefused) as caught:
            import_log(b"time,foo,bar\n0,1,1\n0.1,2,1\n")
        self.assertEqual(caught.exception.columns, ("time", "foo", "bar"))

    def test_two_hundred_megabytes_are_refused_unread(self):
        class Huge(bytes):
            def __len__(self):
                return 200_000_000

        with self.assertRaisesRegex(LogRefused, "200 MB"):
            preview_log(Huge(b"time,rpm\n0,0\n"))

    def test_missing_and_infinite_values_are_counted_not_invented(self):
        log = import_log(b"time,rpm,clt\n0,0,20\n0.1,inf,\n0.2,NaN,20\n0.3,220,abc\n0.4,230,20\n")
        np.testing.assert_array_equal(np.isnan(log.trace["rpm"]), [0, 1, 1, 0, 0])
        self.assertIn("infinite", " ".join(log.problems))
        self.assertRegex(" ".join(log.problems), r"Coolant temperature: 2 missing")

    def test_half_a_line_at_the_end_is_left_out_and_said(self):
        log = import_log(b"time,rpm,clt\n0,0,20\n0.1,200,20\n0.2,21")
        self.assertEqual(len(log.trace.time_s), 2)
        self.assertIn("cut off", " ".join(log.problems))

    def test_duplicate_heads_are_said_and_the_first_is_read(self):
        log = import_log(b"time,rpm,rpm\n0,0,7\n0.1,200,7\n")
        np.testing.assert_array_equal(log.trace["rpm"], [0, 200])
        self.assertIn("occurs twice", " ".join(log.problems))

    @settings(max_examples=few(150), deadline=None)
    @given(st.one_of(st.binary(max_size=400), st.text(max_size=400).map(str.encode)))
    def test_noise_is_refused_never_a_crash(self, data):
        with contextlib.suppress(CoreError):
            import_log(data)

    @settings(max_examples=few(60), deadline=None)
    @given(
        st.lists(
            st.tuples(st.floats(0.001, 1.0), st.floats(0, 8000), st.floats(-40, 120)),
            min_size=3,
            max_size=40,
        ),
        st.sampled_from([",", ";", "\t", "|"]),
        st.booleans(),
    )
    def test_written_and_read_back(self, steps, separator, comma):
        comma = comma and separator != ","
        time = np.cumsum([s for s, _, _ in steps])
        frame = pl.DataFrame(
            {"time_s": time, "rpm": [r for _, r, _ in steps], "coolant_c": [c for _, _, c in steps]}
        )
        out = io.BytesIO()
        frame.write_csv(out, separator=separator, float_precision=6, decimal_comma=comma)
        trace = import_log(out.getvalue()).trace
        np.testing.assert_allclose(trace.time_s, time - time[0], atol=2e-6)
        np.testing.assert_allclose(trace["rpm"], frame["rpm"], atol=1e-6)
        if frame["coolant_c"].max() <= 130 and len(steps) > 3:
            np.testing.assert_allclose(trace["coolant_c"], frame["coolant_c"], atol=1e-6)


class TraceTests(SimpleTestCase):
    def test_refuses_what_is_no_trace(self):
        for channels in (
            {},
            {"time_s": np.array([0.0])},
            {"time_s": np.array([0.0, 0.0])},
            {"time_s": np.array([0.0, np.nan])},
            {"time_s": np.array([0.0, 1.0]), "rpm": np.zeros(3)},
        ):
            with self.assertRaises(LogRefused):
                Trace(channels)

    def test_rate_part_and_mean(self):
        trace = Trace(
            {
                "time_s": np.arange(0, 10, 0.1),
                "rpm": np.arange(100.0),
                "lambda": np.full(100, np.nan),
            }
        )
        self.assertAlmostEqual(trace.rate_hz, 10.0)
        self.assertIsNone(trace.get("lambda"))
        self.assertAlmostEqual(trace.mean("rpm", 1.0, 2.0), 14.5)
        self.assertEqual(len(trace.between(1.0, 2.0).time_s), 10)

"""Measurement files and bus logs: what the reference libraries write is read sample for sample, and what we write they read.

References: asammdf (ASAM MDF 3.3 and 4), python-can and cantools (candump, ASC, BLF, DBC), from the registries.
"""

import io
import tempfile
from pathlib import Path

import can
import cantools
import numpy as np
from asammdf import MDF, Signal
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from inbetrieb_core.errors import LogRefused
from inbetrieb_core.logs import CHANNELS, Trace, bus_table, import_log, is_bus_log, is_mdf, log_mdf

from tests.examples import asked

DBC = """VERSION ""
NS_ :
BS_:
BU_: ECU
BO_ 256 Engine: 8 ECU
 SG_ Engine_Speed : 0|16@1+ (0.25,0) [0|16000] "rpm" ECU
 SG_ Coolant_Temperature : 16|8@1+ (1,-40) [-40|215] "degC" ECU
BO_ 512 Mixture: 8 ECU
 SG_ Lambda : 0|16@1+ (0.0001,0) [0|6] "" ECU
"""


def written(groups, version="4.10"):
    """A measurement file of several groups: (times, {name: (unit, samples)})."""
    with MDF(version=version) as file, tempfile.TemporaryDirectory() as folder:
        for times, channels in groups:
            file.append([Signal(np.asarray(v), times, name=n, unit=u) for n, (u, v) in channels.items()])  # fmt: skip
        return Path(file.save(Path(folder) / "log.mdf")).read_bytes()


def engine(seconds=20.0, rate=50.0, seed=0):
    noise = np.random.default_rng(seed)
    times = np.arange(0.0, seconds, 1.0 / rate)
    return times, {
        "Engine Speed": ("rpm", 900.0 + 20.0 * noise.standard_normal(times.size)),
        "Manifold Pressure": ("kPa", 40.0 + noise.standard_normal(times.size)),
    }


class MdfTests(SimpleTestCase):
    def test_both_versions_sample_for_sample(self):
        times, channels = engine()
        for version in ("3.30", "4.10"):
            with self.subTest(version):
                data = written([(times, channels)], version)
                self.assertTrue(is_mdf(data))
                back = import_log(data).trace
                np.testing.assert_allclose(back.time_s, times, atol=1e-9)
                np.testing.assert_allclose(back["rpm"], channels["Engine Speed"][1], rtol=1e-12)
                np.testing.assert_allclose(back["map_kpa"], channels["Manifold Pressure"][1], rtol=1e-12)  # fmt: skip

    def test_groups_of_other_rates_come_to_the_finest_that_runs_through(self):
        times, channels = engine()
        slow = np.arange(0.0, 20.0, 0.5)
        burst = np.linspace(5.0, 5.5, 2000)
        data = written([
            (slow, {"Coolant Temperature": ("degC", 20.0 + 2.0 * slow)}),
            (times, channels),
            (burst, {"Knock": ("V", np.sin(burst))}),
        ])  # fmt: skip
        back = import_log(data).trace
        self.assertEqual(back.time_s.size, times.size)
        inside = times <= slow[-1]
        np.testing.assert_allclose(back["coolant_c"][inside], 20.0 + 2.0 * times[inside], atol=1e-9)

    def test_conversions_are_applied_and_invalid_samples_are_missing(self):
        times, channels = engine()
        raw = (np.arange(times.size) % 60).astype(np.uint8)
        conversion = {"a": 1.0, "b": -40.0}
        bad = np.zeros(times.size, dtype=bool)
        bad[100:140] = True
        with MDF(version="4.10") as file, tempfile.TemporaryDirectory() as folder:
            file.append([Signal(np.asarray(v), times, name=n, unit=u) for n, (u, v) in channels.items()])  # fmt: skip
            file.append([Signal(raw, times, name="Coolant Temperature", unit="degC", conversion=conversion)])  # fmt: skip
            file.append([Signal(np.full(times.size, 0.98), times, name="Lambda", unit="", invalidation_bits=bad)])  # fmt: skip
            data = Path(file.save(Path(folder) / "log.mf4")).read_bytes()
        back = import_log(data).trace
        np.testing.assert_allclose(back["coolant_c"], raw - 40.0)
        self.assertTrue(np.isnan(back["lambda"][105:135]).all())
        np.testing.assert_allclose(back["lambda"][:100], 0.98)

    @settings(max_examples=asked(8))
    @given(st.sets(st.sampled_from(["map_kpa", "lambda", "battery_v", "coolant_c"]), min_size=1), st.integers(0, 999))  # fmt: skip
    def test_what_we_write_the_reference_library_reads_and_so_do_we(self, names, seed):
        noise = np.random.default_rng(seed)
        middle = {"map_kpa": 50.0, "lambda": 1.0, "battery_v": 13.0, "coolant_c": 60.0}
        times = np.cumsum(noise.uniform(0.01, 0.05, 200))
        columns = {n: middle[n] * (1.0 + 0.05 * noise.standard_normal(200)) for n in sorted(names)}
        columns["rpm"] = 900.0 + noise.standard_normal(200)
        first = sorted(names)[0]
        columns[first][20:30] = np.nan
        trace = Trace({"time_s": times, **columns})
        data = log_mdf(trace, "A morning")
        with MDF(io.BytesIO(data)) as file:
            speed = file.get(CHANNELS["rpm"].spellings[0])
            np.testing.assert_allclose(speed.samples, columns["rpm"])
            np.testing.assert_allclose(speed.timestamps, times)
        back = import_log(data).trace
        for name, values in columns.items():
            np.testing.assert_allclose(back[name], values, rtol=1e-12)


class BusTests(SimpleTestCase):
    def messages(self):
        database = cantools.database.load_string(DBC)
        times = np.arange(0.0, 10.0, 0.02)
        speed = 900.0 + 40.0 * np.sin(times)
        reading = 0.95 + 0.01 * np.cos(times[::2])
        for place, time in enumerate(times):
            data = database.encode_message("Engine", {"Engine_Speed": speed[place], "Coolant_Temperature": 20 + int(time)})  # fmt: skip
            yield can.Message(timestamp=1.7e9 + time, arbitration_id=256, data=data, is_extended_id=False)  # fmt: skip
            if place % 2 == 0:
                data = database.encode_message("Mixture", {"Lambda": reading[place // 2]})
                yield can.Message(timestamp=1.7e9 + time + 0.003, arbitration_id=512, data=data, is_extended_id=False)  # fmt: skip
            yield can.Message(timestamp=1.7e9 + time + 0.004, arbitration_id=1999, data=b"\1\2", is_extended_id=False)  # fmt: skip

    def logged(self, end):
        writers = {"log": can.CanutilsLogWriter, "asc": can.ASCWriter, "blf": can.BLFWriter}
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / f"bus.{end}"
            with writers[end](str(path)) as writer:
                for message in self.messages():
                    writer.on_message_received(message)
            return path.read_bytes()

    def test_three_kinds_are_decoded_as_the_decoder_does(self):
        times = np.arange(0.0, 10.0, 0.02)
        for end in ("log", "asc", "blf"):
            data = self.logged(end)
            with self.subTest(end):
                self.assertTrue(is_bus_log(data))
                back = import_log(bus_table(data, DBC.encode())).trace
                np.testing.assert_allclose(back.time_s, times, atol=1e-4)
                np.testing.assert_allclose(back["rpm"], 900.0 + 40.0 * np.sin(times), atol=0.13)
                np.testing.assert_allclose(back["coolant_c"], 20.0 + times.astype(int), atol=1e-6)
                self.assertLess(np.nanmax(np.abs(back["lambda"] - 0.95)), 0.011)

    def test_what_cannot_be_is_refused_with_the_reason(self):
        log = self.logged("log")
        other = DBC.replace("BO_ 256", "BO_ 257").replace("BO_ 512", "BO_ 513")
        for data, dbc, words in (
            (b"rpm,time\n1,2\n", DBC.encode(), "no bus log"),
            (log, b"no database", "DBC"),
            (log, b"\xff\xfe\x00", "DBC"),
            (log, other.encode(), "is named in the DBC"),
            (b"LOGG" + b"\0" * 500, DBC.encode(), ""),
        ):
            with self.subTest(words), self.assertRaises(LogRefused) as caught:
                bus_table(data, dbc)
            self.assertIn(words, str(caught.exception))

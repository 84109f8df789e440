"""Capture files in every form that recorders write, and counters that start anew."""

import tracemalloc

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from inbetrieb_core.bench.edges import EdgeConditions, simulate_edges
from inbetrieb_core.errors import InputRefused, LogRefused
from inbetrieb_core.triggers import (
    PATTERNS,
    CaptureChoice,
    CaptureReader,
    decode,
    read_capture,
)
from inbetrieb_core.triggers.counter import Counter
from inbetrieb_core.triggers.follow import MOST_EDGES

from tests.examples import asked

WHEEL = PATTERNS["36−1 with cam"]
CAPTURE = simulate_edges(WHEEL, EdgeConditions(turns=14.0, seed=3))
HIGH_S = 2e-4


def rows(capture=CAPTURE):
    """Every edge as (time [s], channel, level)."""
    events = []
    for name, times in (("crank", capture.crank_s), ("cam", capture.cam_s)):
        events += [(t, name, 1) for t in times] + [(t + HIGH_S, name, 0) for t in times]
    return sorted(events)


def text(
    head="time_us,channel,level", unit=1e6, digits=0, mark=",", comma=False, levels=("0", "1")
):
    lines = [head] if head else []
    for at, name, level in rows():
        number = f"{at * unit:.{digits}f}"
        lines.append(
            mark.join([number.replace(".", ",") if comma else number, name, levels[level]])
        )
    return "\n".join(lines).encode()


class FileTests(SimpleTestCase):
    def assert_same(self, data, choice=None, within=2e-6):
        read = read_capture(data, choice)
        self.assertEqual(read.capture.crank_s.size, CAPTURE.crank_s.size)
        got, wanted = np.diff(read.capture.crank_s), np.diff(CAPTURE.crank_s)
        np.testing.assert_allclose(got, wanted, atol=within)
        return read

    def test_units_separators_decimal_commas_and_words_for_levels(self):
        for data in (
            text(),
            text("Time [ms];Channel;Level", 1e3, 4, ";", comma=True),
            text("t (s)\tinput\tedge", 1.0, 7, "\t", levels=("falling", "rising")),
            text("", 1e6, 1, ";"),
            text("", 1e9, 0, ",", levels=("low", "high")),
            text("Zeit;was;wie", 1e3, 4, ";", comma=True),
            b"\xef\xbb\xbf" + text().replace(b"\n", b"\r\n"),
        ):
            with self.subTest(head=data[:40]):
                read = self.assert_same(data)
                self.assertEqual((read.crank, read.cam), ("crank", "cam"))

    def test_files_as_recorders_write_them(self):
        plain = text().decode().splitlines()
        turned = "channel,time_us,level\n" + "\n".join(
            ",".join((c, t, v)) for t, c, v in (line.split(",") for line in plain[1:])
        )
        dotted = "time_us;channel;level\n" + "\n".join(
            f"{round(t * 1e6):,}".replace(",", ".") + f";{c};{v}" for t, c, v in rows()
        )
        named = text().decode().replace("crank", "CKP").replace("cam", "CMP")
        for data in (
            turned,
            dotted,
            named,
            "# recorder\n\n# bench\n\nTime [us];Ch;Edge\n" + "\n".join(
                line.replace(",", ";") for line in plain[1:]
            ),
            "time,channel,level\nus,,\n" + "\n".join(plain[1:]),
            "time_us   channel   level\n" + "\n".join("  " + line.replace(",", "   ") for line in plain[1:]),
            "t,ch,lv\n" + "\n".join(f"{t:.7e},{c},{v}" for t, c, v in rows()),
        ):  # fmt: skip
            with self.subTest(head=data[:40]):
                read = self.assert_same(data.encode())
                self.assertIn(read.crank, ("crank", "CKP"))
                self.assertGreater(read.capture.cam_s.size, 4)
        self.assert_same(text().decode().encode("utf-16"))
        self.assert_same("Zeit [µs];Kanal;Pegel\n".encode("latin-1") + text("", mark=";"))

    def test_signals_sampled_in_columns_of_volts(self):
        at = np.arange(0.0, 4.0, 2e-5)
        volts = []
        for times, width in ((CAPTURE.crank_s, 8e-4), (CAPTURE.cam_s, 3e-3)):
            last = np.searchsorted(times, at, "right") - 1
            volts.append(0.2 + 4.6 * ((last >= 0) & (at - times[np.maximum(last, 0)] < width)))
        lines = [f"{t * 1e3:.2f};{a:.1f};{b:.1f}" for t, a, b in zip(at, *volts, strict=True)]
        data = ("time(ms);crank(V);cam(V)\n" + "\n".join(lines)).replace(".", ",").encode()
        read = read_capture(data)
        self.assertEqual((read.crank, read.cam), ("crank(V)", "cam(V)"))
        self.assertEqual(decode(read.capture, WHEEL).verdict, "agrees")

    def test_a_level_for_each_channel_in_columns(self):
        lines, level = ["Time (us),Crank,Cam"], {"crank": 0, "cam": 0}
        for at, name, value in rows():
            level[name] = value
            lines.append(f"{at * 1e6:.1f},{level['crank']},{level['cam']}")
        read = read_capture("\n".join(lines).encode())
        self.assertEqual((read.crank, read.cam), ("Crank", "Cam"))
        self.assertGreaterEqual(read.capture.crank_s.size, CAPTURE.crank_s.size - 1)

    def test_volts_instead_of_levels(self):
        self.assert_same(text(levels=("0.31", "4.62")))

    def test_counters_that_start_anew(self):
        for bits in (16, 20, 24, 32):
            ticks = (np.round(CAPTURE.crank_s * 1e6) + 2**bits - 40_000) % 2**bits
            data = "\n".join(f"{int(t)},crank,1" for t in ticks).encode()
            with self.subTest(bits=bits):
                read = self.assert_same(data, CaptureChoice(unit="us"))
                self.assertIn("started anew", " ".join(read.sentences))

    def test_text_among_the_numbers_is_passed_over_and_counted(self):
        lines = text().decode().splitlines()
        for at in (40, 80, 120):
            lines.insert(at, "overflow,crank,1")
        lines.insert(60, "")
        read = self.assert_same("\n".join(lines).encode())
        self.assertIn("3 row(s)", " ".join(read.sentences))
        self.assertIn("'overflow'", " ".join(read.sentences))

    def test_a_second_recording_in_the_same_file_is_left_out(self):
        twice = text() + b"\n" + text("")
        read = self.assert_same(twice)
        self.assertIn("only the first recording", " ".join(read.sentences))

    def test_channels_can_be_chosen(self):
        read = read_capture(text(), CaptureChoice(crank="crank", cam="-"))
        self.assertEqual((read.cam, read.capture.cam_s.size), ("", 0))
        with self.assertRaisesRegex(LogRefused, "no channel 'x'") as caught:
            read_capture(text(), CaptureChoice(crank="x"))
        self.assertEqual(set(caught.exception.columns), {"crank", "cam"})

    def test_refuses_what_is_no_capture(self):
        for data, words in (
            (b"", "empty"),
            (b" \n \n", "empty"),
            (b"hello\nworld\n", "No row begins with a time"),
            (b"\x00\x01\x02" * 500, "not text"),
            (b"time,channel,level\n", "No row begins"),
            (b"time,channel,level\n1,a,1\n2,a,0\n3,a,1\n", "at least 12"),
            (b"time,channel,level\n" + b"abc,crank,1\n" * 40, "no edge in this file"),
            (b"time\n" + b"300\n310\n290\n305\n" * 20, "jump to and fro"),
        ):
            with self.subTest(data=data[:20]), self.assertRaisesRegex(LogRefused, words):
                read_capture(data)

    @settings(max_examples=asked(60), deadline=None)
    @given(st.binary(max_size=400))
    def test_any_bytes_are_read_or_refused(self, data):
        try:
            read_capture(b"time,channel,level\n1,a,1\n" + data)
        except LogRefused as refused:
            self.assertTrue(str(refused))

    @settings(max_examples=asked(20), deadline=None)
    @given(st.integers(1, 60_000))
    def test_blocks_may_be_cut_anywhere(self, size):
        data, reader = text(), CaptureReader()
        for at in range(0, len(data), size):
            reader.feed(data[at : at + size])
        whole = read_capture(data)
        np.testing.assert_array_equal(reader.finish().capture.crank_s, whole.capture.crank_s)

    def test_two_million_edges_in_bounded_memory(self):
        """Fed block by block: what is kept does not grow with the file."""
        teeth = np.full(200_000, 300)
        teeth[::35] = 600
        block = np.cumsum(teeth)
        reader, kept = CaptureReader(), 0
        for part in range(10):
            times = (block + part * int(block[-1])).tolist()
            data = "\n".join([f"{t},crank,1" for t in times]).encode() + b"\n"
            watched = part in (4, 7, 9)
            if watched:
                tracemalloc.start()
            reader.feed(data)
            if watched:
                kept += tracemalloc.get_traced_memory()[0]
                tracemalloc.stop()
        read = reader.finish()
        self.assertEqual((read.rows, sum(read.channels.values())), (2_000_000, 2_000_000))
        self.assertLess(kept, 500_000)  # bytes kept of 600 000 late edges: 4.8 million if all were
        self.assertEqual(decode(read.capture, PATTERNS["36−1"]).verdict, "agrees")
        self.assertIn("2 000 000 edges", read.sentences[0])

    def test_begins_later_without_keeping_what_was_before(self):
        late = read_capture(text(), CaptureChoice(from_s=1.0))
        self.assertGreaterEqual(late.capture.crank_s[0], 1.0)
        self.assertLess(late.capture.crank_s.size, CAPTURE.crank_s.size)

    def test_only_so_many_edges_are_followed(self):
        times = np.cumsum(np.full(MOST_EDGES + 5000, 0.001))
        data = "\n".join(f"{t:.4f},crank,1" for t in times).encode()
        self.assertIn("are followed", " ".join(read_capture(data).sentences))


class CounterTests(SimpleTestCase):
    """A column of times alone: what starts anew is carried on, what is no time is refused."""

    def carried(self, *blocks):
        counter = Counter()
        return counter, np.concatenate([counter.carried_on(np.array(b, float))[0] for b in blocks])

    def test_goes_on_over_the_end_of_a_block(self):
        counter, times = self.carried([65_000, 65_400], [264, 664])
        np.testing.assert_array_equal(np.diff(times), [400, 400, 400])
        self.assertEqual((counter.wraps, counter.ended), (1, False))

    @given(st.integers(0, 65_535), st.lists(st.integers(1, 900), min_size=5, max_size=60))
    def test_any_start_and_any_steps(self, start, steps):
        true = start + np.cumsum(steps)
        counter, times = self.carried(true % 2**16)
        np.testing.assert_array_equal(np.diff(times), np.diff(true))
        self.assertEqual(counter.backward, 0)

    def test_a_row_out_of_order_is_left_out(self):
        counter, times = self.carried([0, 10, 20, 15, 30, 40])
        np.testing.assert_array_equal(times, [0, 10, 20, 30, 40])
        self.assertEqual(counter.backward, 1)

    def test_another_recording_ends_it(self):
        counter, times = self.carried([0, 10, 20, 30, 5_000_000, 5_000_010, 0, 10, 20])
        self.assertTrue(counter.ended)
        self.assertEqual(times[-1], 5_000_010)


class TimesTests(SimpleTestCase):
    def test_clock_times_are_read(self):
        lines = ["time;channel;level"]
        for at, channel, level in sorted(rows()):
            second = 36_000.5 + at
            clock = f"10:{int(second % 3600 // 60):02d}:{second % 60:09.6f}"
            lines.append(f"{clock};{channel};{level}")
        read = read_capture("\n".join(lines).encode())
        self.assertEqual(decode(read.capture, WHEEL).verdict, "agrees")

    def test_ticks_of_a_known_length_are_read(self):
        lines = [f"{round(at / 1.6e-6)},{channel},{level}" for at, channel, level in sorted(rows())]
        data = "\n".join(["count,channel,level", *lines]).encode()
        read = read_capture(data, CaptureChoice(unit="ticks", tick_us=1.6))
        self.assertIn("ticks of 1.6 µs", " ".join(read.sentences))
        told = decode(read.capture, WHEEL)
        self.assertEqual(told.verdict, "agrees")
        self.assertAlmostEqual(told.speed_rpm, decode(CAPTURE, WHEEL).speed_rpm, delta=1.0)
        for length in (0.0, float("nan"), 1e9):
            with self.assertRaises(InputRefused):
                CaptureReader(CaptureChoice(unit="ticks", tick_us=length))

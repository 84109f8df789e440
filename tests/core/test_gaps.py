"""Gaps of every kind: no verdict may change by more than what the gap hid.

The logs are of simulated starts, of which the truth is known without the gaps.
"""

import numpy as np
from django.test import SimpleTestCase
from hypothesis import given, settings
from hypothesis import strategies as st
from inbetrieb_core.basemaps import generate
from inbetrieb_core.logs import Trace, import_log
from inbetrieb_core.logs.gaps import mend
from inbetrieb_core.starts import NoStartError, StartSetting, find_starts, judge_log

from tests.examples import few

from .engines import FOUR
from .traces import DIED, GOOD, LATE, NO_FIRE, RAN_AND_DIED, RIGHT_MIXTURE, start_trace

CALIBRATION = generate(FOUR)
SETTING = StartSetting(FOUR)
STARTS = {
    "started": GOOD, "no fire": NO_FIRE, "fired and died": DIED, "started and died": RAN_AND_DIED,
}  # fmt: skip


def judged(trace):
    return judge_log(trace, CALIBRATION, SETTING)


def with_holes(trace, rows, value, names=("rpm",)):
    """Return the trace with cells of some rows replaced."""
    channels = {name: values.copy() for name, values in trace.channels.items()}
    for name in names:
        channels[name][rows] = value
    return Trace(channels)


def without_rows(trace, rows):
    keep = np.ones(trace.time_s.size, dtype=bool)
    keep[rows] = False
    return Trace({name: values[keep] for name, values in trace.channels.items()})


def as_csv(trace, time=None, cell=lambda name, i, value: f"{value:.3f}"):
    """Return the log as the text of a file; `cell` writes each value."""
    names = list(trace.channels)
    lines = [",".join(names)]
    for i in range(trace.time_s.size):
        values = [trace[name][i] for name in names]
        if time is not None:
            values[names.index("time_s")] = time[i]
        lines.append(",".join(cell(n, i, v) for n, v in zip(names, values, strict=True)))
    return "\n".join(lines).encode()


class ShortGapTests(SimpleTestCase):
    @settings(max_examples=few(25), deadline=None)
    @given(
        st.sampled_from(list(STARTS)),
        st.sampled_from([float("nan"), 0.0]),
        st.floats(0.004, 0.03),
        st.integers(0, 10**6),
        st.sampled_from([10.0, 20.0, 50.0]),
    )
    def test_single_cells_of_speed_change_no_verdict(self, outcome, value, share, seed, rate):
        trace = start_trace(STARTS[outcome], rate=rate, **RIGHT_MIXTURE)
        chance = np.random.default_rng(seed)
        turning = np.flatnonzero(trace["rpm"] > 150.0)
        rows = chance.choice(turning, max(1, int(share * turning.size)), replace=False)
        self.assertEqual(judged(with_holes(trace, rows, value)).verdict, outcome)

    def test_a_healthy_start_stays_good(self):
        trace = start_trace(GOOD, **RIGHT_MIXTURE)
        self.assertTrue(judged(trace).good)
        for value in (float("nan"), 0.0, 65_535.0):
            rows = np.arange(150, trace.time_s.size, 37)
            analysis = judged(with_holes(trace, rows, value))
            self.assertTrue(analysis.good, value)
            self.assertIn("bridged", [finding.key for finding in analysis.findings])

    def test_whole_rows_may_lack(self):
        for outcome, points in STARTS.items():
            trace = start_trace(points, **RIGHT_MIXTURE)
            analysis = judged(without_rows(trace, np.arange(60, trace.time_s.size, 19)))
            self.assertEqual(analysis.verdict, outcome)

    def test_cells_of_other_channels_change_nothing_of_the_outcome(self):
        trace = start_trace(GOOD, battery_v=12.5, map_kpa=40.0, **RIGHT_MIXTURE)
        names = ("coolant_c", "battery_v", "map_kpa", "lambda")
        for value in (float("nan"), 0.0):
            rows = np.arange(10, trace.time_s.size, 23)
            before, after = judged(trace), judged(with_holes(trace, rows, value, names))
            self.assertEqual((before.verdict, before.good), (after.verdict, after.good))
            self.assertAlmostEqual(before.figures.coolant_c, after.figures.coolant_c, delta=0.1)

    def test_a_real_stop_is_no_artefact(self):
        """It falls to nothing and is cranked again: two starts."""
        points = [*RAN_AND_DIED[:-1], (10.4, 0), (10.6, 220), (11.5, 230), (11.8, 700), (14, 1000)]
        self.assertEqual(len(find_starts(start_trace(points), 450.0)), 2)

    def test_a_logger_that_writes_nothing_while_the_engine_stands(self):
        trace = start_trace(GOOD, **RIGHT_MIXTURE)
        rows = np.flatnonzero(trace["rpm"] == 0.0)
        self.assertTrue(judged(with_holes(trace, rows, float("nan"))).good)


class LongGapTests(SimpleTestCase):
    def hole(self, begin, end, points=GOOD, **channels):
        trace = start_trace(points, **(channels or RIGHT_MIXTURE))
        return without_rows(trace, (trace.time_s > begin) & (trace.time_s < end))

    def test_it_ends_the_window_and_is_said(self):
        analysis = judged(self.hole(12.0, 16.0))
        self.assertEqual(analysis.verdict, "started")
        self.assertIn("gap", [finding.key for finding in analysis.findings])
        self.assertIn("mixture", analysis.acceptance.unseen)
        self.assertEqual(analysis.advice, ())

    def test_how_soon_it_ran_is_not_told_where_that_is_hidden(self):
        analysis = judged(self.hole(2.4, 3.6))
        self.assertEqual(analysis.verdict, "started")
        self.assertIsNone(analysis.figures.run_after_s)
        self.assertIn("run", analysis.acceptance.unseen)

    def test_an_outcome_that_is_hidden_is_not_guessed(self):
        with self.assertRaisesRegex(NoStartError, "not told"):
            judged(self.hole(3.0, 9.6, NO_FIRE, lambda_target=1.0))

    def test_no_gap_ever_makes_a_stall(self):
        for begin in np.arange(4.0, 40.0, 3.0):
            with self.subTest(begin=begin):
                self.assertEqual(judged(self.hole(begin, begin + 2.5)).verdict, "started")

    def test_where_gaps_are(self):
        mended = mend(self.hole(12.0, 16.0))
        self.assertEqual(len(mended.gaps), 1)
        self.assertAlmostEqual(mended.gaps[0].length_s, 4.0, delta=0.2)


class ClockTests(SimpleTestCase):
    def judge_file(self, time):
        trace = start_trace(GOOD, **RIGHT_MIXTURE)
        log = import_log(as_csv(trace, time(trace.time_s)))
        return judge_log(log.trace, CALIBRATION, SETTING), log.problems

    def test_a_clock_set_back_or_forward_while_it_runs_hides_nothing(self):
        for jump in (-3600.0, -2.0, 3600.0, 7.2e6):
            analysis, problems = self.judge_file(lambda t, j=jump: np.where(t > 20.0, t + j, t))
            self.assertTrue(analysis.good, jump)
            self.assertTrue(any("clock jumps" in problem for problem in problems), jump)

    def test_a_second_recording_in_the_file_is_a_start_of_its_own(self):
        trace = start_trace(LATE)
        both = {
            name: np.r_[values, values]
            for name, values in trace.channels.items()
            if name != "time_s"
        }
        lines = ["time_s,rpm,coolant_c"]
        for t, rpm, coolant in zip(
            np.r_[trace.time_s, trace.time_s], both["rpm"], both["coolant_c"], strict=True
        ):
            lines.append(f"{t:.2f},{rpm:.0f},{coolant:.1f}")
        log = import_log("\n".join(lines).encode())
        self.assertEqual(len(find_starts(log.trace, 450.0)), 2)

    def test_dashes_and_words_are_missing_cells(self):
        trace = start_trace(GOOD, **RIGHT_MIXTURE)
        for mark in ("-", "", "NaN", "n/a", "--", "ERR"):
            text = as_csv(
                trace,
                cell=lambda name, i, v, m=mark: m if name == "rpm" and i % 41 == 7 else f"{v:.3f}",
            )
            analysis = judge_log(import_log(text).trace, CALIBRATION, SETTING)
            self.assertTrue(analysis.good, mark)

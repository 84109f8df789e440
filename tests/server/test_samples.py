"""Logs of any length: drawn where they were logged, no peak lost, by a bounded read.

The truth is the log itself, read sample by sample.
"""

import json
import zlib
from importlib import import_module
from types import SimpleNamespace

import numpy as np
from django.db import connection
from django.db.migrations.loader import MigrationLoader
from django.test.utils import CaptureQueriesContext
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.django import TestCase
from inbetrieb_core.logs import Trace

from server.jobs.models import Job
from server.logbook.models import Log, LogChunk
from server.logbook.samples import (
    CHUNK,
    _extremes,
    levels_of,
    pyramid_of,
    read_between,
    read_channel,
    read_window,
)
from server.logbook.services import add_log
from tests.examples import asked

from .base import ApiTestCase

HOUR_S = 3600.0


def uneven(count, *, pause_at=0.5, pause_s=400.0, seed=3):
    """Return times of a log whose rate wanders fivefold, with a pause. [s]"""
    chance = np.random.default_rng(seed)
    steps = 0.04 * np.exp(0.8 * np.sin(np.linspace(0, 9, count))) * chance.uniform(0.8, 1.2, count)
    steps[int(pause_at * count)] += pause_s
    return np.cumsum(steps)


class LongLogCase(ApiTestCase):
    count = 10 * CHUNK + 777

    def setUp(self):
        super().setUp()
        job = Job.objects.get(pk=self.make_job()["id"])
        self.time = uneven(self.count)
        self.peaks = [1234, self.count // 2 - 3000, self.count - 5]
        speed = 900.0 + 20.0 * np.sin(self.time)
        speed[self.peaks] = [7000.0, 6500.0, 6800.0]
        lost = np.where(np.arange(self.count) % 3 == 0, np.nan, 90.0)
        self.speed = speed
        trace = Trace({"time_s": self.time, "rpm": speed, "coolant_c": lost})
        self.log = add_log(job, self.owner, name="drive", origin="upload", trace=trace)


class WindowTests(LongLogCase):
    def assert_true(self, window, channel="rpm"):
        """Every drawn value stands where it was logged, and every peak inside is drawn."""
        inside = (self.time >= window.time_s[0]) & (self.time <= window.time_s[-1])
        self.assertTrue((np.diff(window.time_s) >= 0).all())
        self.assertTrue(np.isin(window.time_s, self.time).all())
        drawn = window.channels[channel]
        self.assertAlmostEqual(np.nanmax(drawn), self.speed[inside].max(), places=2)
        self.assertAlmostEqual(np.nanmin(drawn), self.speed[inside].min(), places=2)

    def test_a_peak_is_drawn_where_it_was_at_every_zoom(self):
        for peak in self.peaks:
            for half_s in (2.0, 30.0, 300.0, 3000.0, 1e5):
                at = self.time[peak]
                with self.subTest(peak=peak, half_s=half_s):
                    window = read_window(self.log, ["rpm"], at - half_s, at + half_s, 2000)
                    self.assert_true(window)
                    place = int(np.nanargmax(np.where(
                        np.abs(window.time_s - at) <= half_s, window.channels["rpm"], np.nan)))  # fmt: skip
                    shown = window.time_s[place & ~1 : (place | 1) + 1]
                    if window.bucket > 1 and self.speed[peak] == np.nanmax(window.channels["rpm"]):
                        self.assertLessEqual(shown[0], at)
                        self.assertGreaterEqual(shown[-1], at)

    def test_more_than_half_of_what_was_asked_for_and_never_more(self):
        for half_s in (400.0, 1000.0, 2500.0, 1e5):
            for most in (500, 2000, 3000, 8000):
                middle = self.time[self.count // 3]
                window = read_window(self.log, ["rpm"], middle - half_s, middle + half_s, most)
                there = ((self.time >= middle - half_s) & (self.time <= middle + half_s)).sum()
                with self.subTest(half_s=half_s, most=most):
                    self.assertLessEqual(len(window.time_s), most + 2)
                    self.assertGreater(len(window.time_s), min(there, most) / 2 - 2)

    def test_nothing_is_drawn_inside_a_pause(self):
        begin = self.time[self.count // 2 - 1]
        window = read_window(self.log, ["rpm"], begin - 3000, begin + 3000, 1000)
        within = (window.time_s > begin) & (window.time_s < self.time[self.count // 2])
        self.assertEqual(within.sum(), 0)

    def test_what_is_missing_stays_missing_and_what_is_there_is_drawn(self):
        window = read_window(self.log, ["coolant_c"], 0, 1e9, 500)
        self.assertTrue((window.channels["coolant_c"] == 90.0).all())
        window = read_window(self.log, ["coolant_c"], 0, self.time[60], 500)
        self.assertTrue(np.isnan(window.channels["coolant_c"]).any())

    def test_a_part_is_read_as_it_stands_in_the_whole(self):
        for first, last in ((0, 10), (CHUNK - 2, CHUNK + 2), (5 * CHUNK, 7 * CHUNK)):
            part = read_between(self.log, self.time[first], self.time[last])
            np.testing.assert_array_equal(part.time_s, self.time[first:last])
            np.testing.assert_allclose(part["rpm"], self.speed[first:last], rtol=1e-6)

    def test_a_zoom_reads_little_and_sends_little(self):
        path = f"/api/jobs/{self.log.job_id}/logs/{self.log.pk}/samples?points=3000"
        stored = sum(len(c.data) for c in LogChunk.objects.filter(log=self.log, level=1))
        for start, end in ((0, 1e9), (0, self.time[-1] / 50), (self.time[-1] / 2, self.time[-1])):
            with CaptureQueriesContext(connection) as queries:
                answer = self.client.get(f"{path}&start_s={start}&end_s={end}")
            self.assertLess(len(answer.content), 200_000)
            self.assertLessEqual(len(queries), 5)  # who asks, and the log, its times, the stretch
        self.assertGreater(stored, 500_000)

    def test_bounds_that_are_no_times_are_refused(self):
        for bounds in ("start_s=nan", "end_s=nan", "start_s=inf", "start_s=-inf&end_s=nan"):
            answer = self.client.get(
                f"/api/jobs/{self.log.job_id}/logs/{self.log.pk}/samples?{bounds}"
            )
            self.assertEqual(answer.status_code, 422, bounds)
            self.assert_problem(answer.json())


class PyramidTests(TestCase):
    @settings(max_examples=asked(60), deadline=None)
    @given(st.integers(1, 10**8))
    def test_levels_step_by_four_and_end_with_few_buckets(self, count):
        levels = levels_of(count)
        self.assertTrue(all(b == 4 * a for a, b in zip(levels, levels[1:], strict=False)))
        coarsest = count / (levels[-1] if levels else 1)
        self.assertLess(coarsest, 4 * 64 if levels else 4 * 64 + 1)


class OlderPyramidTests(LongLogCase):
    count = 3 * CHUNK + 5

    def test_pyramids_of_earlier_versions_are_built_anew(self):
        whole = read_window(self.log, ["rpm"], 0, 1e9, 400)
        with connection.cursor() as cursor:
            cursor.execute("DROP TRIGGER IF EXISTS logbook_logchunk_kept")
            cursor.execute("DELETE FROM logbook_logchunk WHERE level > 1")
        old = np.zeros((2, -(-self.count // 64)), dtype=np.float32)
        LogChunk.objects.create(
            log=self.log, channel="rpm", level=64, number=0, data=zlib.compress(old.tobytes(), 1)
        )
        migration = import_module("server.logbook.migrations.0004_pyramid_with_times")
        state = MigrationLoader(connection).project_state(("logbook", "0004_pyramid_with_times"))
        migration.rebuild(state.apps, SimpleNamespace(connection=connection))
        again = read_window(self.log, ["rpm"], 0, 1e9, 400)
        np.testing.assert_array_equal(whole.time_s, again.time_s)
        np.testing.assert_array_equal(whole.channels["rpm"], again.channels["rpm"])


class ShortLogTests(ApiTestCase):
    def test_every_sample_of_a_short_log_is_drawn(self):
        job = self.make_job()["id"]
        rows = "\n".join(f"{i * 0.04:.2f},{900 + i % 7},20" for i in range(300))
        log = self.upload(job, f"time_s,rpm,coolant_c\n{rows}\n".encode())
        answer = self.get(f"/jobs/{job}/logs/{log['id']}/samples?start_s=1&end_s=2")
        self.assertEqual(answer["bucket"], 1)
        self.assertEqual((answer["time_s"][0], answer["time_s"][-1]), (1.0, 2.0))
        saved = Log.objects.get(pk=log["id"])
        self.assertEqual(len(read_channel(saved, "rpm")), 300)
        json.dumps(answer, allow_nan=False)


class AnyPyramidTests(TestCase):
    """Of any samples, however few or many are missing: each bucket says what its samples say."""

    def levels(self, channel, values):
        """Return what a pyramid holds, by level: shape (2, buckets)."""
        found = {}
        kind = np.float64 if channel == "time_s" else np.float32
        for level, number, data in pyramid_of(channel, values):
            pair = np.frombuffer(zlib.decompress(data), dtype=kind).reshape(2, -1)
            found.setdefault(level, []).append((number, pair))
        return {
            level: np.concatenate([pair for _, pair in sorted(parts, key=lambda p: p[0])], axis=1)
            for level, parts in found.items()
        }

    @settings(max_examples=asked(40), deadline=None)
    @given(st.integers(1, 9000), st.integers(0, 10**6), st.floats(0.0, 0.9))
    def test_low_and_high(self, count, seed, missing):
        chance = np.random.default_rng(seed)
        values = chance.normal(0.0, 100.0, count).astype(np.float32).astype(float)
        values[chance.random(count) < missing] = np.nan
        for level, pair in self.levels("rpm", values).items():
            self.assertEqual(pair.shape[1], -(-count // level))
            for bucket in range(0, pair.shape[1], max(1, pair.shape[1] // 7)):
                inside = values[bucket * level : (bucket + 1) * level]
                known = inside[np.isfinite(inside)]
                if known.size:
                    self.assertEqual(tuple(pair[:, bucket]), (known.min(), known.max()))
                else:
                    self.assertTrue(np.isnan(pair[:, bucket]).all())

    @settings(max_examples=asked(40), deadline=None)
    @given(st.integers(1, 9000), st.integers(0, 10**6))
    def test_first_and_last_time(self, count, seed):
        time = np.cumsum(np.random.default_rng(seed).exponential(0.1, count))
        for level, pair in self.levels("time_s", time).items():
            for bucket in range(0, pair.shape[1], max(1, pair.shape[1] // 7)):
                inside = time[bucket * level : (bucket + 1) * level]
                self.assertEqual(tuple(pair[:, bucket]), (inside[0], inside[-1]))

    @settings(max_examples=asked(60), deadline=None)
    @given(st.lists(st.floats(0.0, 1e4), min_size=1, max_size=300), st.integers(1, 40))
    def test_a_bucket_that_is_not_full_invents_nothing(self, values, by):
        pair = _extremes(np.array([values, values]), by)
        self.assertEqual(pair.shape, (2, -(-len(values) // by)))
        self.assertEqual(pair[0].min(), min(values))
        self.assertEqual(pair[1].max(), max(values))
        self.assertTrue((pair[0] <= pair[1]).all())

"""Live sessions over HTTP: opened, commanded by one, kept every second, judged, closed; and bad sources."""

import json
from datetime import timedelta
from unittest.mock import patch

import numpy as np
from django.db import OperationalError
from django.test import AsyncClient
from inbetrieb_core.errors import CoreError
from inbetrieb_core.idle import SweepPlan
from inbetrieb_core.live import Opened

from server.live import hosts, services
from server.live.hosts import Host
from server.live.models import LiveChunk, LiveSession
from server.live.state import Limits
from server.live.stream import Feed, parcels_async
from server.logbook.models import Log
from server.logbook.samples import read_trace

from .base import ApiTestCase

CHANNELS = ("time_s", "rpm", "idle_valve_pct")


class Clock:
    """A wall clock that a test moves on."""

    def __init__(self):
        self.now = 100.0

    def __call__(self):
        return self.now


class Scripted:
    """A source that sends what it is told to."""

    def __init__(self, *parcels):
        self.parcels, self.closed = list(parcels), False

    def open(self):
        return Opened("Scripted", "", CHANNELS)

    def samples(self, passed_s):
        parcel = self.parcels.pop(0) if self.parcels else np.empty((0, 3))
        if isinstance(parcel, Exception):
            raise parcel
        return np.array(parcel, dtype=float)

    def command(self, controls):
        self.controls = controls

    def close(self):
        self.closed = True


def rows(*times, rpm=900.0):
    return [(t, rpm, 30.0) for t in times]


def events(text):
    """Return the server-sent events in a text as (name, id, data)."""
    found = []
    for block in text.split("\n\n"):
        lines = dict(line.split(": ", 1) for line in block.splitlines() if ": " in line)
        if "event" in lines:
            found.append((lines["event"], lines.get("id"), json.loads(lines["data"])))
    return found


class LiveTestCase(ApiTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()["id"]
        self.addCleanup(hosts._hosts.clear)

    def open(self, status=201, **more):
        return self.post(f"/jobs/{self.job}/live", {"coolant_c": 20, **more}, status)

    def send(self, path="command", status=200, **body):
        return self.post(f"/jobs/{self.job}/live/1/{path}", body, status)

    def host(self):
        return hosts.host_of(LiveSession.objects.get(job=self.job, number=1).pk)

    def pass_time(self, seconds):
        for _ in range(round(seconds / 0.1)):
            self.host().pump(0.1)

    def start(self, run_s=10.0):
        self.send(key="on")
        self.pass_time(3)
        self.send(key="start")
        self.pass_time(1.5)
        self.send(starter=False)
        self.pass_time(run_s)


class SessionTests(LiveTestCase):
    def test_from_key_on_to_a_judged_start_and_a_log(self):
        session = self.open()
        self.assertEqual((session["id"], session["status"]), (1, "open"))
        self.assertIn("not a real one", session["stand_in"])
        self.assertEqual(session["tables"], "revision 1, the newest of the job")
        self.start(30.0)
        state = self.get(f"/jobs/{self.job}/live/1")["state"]
        self.assertAlmostEqual(state["time_s"], 34.5, delta=0.3)
        self.assertEqual({line["level"] for line in state["watch"]} - {"good"}, set())
        self.assertGreater(state["readings"]["oil_kpa"], 100)
        log = self.send("keep", 201)["log_id"]
        trial = self.post(f"/jobs/{self.job}/trials", {"log_id": log})
        self.assertIn(trial["verdict"], ("started",))
        closed = self.send("close")
        whole = Log.objects.get(pk=closed["log_id"])
        self.assertEqual((whole.origin, whole.about["live"]), ("bench", 1))
        self.assertGreater(whole.duration_s, 34.0)
        self.assertIn("oil_pressure_kpa", read_trace(whole).channels)
        self.assertEqual(self.send("close"), closed)  # once is enough
        self.assert_problem(self.send("command", 409, key="off"), "over")
        self.assertEqual(self.get(f"/jobs/{self.job}/live")["sessions"][0]["status"], "ended")

    def test_one_session_of_a_job_and_a_number_to_go_to(self):
        self.open()
        answer = self.open(409)
        self.assert_problem(answer, "session 1")
        self.assertEqual(answer["extra"], {"number": 1})

    def test_the_tables_in_the_car_are_held_once_they_are_stamped(self):
        self.assert_problem(self.open(422, tables="in_car"), "No revision was stamped")
        self.post(f"/jobs/{self.job}/transfer", {"revision": 1, "how": "loaded"})
        values = self.get(f"/jobs/{self.job}/calibration")["tables"]["idle_target"]["values"]
        self.edit(self.job, {"idle_target": [v + 50 for v in values]})
        session = self.open(tables="in_car")
        self.assertEqual((session["revision"], session["tables"]), (1, "revision 1, stamped as in the car"))  # fmt: skip

    def test_what_cannot_be_is_refused_and_opens_nothing(self):
        for body, word in (
            ({"faults": ["sabotage"]}, "no fault"),
            ({"engine": "steam"}, "no bench engine"),
            ({"coolant_c": 500}, "coolant_c"),
            ({"speed": 7}, "1, 4, 20"),
            ({"source": "car"}, "source"),
        ):
            with self.subTest(body):
                self.assert_problem(self.open(422, **body), word)
        self.assertFalse([s for s in self.get(f"/jobs/{self.job}/live")["sessions"] if s["status"] == "open"])  # fmt: skip

    def test_two_at_once_one_holds_the_key_and_the_kill_switch_is_everybodys(self):
        self.open()
        self.send(key=True, tablet="left")
        answer = self.send("command", 409, throttle_pct=20, tablet="right")
        self.assert_problem(answer, "owner holds the key on another tablet")
        more = {"injection": False, "ignition": False, "throttle_pct": 20}
        self.assert_problem(self.send("command", 409, tablet="right", **more), "holds the key")
        self.send(injection=False, ignition=False, tablet="right")
        self.send(take=True, tablet="right")
        self.assert_problem(self.send("command", 409, key=False, tablet="left"), "holds the key")

    def test_null_gives_the_valve_back_and_nothing_else_moves(self):
        self.open()
        state = self.send(key=True, idle_valve_pct=40, load="gear")
        self.assertEqual(state["controls"]["loads"], ["gear"])
        state = self.send(idle_valve_pct=None)
        self.assertIsNone(state["controls"]["idle_valve_pct"])
        self.assertTrue(state["controls"]["key"])

    def test_the_light_tells_how_far_off_the_base_timing_is(self):
        self.open(faults=[{"kind": "base_timing", "size": -8}])
        self.start(6.0)
        self.assert_problem(self.send("light", 422), "Lock the timing")
        self.send(lock_timing_deg=12)
        self.pass_time(0.3)
        read = self.send("light")
        self.assertAlmostEqual(read["seen_deg"], 4.0, delta=1.0)
        self.assertAlmostEqual(read["off_deg"], 8.0, delta=1.0)

    def test_a_starter_nobody_lets_go_is_let_go(self):
        self.open(faults=["lost_sync"])
        clock = self.host()._clock = Clock()
        self.send(key="start")
        clock.now += 16.0
        self.host().pump(0.1)
        self.assertFalse(self.host().controls.starter)

    def test_a_driven_sweep_tells_the_limits(self):
        valve = {"kind": "two_wire", "opens_pct": 21, "full_pct": 69}
        self.open(coolant_c=85, valve=valve, stop=1.9)
        self.assert_problem(self.send("sweep", 422, plan={}), "Start the engine first")
        self.start(15.0)
        state = self.send("sweep", plan={"step_pct": 5, "dwell_s": 4})
        self.assertEqual(state["sweep"]["state"], "running")
        self.assert_problem(self.send("sweep", 409, plan={}), "Wait for its end")
        self.pass_time(190)
        sweep = self.get(f"/jobs/{self.job}/live/1")["state"]["sweep"]
        self.assertEqual((sweep["state"], sweep["share"]), ("done", 1.0))
        log = self.send("keep", 201, start_s=sweep["start_s"], end_s=sweep["end_s"])["log_id"]
        told = self.post(f"/jobs/{self.job}/idle/sweeps", {"log_id": log})
        self.assertAlmostEqual(told["minimum_pct"], 21, delta=1.5)
        self.assertAlmostEqual(told["maximum_pct"], 69, delta=1.5)
        self.assertIsNone(self.host().controls.lock_timing_deg)

    def test_the_run_in_counts_inside_the_band_only(self):
        self.open(coolant_c=80)
        self.start(5.0)
        self.send("run-in", on=True)
        self.pass_time(5)
        state = self.send(throttle_pct=8, speed=4)
        self.pass_time(10)
        state = self.get(f"/jobs/{self.job}/live/1")["state"]
        rpm = float(self.host()._rows.newest[1])
        self.assertEqual(state["run_in"]["inside"], abs(rpm - 2500) <= 300)
        self.assertGreater(state["run_in"]["outside_s"], 4.0)
        self.assertGreater(state["run_in"]["counted_s"] + state["run_in"]["outside_s"], 40.0)

    def test_what_was_read_before_the_key_was_turned_on_again_is_not_offered(self):
        self.open()
        self.send(key="on")
        self.pass_time(12)
        state = self.get(f"/jobs/{self.job}/live/1")["state"]
        self.assertGreater(state["readings"]["fall_kpa"], 0)
        self.send(key="off")
        self.pass_time(1)
        state = self.send(key="on")
        self.assertEqual(set(state["readings"].values()), {None})
        self.assertEqual(state["watch"], [])
        self.pass_time(4)
        state = self.get(f"/jobs/{self.job}/live/1")["state"]
        self.assertGreater(state["readings"]["rail_kpa"], 200)
        self.assertIsNone(state["readings"]["fall_kpa"])

    def test_a_start_is_recorded_with_its_log_and_what_it_contradicts_is_said(self):
        self.open(faults=["lost_sync"])
        self.send(key="start")
        self.pass_time(5)
        self.send(key="off")
        log = self.send("keep", 201)["log_id"]
        sheet = self.post(
            f"/jobs/{self.job}/first-start/steps/crank", {"choice": "runs", "log_id": log}, 200
        )
        done = next(s["done"] for s in sheet["steps"] if s["key"] == "crank")
        self.assertIn("its log says", done["told"][0])
        trial = self.get(f"/jobs/{self.job}/trials")[0]
        self.assertEqual(done["trial"], trial["number"])
        self.assertNotEqual(trial["verdict"], "started")

    def test_a_stretch_that_is_none_is_refused(self):
        self.open()
        self.assert_problem(self.send("keep", 422), "Nothing came yet")
        self.start(2.0)
        self.assert_problem(self.send("keep", 422, start_s=5, end_s=1), "ends after it begins")
        self.assert_problem(self.send("keep", 422, start_s=900), "Nothing came")
        self.assert_problem(self.send("keep", 422, start_s=0, end_s=1e6), "Two hours")


class StreamTests(LiveTestCase):
    def read(self, query="", **headers):
        """Return the events of an ended session."""
        answer = self.client.get(f"/api/jobs/{self.job}/live/1/stream{query}", headers=headers)
        self.assertEqual(answer["Content-Type"], "text/event-stream")
        return events(b"".join(answer.streaming_content).decode())

    def test_every_row_comes_once_and_who_comes_back_misses_none(self):
        self.open()
        self.start(25.0)
        closed = self.send("close")
        found = self.read("?since=0")
        self.assertEqual(found[-1], ("end", None, {"log_id": closed["log_id"], "sentence": "Closed."}))  # fmt: skip
        parcels = [data for name, _, data in found if name == "samples"]
        times = [t for data in parcels for t in data["channels"]["time_s"]]
        self.assertEqual(len(times), Log.objects.get(pk=closed["log_id"]).sample_count)
        self.assertEqual(times, sorted(set(times)))
        self.assertEqual([d["first"] for d in parcels][1:], [int(n) for _, n, _ in found[:-2]])
        again = self.read(**{"Last-Event-ID": found[0][1]})
        self.assertEqual(again[0][2]["first"], int(found[0][1]))
        self.assertEqual(again[0][2]["channels"]["time_s"][0], parcels[1]["channels"]["time_s"][0])

    def test_who_is_far_behind_is_caught_up_from_the_database(self):
        self.open()
        self.send(key="on", speed=20)
        self.pass_time(20)
        host = self.host()
        host.keep()
        self.assertIsNone(host.since(0))
        feed = Feed(LiveSession.objects.get(job=self.job), 0)
        found = []
        while (feed.row or 0) < host.rows:
            found += events(feed.next())
        times = [t for n, _, d in found if n == "samples" for t in d["channels"]["time_s"]]
        self.assertEqual(len(times), host.rows)
        self.assertEqual(times, sorted(times))
        self.assertIn("state", [name for name, _, _ in found])

    async def test_on_an_event_loop_it_is_the_same(self):
        session = LiveSession(pk=10**9, job_id=self.job, number=9, channels=list(CHANNELS))
        host = Host(session.pk, Scripted(rows(0.0, 0.1, 0.2)), Scripted().open(), Limits(300, 6000), lambda _: None)  # fmt: skip
        hosts._hosts[session.pk] = host
        host.pump(0.1)
        stream = parcels_async(Feed(session, 0))
        self.assertEqual(await anext(stream), "retry: 1000\n\n")
        found = events(await anext(stream))
        self.assertEqual(found[0][2]["channels"]["rpm"], [900.0, 900.0, 900.0])
        await stream.aclose()

    async def test_a_stranger_hears_nothing(self):
        client = AsyncClient()
        self.assertEqual((await client.get(f"/api/jobs/{self.job}/live/1/stream")).status_code, 401)


class BadSourceTests(LiveTestCase):
    def host_on(self, *parcels):
        session = services.open_session(self.job_row(), self.owner, Scripted(*parcels), about={})
        host = hosts.host_of(session.pk)
        host._clock = self.clock = Clock()
        host._kept_s = host._heard_s = host._attended_s = self.clock.now
        return session, host

    def job_row(self):
        from server.jobs.models import Job

        return Job.objects.get(pk=self.job)

    def turn(self, host, times=1):
        for _ in range(times):
            self.clock.now += 1.0
            host.pump(1.0)

    def test_every_second_is_kept_as_it_passes(self):
        session, host = self.host_on(rows(0.0, 0.5), rows(1.0, 1.5), rows(2.0))
        self.turn(host, 3)
        chunks = list(LiveChunk.objects.filter(session=session).order_by("first_row"))
        self.assertEqual([(c.first_row, c.rows) for c in chunks], [(0, 2), (2, 2), (4, 1)])

    def test_no_numbers_back_in_time_and_a_flood(self):
        flood = [(3 + i * 1e-4, 900.0, 30.0) for i in range(10_000)]
        bad = [(np.nan, 1, 1), (0.5, np.nan, np.inf), (0.4, 1, 1), (-700.0, 1, 1)]
        session, host = self.host_on(rows(0.0, 0.1), bad, rows(2.0), flood)
        self.turn(host, 4)
        end = services.close(session, user=self.owner)
        trace = read_trace(end.log)
        self.assertTrue((np.diff(trace.time_s) > 0).all())
        self.assertLess(end.log.sample_count, 60)
        self.assertEqual(len(end.log.problems), 4)

    def test_a_source_that_falls_silent_is_told_and_one_that_breaks_is_ended(self):
        session, host = self.host_on(rows(0.0, 0.1))
        host.command("owner", "", {"key": True})
        self.turn(host, 6)
        self.assertGreater(host.state().silent_s, 3.0)
        host._source.parcels = [RuntimeError("cable")]
        ended = []
        host._end = ended.append
        with self.assertLogs("server.live.hosts", "ERROR"):
            host.run()
        self.assertEqual(ended, ["The source broke down; what it had sent is kept."])
        self.assertEqual(services.close(session).log.sample_count, 2)

    def test_a_starter_let_go_before_anybody_asked_for_samples_has_turned(self):
        session, host = self.host_on()
        host.start()
        host._stop.set()
        host._thread.join()
        asked = []
        host._source.samples = lambda passed_s: (
            asked.append((host.controls.starter, passed_s)) or np.empty((0, 3))
        )
        host._asked_s = self.clock.now
        for after_s, given in ((1.0, {"key": True, "starter": True}), (0.6, {"starter": False})):
            self.clock.now += after_s
            host.command("owner", "", given)
        self.assertEqual([starter for starter, _ in asked], [False, True])
        np.testing.assert_allclose([passed_s for _, passed_s in asked], [1.0, 0.6])

    def test_a_full_disk_is_told_and_nothing_is_lost(self):
        session, host = self.host_on(rows(0.0, 0.5), rows(1.0, 1.5), rows(2.0))
        with (
            patch("server.live.hosts.write_chunk", side_effect=OperationalError("full")),
            self.assertLogs("server.live.hosts", "ERROR"),
        ):
            self.turn(host, 2)
        self.assertIn("make room", host.state().problems[0])
        self.turn(host)
        self.assertEqual(host.state().problems, ())
        self.assertEqual(services.close(session).log.sample_count, 5)

    def test_nobody_looks_for_half_an_hour(self):
        _, host = self.host_on()
        self.assertEqual(host._over(self.clock.now + 1700), "")
        self.assertIn("half an hour", host._over(self.clock.now + 1900))

    def test_a_session_that_was_left_is_ended_with_its_log_before_the_next(self):
        session, host = self.host_on(rows(0.0, 0.5, 1.0))
        self.turn(host)
        hosts._hosts.clear()  # as after a crash
        with patch.object(services, "_LOST_AFTER", timedelta(0)):
            listed = self.get(f"/jobs/{self.job}/live")["sessions"][0]
            self.assertEqual(listed["status"], "broken off")
            self.open()
        ended = services.end_of(services.session_of(self.job_row(), 1))
        self.assertEqual(ended.log.sample_count, 3)
        self.assertIn("server was stopped", ended.reason)
        self.assertEqual(services.end_lost(), [])

    def test_a_sweep_is_ended_by_a_hand_on_the_valve(self):
        _, host = self.host_on(rows(0.0, 0.5))
        self.turn(host)
        host.sweep("owner", "", SweepPlan())
        host.command("owner", "", {"idle_valve_pct": 30.0})
        self.assertEqual(host.state().sweep.state, "moved")
        self.assertIn("by hand", host.state().sweep.sentence)
        self.assertEqual(host.controls.idle_valve_pct, 30.0)

    def test_a_server_has_room_for_so_many(self):
        with patch.object(hosts, "MOST_HOSTS", 0):
            self.assert_problem(self.open(503), "Close one")

    def test_a_source_that_cannot_begin_leaves_an_ended_session(self):
        class Refuses(Scripted):
            def command(self, controls):
                raise CoreError("No.")

        with self.assertRaises(CoreError):
            services.open_session(self.job_row(), self.owner, Refuses(), about={})
        self.open()

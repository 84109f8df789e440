"""Work in any order: whatever people do, nothing is lost, nothing changes behind their backs.

A walk of random actions through the interface. After each step everything that was ever kept is
still there and still the same, and the job says what is next.
"""

import hashlib
import json
import random

from server.calibration.models import Revision
from server.config.said import rendered
from server.entries.models import Entry
from server.jobs.models import Job
from server.logbook.models import Log, LogChunk
from server.order.job_out import job_out
from server.trials.models import Decision, Trial

from . import parts
from .base import ApiTestCase

KINDS = {"enter", "check", "record", "decide", "mend", "repeat", "prove"}


def fingerprint(row, *fields):
    text = json.dumps([str(getattr(row, field)) for field in fields], sort_keys=True)
    return hashlib.sha256(text.encode()).hexdigest()


def kept():
    """Everything that must never change, by what it is."""
    state = {}
    for row in Revision.objects.all():
        state["revision", row.pk] = fingerprint(row, "number", "note", "tables", "created_at")
    for row in Trial.objects.all():
        state["trial", row.pk] = fingerprint(row, "number", "kind", "analysis", "created_at")
    for row in Entry.objects.all():
        state["entry", row.pk] = fingerprint(row, "kind", "key", "number", "data")
    for row in Decision.objects.all():
        state["decision", row.pk] = fingerprint(row, "trial_id", "note", "created_at")
    for row in Log.objects.all():
        state["log", row.pk] = fingerprint(row, "name", "sample_count", "channels")
    for row in LogChunk.objects.all():
        state["chunk", row.pk] = hashlib.sha256(bytes(row.data)).hexdigest()
    return state


class Walk:
    """Somebody at the keyboard who does one thing after another, sensible or not."""

    def __init__(self, test, seed):
        self.test, self.chance = test, random.Random(seed)
        self.job = test.make_job(name=f"Walk {seed}")["id"]
        self.newest = 1

    def url(self, path):
        return f"/api/jobs/{self.job}{path}"

    def send(self, path, body, method="post"):
        answer = getattr(self.test.client, method)(
            self.url(path), body, content_type="application/json"
        )
        self.test.assertLess(answer.status_code, 500, (path, answer.content[:300]))
        if answer.status_code >= 400:
            self.test.assert_problem(answer.json())
            self.test.assertTrue(answer.json()["detail"])
        return answer

    def revisions(self):
        return self.test.client.get(self.url("/revisions")).json()

    def trials(self):
        return self.test.client.get(self.url("/trials")).json()

    def step(self):
        name = self.chance.choice(
            ["edit", "edit_old", "observe", "bench", "judge", "accept", "decline", "sensor", "remove",
             "reason", "restore", "units", "injectors", "trigger", "wiring", "nonsense"]
        )  # fmt: skip
        getattr(self, name)()
        return name

    def edit(self):
        tables = self.test.client.get(self.url("/calibration")).json()
        key = self.chance.choice(["cranking_fuel", "idle_valve", "after_start_enrichment", "ve"])
        values = json.loads(json.dumps(tables["tables"][key]["values"]))
        if isinstance(values[0], list):
            values[0][0] = round(values[0][0] + self.chance.uniform(-3, 3), 1)
        else:
            values[0] = round(values[0] + self.chance.uniform(-3, 3), 1)
        body = {
            "note": "walked",
            "based_on": tables["revision"],
            "tables": {key: {"values": values}},
        }
        self.send("/calibration", body)

    def edit_old(self):
        """Somebody whose screen is old: told, and nothing is overwritten."""
        newest = self.revisions()[0]["revision"]
        values = [99.0] * 12
        body = {"note": "late", "based_on": 1, "tables": {"cranking_fuel": {"values": values}}}
        answer = self.send("/calibration", body)
        if newest > 1:
            self.test.assertIn(answer.status_code, (201, 409, 422))

    def observe(self):
        outcome = self.chance.choice(
            ["no fire", "started", "started and died", "no crank", "wrong"]
        )
        seen = {"outcome": outcome, "coolant_c": self.chance.uniform(-10, 90), "cranking_s": self.chance.uniform(0.5, 8)}  # fmt: skip
        self.send("/trials", {"observation": seen})

    def bench(self):
        body = {"engine": "port_four", "coolant_c": self.chance.choice([-5, 10, 40]), "seed": self.chance.randint(1, 99), "run_s": 12}  # fmt: skip
        self.send("/bench/starts", body)

    def judge(self):
        logs = self.test.client.get(self.url("/logs")).json()
        if logs:
            self.send("/trials", {"log_id": self.chance.choice(logs)["id"]})

    def accept(self):
        for trial in self.trials()[:2]:
            self.send(f"/trials/{trial['id']}/accept", {"note": "walked"})

    def decline(self):
        for trial in self.trials()[:1]:
            self.send(f"/trials/{trial['id']}/decline", {"note": "Not this time, says the walk."})

    def sensor(self):
        self.send("/sensors", {"sensor": self.chance.choice(parts.SENSORS)})

    def remove(self):
        function = self.chance.choice(["coolant", "throttle", "battery"])
        self.send(f"/sensors/{function}", None, "delete")

    def reason(self):
        gate = self.chance.choice(["wiring", "trigger", "output-tests"])
        self.send(
            f"/{gate}/reason", {"reason": self.chance.choice(["A reason worth reading.", "x"])}
        )

    def restore(self):
        rows = self.revisions()
        body = {"based_on": rows[0]["revision"], "revision": self.chance.choice(rows)["revision"], "note": "back"}  # fmt: skip
        self.send("/calibration/restore", body)

    def units(self):
        self.send("/units", {"units": {"temperature": self.chance.choice(["°C", "°F"])}})

    def injectors(self):
        flow = self.chance.choice([390, 400, 0])
        self.send("/injectors", {"injectors": {**parts.INJECTORS, "flow": flow}})

    def trigger(self):
        self.send("/trigger", {"trigger": parts.TRIGGER})

    def wiring(self):
        self.send("/wiring", {"controller": "shipped:kutter-52", "entry": {"fitting": {}}})

    def nonsense(self):
        path = self.chance.choice(["/calibration", "/trials", "/sensors", "/trigger", "/units"])
        self.send(path, self.chance.choice([{}, {"odd": 1}, {"tables": None}, {"units": []}]))


class WalkTests(ApiTestCase):
    def assert_job_stands(self, walk):
        job = self.get(f"/jobs/{walk.job}")
        action = job["next_action"]
        self.assertIn(action["kind"], KINDS)
        self.assertTrue(action["sentence"].endswith((".", "!")), action["sentence"])
        board = {row["id"]: row for row in self.get("/jobs")}
        self.assertEqual(board[walk.job]["next_action"], action)
        anew = rendered(job_out(Job.objects.get(pk=walk.job)).model_dump_json(by_alias=True))
        self.assertEqual(board[walk.job], json.loads(anew))  # the summary follows every write
        numbers = [row["revision"] for row in walk.revisions()]
        self.assertEqual(numbers, list(range(len(numbers), 0, -1)))
        self.assertEqual(self.get(f"/jobs/{walk.job}/calibration")["revision"], numbers[0])

    def walk(self, seed, steps):
        walk, before = Walk(self, seed), kept()
        done = []
        for _ in range(steps):
            done.append(walk.step())
            now = kept()
            for key, value in before.items():
                self.assertEqual(now.get(key), value, (key, done[-6:]))
            self.assert_job_stands(walk)
            before = now
        return walk

    def test_nothing_is_lost_on_any_way(self):
        for seed in range(4):
            with self.subTest(seed=seed):
                self.walk(seed, 22)

    def test_two_jobs_do_not_touch_each_other(self):
        first = self.walk(11, 6)
        resting = {
            path: self.client.get(first.url(path)).content
            for path in ("/calibration", "/revisions", "/trials", "/sensors", "/logs")
        }
        self.walk(12, 12)
        for path, answer in resting.items():
            self.assertEqual(self.client.get(first.url(path)).content, answer, path)

    def test_every_old_revision_can_still_be_read_after_a_walk(self):
        walk = self.walk(21, 15)
        for row in walk.revisions():
            shown = self.get(f"/jobs/{walk.job}/calibration?revision={row['revision']}")
            self.assertEqual(shown["revision"], row["revision"])
            self.assertIn("cranking_fuel", shown["tables"])

    def test_what_a_trial_said_stands_though_the_tables_moved_on(self):
        walk = Walk(self, 31)
        walk.observe()
        trials = walk.trials()
        if not trials:
            walk.send(
                "/trials", {"observation": {"outcome": "no fire", "coolant_c": 5, "cranking_s": 6}}
            )
            trials = walk.trials()
        said = self.get(f"/jobs/{walk.job}/trials/{trials[0]['id']}")
        for _ in range(5):
            walk.edit()
        again = self.get(f"/jobs/{walk.job}/trials/{trials[0]['id']}")
        for member in ("verdict", "sentence", "figures", "findings", "number"):
            self.assertEqual(again[member], said[member], member)

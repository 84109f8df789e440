"""Training seasons over HTTP: virtual days, hidden truth, and what is never told before the end."""

import json

from django.db import IntegrityError, connection, transaction

from server.config.append_only import AppendOnlyError
from server.trainer.models import Step
from server.trainer.scenarios import SHIPPED
from server.trainer.services import _COMPARED

from .base import ApiTestCase


class TrainerTests(ApiTestCase):
    def begin(self, **body):
        return self.post("/trainer/seasons", body or {"key": "tender"})["job_id"]

    def crank(self, job, kind="cold", status=201):
        return self.post(f"/jobs/{job}/season/starts", {"kind": kind}, status=status)

    def test_six_scenarios_ship_and_each_can_be_read_again(self):
        found = self.get("/trainer/scenarios")
        self.assertEqual([entry["key"] for entry in found], list(SHIPPED))
        for entry in found:
            job = self.begin(scenario=json.dumps(entry["file"]))
            self.assertEqual(self.get(f"/jobs/{job}/season")["title"], entry["title"])

    def test_one_true_cold_start_a_day(self):
        job = self.begin()
        self.crank(job, "hot", status=409)
        trial = self.crank(job)["trial_id"]
        self.assertIn("verdict", self.get(f"/jobs/{job}/trials/{trial}"))
        self.crank(job, status=409)
        self.crank(job, "half-warm")
        season = self.post(f"/jobs/{job}/season/nights", {})
        self.assertEqual((season["day"], season["may_start"]), (2, ["cold"]))
        self.assertEqual([step["kind"] for step in season["steps"]], ["cold", "half-warm", "night"])

    def test_nothing_hidden_is_told_before_the_end(self):
        job = self.begin(key="crane")
        season = self.get(f"/jobs/{job}/season")
        self.assertNotIn("slow_pressure", json.dumps(season))
        self.assertIsNone(season["report"])

    def test_a_fault_is_found_by_looking_in_the_right_place(self):
        job = self.begin(key="crane")
        path = f"/jobs/{job}/season/looks"
        self.assertFalse(self.post(path, {"cause": "weak-battery"})["found"])
        self.assertTrue(self.post(path, {"cause": "late-pressure"})["found"])
        self.assertFalse(self.post(path, {"cause": "late-pressure"})["found"])
        self.post(path, {"cause": "gremlins"}, status=404)

    def test_the_end_tells_the_truth_and_how_other_hands_do(self):
        scenario = json.loads(json.dumps(self.get("/trainer/scenarios")[0]["file"]))
        scenario["days"] = 1
        job = self.begin(scenario=json.dumps(scenario))
        self.crank(job)
        task = self.post(f"/jobs/{job}/season/end", {}, status=202)
        self.assertEqual(task["state"], "done", task)
        report = self.get(f"/jobs/{job}/season")["report"]
        self.assertEqual(report["hands"][0]["name"], "you")
        self.assertEqual([hand["name"] for hand in report["hands"]][1:], list(_COMPARED))
        self.assertEqual([len(hand["mornings"]) for hand in report["hands"]], [1, 1, 1])
        (mine,), (theirs,) = (report["hands"][i]["mornings"] for i in (0, 1))
        # The same morning, the same tables, the same noise.
        self.assertEqual(mine["good"], theirs["good"])
        self.assertAlmostEqual(mine["coolant_c"], theirs["coolant_c"], delta=0.2)
        self.assertIn("evaporated", report["truth"][0])
        self.crank(job, "hot", status=409)
        other = self.begin(again=job)
        first, second = (self.get(f"/jobs/{j}/season") for j in (job, other))
        self.assertEqual(second["day"], 1)
        self.assertEqual(first["title"], second["title"])
        self.assertIsNotNone(second["morning_c"])

    def test_bad_scenarios_are_refused_with_a_sentence(self):
        good = self.get("/trainer/scenarios")[0]["file"]
        for wrong in (
            "{",
            "[]",
            json.dumps({**good, "gremlins": 3}),
            json.dumps({**good, "days": 1000}),
            json.dumps({**good, "faults": [{"kind": "gremlins"}]}),
            json.dumps({**good, "engine": {**good["engine"], "displacement_l": -2}}),
            "[" * 5000,
            " " * 30_000,
        ):
            with self.subTest(wrong=wrong[:40]):
                self.post("/trainer/seasons", {"scenario": wrong}, status=422)

    def test_a_season_is_the_workshop_s_own(self):
        job = self.begin()
        self.client.force_login(self.stranger)
        self.get(f"/jobs/{job}/season", status=404)
        self.crank(job, status=404)
        self.assertEqual(self.get("/trainer/seasons"), [])

    def test_a_job_without_a_season_says_so(self):
        job = self.make_job()["id"]
        self.get(f"/jobs/{job}/season", status=404)

    def test_every_shipped_season_begins_with_something_to_mend(self):
        for key in SHIPPED:
            job = self.begin(key=key)
            trial = self.get(f"/jobs/{job}/trials/{self.crank(job)['trial_id']}")
            with self.subTest(scenario=key):
                self.assertFalse(trial["good"])
                self.assertTrue(trial["advice"])

    def test_steps_are_written_once(self):
        job = self.begin()
        self.post(f"/jobs/{job}/season/nights", {})
        with self.assertRaises(AppendOnlyError):
            Step.objects.update(day=5)
        with self.assertRaises(IntegrityError), transaction.atomic():
            connection.cursor().execute("UPDATE trainer_step SET day = 5")

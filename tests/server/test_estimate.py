"""The estimate over HTTP: what trials taught, what counts, what may be said of tomorrow."""

from server.trials.models import Weighing

from .base import ApiTestCase


class EstimateTests(ApiTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()["id"]
        self.path = f"/jobs/{self.job}"

    def start(self, coolant=12, seed=1):
        log = self.post(
            f"{self.path}/bench/starts",
            {"coolant_c": coolant, "engine": "port_four", "seed": seed, "run_s": 120},
        )
        return self.post(f"{self.path}/trials", {"kind": "start", "log_id": log["log_id"]})

    def curve(self, table):
        return next(c for c in self.get(f"{self.path}/estimate")["curves"] if c["table"] == table)

    def test_without_a_start_the_engine_data_speak(self):
        found = self.get(f"{self.path}/estimate")
        self.assertEqual((found["evidence"], found["void"], found["aside"]), ([], 0, []))
        self.assertEqual(len(found["chances"]), len(self.curve("cranking_fuel")["at_c"]))
        self.assertTrue(all(c["coverage"] == "extrapolated" for c in found["chances"]))
        self.assertTrue(all(told == 0 for told in self.curve("idle_valve")["told"]))

    def test_a_log_narrows_the_bands_of_what_it_measured(self):
        before = self.curve("idle_valve")
        trial = self.start()
        after = self.curve("idle_valve")
        place = min(range(len(after["at_c"])), key=lambda i: abs(after["at_c"][i] - 15))
        width = [c["high"][place] / c["low"][place] for c in (before, after)]
        self.assertLess(width[1] - 1, 0.5 * (width[0] - 1))
        taught = {e["table"] for e in self.get(f"{self.path}/estimate")["evidence"]}
        self.assertLessEqual({"cranking_fuel", "idle_valve", "warm_up_enrichment"}, taught)
        (pull,) = self.get(f"{self.path}/estimate/pulls?table=idle_valve&coolant_c=15")
        self.assertEqual(pull["trial"], trial["number"])

    def test_a_trial_is_set_aside_and_counts_again(self):
        trial = self.start()
        path = f"{self.path}/trials/{trial['id']}/weigh"
        self.assert_problem(self.post(path, {"counts": False, "reason": " "}, status=422), "why")
        aside = self.post(path, {"counts": False, "reason": "choke tied open"})
        self.assertEqual(aside["evidence"], [])
        self.assertEqual(aside["aside"], [{"trial_id": trial["id"], "reason": "choke tied open"}])
        again = self.post(path, {"counts": True, "reason": "it was not"})
        self.assertTrue(again["evidence"])
        self.assertEqual(Weighing.objects.count(), 2)  # nothing is overwritten

    def test_what_is_set_aside_teaches_no_later_start(self):
        first = self.start()
        self.post(
            f"{self.path}/trials/{first['id']}/weigh", {"counts": False, "reason": "other fuel"}
        )
        second = self.start(30, seed=2)
        parts = [part for advice in second["advice"] for part in advice["measured"]]
        self.assertTrue(all(first["number"] not in part["trials"] for part in parts))

    def test_tomorrow_is_told_in_a_sentence(self):
        self.start()
        near = self.get(f"{self.path}/estimate/forecast?coolant_c=12")
        far = self.get(f"{self.path}/estimate/forecast?coolant_c=-25")
        self.assertIn("is good with", near["sentence"])
        self.assertIn("Nothing was tried near it yet", far["sentence"])
        self.assertLess(far["chance"]["good"], near["chance"]["good"])
        self.get(f"{self.path}/estimate/forecast?coolant_c=999", status=422)
        self.get(f"{self.path}/estimate/pulls?table=spark&coolant_c=10", status=422)

    def test_other_injectors_make_the_evidence_void(self):
        self.start()
        job = self.get(self.path)
        engine = {**job["engine"], "displacement_l": 2.4}
        self.put_engine(engine)
        found = self.get(f"{self.path}/estimate")
        self.assertEqual(found["evidence"], [])
        self.assertGreater(found["void"], 3)

    def put_engine(self, engine):
        from server.jobs.models import Job

        Job.objects.filter(pk=self.job).update(engine=engine)

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
        return self.get(f"{self.path}/ladder")["tables"][table]

    def test_without_a_start_the_engine_data_speak(self):
        found = self.get(f"{self.path}/ladder")
        self.assertEqual((found["evidence"], found["void"], found["struck"]), ([], 0, []))
        self.assertEqual(len(found["good_start"]), len(self.curve("cranking_fuel")["points"]))
        self.assertTrue(all(c["state"] == "extrapolated" for c in found["good_start"]))
        self.assertTrue(all(told == 0 for told in self.curve("idle_valve")["told"]))

    def test_a_log_narrows_the_bands_of_what_it_measured(self):
        before = self.curve("idle_valve")
        trial = self.start()
        after = self.curve("idle_valve")
        place = min(range(len(after["points"])), key=lambda i: abs(after["points"][i] - 15))
        width = [c["high"][place] / c["low"][place] for c in (before, after)]
        self.assertLess(width[1] - 1, 0.5 * (width[0] - 1))
        taught = {e["table"] for e in self.get(f"{self.path}/ladder")["evidence"]}
        self.assertLessEqual({"cranking_fuel", "idle_valve", "warm_up_enrichment"}, taught)
        (pull,) = self.get(f"{self.path}/ladder/pulls?table=idle_valve&coolant_c=15")
        self.assertEqual(pull["trial"], trial["number"])

    def test_a_trial_is_set_aside_and_counts_again(self):
        trial = self.start()
        path = f"{self.path}/ladder/evidence/{trial['number']}"
        self.assert_problem(self.post(f"{path}/strike", {"reason": " "}, status=422), "why")
        aside = self.post(f"{path}/strike", {"reason": "choke tied open"})
        self.assertEqual(aside["evidence"], [])
        self.assertEqual(
            aside["struck"], [{"number": trial["number"], "reason": "choke tied open"}]
        )
        again = self.post(f"{path}/restore", {"reason": "it was not"})
        self.assertTrue(again["evidence"])
        self.assertEqual(Weighing.objects.count(), 2)  # nothing is overwritten

    def test_what_is_set_aside_teaches_no_later_start(self):
        first = self.start()
        self.post(f"{self.path}/ladder/evidence/{first['number']}/strike", {"reason": "other fuel"})
        second = self.start(30, seed=2)
        self.assertTrue(all(first["number"] not in part["trials"] for part in second["advice"]))

    def test_tomorrow_is_told_in_a_sentence(self):
        self.start()
        near = self.get(f"{self.path}/ladder/forecast?coolant_c=12")
        far = self.get(f"{self.path}/ladder/forecast?coolant_c=-25")
        self.assertIn("is good with", near["sentence"])
        self.assertIn("Nothing was tried near it yet", far["sentence"])
        self.assertLess(far["chance"]["probability"], near["chance"]["probability"])
        self.get(f"{self.path}/ladder/forecast?coolant_c=999", status=422)
        self.get(f"{self.path}/ladder/pulls?table=spark&coolant_c=10", status=422)

    def test_a_plan_of_typed_mornings(self):
        self.start()
        plan = self.get(f"{self.path}/ladder/plan?mornings=-3,1,4")
        self.assertEqual([m["minimum_c"] for m in plan["mornings"]], [-3.0, 1.0, 4.0])
        self.assertIn("experiments", plan)
        self.assertTrue(plan["tomorrow"])
        self.assertEqual(self.get(f"{self.path}/ladder/plan")["mornings"], [])  # none is entered
        for text in ("-3,frost", "-90", "nan", ",".join(["1"] * 61)):
            self.get(f"{self.path}/ladder/plan?mornings={text}", status=422)

    def test_other_injectors_make_the_evidence_void(self):
        self.start()
        job = self.get(self.path)
        engine = {**job["engine"], "displacement_l": 2.4}
        self.put_engine(engine)
        found = self.get(f"{self.path}/ladder")
        self.assertEqual(found["evidence"], [])
        self.assertGreater(found["void"], 3)

    def put_engine(self, engine):
        from server.jobs.models import Job

        job = Job.objects.get(pk=self.job)
        job.engine = engine
        job.save()

    def test_what_was_accepted_is_evidence_in_every_cell_it_changed(self):
        trial = self.start()
        self.post(f"{self.path}/trials/{trial['id']}/accept", {})
        tables = self.get(f"{self.path}/calibration")["tables"]
        changed = {
            (key, i)
            for key, table in tables.items()
            for i, mark in enumerate(table["provenance"])
            if isinstance(mark, dict) and mark.get("source") == f"trial {trial['number']}"
        }
        self.assertGreater(len(changed), 3)
        for key in {key for key, _ in changed}:
            found = self.get(f"{self.path}/table-bench/evidence?table={key}")["hits"]
            for cell in (i for of, i in changed if of == key):
                self.assertGreaterEqual(found[cell], 1.0, (key, cell))
            self.assertLessEqual(sum(found), 1.0 + len(changed))

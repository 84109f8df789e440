"""What other engines of the workshop teach, and which starts prove a temperature."""

import numpy as np

from server.jobs.models import Job
from server.trials.estimates import estimate_of
from server.trials.likes import known_of
from server.trials.models import Trial
from server.trials.proofs import proofs_of

from .base import ApiTestCase


class LikesTests(ApiTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()["id"]
        self.other = self.make_job()["id"]

    def good_starts(self, job, *places, **more):
        """Write starts that go as they should: at the job's own idle and mixture targets."""
        tables = self.get(f"/jobs/{job}/calibration")["tables"]
        mixture, idle = tables["lambda_target"]["values"][0][0], tables["idle_target"]
        for place in places:
            target = float(np.interp(place, idle["axes"][0]["points"], idle["values"]))
            seen = {
                "outcome": "started",
                "coolant_c": place,
                "cranking_s": 0.8,
                "flare_rpm": target + 200.0,
                "dip_rpm": target - 50.0,
                "settled_rpm": target,
                "lambda_later": mixture,
            }
            trial = self.post(f"/jobs/{job}/trials", {"observation": seen, **more})
            self.assertTrue(trial["good"], trial["acceptance"])

    def change(self, job, table, factor):
        """Write a revision with a table of other values."""
        calibration = self.get(f"/jobs/{job}/calibration")
        values = [v * factor for v in calibration["tables"][table]["values"]]
        body = {"note": "more", "based_on": calibration["revision"], "tables": {table: {"values": values}}}  # fmt: skip
        self.post(f"/jobs/{job}/calibration", body)

    def known(self):
        return known_of(Job.objects.get(pk=self.job))

    def test_proven_starts_of_a_like_engine_teach(self):
        self.assertEqual(self.known(), ())
        self.good_starts(self.other, 10.0)
        self.assertEqual(self.known(), ())  # one good start proves nothing
        self.good_starts(self.other, 11.0)
        self.assertEqual({e.kind for e in self.known()}, {"like"})

    def test_a_simulated_engine_teaches_nothing_of_a_real_one(self):
        for seed in (1, 2, 3):
            log = self.post(
                f"/jobs/{self.other}/bench/starts",
                {"coolant_c": 80, "engine": "port_four", "seed": seed, "run_s": 90},
            )
            self.post(f"/jobs/{self.other}/trials", {"log_id": log["log_id"]})
        self.assertEqual(self.known(), ())

    def test_another_workshop_s_engines_stay_there(self):
        self.good_starts(self.other, 10.0, 11.0)
        self.client.force_login(self.stranger)
        mine = self.make_job()["id"]
        self.assertEqual(known_of(Job.objects.get(pk=mine)), ())

    def test_the_estimate_follows_what_happens_beside_it(self):
        job = Job.objects.get(pk=self.job)
        before = estimate_of(job)
        self.good_starts(self.other, 10.0, 11.0)
        after = estimate_of(job)
        self.assertEqual((before.believed.evidence, bool(after.believed.evidence)), ((), True))
        self.change(self.other, "after_start_enrichment", 1.2)
        changed = [e.value for e in estimate_of(job).believed.evidence]
        self.assertNotEqual(changed, [e.value for e in after.believed.evidence])
        for _ in range(2):  # what was proven is so no longer
            seen = {"outcome": "no fire", "coolant_c": 10.0, "cranking_s": 6.0}
            self.post(f"/jobs/{self.other}/trials", {"observation": seen})
        self.assertEqual(estimate_of(job).believed.evidence, ())

    def test_half_warm_starts_and_later_attempts_prove_nothing(self):
        self.good_starts(self.job, 20.0, soak_h=4.0)
        self.good_starts(self.job, 20.0, attempt=2)
        self.good_starts(self.job, 60.0, soak_h=1.0)
        self.good_starts(self.job, 18.0, soak_h=12.0)
        self.good_starts(self.job, 12.0)
        proofs = proofs_of(Job.objects.get(pk=self.job))
        self.assertEqual([place for place, _ in proofs], [60.0, 18.0, 12.0])

    def test_an_attempt_that_cannot_be_is_refused(self):
        for attempt in (0, 21):
            body = {"observation": {"outcome": "no fire", "coolant_c": 10.0}, "attempt": attempt}
            self.assert_problem(self.post(f"/jobs/{self.job}/trials", body, status=422))

    def test_smoke_and_smell_are_kept_and_lean_towards_too_rich(self):
        wet = {"outcome": "no fire", "coolant_c": 10.0, "cranking_s": 6.0}
        dry = self.post(f"/jobs/{self.job}/trials", {"observation": wet})
        rich = self.post(
            f"/jobs/{self.other}/trials",
            {"observation": wet, "black_smoke": True, "fuel_smell": True},
        )
        row = Trial.objects.get(pk=rich["id"])
        self.assertTrue(row.black_smoke and row.fuel_smell)
        odds = [
            next(
                e["outcome"]["lean_log_odds"]
                for e in Trial.objects.get(pk=one["id"]).analysis["taught"]
                if e["outcome"]
            )
            for one in (dry, rich)
        ]
        self.assertLess(odds[1], odds[0] - 2.0)

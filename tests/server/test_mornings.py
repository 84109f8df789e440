"""The mornings of a job over HTTP: what is entered, what is refused, what the board shows."""

from .base import ApiTestCase


class MorningsTests(ApiTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()["id"]
        self.path = f"/jobs/{self.job}/mornings"

    def test_without_anything_the_trade_s_cooling_and_no_plan(self):
        found = self.get(self.path)
        self.assertEqual((found["number"], found["mornings"], found["parked"]), (0, [], []))
        self.assertIn("Type the minima", found["season"])
        self.assertEqual(found["tomorrow"], "")
        self.assertIsNone(found["standing"]["at"])

    def test_an_entry_gives_a_plan_and_a_ready_time(self):
        found = self.post(
            self.path,
            {
                "parked": [
                    {"parking": "a", "stood_h": 3, "coolant_c": 31.0, "ambient_c": 6.0},
                    {"parking": "a", "stood_h": 6, "coolant_c": 14.0, "ambient_c": 6.0},
                ],
                "pasted": "2099-01-01 -4\n2099-01-02 −6,5",
                "monthly_c": [-2, -1, 2, 5, 9, 12, 14, 13, 10, 6, 2, -1],
                "stopped_at": "2026-11-28T18:00:00+01:00",
                "ambient_c": 2.0,
            },
        )
        self.assertEqual(found["number"], 1)
        self.assertEqual(found["minima"][1], {"day": "2099-01-02", "minimum_c": -6.5})
        self.assertEqual(found["standing"]["readings"], 2)
        self.assertGreater(len(found["mornings"]), 30)
        self.assertIn("cold start", found["tomorrow"])
        self.assertIn("teaches most", found["until_then"])
        (ready,) = self.get("/mornings/ready")
        self.assertEqual(ready["job_id"], self.job)
        self.assertLess(ready["low"], ready["at"])
        self.assertLess(ready["at"], ready["high"])
        again = self.post(self.path, {"monthly_c": []})
        self.assertEqual((again["number"], again["mornings"]), (2, []))

    def test_what_cannot_be_is_refused_and_nothing_is_written(self):
        for body in (
            {"pasted": "tomorrow cold"},
            {"monthly_c": [1, 2, 3]},
            {"stopped_at": "noon"},
            {"parked": [{"parking": "a", "stood_h": -2, "coolant_c": 30, "ambient_c": 5}]},
            {"minima": [{"day": "2026-02-30", "minimum_c": 1}]},
        ):
            with self.subTest(body=body):
                self.post(self.path, body, status=422)
        self.assertEqual(self.get(self.path)["number"], 0)

    def test_the_plan_follows_what_starts_teach(self):
        self.post(self.path, {"monthly_c": [10] * 12})
        before = self.get(self.path)["mornings"][0]["good"]
        for seed in (1, 2):
            log = self.post(
                f"/jobs/{self.job}/bench/starts",
                {"coolant_c": 10, "engine": "port_four", "seed": seed, "run_s": 90},
            )
            self.post(f"/jobs/{self.job}/trials", {"log_id": log["log_id"]})
        self.assertNotEqual(self.get(self.path)["mornings"][0]["good"], before)

"""Station 8 over HTTP: what is read of the warm idle, its verdict, and what goes into the tables."""

from .base import ApiTestCase

VALVE = {"opens_pct": 24.0, "full_pct": 72.0, "kind": "two_wire"}


class IdleTests(ApiTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()["id"]
        self.path = f"/jobs/{self.job}/idle"

    def bench(self, run, **more):
        body = {"run": run, "valve": VALVE, "trouble": {"stop": 1.9}, **more}
        return self.post(f"/jobs/{self.job}/bench/idle", body)["log_id"]

    def read_all(self):
        self.post(f"{self.path}/stop", {"readings": [{"valve_pct": 31, "rpm": 770, "target_rpm": 770}]}, status=200)  # fmt: skip
        self.post(f"{self.path}/return", {"log_id": self.bench("returns", spread_pct=0.05)}, status=200)  # fmt: skip
        return self.post(f"{self.path}/hunting", {"log_id": self.bench("idle")}, status=200)

    def test_nothing_read_is_missing_and_does_not_refuse(self):
        found = self.get(self.path)
        self.assertEqual((found["is_true"], found["is_refused"]), (False, False))
        self.assertIn("Still to be read", found["sentence"])
        self.assertEqual({p["state"] for p in found["points"]}, {"missing"})
        self.assertGreater(len(self.get("/idle/rules")), 8)

    def test_a_warm_idle_becomes_true_and_falls_when_the_stop_is_turned(self):
        steady = self.read_all()
        self.assertEqual((steady["hunting"], steady["cause"]), (False, "none"))
        found = self.get(self.path)
        self.assertTrue(found["is_true"], found["sentence"])
        self.assertTrue(found["gate"]["is_open"])
        turned = [
            {"valve_pct": 31, "rpm": 770, "target_rpm": 770},
            {"valve_pct": 38, "rpm": 770, "turned": -0.2, "target_rpm": 770},
        ]
        self.post(f"{self.path}/stop", {"readings": turned}, status=200)
        found = self.get(self.path)
        self.assertEqual((found["is_true"], found["is_refused"]), (False, True))
        states = {p["key"]: p["state"] for p in found["points"]}
        self.assertEqual((states["stop"], states["hunting"], states["return"]), ("good", "stale", "stale"))  # fmt: skip

    def test_a_sweep_tells_the_limits_and_takes_them_into_the_table(self):
        swept = self.post(f"{self.path}/sweeps", {"log_id": self.bench("sweep")})
        self.assertTrue(swept["told"], swept["sentence"])
        self.assertAlmostEqual(swept["minimum_pct"], 24.0, delta=2.0)
        self.assertAlmostEqual(swept["maximum_pct"], 72.0, delta=2.0)
        self.assertFalse(swept["inverted"])
        self.assertLess(swept["errors"]["minimum_pct"], 4.0)
        self.assertIsNotNone(swept["loop"])
        before = len(self.get(f"/jobs/{self.job}/revisions"))
        taken = self.post(f"{self.path}/sweeps/1/take", {"rescale": True}, status=200)
        values = self.get(f"/jobs/{self.job}/calibration")["tables"]["idle_valve"]["values"]
        self.assertGreaterEqual(min(values), swept["minimum_pct"] - 0.1)
        self.assertLessEqual(max(values), swept["maximum_pct"] + 0.1)
        self.assertEqual(len(self.get(f"/jobs/{self.job}/revisions")), before + 1)
        self.assertIsNotNone(taken["revision"])
        # The stop is judged by these limits from now on.
        stop = self.post(f"{self.path}/stop", {"readings": [{"valve_pct": 27, "rpm": 760}], "keep": False}, status=200)  # fmt: skip
        self.assertEqual((stop["true"], stop["turn"]), (False, "close"))

    def test_what_speaks_against_it_closes_the_ladder_until_a_reason_is_written(self):
        body = {"loops": {"spark_gain": 0.3, "spark_delay_s": 0.3}, "trouble": {"stop": 1.0}}
        hunts = self.post(
            f"{self.path}/hunting", {"log_id": self.bench("idle", **body)}, status=200
        )
        self.assertTrue(hunts["hunting"], hunts["advice"])
        self.assertEqual(hunts["cause"], "spark_correction")
        trial = self.cold_trial()
        refused = self.post(f"/jobs/{self.job}/trials/{trial}/accept", {}, status=409)
        self.assertIn("warm idle", refused["detail"])
        self.post(f"{self.path}/reason", {"reason": "no"}, status=422)
        opened = self.post(f"{self.path}/reason", {"reason": "The cam lopes on purpose."}, status=200)  # fmt: skip
        self.assertTrue(opened["gate"]["is_open"])
        self.post(f"/jobs/{self.job}/trials/{trial}/accept", {}, status=201)
        # Read again, it counts again.
        self.post(f"{self.path}/hunting", {"log_id": self.bench("idle", **body)}, status=200)
        self.assertFalse(self.get(self.path)["gate"]["is_open"])

    def cold_trial(self):
        start = self.post(f"/jobs/{self.job}/bench/starts", {"coolant_c": -5, "faults": [], "seed": 3})  # fmt: skip
        return self.post(f"/jobs/{self.job}/trials", {"log_id": start["log_id"]})["number"]

    def test_air_loads_spark_and_steps(self):
        air = self.post(
            f"{self.path}/air", {"rpm": 780, "map_kpa": 38, "meter_gps": 1.2}, status=200
        )
        self.assertGreater(air["breathed_gps"], 0.5)
        load = self.post(f"{self.path}/loads", {"load": "gear", "idle_rpm": 780, "lowest_rpm": 100}, status=200)  # fmt: skip
        self.assertTrue(load["stalled"])
        spark = self.get(f"{self.path}/spark?lopey=1")
        self.assertEqual(max(spark["correction_deg"]), 35.0)
        self.assertIsNotNone(
            self.post(f"{self.path}/spark", {"lopey": 0.0}, status=200)["revision"]
        )
        self.assertIsNotNone(self.post(f"{self.path}/step", {"outcome": "bigger_cam"}, status=200)["revision"])  # fmt: skip
        carried = self.post(
            "/idle/carry",
            {
                "openings": [10, 30, 50],
                "here": {"openings": [0, 100], "flows_gps": [0, 10]},
                "there": {"openings": [0, 255], "flows_gps": [8, 0]},
            },
            status=200,
        )
        self.assertEqual(carried["flows_gps"], [1.0, 3.0, 5.0])
        self.assertGreater(carried["openings"][0], carried["openings"][2])

    def test_what_cannot_be_is_refused_with_a_sentence(self):
        start = self.post(f"/jobs/{self.job}/bench/starts", {"coolant_c": 10, "faults": [], "seed": 3})  # fmt: skip
        for path, body, status in (
            ("stop", {"readings": []}, 422),
            ("stop", {"readings": [{"valve_pct": 300, "rpm": 800}]}, 422),
            ("return", {"closings": []}, 422),
            ("return", {"log_id": start["log_id"]}, 422),
            ("sweeps", {"log_id": 999_999}, 404),
            ("hunting", {"log_id": start["log_id"], "start_s": 0, "end_s": 3}, 422),
            ("sweeps/7/take", {}, 404),
            ("air", {"rpm": 800}, 422),
            ("loads", {"load": "gear"}, 422),
            ("step", {"outcome": "sings"}, 422),
        ):
            with self.subTest(path=path, body=body):
                self.post(f"{self.path}/{path}", body, status=status)
        untold = self.post(f"{self.path}/sweeps", {"log_id": start["log_id"]})
        self.assertFalse(untold["told"])
        self.post(f"{self.path}/sweeps/1/take", {}, status=409)

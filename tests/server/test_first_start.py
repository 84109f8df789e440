"""Station 7 over HTTP: the run sheet, its stops, what is skipped and why, and the start itself."""

from .base import ApiTestCase

FINE = {
    "oil_kpa": 260.0, "rail_kpa": 300.0, "fall_kpa": 10.0, "to_pressure_s": 1.2, "cranking_rpm": 190.0,
    "charging_v": 14.1, "coolant_c": 82.0, "lambda": 0.95, "timing_off_deg": 0.5, "flood_clear_pct": 90.0,
    "counted_min": 20.0, "pulls": 10.0,
}  # fmt: skip


class FirstStartTests(ApiTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()["id"]
        self.path = f"/jobs/{self.job}/first-start"

    def do(self, step, **more):
        values = [
            {"key": r["key"], "value": more.pop(r["key"], FINE[r["key"]])} for r in step["readings"]
        ]
        return self.post(f"{self.path}/steps/{step['key']}", {"values": values, **more}, status=200)

    def current(self, sheet):
        return next(step for step in sheet["steps"] if step["key"] == sheet["current"])

    def until(self, key):
        sheet = self.get(self.path)
        while sheet["current"] != key:
            step = self.current(sheet)
            sheet = self.do(step, choice="runs") if step["choice"] else self.do(step)
        return sheet

    def test_the_steps_follow_from_the_job_and_how_it_stands_there(self):
        keys = [s["key"] for s in self.get(self.path)["steps"]]
        self.assertIn("crank_oil", keys)
        self.assertNotIn("run_in", keys)
        self.assertNotIn("turbo_oil", keys)
        changed = self.post(
            f"{self.path}/setup",
            {
                "setup": {
                    "fresh": True,
                    "flat_tappets": True,
                    "coolant_filled": False,
                    "automatic": True,
                }
            },
            status=200,
        )
        keys = [s["key"] for s in changed["steps"]]
        self.assertIn("run_in", keys)
        self.assertIn("coolant_short", keys)
        run = self.post(f"{self.path}/setup", {"setup": {"fresh": False}}, status=200)
        self.assertNotIn("crank_oil", [s["key"] for s in run["steps"]])
        self.assertTrue(run["gates"])
        self.assertTrue(all(gate["risk"] for gate in run["gates"]))

    def test_a_whole_first_start_from_key_to_record(self):
        sheet = self.until(None)
        self.assertTrue(all(s["closed"] for s in sheet["steps"]))
        self.assertEqual(sheet["stop"], "")
        self.assertTrue(all(s["by"] for s in sheet["steps"]))

    def test_a_reading_that_says_stop_names_limit_and_reading_and_holds_the_sheet(self):
        self.until("oil_runs")
        held = self.do(self.current(self.get(self.path)), oil_kpa=20.0)
        self.assertEqual(held["current"], "oil_runs")
        self.assertIn("STOP", held["stop"])
        self.assertIn("20", held["stop"])
        self.assertIn("100", held["stop"])
        mended = self.do(self.current(held), oil_kpa=320.0)
        self.assertEqual((mended["stop"], mended["current"]), ("", "charging"))

    def test_what_it_did_leads_to_one_next_action_and_a_trial(self):
        self.until("crank")
        step = self.current(self.get(self.path))
        for choice, words in (
            ("nothing", "sparks"),
            ("fires_and_dies", "Cranking fuel"),
            ("only_on_pedal", "cranking air"),
        ):
            held = self.do(step, choice=choice, coolant_c=14.0)
            self.assertEqual(held["current"], "crank")
            self.assertIn(words, held["stop"])
        trials = self.get(f"/jobs/{self.job}/trials")
        self.assertEqual(
            [t["verdict"] for t in trials], ["started on the pedal", "fired and died", "no fire"]
        )
        self.assertEqual(self.do(step, choice="runs")["current"], "oil_runs")

    def test_skipping_asks_why_and_nothing_impossible_is_taken(self):
        self.post(f"{self.path}/steps/fluids/skip", {"reason": ""}, status=422)
        skipped = self.post(
            f"{self.path}/steps/fluids/skip", {"reason": "Filled and seen yesterday."}, status=200
        )
        first = skipped["steps"][0]
        self.assertEqual(
            (first["key"], first["done"]["skipped"]), ("fluids", "Filled and seen yesterday.")
        )
        for key, body, status in (
            ("nowhere", {}, 404),
            ("key_1", {}, 422),
            ("key_1", {"values": [{"key": "rail_kpa", "value": 1e9}]}, 422),
            ("fluids", {"values": [{"key": "odd", "value": 1}]}, 422),
            ("crank", {"choice": "sings"}, 422),
            ("crank", {"choice": "nothing", "coolant_c": 900}, 422),
        ):
            with self.subTest(key=key, body=body):
                self.post(f"{self.path}/steps/{key}", body, status=status)

    def test_the_run_in_counts_only_inside_its_band(self):
        log = self.post(f"/jobs/{self.job}/bench/idle", {"run": "idle"})["log_id"]
        found = self.post(f"{self.path}/run-in", {"log_id": log, "before_s": 60}, status=200)
        self.assertEqual((found["counted_s"], found["done"]), (60.0, False))
        self.assertGreater(found["outside_s"], 30.0)

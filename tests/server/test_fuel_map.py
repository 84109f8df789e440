"""The fuel map over HTTP: drives, a pass, taking it, and what stands in its way."""

from unittest.mock import patch

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile

from server.fuelling.kinds import PASS
from server.jobs.models import Job

from .base import ApiTestCase


class FuelMapTests(ApiTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()["id"]

    def drive(self, **more):
        body = {"engine": "port_four", "minutes": 2, "seed": 4, **more}
        return self.post(f"/jobs/{self.job}/bench/drive", body, 202)["result"]["log_id"]

    def solve(self, *logs, status=202, **more):
        return self.post(f"/jobs/{self.job}/fuel-map", {"log_ids": list(logs), **more}, status)

    def test_drives_become_a_pass_that_is_taken_in_part_and_tested_by_the_next(self):
        first = self.drive()
        number = self.solve(first, self.drive(seed=5))["result"]["number"]
        found = self.get(f"/jobs/{self.job}/fuel-map/{number}")["result"]
        self.assertEqual([log["log_id"] for log in found["logs"]][0], first)
        self.assertGreater(found["logs"][0]["readings"], 20)
        self.assertIn("overrun", {layer["key"] for layer in found["logs"][0]["layers"]})
        rows = [r for r, row in enumerate(found["change"]) if any(f != 1 for f in row)]
        self.assertGreater(len(rows), 2)
        region = {"first_row": 0, "last_row": rows[0], "first_column": 0, "last_column": 99}
        body = {"region": region, "reason": "Only to see what it does."}
        taken = self.post(f"/jobs/{self.job}/fuel-map/{number}/accept", body, 200)
        table = self.get(f"/jobs/{self.job}/calibration")["tables"]["ve"]
        for column, factor in enumerate(found["change"][rows[0]]):
            if factor != 1:
                self.assertAlmostEqual(table["values"][rows[0]][column], found["values"][rows[0]][column])  # fmt: skip
        self.assertEqual(taken["revision"], 2)
        self.assertIn("fuel map", str(table["provenance"]))
        # The map is another now: what was computed on the old one is not taken any more.
        again = self.post(f"/jobs/{self.job}/fuel-map/{number}/accept", {"reason": "once more, please"}, 409)  # fmt: skip
        self.assert_problem(again, "changed after this pass")
        second = self.solve(first)["result"]["number"]
        listed = self.get(f"/jobs/{self.job}/fuel-map")["passes"]
        self.assertEqual([p["number"] for p in listed], [second, number])
        self.assertEqual([p["taken"] for p in listed], [False, True])

    def test_once_the_ladder_is_proven_the_map_is_next_and_then_pulls(self):
        for coolant_c in (-10, 0, 10, 20, 40, 60, 85):
            target = self.get(f"/jobs/{self.job}/calibration")["tables"]["idle_target"]
            idle = float(np.interp(coolant_c, target["axes"][0]["points"], target["values"]))
            seen = {"outcome": "started", "coolant_c": coolant_c, "cranking_s": 0.6, "flare_rpm": idle + 200,
                    "dip_rpm": idle - 10, "settled_rpm": idle, "lambda_later": 0.95}  # fmt: skip
            told = self.post(f"/jobs/{self.job}/trials", {"observation": seen})
            self.assertTrue(told["good"], (coolant_c, told["sentence"], told["advice"]))
        path = f"/jobs/{self.job}"
        self.assertEqual(self.get(path)["next_action"]["station"], "fuel-map")
        number = self.solve(self.drive())["result"]["number"]
        self.assertEqual(self.get(path)["next_action"]["station"], "pulls")
        tells = self.get(f"{path}/fuel-map/{number}")
        self.assertLess(set(tells["rest_tells"]), set(tells["result"]["rests"]))

    def test_a_likely_cause_asks_for_a_written_reason(self):
        number = self.solve(self.drive(faults=[{"kind": "injector_flow", "size": 0.82}], minutes=4))["result"]["number"]  # fmt: skip
        found = self.get(f"/jobs/{self.job}/fuel-map/{number}")["result"]
        self.assertTrue(found["blocks"], found["cause_sentence"])
        self.assertTrue(found["deciding_test"])
        path = f"/jobs/{self.job}/fuel-map/{number}/accept"
        self.assert_problem(self.post(path, {}, 422), "why the map is changed")
        self.post(path, {"reason": "The injectors were flowed and are as entered."}, 200)
        taken = self.get(f"/jobs/{self.job}/fuel-map/{number}")["taken"]
        self.assertEqual(taken[0]["reason"], "The injectors were flowed and are as entered.")

    def test_what_came_after_a_pass_is_told_and_a_reason_makes_it_the_engines_own(self):
        sound = self.solve(self.drive(minutes=4))["result"]["number"]
        self.post(f"/jobs/{self.job}/fuel-map/{sound}/accept", {"reason": "As it is."}, 200)
        weak = {"faults": [{"kind": "injector_flow", "size": 0.86}], "minutes": 4}
        found = self.get(f"/jobs/{self.job}/fuel-map/{self.solve(self.drive(seed=6, **weak))['result']['number']}")  # fmt: skip
        self.assertEqual(found["result"]["earlier"], [sound])
        self.assertTrue(found["result"]["blocks"], found["result"]["cause_sentence"])
        first = found["result"]["causes"][0]
        self.assertEqual((first["key"], first["since"]), ("fuel-per-pulse", True))
        self.assertAlmostEqual(first["size"], 100 * (1 / 0.86 - 1), delta=1.6)
        mended = [{"key": first["key"], "size": first["size"], "since": True}]
        logs = [log["log_id"] for log in found["result"]["logs"]]
        again = self.solve(*logs, mended=mended)["result"]["number"]
        self.assertFalse(self.get(f"/jobs/{self.job}/fuel-map/{again}")["result"]["blocks"])
        # Taken with a reason, that is how the engine is; what was driven before tells nothing any more.
        number = found["number"]
        self.post(f"/jobs/{self.job}/fuel-map/{number}/accept", {"reason": "Other injectors were fitted."}, 200)  # fmt: skip
        later = self.get(f"/jobs/{self.job}/fuel-map/{self.solve(self.drive(seed=8, **weak))['result']['number']}")["result"]  # fmt: skip
        self.assertEqual(later["earlier"], [number])
        self.assertFalse(later["causes"] and later["causes"][0]["since"] and later["blocks"])

    def test_other_engine_data_make_earlier_drives_another_engines(self):
        self.solve(self.drive())
        job = Job.objects.get(pk=self.job)
        job.engine["displacement_l"] += 0.02
        job.save()
        second = self.solve(self.drive(seed=5))["result"]["number"]
        self.assertEqual(self.get(f"/jobs/{self.job}/fuel-map/{second}")["result"]["earlier"], [])
        third = self.solve(self.drive(seed=6))["result"]["number"]
        self.assertEqual(self.get(f"/jobs/{self.job}/fuel-map/{third}")["result"]["earlier"], [second])  # fmt: skip

    def test_a_log_that_is_set_aside_corrects_nothing_until_it_counts_again(self):
        first = self.drive()
        self.solve(first)
        path = f"/jobs/{self.job}/logs/{first}/aside"
        self.assert_problem(
            self.post(path, {"aside": True}, 422), "Say why this log does not count"
        )
        self.assert_problem(self.post(path, {"aside": False}, 422), "It counts as it is")
        put = self.post(path, {"aside": True, "reason": "The wideband hung in the wind."}, 200)
        self.assertEqual(put["set_aside"], "The wideband hung in the wind.")
        self.assert_problem(self.post(path, {"aside": True, "reason": "once more, please"}, 422), "already")  # fmt: skip
        for asked in ("fuel-map", "fuel-map/transients"):
            answer = self.post(f"/jobs/{self.job}/{asked}", {"log_ids": [first]}, 422)
            self.assert_problem(answer, "is set aside: The wideband hung in the wind.")
        # Nor is it held against the next drive.
        second = self.drive(seed=5)
        alone = self.solve(second)["result"]["number"]
        self.assertEqual(self.get(f"/jobs/{self.job}/fuel-map/{alone}")["result"]["earlier"], [])
        self.post(path, {"aside": False}, 200)
        listed = {log["id"]: log["set_aside"] for log in self.get(f"/jobs/{self.job}/logs")}
        self.assertEqual(listed, {first: None, second: None})
        again = self.solve(second)["result"]["number"]
        self.assertEqual(self.get(f"/jobs/{self.job}/fuel-map/{again}")["result"]["earlier"], [1])
        self.post(
            f"/jobs/{self.job}/logs/999/aside", {"aside": True, "reason": "There is none."}, 404
        )

    def test_what_cannot_be_is_refused_and_writes_nothing(self):
        log = self.drive()
        for body, word in (
            ({"log_ids": []}, "1 to 40 logs"),
            ({"log_ids": [log], "authority": 3}, "1 to 30 %"),
            ({"log_ids": [log], "filters": ["sunshine"]}, "no layer 'sunshine'"),
        ):
            with self.subTest(word):
                self.assert_problem(self.post(f"/jobs/{self.job}/fuel-map", body, 422), word)
        self.solve(log + 999, status=404)
        self.get(f"/jobs/{self.job}/fuel-map/7", 404)
        start = self.upload(self.job, b"time,rpm,map kPa\n0,800,40\n1,810,41\n2,820,40\n")["id"]
        task = self.solve(start)
        self.assertEqual(task["state"], "failed")
        self.assertIn("missing", task["problem"]["detail"])
        self.assertEqual(PASS.rows(Job.objects.get(pk=self.job)).count(), 0)

    def test_a_pass_that_breaks_off_writes_nothing(self):
        log = self.drive()
        with (
            patch("server.fuelling.services.fingerprint_of_drives", side_effect=RuntimeError("x")),
            self.assertLogs("server.tasks.services", "ERROR"),
        ):
            self.assertEqual(self.solve(log)["state"], "failed")
        self.assertEqual(self.get(f"/jobs/{self.job}/fuel-map")["passes"], [])

    def test_transients_are_read_and_their_enrichment_taken(self):
        log = self.drive(pedal_steps=True, minutes=4)
        path = f"/jobs/{self.job}/fuel-map/transients"
        self.assertIsNone(self.get(path)["number"])
        number = self.post(path, {"log_ids": [log]}, 202)["result"]["number"]
        found = self.get(path)["read"]["found"]
        self.assertGreater(len(found["steps"]), 8)
        self.assertGreater(found["overrun"]["overruns"], 0)
        answer = self.post(f"{path}/{number}/accept", {}, None)
        if found["enrichment"] is None:  # a map that is not proven yet tells none
            self.assert_problem(answer, "proposed no enrichment")
        else:
            tables = self.get(f"/jobs/{self.job}/calibration")["tables"]
            self.assertEqual(tables["acceleration_enrichment"]["values"], found["enrichment"]["percent"])  # fmt: skip
        self.assert_problem(self.post(f"{path}/99/accept", {}, 404), "no such reading")
        self.assert_problem(self.post(path, {"log_ids": []}, 422), "1 to 40 logs")

    def test_trims_by_cylinder_go_into_a_table_of_their_own(self):
        log = self.drive(minutes=3)
        rows = (
            self.client.get(f"/api/jobs/{self.job}/logs/{log}/export?format=csv")
            .content.decode()
            .splitlines()
        )
        at = next(i for i, head in enumerate(rows[0].split(",")) if head.split(" (")[0] == "lambda")
        shares = (1.0, 0.95, 1.05, 1.0)
        lines = [rows[0] + "".join(f",Lambda cylinder {n}" for n in (1, 2, 3, 4))]
        for row in rows[1:]:
            mixture = row.split(",")[at]
            lines.append(
                row + "".join(f",{float(mixture) * s:.4f}" if mixture else "," for s in shares)
            )
        file = SimpleUploadedFile("cylinders.csv", "\n".join(lines).encode())
        brought = self.client.post(f"/api/jobs/{self.job}/logs", {"file": file}).json()["id"]
        number = self.solve(brought)["result"]["number"]
        found = self.get(f"/jobs/{self.job}/fuel-map/{number}")
        self.assertTrue(found["trims"], found["result"]["cylinders"])
        path = f"/jobs/{self.job}/fuel-map/{number}/corrections/cylinder_trim"
        self.post(path, {}, 200)
        table = self.get(f"/jobs/{self.job}/calibration")["tables"]["cylinder_trim"]
        self.assertEqual(table["axes"][0]["points"], [1, 2, 3, 4])
        for value, share in zip(table["values"], shares, strict=True):
            self.assertAlmostEqual(value, 100.0 * share, delta=1.0)
        self.assert_problem(self.post(path, {}, 409), "solve it again")
        plain = self.solve(log)["result"]["number"]
        self.assertFalse(self.get(f"/jobs/{self.job}/fuel-map/{plain}")["trims"])
        path = f"/jobs/{self.job}/fuel-map/{plain}/corrections/cylinder_trim"
        self.assert_problem(self.post(path, {}, 422), "No cylinder stands out")

    def test_a_mended_cause_is_taken_off_and_said(self):
        log = self.drive(faults=[{"kind": "injector_flow", "size": 0.8}], minutes=4)
        first = self.get(f"/jobs/{self.job}/fuel-map/{self.solve(log)['result']['number']}")["result"]  # fmt: skip
        cause = first["causes"][0]
        mended = [{"key": cause["key"], "size": cause["size"], "since": False}]
        number = self.solve(log, mended=mended)["result"]["number"]
        again = self.get(f"/jobs/{self.job}/fuel-map/{number}")["result"]
        self.assertEqual(again["mended"], mended)
        self.assertFalse(again["blocks"], again["cause_sentence"])
        told = {c["key"]: c["is_told"] for c in again["corrections"]}
        self.assertEqual(told, {"charge_temperature_correction": False, "barometric_correction": False, "warm_up_enrichment": False})  # fmt: skip
        path = f"/jobs/{self.job}/fuel-map/{number}/corrections/barometric_correction"
        self.assert_problem(self.post(path, {}, 422), "told no such correction")

    def test_tables_that_a_job_has_not_are_not_corrected(self):
        log = self.drive()
        self.assertEqual(list(self.get(f"/jobs/{self.job}/fuel-map")["tables"]), ["ve"])
        self.assert_problem(self.solve(log, status=422, table="air_meter"), "no curve of the air meter")  # fmt: skip
        self.assert_problem(self.solve(log, status=422, learned=True), "no learned trims")

    def test_where_the_mixture_is_out_of_reach_that_is_said(self):
        log = self.drive(faults=[{"kind": "injector_flow", "size": 0.5}])
        number = self.solve(log)["result"]["number"]
        found = self.get(f"/jobs/{self.job}/fuel-map/{number}")["result"]
        self.assertIn("further off than the sensor reaches", found["sentence"])
        self.assertTrue(all(1500 <= point["rpm"] <= 3500 for point in found["plan"]), found["plan"])

"""Pulls over HTTP: limits and checks first, pulls of all origins, what closes the station, and what follows."""

import io
import json
import math
from dataclasses import replace

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile

from server.calibration.services import calibration_of, revise, revision_of
from server.jobs.models import Job

from .base import FOUR, ApiTestCase
from .parts import LIMITS

BOOSTED = {**FOUR, "induction": "boosted", "boost_kpa": 80.0}
WIDE = {**LIMITS, "boost_kpa": 300.0, "leanest": 1.2, "charge_c": 140.0, "duty_pct": 100.0, "knock": 60.0, "pressure_falls_kpa": 60.0, "speed_rpm": 9000.0}  # fmt: skip


class PullCase(ApiTestCase):
    engine = FOUR

    def setUp(self):
        super().setUp()
        self.job = self.post("/jobs", {"name": "Probe", "engine": self.engine})["id"]

    def at(self, path=""):
        return f"/jobs/{self.job}/pulls{path}"

    def ready(self, **limits):
        self.post(self.at("/limits"), {"limits": {**WIDE, **limits}}, 200)
        for entry in self.get(self.at())["checks"]:
            if entry["check"]["when"] == "before":
                self.post(self.at(f"/checks/{entry['check']['key']}"), {"note": "seen"}, 200)

    def pull(self, status=201, seed=0, change_pct=0.0, faults=(), **conditions):
        body = {
            "conditions": conditions,
            "faults": list(faults),
            "change_pct": change_pct,
            "seed": seed,
        }
        return self.post(self.at("/bench"), body, status)


class BoardTests(PullCase):
    def test_limits_and_checks_come_first(self):
        self.assert_problem(self.pull(409), "Enter the limits")
        self.post(self.at("/limits"), {"limits": WIDE}, 200)
        self.assert_problem(self.pull(409), "Rev limit acts")
        self.ready()
        number = self.pull()["number"]
        board = self.get(self.at())
        self.assertEqual(board["pulls"][0]["number"], number)
        self.assertEqual(board["pulls"][0]["torque"], "measured")
        self.assertTrue(board["pulls"][0]["stand_in"])
        self.assertEqual(board["open_checks"], [])
        whole = self.get(self.at(f"/{number}"))
        self.assertIn("lambda", whole["saved"]["pull"]["values"])
        self.get(self.at("/99"), 404)
        self.post(self.at("/checks/nothing"), {}, 404)

    def test_a_pull_beyond_a_limit_closes_the_station_until_a_reason_is_written(self):
        self.ready(charge_c=25.0)
        self.pull(seed=1)
        board = self.get(self.at())
        self.assertEqual(board["closed_by"], 1)
        self.assertIn("Charge air", board["closed_sentence"])
        self.assert_problem(self.pull(409), "Pull 1 says stop")
        self.assert_problem(
            self.post(self.at("/reason"), {"reason": "ok"}, 422), "Say what was mended"
        )
        self.post(self.at("/reason"), {"reason": "The intercooler was cleaned."}, 200)
        self.assertIsNone(self.get(self.at())["closed_by"])
        self.pull(seed=2)
        self.assertEqual(self.get(self.at())["closed_by"], 2)
        # Set aside it counts no more, and a limit that is entered below what was measured says so.
        self.post(self.at("/2/aside"), {"reason": "The sensor stood in the sun."}, 200)
        self.assertIsNone(self.get(self.at())["closed_by"])
        beyond = self.post(self.at("/limits"), {"limits": {**WIDE, "speed_rpm": 4000.0}}, 200)[
            "beyond"
        ]
        self.assertIn("Engine speed", beyond[0])

    def test_limits_that_are_none_are_refused_with_a_sentence_each(self):
        answer = self.post(
            self.at("/limits"), {"limits": {**LIMITS, "duty_pct": 400, "knock": -1}}, 422
        )
        self.assert_problem(answer, "is no limit")
        self.assertEqual(len(answer["problems"]), 2)

    def test_pulls_of_a_log_a_file_and_fingers(self):
        self.ready()
        log = self.get(self.at())  # nothing yet
        self.assertEqual(log["pulls"], [])
        first = self.pull()["number"]
        log_id = self.get(self.at(f"/{first}"))["saved"]["log_id"]
        (stretch,) = self.get(self.at(f"/in-log/{log_id}"))
        body = {
            "log_id": log_id,
            "begin_s": stretch["begin_s"],
            "end_s": stretch["end_s"],
            "conditions": {"gear": "4"},
        }
        second = self.post(self.at("/from-log"), body)["number"]
        self.assertEqual(self.get(self.at(f"/{second}"))["saved"]["revision"], 1)
        rows = "\n".join(
            f"{rpm},{120 + rpm / 100:.1f},{(120 + rpm / 100) * rpm * math.pi / 30000:.2f}"
            for rpm in range(2000, 6500, 200)
        )
        data = f"Engine speed (rpm),Torque (Nm),Power (kW)\n{rows}\n".encode()
        form = {
            "conditions": json.dumps({"ambient": {"temperature_c": 25, "pressure_kpa": 99}}),
            "corrected_by": "din_70020",
        }
        sent = self.client.post(
            f"/api{self.at('/from-file')}", {"file": SimpleUploadedFile("d.csv", data), **form}
        )
        self.assertEqual(sent.status_code, 201, sent.content[:300])
        saved = self.get(self.at(f"/{sent.json()['number']}"))["saved"]
        self.assertIn("is undone", " ".join(saved["said"]))
        wrong = self.client.post(
            f"/api{self.at('/from-file')}",
            {"file": SimpleUploadedFile("d.csv", data), "corrected_by": "mine"},
        )
        self.assertEqual(wrong.status_code, 422)
        empty = self.client.post(
            f"/api{self.at('/from-file')}",
            {"file": SimpleUploadedFile("d.csv", io.BytesIO(b"x").read())},
        )
        self.assertEqual(empty.status_code, 422)
        self.post(
            self.at("/typed"),
            {
                "points": [[2000, 120], [3000, 140], [4500, 130]],
                "conditions": {"part": "long pipe"},
            },
        )
        self.assert_problem(
            self.post(self.at("/typed"), {"points": [[2000, 120]]}, 422), "Three points"
        )
        self.assertEqual(
            [p["origin"] for p in self.get(self.at())["pulls"]],
            ["typed", "dynamometer", "log", "log"],
        )


class DifferenceTests(PullCase):
    def test_a_against_b_cannot_be_told_and_then_is(self):
        self.ready()
        order = self.post(self.at("/plan"), {"each": 3}, 200)["order"]
        sides = {"A": [], "B": []}
        for place, letter in enumerate(order):
            sides[letter].append(
                self.pull(
                    seed=place,
                    change_pct=4.0 * (letter == "B"),
                    part="filter" if letter == "B" else "",
                )["number"]
            )
        first = {side: numbers[:2] for side, numbers in sides.items()}
        body = {"a": first["A"], "b": first["B"], "wanted_pct": 0.2}
        early = self.post(self.at("/compare"), body, 200)
        self.assertTrue(early["more"] is None or early["more"] > 0)
        told = self.post(self.at("/compare"), {"a": sides["A"], "b": sides["B"]}, 200)
        self.assertTrue(told["told"], told["sentences"])
        self.assertAlmostEqual(told["mean_pct"], 4.0, delta=2.0)
        self.assertIn("not changed: revision 1", " ".join(told["sentences"]))
        corrected = self.post(
            self.at("/compare"), {"a": sides["A"], "b": sides["B"], "standard": "sae_j1349"}, 200
        )
        self.assertIn("is not known: not corrected", " ".join(corrected["sentences"]))
        self.assert_problem(
            self.post(self.at("/compare"), {"a": [1, 2], "b": [2, 3]}, 422), "A or B"
        )
        self.assert_problem(
            self.post(self.at("/compare"), {"a": [1, 2], "b": [3, 77]}, 404), "no pull 77"
        )
        nothing = self.post(self.at("/full-load"), {"numbers": []}, 202)
        self.assertEqual(nothing["state"], "failed")
        self.assertIn("hold no lambda", nothing["sentence"])
        number = self.post(self.at("/full-load"), {"numbers": sides["A"]}, 202)["result"]["number"]
        found = self.get(f"/jobs/{self.job}/fuel-map/{number}")["result"]
        self.assertGreater(sum(cell > 0 for row in found["hits"] for cell in row), 5)

    def test_what_the_map_gained_since_the_pulls_is_taken_off(self):
        self.ready()
        numbers = [self.pull(seed=1)["number"] for _ in range(2)]

        def factors():
            result = self.post(self.at("/full-load"), {"numbers": numbers}, 202)["result"]
            found = self.get(f"/jobs/{self.job}/fuel-map/{result['number']}")["result"]
            return np.array(found["factor"])[np.array(found["hits"]) > 0]

        before = factors()
        job = Job.objects.get(pk=self.job)
        held = calibration_of(revision_of(job))
        ve = held["ve"]
        richer = held.with_table(replace(ve, values=np.asarray(ve.values) * 1.06))
        revise(job, job.created_by, richer, origin="edit", note="6 % more", based_on=1)
        # The same pulls, driven on the poorer map: 6 % are there now, ln(1.06) less is missing.
        after = factors()
        self.assertLess(np.abs(np.log(before / after) - np.log(1.06)).max(), 0.01)

    def test_holes_spark_and_cams(self):
        self.ready()
        numbers = [self.pull(seed=9, profile=p)["number"] for p in ("low", "high")]
        self.assertEqual(self.post(self.at("/dips"), {"numbers": numbers}, 200), [])
        points = [{"spark_deg": d, "torque": 200 - 0.1 * (d - 26) ** 2} for d in range(16, 34, 2)]
        self.assertAlmostEqual(
            self.post(self.at("/spark"), {"points": points}, 200)["best_deg"], 26, delta=0.3
        )
        heard = [{"rpm": 4000, "map_kpa": 90}]
        self.assertEqual(len(self.post(self.at("/knock"), {"heard": heard}, 200)), 1)
        before = self.get(f"/jobs/{self.job}/calibration")["tables"]["spark"]["values"]
        self.post(self.at("/knock/take"), {"heard": heard}, 200)
        after = self.get(f"/jobs/{self.job}/calibration")["tables"]["spark"]["values"]
        taken = [
            b - a for x, y in zip(before, after, strict=True) for b, a in zip(x, y, strict=True)
        ]
        self.assertEqual((max(taken), sum(t > 0 for t in taken)), (2.0, 4))
        self.assert_problem(self.post(self.at("/knock/take"), {}, 422), "knocked nowhere")
        for rows in (
            [[2000, 130], [4000, 140], [6000, 100]],
            [[2000, 90], [4000, 130], [6000, 150]],
        ):
            numbers.append(self.post(self.at("/typed"), {"points": rows})["number"])
        told = self.post(self.at("/cams"), {"low": numbers[2:3], "high": numbers[3:]}, 200)
        self.assertAlmostEqual(told["rpm"], 4333, delta=120)
        revision = self.post(
            self.at("/cams/take"), {"low": numbers[2:3], "high": numbers[3:]}, 200
        )["revision"]
        self.assertEqual(revision, 3)


class BoostTests(PullCase):
    engine = BOOSTED

    def test_a_staircase_into_the_tables(self):
        self.assert_problem(self.post(self.at("/boost"), {}, 409), "Enter the limits")
        self.ready(boost_kpa=175.0)
        for step in range(20):
            stairs = self.post(self.at("/boost"), {}, 200)
            if stairs["next_duty_pct"] is None:
                break
            self.pull(seed=step, duty_pct=stairs["next_duty_pct"])
        self.assertEqual(stairs["outcome"], "done", stairs["sentence"])
        self.assertAlmostEqual(max(stairs["most_kpa"]), 170, delta=5)
        target = max(stairs["most_kpa"]) - 3
        taken = self.post(self.at("/boost/take"), {"target_kpa": target}, 200)
        tables = self.get(f"/jobs/{self.job}/calibration")["tables"]
        self.assertIn("boost_duty", tables)
        self.assertEqual(len(tables["boost_target"]["values"]), len(taken["tables"]["rpm"]))
        # Petrol was pulled: ethanol gets no more than it.
        self.assertTrue(all(min(row) == max(row) for row in tables["boost_target"]["values"]))
        self.assert_problem(
            self.post(self.at("/boost/take"), {"target_kpa": 260}, 422), "Climb the staircase"
        )

    def test_a_target_that_only_a_stopped_pull_made_is_refused(self):
        self.ready(boost_kpa=240.0, knock=1.0)
        for step in range(20):
            stairs = self.post(self.at("/boost"), {}, 200)
            if stairs["next_duty_pct"] is None:
                break
            self.pull(seed=step, duty_pct=stairs["next_duty_pct"])
        self.assertEqual(stairs["outcome"], "stop", stairs["sentence"])
        most = max(stairs["most_kpa"])
        answer = self.post(self.at("/boost/take"), {"target_kpa": most}, 422)
        self.assert_problem(answer, "only by a pull that ended in a stop")
        self.post(self.at("/boost/take"), {"target_kpa": sorted(stairs["most_kpa"])[-2] - 1.0}, 200)

    def test_a_weak_pump_is_a_stop_whatever_the_power(self):
        self.ready()
        self.pull(duty_pct=0.0, faults=["weak_pump"])
        stairs = self.post(self.at("/boost"), {}, 200)
        self.assertEqual(stairs["outcome"], "stop")
        self.assertIn("STOP", self.get(self.at())["closed_sentence"])
        self.assert_problem(self.pull(409, duty_pct=10.0), "says stop")
        self.assert_problem(self.post(self.at("/bench"), {"change_pct": 90}, 422), "20 %")

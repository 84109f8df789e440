"""Station 5 over HTTP: wheel, captures, timing light, dwell, output tests, and their gates."""

import json
from unittest.mock import patch

from django.core.files.uploadedfile import SimpleUploadedFile
from inbetrieb_core.bench.edges import EdgeConditions, simulate_edges
from inbetrieb_core.triggers import PATTERNS

from server.tasks.services import Cancelled
from server.trigger.models import EdgeCapture, OutputTest

from .base import ApiTestCase
from .parts import COIL, READINGS, TRIGGER


def capture_file(pattern="36−1 with cam", **conditions):
    capture = simulate_edges(PATTERNS[pattern], EdgeConditions(**{"turns": 14.0, **conditions}))
    rows = [(t, "crank") for t in capture.crank_s] + [(t, "cam") for t in capture.cam_s]
    return (
        "time_us,channel,level\n" + "".join(f"{t * 1e6:.1f},{c},1\n" for t, c in sorted(rows))
    ).encode()


class TriggerTests(ApiTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()["id"]
        self.path = f"/jobs/{self.job}"

    def gates(self):
        trigger, outputs = (g for g in self.get(self.path)["gates"] if g["key"] == "trigger")
        return trigger, outputs

    def bring(self, data, status=201, **fields):
        response = self.client.post(
            f"/api{self.path}/captures", {"file": SimpleUploadedFile("edges.csv", data), **fields}
        )
        self.assertEqual(response.status_code, status, response.content[:300])
        return response.json()

    def read(self, data, **body):
        kept = self.client.post(
            f"/api{self.path}/captures/upload", {"file": SimpleUploadedFile("edges.csv", data)}
        ).json()
        response = self.client.post(
            f"/api{self.path}/captures/read",
            json.dumps({"upload_id": kept["upload_id"], "name": "edges.csv", **body}),
            content_type="application/json",
        )
        self.assertEqual(response.status_code, 202, response.content[:300])
        return kept, self.get(f"/tasks/{response.json()['task']}")

    def test_kinds_of_sensors_are_one_entry_with_the_wiring(self):
        def kinds():
            fitting, trigger = self.get(f"{self.path}/wiring")["entry"]["fitting"], self.get(f"{self.path}/trigger")["trigger"]  # fmt: skip
            self.assertEqual((fitting["crank_sensor"], fitting["cam_sensor"]), (trigger["crank_kind"], trigger["cam_kind"]))  # fmt: skip
            return trigger["crank_kind"], trigger["cam_kind"], fitting["injection"]

        self.assertEqual(kinds(), ("hall", "hall", "sequential"))
        # Entered with the trigger, where no plan is saved: the proposal takes it, and what it still can drive.
        self.post(f"{self.path}/trigger", {"trigger": {**TRIGGER, "crank_kind": "inductive", "cam_kind": "none"}})  # fmt: skip
        self.assertEqual(kinds(), ("inductive", "none", "paired"))
        # With a saved plan the last one counts, whichever sheet it came from.
        plan = self.get(f"{self.path}/wiring")
        entry = {**plan["entry"], "fitting": {**plan["entry"]["fitting"], "cam_sensor": "hall"}}
        self.post(f"{self.path}/wiring", {"controller": plan["controller"], "entry": entry})
        self.assertEqual(kinds(), ("inductive", "hall", "paired"))
        self.post(f"{self.path}/trigger", {"trigger": {**TRIGGER, "crank_kind": "hall"}})
        self.assertEqual(kinds(), ("hall", "hall", "paired"))
        entry["fitting"]["injection"] = "sequential"
        self.post(f"{self.path}/wiring", {"controller": "saved", "entry": entry})
        refused = self.post(
            f"{self.path}/trigger", {"trigger": {**TRIGGER, "cam_kind": "none"}}, 422
        )
        self.assertIn("cam signal", json.dumps(refused))
        self.assertEqual(kinds()[1], "hall")

    def test_a_usual_wheel_is_proposed_and_drawn_until_one_is_saved(self):
        seen = self.get(f"{self.path}/trigger")
        self.assertEqual((seen["number"], seen["trigger"]["pattern"]), (0, "36−1 with cam"))
        saved = self.post(
            f"{self.path}/trigger", {"trigger": {**TRIGGER, "pattern": "60−2 with cam"}}
        )
        self.assertEqual((saved["number"], len(saved["picture"]["edges_deg"])), (1, 58))
        own = {"kind": "toothed", "teeth": 30, "missing": 2, "firing_order": []}
        drawn = self.post(f"{self.path}/trigger/preview", {"trigger": own}, 200)
        self.assertEqual(len(drawn["picture"]["edges_deg"]), 28)
        answer = self.post(
            f"{self.path}/trigger", {"trigger": {**TRIGGER, "firing_order": [1, 2]}}, 422
        )
        self.assertEqual(answer["problems"][0]["field"], "firing_order")

    def test_from_wheel_to_a_capture_that_agrees(self):
        self.assertEqual(self.gates()[0]["kind"], "enter")
        self.post(f"{self.path}/trigger", {"trigger": TRIGGER})
        self.assertEqual(self.gates()[0]["part"], "capture")
        capture = self.bring(capture_file(top_deg=90.0))
        self.assertEqual(
            (capture["verdict"], capture["lost"], capture["stale"]), ("agrees", 0, False)
        )
        self.assertEqual([c["cylinder"] for c in capture["compression"]["cylinders"]], [1, 3, 4, 2])
        self.assertTrue(self.gates()[0]["is_open"])
        ribbon = self.get(f"{self.path}/captures/1/ribbon?start_s=0.2&span_s=0.4")
        self.assertGreater(len(ribbon["marks"]), 20)
        self.post(f"{self.path}/trigger", {"trigger": {**TRIGGER, "offset_deg": 85}})
        self.assertFalse(self.get(f"{self.path}/captures/1")["stale"])  # the wheel is the same
        self.post(f"{self.path}/trigger", {"trigger": {**TRIGGER, "pattern": "60−2"}})
        self.assertTrue(self.get(f"{self.path}/captures/1")["stale"])
        self.assertFalse(self.gates()[0]["is_open"])

    def test_a_wrong_wheel_closes_the_gate_until_mended_or_explained(self):
        self.post(f"{self.path}/trigger", {"trigger": TRIGGER})
        capture = self.bring(capture_file("60−2"))
        self.assertEqual((capture["verdict"], capture["wheel"]), ("other", "60−2"))
        self.assertTrue(self.gates()[0]["is_refused"])
        self.post(f"{self.path}/trigger/reason", {"reason": "short"}, status=422)
        self.post(f"{self.path}/trigger/reason", {"reason": "Seen on a scope: it agrees."})
        self.assertTrue(self.gates()[0]["is_open"])
        self.bring(capture_file("60−2"))  # later evidence counts again
        self.assertTrue(self.gates()[0]["is_refused"])

    def test_no_advice_is_accepted_on_a_trigger_that_is_wrong(self):
        seen = {"outcome": "no fire", "coolant_c": 5}
        trial = self.post(f"{self.path}/trials", {"observation": seen})
        self.assertTrue(trial["advice"])
        self.post(f"{self.path}/trigger", {"trigger": TRIGGER})
        self.bring(capture_file(swapped=True))
        refused = self.post(f"{self.path}/trials/{trial['id']}/accept", {}, status=409)
        self.assert_problem(refused, "wires swapped")

    def test_reading_tells_progress_and_ends_with_the_capture(self):
        kept, task = self.read(capture_file())
        self.assertEqual((task["state"], task["share"]), ("done", 1.0))
        number = task["result"]["capture"]
        self.assertEqual(self.get(f"{self.path}/captures/{number}")["verdict"], "agrees")
        self.assertEqual(EdgeCapture.objects.count(), 1)
        again = self.client.post(
            f"/api{self.path}/captures/read",
            json.dumps({"upload_id": kept["upload_id"]}),
            content_type="application/json",
        )
        self.assertEqual(again.status_code, 404)  # read and forgotten

    def test_a_refused_file_is_kept_and_can_be_read_otherwise(self):
        kept, task = self.read(capture_file(), choice={"crank": "nose"})
        self.assertEqual(task["state"], "failed")
        self.assertIn("no channel 'nose'", task["problem"]["detail"])
        self.assertEqual(set(task["problem"]["extra"]["columns"]), {"crank", "cam"})
        self.assertFalse(EdgeCapture.objects.exists())
        response = self.client.post(
            f"/api{self.path}/captures/read",
            json.dumps({"upload_id": kept["upload_id"], "choice": {"crank": "crank"}}),
            content_type="application/json",
        )
        self.assertEqual(response.json()["state"], "done")

    def test_a_cancelled_reading_writes_nothing(self):
        def cancelled(progress, share, sentence):
            raise Cancelled

        with patch("server.tasks.services.Progress.tell", cancelled):
            kept, task = self.read(capture_file())
        self.assertEqual((task["state"], task["result"]), ("cancelled", None))
        self.assertFalse(EdgeCapture.objects.exists())
        again = self.post(f"{self.path}/captures/read", {"upload_id": kept["upload_id"]}, 202)
        self.assertEqual(again["state"], "done")  # the file was kept

    def test_bad_captures_are_refused_with_a_sentence(self):
        for data, words in (
            (b" \n", "empty"),
            (b"\x89PNG\r\n\x00\x00", "not text"),
            (b"time,channel,level\nx,y,z\n", "No row begins"),
        ):
            with self.subTest(words=words):
                answer = self.bring(data, status=422)
                self.assert_problem(answer, words)
        self.assertFalse(EdgeCapture.objects.exists())
        self.get(f"{self.path}/captures/9", status=404)

    def test_the_edges_that_count_are_those_entered_with_the_wheel(self):
        """A long tooth: its rising edge says one place, its falling edge another."""
        capture = simulate_edges(PATTERNS["36−1 with cam"], EdgeConditions(turns=14.0))
        rows = [(t, "crank", 1) for t in capture.crank_s] + [
            (t + 1e-3, "crank", 0) for t in capture.crank_s
        ]
        rows += [(t, "cam", 1) for t in capture.cam_s] + [
            (t + 5e-2, "cam", 0) for t in capture.cam_s
        ]
        text = "time_us,channel,level\n" + "".join(
            f"{t * 1e6:.0f},{c},{v}\n" for t, c, v in sorted(rows)
        )
        places = []
        for cam_edge in ("rising", "falling"):
            self.post(f"{self.path}/trigger", {"trigger": {**TRIGGER, "cam_edge": cam_edge}})
            places.append(self.bring(text.encode())["cam"]["angles_deg"][0])
        self.assertGreater(abs(places[1] - places[0]), 30.0)

    def test_the_bench_engine_is_cranked_with_a_hidden_fault(self):
        self.post(f"{self.path}/trigger", {"trigger": TRIGGER})
        capture = self.post(f"{self.path}/bench/captures", {"faults": ["interference"], "seed": 2})
        self.assertEqual((capture["origin"], capture["verdict"]), ("bench", "noise"))
        self.assertIn("Simulated", capture["about"]["stand_in"])
        self.post(f"{self.path}/bench/captures", {"faults": ["ghosts"]}, status=422)

    def test_the_light_finds_the_offset_and_a_stop_holds_until_it_is_repeated(self):
        self.post(f"{self.path}/trigger", {"trigger": TRIGGER})
        self.bring(capture_file())
        off = [{**reading, "commanded_deg": 12, "seen_deg": 20} for reading in READINGS]
        session = self.post(f"{self.path}/timing", {"readings": off})
        self.assertEqual(
            (session["fit"]["level"], session["fit"]["new_offset_deg"]), ("stop", 82.0)
        )
        self.assertEqual((self.gates()[0]["is_refused"], self.gates()[0]["part"]), (True, "timing"))
        self.assertEqual(self.get(self.path)["next_action"]["part"], "timing")
        taken = self.post(f"{self.path}/timing/1/take", {}, 200)
        self.assertEqual((taken["trigger"]["offset_deg"], taken["number"]), (82.0, 2))
        self.assertTrue(self.gates()[0]["is_refused"])  # until it was repeated
        self.post(f"{self.path}/timing/1/take", {}, status=409)
        right = [{**reading, "seen_deg": 10} for reading in READINGS]
        self.post(f"{self.path}/timing", {"readings": right})
        self.assertTrue(self.gates()[0]["is_open"])
        history = self.get(f"{self.path}/timing")
        self.assertEqual([s["offset_deg"] for s in history], [82.0, 90.0])

    def test_readings_are_previewed_and_bad_ones_named(self):
        seen = self.post(f"{self.path}/timing/preview", {"readings": READINGS}, 200)
        self.assertAlmostEqual(seen["fit"]["offset_deg"], 2.1, delta=0.3)
        answer = self.post(
            f"{self.path}/timing/preview", {"readings": [{**READINGS[0], "rpm": -1}]}, 422
        )
        self.assertEqual(answer["problems"][0]["field"], "readings.0.rpm")
        self.post(f"{self.path}/timing", {"readings": []}, status=422)
        self.assertEqual(self.get(f"{self.path}/timing"), [])

    def test_dwell_goes_into_the_table_with_its_origin(self):
        seen = self.get(f"{self.path}/dwell")
        self.assertEqual((seen["number"], seen["sparks_per_turn"]), (0, 0.5))
        saved = self.post(f"{self.path}/dwell", {"dwell": COIL})
        self.assertEqual(saved["revision"], 2)
        self.assertEqual(self.get(f"{self.path}/revisions")[0]["origin"], "dwell")
        table = self.get(f"{self.path}/calibration")["tables"]["dwell"]
        at = table["axes"][0]["points"].index(14.0)
        # -L/R·ln(1 - I·R/V) = -6 ms · ln(1 - 4/14)
        self.assertAlmostEqual(table["values"][at], 2.02, delta=0.006)
        self.assertEqual(table["provenance"][at]["kind"], "calculated")
        maker = {
            "name": "By its maker",
            "points": [[8, 5.1], [12, 3.0], [14, 2.4]],
            "provenance": "data_sheet",
        }
        self.post(f"{self.path}/dwell", {"dwell": maker})
        table = self.get(f"{self.path}/calibration")["tables"]["dwell"]
        self.assertAlmostEqual(table["values"][at], 2.4)
        self.assertEqual(table["provenance"][-1]["kind"], "assumed")  # beyond the maker's table
        self.post(f"{self.path}/dwell", {"dwell": {"name": "x"}}, status=422)
        self.post(f"{self.path}/dwell", {"dwell": {**COIL, "name": " "}}, status=422)

    def test_old_revisions_without_dwell_are_still_read(self):
        from server.calibration.models import Revision

        old = Revision.objects.get(job=self.job)
        plain = json.loads(old.tables)
        del plain["dwell"]
        Revision.objects.create(
            job_id=self.job, number=2, based_on=1, origin="edit", note="", changed={},
            created_by=self.owner, tables=json.dumps(plain),
        )  # fmt: skip
        table = self.get(f"{self.path}/calibration")["tables"]["dwell"]
        self.assertEqual(table["provenance"][0]["kind"], "assumed")
        self.assertEqual(len(table["values"]), len(plain["dead_time"]["values"]))

    def test_every_output_is_tried_with_things_made_safe_first(self):
        seen = self.get(f"{self.path}/output-tests")
        self.assertEqual(len(seen["outputs"]), 8)
        first = seen["outputs"][0]["output"]["key"]
        body = {"output": first, "heard": "works", "dip_v": 0.2}
        refused = self.post(f"{self.path}/output-tests", body, status=422)
        self.assertEqual(refused["problems"][0]["field"], "made_safe")
        for entry in seen["outputs"]:
            body = {"output": entry["output"]["key"], "heard": "works", "made_safe": True}
            after = self.post(f"{self.path}/output-tests", body)
        self.assertTrue(after["gate"]["is_open"])
        silent = {"output": first, "heard": "nothing", "dip_v": 0, "made_safe": True}
        failed = self.post(f"{self.path}/output-tests", silent)
        self.assertTrue(failed["gate"]["is_refused"])
        self.assertIn("no current flows", failed["outputs"][0]["test"]["sentence"])
        self.assertEqual(OutputTest.objects.count(), 9)
        self.post(f"{self.path}/output-tests", {**silent, "output": "laser"}, status=422)

    def test_an_engine_that_runs_needs_no_tests_but_a_reason(self):
        self.post(f"{self.path}/output-tests/reason", {"reason": "It runs on all four already."})
        self.assertTrue(self.gates()[1]["is_open"])
        silent = {"output": "injector_2", "heard": "nothing", "made_safe": True}
        self.post(f"{self.path}/output-tests", silent)
        self.assertTrue(self.gates()[1]["is_refused"])  # a later failure counts

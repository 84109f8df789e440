"""Wiring over HTTP: plan, checks, sign-off, changes, controllers, outputs, unknown sensors."""

import csv
import io
import json

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection

from server.config.append_only import AppendOnlyError
from server.entries.models import Entry
from server.wiring import controllers
from server.wiring.models import WireCheck, WiringSignOff

from .base import ApiTestCase
from .parts import COOLANT, INJECTORS, PIN_LIST, WIRES


class WiringTests(ApiTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()["id"]
        self.path = f"/jobs/{self.job}/wiring"

    def save(self, controller=None, status=201, **fitting):
        now = self.get(self.path)
        entry = {**now["entry"], "fitting": {**now["entry"]["fitting"], **fitting}}
        return self.post(
            self.path, {"controller": controller or now["controller"], "entry": entry}, status
        )

    def gate(self):
        return next(g for g in self.get(f"/jobs/{self.job}")["gates"] if g["key"] == "wiring")

    def test_a_new_job_gets_a_proposal_that_nobody_has_saved(self):
        self.post(f"/jobs/{self.job}/sensors", {"sensor": COOLANT})
        self.post(
            f"/jobs/{self.job}/injectors", {"injectors": {**INJECTORS, "resistance_ohm": 13.1}}
        )
        seen = self.get(self.path)
        self.assertEqual((seen["number"], seen["signed"], seen["plan"]["level"]), (0, None, "good"))
        self.assertEqual(seen["entry"]["fitting"]["sensors"], ["coolant"])
        self.assertEqual(seen["entry"]["fitting"]["injector_ohm"], 13.1)
        self.assertFalse(Entry.objects.filter(kind="wiring").exists())

    def test_from_plan_to_sign_off_and_changes_after_it(self):
        self.assertEqual((self.gate()["kind"], self.gate()["is_open"]), ("enter", False))
        plan = self.save()
        self.assertEqual((plan["number"], self.gate()["part"]), (1, "list"))
        signed = self.post(f"{self.path}/sign-off", {"number": 1})
        self.assertEqual((signed["signed"]["plan"], signed["changes"]), (1, []))
        self.assertTrue(self.gate()["is_open"])
        changed = self.save(outputs=["main_relay", "fuel_pump", "fan_1", "warning_lamp"])
        kinds = {change["key"]: change["kind"] for change in changed["changes"]}
        self.assertEqual((kinds["warning_lamp"], kinds["tachometer"]), ("added", "removed"))
        self.assertFalse(self.gate()["is_open"])
        self.assertIn("changed after the sign-off", self.gate()["sentence"])
        self.post(f"{self.path}/sign-off", {"number": 2})
        self.assertTrue(self.gate()["is_open"])
        self.assertEqual(Entry.objects.filter(job=self.job, kind="wiring").count(), 2)

    def test_what_does_not_fit_is_explained_and_not_signed(self):
        plan = self.save("shipped:prahm-24")
        self.assertEqual(plan["plan"]["level"], "stop")
        self.assertIn("built_in_pressure", [c["key"] for c in plan["plan"]["remedy"]["changes"]])
        self.assertIn("Not every function", self.gate()["sentence"])
        refused = self.post(f"{self.path}/sign-off", {"number": 1}, status=409)
        self.assert_problem(refused, "Not every function has a pin")
        fitting = plan["plan"]["remedy"]["fitting"]
        self.assertEqual(self.save(**fitting)["plan"]["level"], "good")

    def test_the_smallest_controller_that_fits_is_proposed(self):
        eight = {"displacement_l": 6, "chambers": 8, "injectors": {"flow_cm3_min": 390}}
        job = self.post("/jobs", {"name": "Eight", "engine": eight})["id"]
        seen = self.get(f"/jobs/{job}/wiring")
        self.assertEqual(
            (seen["controller"], seen["plan"]["level"]), ("shipped:schoner-96", "good")
        )

    def test_a_preview_saves_nothing(self):
        now = self.get(self.path)
        body = {"controller": "shipped:schoner-96", "entry": now["entry"]}
        self.assertEqual(self.post(f"{self.path}/preview", body, 200)["plan"]["level"], "good")
        self.assertFalse(Entry.objects.exists())

    def test_readings_are_judged_and_a_wrong_one_holds_the_sign_off(self):
        self.post(f"{self.path}/checks", {"line": "injector_1"}, status=409)
        self.save(injector_ohm=13.0)
        wrong = self.post(
            f"{self.path}/checks", {"line": "injector_1", "reading": 0.2, "unit": "Ω"}
        )
        self.assertEqual((wrong["good"], "short" in wrong["sentence"]), (False, True))
        refused = self.post(f"{self.path}/sign-off", {"number": 1}, status=409)
        self.assert_problem(refused, "Injector 1")
        self.post(f"{self.path}/checks", {"line": "injector_1", "reading": 13.1, "unit": "Ω"})
        self.post(f"{self.path}/checks", {"line": "coolant"})
        self.post(f"{self.path}/sign-off", {"number": 1})
        by_line = {check["line"]: check for check in self.get(self.path)["checks"]}
        self.assertEqual(by_line["injector_1"]["reading"], 13.1)
        self.assertEqual((by_line["coolant"]["good"], by_line["coolant"]["reading"]), (True, None))
        self.assertEqual(WireCheck.objects.count(), 3)
        self.post(
            f"{self.path}/checks", {"line": "injector_1", "reading": 13, "unit": "V"}, status=422
        )
        self.post(f"{self.path}/checks", {"line": "flux"}, status=404)

    def test_a_check_of_a_wire_that_moved_is_stale(self):
        now = self.save()
        before = next(
            p["pin"] for p in now["plan"]["allocation"]["placed"] if p["function"] == "throttle"
        )
        self.post(f"{self.path}/checks", {"line": "throttle"})
        other = next(p for p in ("A9", "A10", "A8") if p != before)
        entry = {**now["entry"], "by_hand": {"throttle": other}}
        moved = self.post(self.path, {"controller": "saved", "entry": entry})
        self.assertTrue(next(c for c in moved["checks"] if c["line"] == "throttle")["stale"])

    def test_a_car_wired_already_needs_a_reason_worth_reading(self):
        self.post(f"{self.path}/reason", {"reason": "ok"}, status=422)
        self.post(f"{self.path}/reason", {"reason": "Wired and running for years."})
        self.assertTrue(self.gate()["is_open"])
        self.assertIn("for years", self.get(self.path)["reason"])

    def test_the_list_as_csv(self):
        self.save(inputs=["speed"])
        self.post(f"{self.path}/checks", {"line": "throttle", "reading": 0.3, "unit": "Ω"})
        response = self.client.get(f"/api{self.path}/list.csv")
        rows = list(csv.DictReader(io.StringIO(response.content.decode("utf-8-sig"))))
        lines = self.get(self.path)["plan"]["lines"]
        self.assertEqual(len(rows), len(lines))
        throttle = next(row for row in rows if row["function"] == "Throttle")
        self.assertEqual((throttle["reading"], throttle["result"]), ("0.3", "good"))
        self.assertTrue(all(row["size_mm2"] and row["colour"] for row in rows))

    def test_no_note_becomes_a_formula(self):
        now = self.get(self.path)
        entry = {**now["entry"], "edits": {"coolant": {"note": "=1+2"}}}
        self.post(self.path, {"controller": now["controller"], "entry": entry})
        text = self.client.get(f"/api{self.path}/list.csv").content.decode()
        self.assertIn("'=1+2", text)

    def test_bad_plans_are_refused_field_by_field(self):
        for fitting, field in (
            ({"ignition": "magneto"}, "ignition"),
            ({"sensors": ["x"]}, "sensors"),
            ({"injector_ohm": 0}, "injector_ohm"),
            ({"unheard": 1}, "unheard"),
        ):
            answer = self.save(status=422, **fitting)
            with self.subTest(field=field):
                self.assertTrue(any(field in p["field"] for p in answer["problems"]), answer)
        now = self.get(self.path)
        self.post(self.path, {"controller": "own:999", "entry": now["entry"]}, status=422)

    def test_history_cannot_be_rewritten(self):
        self.save()
        self.post(f"{self.path}/sign-off", {"number": 1})
        row = WiringSignOff.objects.get()
        with self.assertRaises(AppendOnlyError):
            row.save()
        with self.assertRaisesRegex(Exception, "append-only"), connection.cursor() as cursor:
            cursor.execute("UPDATE wiring_wiringsignoff SET note = 'x'")


class ControllerTests(ApiTestCase):
    def test_three_ship_from_small_to_large(self):
        seen = self.get("/controllers")
        self.assertEqual([c["key"].split(":")[0] for c in seen], ["shipped"] * 3)
        sizes = [len(c["profile"]["pins"]) for c in seen]
        self.assertEqual(sizes, sorted(sizes))

    def test_a_pin_list_becomes_a_controller_that_plans(self):
        read = self.post("/controllers/pin-list", {"name": "Mine", "text": PIN_LIST}, 200)
        self.assertEqual(len(read["profile"]["pins"]), 3)
        kept = self.post("/controllers", {"profile": read["profile"]})
        job = self.make_job()["id"]
        now = self.get(f"/jobs/{job}/wiring")
        plan = self.post(f"/jobs/{job}/wiring", {"controller": kept["key"], "entry": now["entry"]})
        self.assertEqual((plan["profile"]["name"], plan["plan"]["level"]), ("Mine", "stop"))
        self.client.force_login(self.stranger)
        self.assertEqual(len(self.get("/controllers")), 3)
        self.get(f"/controllers/{kept['key']}/file", status=422)

    def test_a_plan_keeps_its_controller_when_that_is_dropped(self):
        profile = self.post("/controllers/pin-list", {"name": "Mine", "text": PIN_LIST}, 200)[
            "profile"
        ]
        kept = self.post("/controllers", {"profile": profile})
        job = self.make_job()["id"]
        now = self.get(f"/jobs/{job}/wiring")
        self.post(f"/jobs/{job}/wiring", {"controller": kept["key"], "entry": now["entry"]})
        self.call("delete", f"/library/{kept['library_id']}", status=204)
        again = self.get(f"/jobs/{job}/wiring")
        self.assertEqual(again["profile"]["name"], "Mine")
        self.post(f"/jobs/{job}/wiring", {"controller": "saved", "entry": again["entry"]})

    def test_a_plan_keeps_its_copy_until_the_controller_is_chosen_anew(self):
        profile = self.post("/controllers/pin-list", {"name": "Mine", "text": PIN_LIST}, 200)[
            "profile"
        ]
        kept = self.post("/controllers", {"profile": profile})
        path = f"/jobs/{self.make_job()['id']}/wiring"
        body = {"controller": kept["key"], "entry": self.get(path)["entry"]}
        self.post(path, body)
        self.post("/controllers", {"profile": {**profile, "crank_to_run_rpm": 410}})
        self.post(path, {**body, "controller": "saved"})
        self.assertIsNone(self.get(path)["profile"]["crank_to_run_rpm"])
        self.post(path, body)
        self.assertEqual(self.get(path)["profile"]["crank_to_run_rpm"], 410)

    def bring(self, data, status=201):
        response = self.client.post(
            "/api/controllers/import", {"file": SimpleUploadedFile("c.json", data)}
        )
        self.assertEqual(response.status_code, status, response.content[:300])
        return response.json()

    def test_files_go_out_and_come_back_the_same(self):
        for key, profile in controllers.shipped().items():
            data = self.client.get(f"/api/controllers/{key}/file").content
            back = self.bring(data)
            self.assertEqual(back["profile"], json.loads(data))
            self.assertEqual(back["profile"]["name"], profile.name)

    def test_the_schema_is_the_one_in_the_documents(self):
        from django.conf import settings

        shown = json.loads(self.client.get("/api/controllers/schema.json").content)
        kept = json.loads((settings.ROOT / "docs" / "controller-profile.schema.json").read_text())
        self.assertEqual(shown, kept)
        self.assertIn("pins", shown["required"])

    def test_bad_files_are_refused_with_a_sentence(self):
        good = controllers.write_file(controllers.shipped()["shipped:prahm-24"])
        twice = json.loads(good)
        twice["pins"].append(twice["pins"][0])
        unknown = json.loads(good)
        unknown["pins"][0]["capabilities"] = ["telepathy"]
        for data, words in (
            (b"", "JSON"),
            (b"{]", "JSON"),
            (b"[]", "format"),
            (b'{"format": "other/1"}', "format"),
            (b"[" * 100_000, "JSON"),
            (json.dumps(twice).encode(), "listed twice"),
            (json.dumps(unknown).encode(), "capabilities"),
        ):
            with self.subTest(words=words):
                answer = self.bring(data, status=422)
                self.assert_problem(answer)
                self.assertIn(words, str(answer))
        self.bring(b" " * 1_100_000, status=413)


class OutputAndSensorTests(ApiTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()["id"]

    def test_conditions_are_kept_version_by_version(self):
        path = f"/jobs/{self.job}/outputs"
        seen = self.get(path)
        self.assertEqual((seen["number"], seen["settings"]["tachometer_pulses"]), (0, 2.0))
        wanted = {**seen["settings"], "fan_on_c": 88, "fan_off_c": 84}
        self.assertEqual(self.post(f"{path}/preview", {"settings": wanted}, 200)["number"], 0)
        self.assertEqual(self.post(path, {"settings": wanted})["number"], 1)
        chatters = {**wanted, "fan_off_c": 88}
        answer = self.post(path, {"settings": chatters}, status=422)
        self.assertEqual(answer["problems"][0]["field"], "fan_off_c")
        self.assertEqual(self.get(path)["settings"]["fan_off_c"], 84)

    def test_an_unknown_sensor_is_identified_and_written_down(self):
        told = self.post("/three-wire/identify", {"wires": WIRES}, 200)
        self.assertEqual(told["result"]["roles"], ["supply", "ground", "signal"])
        path = f"/jobs/{self.job}/three-wire"
        self.post(path, {"name": " ", "wires": WIRES}, status=422)
        self.post(path, {"name": "Plenum", "wires": WIRES})
        self.post(path, {"name": "Plenum", "wires": WIRES})
        seen = self.get(path)
        self.assertEqual([(row["name"], row["number"]) for row in seen], [("Plenum", 2)])

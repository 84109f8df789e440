"""Key-on checks over HTTP: judged, written down, closing and opening the gate of the first start."""

import io

from server.hardware.models import KeyOnCheck, KeyOnOverride
from server.trials.models import Decision

from .base import ApiTestCase
from .parts import COOLANT, SENSORS

AROUND = {"ambient_c": 14, "soak_h": 20, "meter_v": 12.5}
GOOD = {
    "throttle": {"value": 0.2, "opened": 99.8},
    "manifold_pressure": {"value": 101.2},
    "coolant": {"value": 14.6},
    "intake_air": {"value": 13.8},
    "wideband": {"value": 1.36},
    "fuel_pressure": {"value": 301},
    "battery": {"value": 12.45},
}


class KeyOnTests(ApiTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()["id"]
        self.write_reasons(self.job, "wiring", "trigger", "output-tests")
        self.path = f"/jobs/{self.job}/key-on"

    def enter(self, *sensors):
        for sensor in sensors or SENSORS:
            self.post(f"/jobs/{self.job}/sensors", {"sensor": sensor})

    def check(self, status=201, **body):
        return self.post(self.path, {"circumstances": AROUND, **body}, status)

    def bench(self, *faults, **around):
        body = {"circumstances": {**AROUND, **around}, "faults": list(faults)}
        return self.post(f"/jobs/{self.job}/bench/key-on", body)["log_id"]

    def action(self):
        return self.get(f"/jobs/{self.job}")["next_action"]

    def test_from_nothing_entered_to_an_open_gate(self):
        self.assertEqual(self.action()["kind"], "enter")
        self.enter()
        self.assertEqual(self.action()["kind"], "check")
        self.assertEqual(self.check(readings=GOOD)["state"], "pass")
        self.assertEqual(self.action()["kind"], "record")
        seen = self.get(self.path)
        self.assertTrue(seen["gate"]["is_open"])
        self.assertEqual(len(seen["checks"]), 1)
        self.enter(COOLANT)
        self.assertIn("check again", self.action()["sentence"])

    def test_a_wrong_pull_up_is_found_mended_and_passes(self):
        self.enter()
        wrong = {**COOLANT, "transfer": {**COOLANT["transfer"], "pull_up_ohm": 1000}}
        self.enter(wrong)
        fault = {"kind": "pull_up", "size": 2490}
        found = self.check(log_id=self.bench(fault))
        self.assertEqual(found["state"], "fail")
        self.assertIn("2490 Ω instead of the entered 1000 Ω", found["result"]["sentence"])
        self.assertIn("2490", self.action()["sentence"])
        self.enter(COOLANT)
        self.assertEqual(self.check(log_id=self.bench(fault))["state"], "pass")
        self.assertEqual(self.action()["kind"], "record")

    def test_an_uploaded_key_on_log_is_judged(self):
        self.enter()
        text = io.StringIO()
        text.write(
            "Time [s];RPM;CLT [°F];IAT [°F];MAP [psi];TPS [%];Battery [V];Fuel pressure [bar];AFR;Baro [mbar]\n"
        )
        for i in range(80):
            pedal = 100 if 30 < i < 50 else 0
            text.write(
                f"{i / 10};0;57,4;57,0;14,69;{pedal};12,5;{3.0 if i > 5 else i * 0.5};20,0;1013\n"
            )
        log = self.upload(self.job, text.getvalue().encode())["id"]
        found = self.check(log_id=log)
        self.assertEqual(found["state"], "pass", found["result"])
        judged = {j["function"]: j for j in found["result"]["judgements"]}
        self.assertAlmostEqual(judged["coolant"]["reading"], 14.1, delta=0.1)
        self.assertAlmostEqual(judged["barometric"]["reading"], 101.3, delta=0.1)

    def test_typed_readings_count_before_those_of_the_log(self):
        self.enter()
        found = self.check(log_id=self.bench(), readings={"coolant": {"value": 60}})
        self.assertEqual(found["state"], "fail")

    def test_override_needs_a_reason_and_stays_in_the_record(self):
        self.enter()
        number = self.check(readings={**GOOD, "battery": {"value": 9.0}})["number"]
        override = f"{self.path}/{number}/override"
        self.assertEqual(
            self.post(override, {"reason": " ok "}, 422)["problems"][0]["field"], "reason"
        )
        self.assertFalse(self.get(self.path)["gate"]["is_open"])
        done = self.post(override, {"reason": "The meter is known to read low."}, 200)
        self.assertEqual(
            (done["override_reason"], done["override_by"]),
            ("The meter is known to read low.", "owner"),
        )
        self.assertTrue(self.get(self.path)["gate"]["is_open"])
        self.post(override, {"reason": "The meter is known to read low."}, 409)
        self.assertEqual(KeyOnOverride.objects.count(), 1)
        # A new failed check closes the gate again; the old one cannot be overridden any more.
        second = self.check(readings={"battery": {"value": 9.0}})["number"]
        self.assertFalse(self.get(self.path)["gate"]["is_open"])
        self.post(override, {"reason": "again for good measure"}, 409)
        good = self.check(readings=GOOD)["number"]
        self.post(f"{self.path}/{good}/override", {"reason": "nothing to override"}, 409)
        self.post(f"{self.path}/{second}/override", {"reason": "not the newest one"}, 409)
        self.post(f"{self.path}/99/override", {"reason": "there is no such check"}, 404)

    def test_no_table_is_changed_on_readings_that_failed(self):
        self.enter()
        seen = {"outcome": "no fire", "coolant_c": 5}
        trial = self.post(f"/jobs/{self.job}/trials", {"observation": seen})["id"]
        number = self.check(readings={**GOOD, "coolant": {"value": 60}})["number"]
        accept = f"/jobs/{self.job}/trials/{trial}/accept"
        refused = self.post(accept, {}, 409)
        self.assert_problem(refused, "cannot be trusted", "Coolant temperature")
        self.assertEqual(Decision.objects.count(), 0)
        # Evidence is never refused: a start can still be written down.
        self.post(f"/jobs/{self.job}/trials", {"observation": seen})
        self.post(
            f"{self.path}/{number}/override", {"reason": "sensor swapped, reads right now"}, 200
        )
        self.post(accept, {}, 201)

    def test_refusals_write_nothing(self):
        self.enter()
        other = self.make_job()["id"]
        self.enter()
        for status, body in (
            (422, {}),
            (422, {"readings": {"nonsense": {"value": 1}}}),
            (422, {"readings": {"coolant": {"value": 1e9}}}),
            (422, {"readings": GOOD, "circumstances": {"barometric_kpa": 1013}}),
            (404, {"log_id": 9999}),
            (
                422,
                {
                    "log_id": self.post(f"/jobs/{self.job}/bench/held", {"idle_only": True})[
                        "log_id"
                    ]
                },
            ),
        ):
            with self.subTest(body=body):
                self.post(self.path, body, status)
        self.post(f"/jobs/{other}/bench/key-on", {}, 422)
        self.post(f"/jobs/{self.job}/bench/key-on", {"faults": ["gremlins"]}, 422)
        self.assertEqual(KeyOnCheck.objects.count(), 0)

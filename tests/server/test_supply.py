"""Injectors and supply over HTTP: previews, versions, tables that follow, inference, prime."""

from server.calibration.models import Revision
from server.entries.models import Entry

from .base import ApiTestCase
from .parts import INJECTORS, PRESSURE, SUPPLY


class InjectorTests(ApiTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()["id"]
        self.path = f"/jobs/{self.job}/injectors"

    def save(self, status=201, **changes):
        return self.post(self.path, {"injectors": {**INJECTORS, **changes}}, status)

    def tables(self):
        return self.get(f"/jobs/{self.job}/calibration")["tables"]

    def test_before_anything_is_entered_the_jobs_own_data_count(self):
        seen = self.get(self.path)
        self.assertEqual((seen["number"], seen["injectors"]["flow"]), (0, 390.0))
        self.assertIsNone(seen["injectors"]["dead_time"])
        self.assertIn("No dead time is entered", " ".join(seen["sheet"]["sentences"]))

    def test_saving_puts_them_in_force_and_tables_follow(self):
        before = self.tables()
        saved = self.save(flow=780)
        self.assertEqual((saved["number"], saved["revision"]), (1, 2))
        after = self.tables()
        changed = {key for key in before if before[key]["values"] != after[key]["values"]}
        self.assertEqual(changed, {"dead_time", "prime_pulse"})
        self.assertEqual(self.get(f"/jobs/{self.job}/revisions")[0]["origin"], "injectors")
        axis = after["dead_time"]["axes"][0]["points"]
        self.assertAlmostEqual(after["dead_time"]["values"][axis.index(14.0)], 0.9, places=6)
        job = self.get(f"/jobs/{self.job}")
        self.assertEqual(job["engine"]["injectors"]["flow_cm3_min"], 780)
        self.assertEqual(job["engine"]["injectors"]["dead_time"]["voltage_v"], [8, 12, 14])
        self.assertEqual(Revision.objects.get(job=self.job, number=2).origin, "injectors")

    def test_the_same_again_is_a_version_but_no_revision(self):
        self.save()
        again = self.save(note="looked at once more")
        self.assertEqual((again["number"], again["revision"]), (2, None))

    def test_units_fluid_and_report_count(self):
        seen = self.post(
            f"{self.path}/preview",
            {"injectors": {**INJECTORS, "flow": 38.4, "flow_unit": "lb/h"}},
            200,
        )
        self.assertAlmostEqual(seen["rated_petrol_cm3_min"], 390.0, delta=0.5)
        report = {"flows": [400, 404, 380, 402]}
        seen = self.post(
            f"{self.path}/preview", {"injectors": {**INJECTORS, "report": report}}, 200
        )
        self.assertEqual(seen["rated_petrol_cm3_min"], 396.5)
        self.assertEqual(seen["sheet"]["report"]["worst_pair"], [2, 3])
        self.assertEqual(seen["sheet"]["level"], "attention")

    def test_implausible_ones_need_a_reason(self):
        refused = self.save(422, flow=39)
        self.assertEqual(refused["problems"][0]["field"], "override_reason")
        self.assertEqual(Entry.objects.count(), 0)
        self.save(flow=39, override_reason="a test rig on a quarter load")
        gates = {gate["key"]: gate for gate in self.get(f"/jobs/{self.job}")["gates"]}
        self.assertTrue(gates["injectors"]["is_open"])

    def test_refused_fields_are_named_and_nothing_is_half_written(self):
        for changes, field in (
            ({"rated_pressure_kpa": 43}, "rated_pressure_kpa"),
            ({"dead_time": {"voltage_v": [8, 14], "dead_time_ms": [[0.9, 2.4]]}}, "dead_time"),
            ({"report": {"flows": [390, 391, 392]}}, "report.flows"),
            ({"count": 0}, "count"),
            ({"colour": "red"}, "injectors.colour"),
        ):
            with self.subTest(field=field):
                self.assertEqual(self.save(422, **changes)["problems"][0]["field"], field)
        self.assertEqual((Entry.objects.count(), Revision.objects.count()), (0, 1))

    def test_a_failure_in_the_middle_leaves_nothing(self):
        from unittest.mock import patch

        broken = patch("server.hardware.supply.revise", side_effect=RuntimeError("disk full"))
        with broken, self.assertLogs("server.config.problems", "ERROR"):
            self.save(500, flow=780)
        self.assertEqual(Entry.objects.count(), 0)
        self.assertEqual(self.get(f"/jobs/{self.job}")["engine"]["injectors"]["flow_cm3_min"], 390)

    def test_unknown_injectors_from_a_log_and_from_typed_points(self):
        faults = [{"kind": "injector_flow", "size": 1.25}]
        log = self.post(f"/jobs/{self.job}/bench/held", {"engine": "port_four", "faults": faults})[
            "log_id"
        ]
        seen = self.post(f"{self.path}/infer", {"log_id": log}, 200)
        result = seen["result"]
        true = 390 * 1.25 * 1.02
        self.assertLess(result["flow_low"], true)
        self.assertGreater(result["flow_high"], true)
        self.assertTrue(result["dead_time_told"])
        self.assertGreater(len(seen["points"]), 3)
        # The proposal is looked at and saved like any other entry.
        saved = self.post(self.path, {"injectors": seen["proposal"]})
        self.assertAlmostEqual(saved["rated_petrol_cm3_min"], result["flow_cm3_min"], delta=0.1)
        again = self.post(f"{self.path}/infer", {"points": seen["points"]}, 200)
        self.assertFalse(again["result"]["sentences"] == result["sentences"])
        one = [{"lambda_measured": 0.9, "lambda_target": 1.0, "pulse_ms": 3, "battery_v": 14}]
        single = self.post(f"{self.path}/infer", {"points": one}, 200)["result"]
        self.assertFalse(single["dead_time_told"])
        self.post(f"{self.path}/infer", {}, 422)
        self.post(f"{self.path}/infer", {"points": [{**one[0], "lambda_measured": 14.7}]}, 422)
        self.post(f"{self.path}/infer", {"log_id": 4242}, 404)

    def test_a_cold_log_tells_nothing_and_says_so(self):
        log = self.post(f"/jobs/{self.job}/bench/starts", {"coolant_c": 5})["log_id"]
        self.assert_problem(
            self.post(f"{self.path}/infer", {"log_id": log}, 422), "steady and warm"
        )


class SupplyTests(ApiTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()["id"]
        self.path = f"/jobs/{self.job}/supply"

    def test_before_a_pump_is_entered_there_is_no_sheet(self):
        seen = self.get(self.path)
        self.assertEqual(
            (seen["number"], seen["sheet"], seen["supply"]["rail_pressure_kpa"]), (0, None, 300)
        )

    def test_saving_puts_the_rail_in_force(self):
        self.post(
            f"/jobs/{self.job}/injectors",
            {
                "injectors": {
                    **INJECTORS,
                    "dead_time": {
                        "voltage_v": [8, 14],
                        "dead_time_ms": [[2.0, 0.8], [2.4, 1.0]],
                        "pressure_kpa": [300, 400],
                    },
                }
            },
        )
        saved = self.post(self.path, {"supply": {**SUPPLY, "rail_pressure_kpa": 350}})
        self.assertEqual((saved["number"], saved["revision"]), (1, 3))
        table = self.get(f"/jobs/{self.job}/calibration")["tables"]["dead_time"]
        at_14 = table["values"][table["axes"][0]["points"].index(14.0)]
        self.assertAlmostEqual(at_14, 0.9, places=6)  # between the two pressures
        engine = self.get(f"/jobs/{self.job}")["engine"]
        self.assertEqual((engine["rail_pressure_kpa"], engine["manifold_referenced"]), (350, True))
        self.assertGreater(saved["sheet"]["margin"]["lines"][0]["reserve"], 1.0)

    def test_prime_and_decay(self):
        body = {
            **SUPPLY,
            "prime": [[0.2, 120], [0.5, 220], [1, 280], [2, 300]],
            "decay": [[0, 300], [5, 150], [10, 75]],
        }
        sheet = self.post(f"{self.path}/preview", {"supply": body}, 200)["sheet"]
        self.assertEqual(sheet["prime"]["level"], "good")
        self.assertEqual(sheet["decay"]["verdict"], "leak")
        self.assertEqual(Entry.objects.count(), 0)

    def test_prime_from_a_key_on_log(self):
        self.post(f"/jobs/{self.job}/sensors", {"sensor": PRESSURE})
        log = self.post(f"/jobs/{self.job}/bench/key-on", {})["log_id"]
        seen = self.post(f"{self.path}/prime", {"log_id": log}, 200)
        self.assertAlmostEqual(seen["result"]["time_constant_s"], 0.35, delta=0.1)
        self.post(f"{self.path}/prime", {"log_id": 4242}, 404)

    def test_refusals(self):
        for changes, field in (
            ({"rail_pressure_kpa": 43.5}, "rail_pressure_kpa"),
            ({"readings": []}, "pump.readings"),
            ({"name": ""}, "name"),
            ({"decay": [[0, 100], [1, 300]]}, "decay.readings"),
        ):
            with self.subTest(field=field):
                answer = self.post(f"{self.path}/preview", {"supply": {**SUPPLY, **changes}}, 422)
                self.assertEqual(answer["problems"][0]["field"], field)

"""What is refused, with which words, and that a refusal changes nothing."""

import json

from django.apps import apps
from django.conf import settings

from .base import FOUR, ApiTestCase
from .parts import COOLANT, INJECTORS, SUPPLY, TRIGGER

CONTRACT = json.loads((settings.ROOT / "server" / "openapi.json").read_text())["paths"]
#: Asks nothing of its body: doing it without one is right.
BODILESS = {"/api/tokens", "/api/jobs/{job_id}/intake"}


def rows():
    """How many rows there are of everything that is ours."""
    return {
        model._meta.label: model.objects.count()
        for app in apps.get_app_configs()
        if app.name.startswith("server.")
        for model in app.get_models()
    }


class RefusedTestCase(ApiTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()["id"]
        self.before = rows()

    def refused(self, path, body, *words, status=422, field=None):
        with self.subTest(path=path, body=body):
            answer = self.post(path.replace("{job}", f"/jobs/{self.job}"), body, status)
            self.assert_problem(answer, *words)
            self.assertNotIn("\ue000", json.dumps(answer, ensure_ascii=False))
            if field is not None:
                self.assertIn(field, [problem["field"] for problem in answer["problems"]])
            self.assertEqual(rows(), self.before)


class WordsTests(RefusedTestCase):
    def test_engine_data(self):
        for change, words, field in (
            ({"displacement_l": 0}, ("Displacement must be between 0.05 and 30 l",), "displacement_l"),
            ({"displacement_l": 2200}, ("Displacement", "30 l", "2200"), "displacement_l"),
            ({"compression_ratio": 40}, ("compression ratio", "18"), "compression_ratio"),
            ({"chambers": 0}, ("number of cylinders",), "chambers"),
            ({"ethanol_volume_share": 85}, ("ethanol share", "0 and 1"), "ethanol_volume_share"),
            ({"rail_pressure_kpa": 43}, ("Rail pressure", "psi"), "rail_pressure_kpa"),
            ({"torque_peak_rpm": 9900}, ("torque peak",), "torque_peak_rpm"),
            ({"injectors": {"flow_cm3_min": 3}}, ("Injector flow",), "injectors.flow_cm3_min"),
        ):  # fmt: skip
            self.refused("/jobs", {"name": "X", "engine": {**FOUR, **change}}, *words, field=field)

    def test_a_job_needs_its_name_and_its_engine(self):
        self.refused("/jobs", {"engine": FOUR}, "name")
        self.refused("/jobs", {"name": " ", "engine": FOUR}, "name")
        self.refused("/jobs", {"name": "X"}, "engine")
        self.refused("/jobs", {"name": "X", "engine": {"chambers": 4}}, "displacement_l")
        self.refused("/jobs", {"name": "X", "engine": {**FOUR, "cylinder": 4}}, "cylinder")

    def test_edits_of_tables(self):
        path = "{job}/calibration"
        for tables, words in (
            ({"nothing": {"values": [1]}}, ("nothing",)),
            ({"cranking_fuel": {"values": [1, 2]}}, ("needs", "values")),
            ({"cranking_fuel": {"values": "many"}}, ()),
            ({"cranking_fuel": {"values": [99999] * 12}}, ("Cranking fuel", "1500 %")),
        ):
            self.refused(path, {"note": "n", "based_on": 1, "tables": tables}, *words)
        self.refused(path, {"note": "n", "based_on": 7, "tables": {}}, "no revision 7")

    def test_trials(self):
        path = "{job}/trials"
        for seen, words in (
            ({}, ("outcome",)),
            ({"outcome": "exploded", "coolant_c": 5}, ("outcome",)),
            ({"outcome": "no fire"}, ("coolant_c",)),
            ({"outcome": "no fire", "coolant_c": 400}, ("oolant",)),
            ({"outcome": "started", "coolant_c": 5, "cranking_s": -3}, ("ranking",)),
        ):
            self.refused(path, {"observation": seen}, *words)
        self.refused(path, {"log_id": 999}, status=404)
        self.refused(path, {}, "log")

    def test_the_table_bench(self):
        region = {"first_row": 0, "last_row": 0, "first_column": 0, "last_column": 0}
        good = {"revision": 1, "table": "ve", "operation": "set", "amount": 50, "region": region,
                "values": self.get(f"/jobs/{self.job}/calibration")["tables"]["ve"]["values"], "locked": []}  # fmt: skip
        self.post(f"/jobs/{self.job}/table-bench/operate", good, 200)
        path = "{job}/table-bench/operate"
        self.refused(path, {**good, "table": "nothing"}, "nothing")
        self.refused(path, {**good, "operation": "double"}, "operation")
        self.refused(path, {**good, "values": [[1.0]]})
        self.refused(path, {**good, "region": {**region, "last_row": 99}})
        self.refused(path, {**good, "region": {**region, "first_row": -1}})
        self.refused(path, {**good, "revision": 9}, status=404)

    def test_axes_units_and_transfer(self):
        axes = {"cranking_fuel": {"coolant_c": [20, 0]}}
        self.refused("{job}/base-maps/axes", {"based_on": 1, "axes": axes, "note": ""})
        self.refused("{job}/units", {"units": {"temperature": "°R"}}, "°R")
        self.refused("{job}/units", {"units": {"weight": "kg"}}, "weight")
        self.refused("{job}/transfer", {"revision": 1, "how": "shouted"}, "how")

    def test_hardware(self):
        for sensor, words in (
            ({**COOLANT, "function": "smell"}, ("smell",)),
            ({**COOLANT, "transfer": {"kind": "guess"}}, ("kind",)),
            ({**COOLANT, "transfer": {**COOLANT["transfer"], "points": [[20, 2500], [20, 2600]]}}, ()),
            ({**COOLANT, "transfer": {**COOLANT["transfer"], "pull_up_ohm": 0}}, ("ull-up",)),
        ):  # fmt: skip
            self.refused("{job}/sensors", {"sensor": sensor}, *words)
        self.refused("{job}/injectors", {"injectors": {**INJECTORS, "flow": 0}}, "flow")
        self.refused("{job}/injectors", {"injectors": {**INJECTORS, "count": 0}})
        self.refused("{job}/supply", {"supply": {**SUPPLY, "readings": []}})

    def test_trigger(self):
        for trigger, words in (
            ({**TRIGGER, "pattern": "square"}, ("square",)),
            ({**TRIGGER, "firing_order": [1, 1, 2, 2]}, ("iring order",)),
            ({**TRIGGER, "firing_order": [1, 2, 3]}, ("iring order",)),
            ({**TRIGGER, "offset_deg": 4000}, ("ffset",)),
        ):
            self.refused("{job}/trigger", {"trigger": trigger}, *words)

    def test_bench_engine(self):
        self.refused("{job}/bench/starts", {"engine": "spaceship", "coolant_c": 5}, "spaceship")
        self.refused("{job}/bench/starts", {"engine": "port_four", "coolant_c": 900})
        self.refused(
            "{job}/bench/starts", {"engine": "port_four", "coolant_c": 5, "run_s": 601}, "run_s"
        )
        self.refused(
            "{job}/bench/starts", {"engine": "port_four", "coolant_c": 5, "faults": ["gremlin"]}
        )

    def test_pasted_text(self):
        self.refused("/pasted", {"purpose": "resistance", "text": "no numbers here"})
        self.refused("/pasted", {"purpose": "gossip", "text": "1 2"}, "gossip")
        self.refused("/controllers/pin-list", {"name": "X", "text": ""})


class EveryPostTests(RefusedTestCase):
    """Walked from the contract, so that an endpoint added tomorrow is held to the same."""

    def posts(self):
        known = {
            "job_id": self.job,
            "number": 1,
            "trial_id": 1,
            "log_id": 1,
            "function": "coolant",
            "person_id": 1,
            "key": "fluids",
        }
        for path, operations in CONTRACT.items():
            if "post" in operations and path not in BODILESS and "/session" not in path:
                yield path, path.removeprefix("/api").format(**known), operations["post"]

    def test_nothing_comes_of_bodies_that_are_none(self):
        asked = 0
        for path, real, operation in self.posts():
            content = operation.get("requestBody", {}).get("content", {})
            if "application/json" not in content:
                continue
            for body in ("", "{", "[]", '"text"', "null", '{"odd": NaN}', "[" * 5000):
                with self.subTest(path=path, body=body[:12]):
                    answer = self.client.post(f"/api{real}", body, content_type="application/json")
                    asked += 1
                    self.assertIn(answer.status_code, (400, 404, 409, 422), answer.content[:200])
                    self.assert_problem(answer.json())
        self.assertGreater(asked, 300)
        self.assertEqual(rows(), self.before)

    def test_what_is_not_known_is_not_quietly_left_out(self):
        """A misspelt field must not pass for a setting that was never made."""
        passed = []
        for path, real, operation in self.posts():
            content = operation.get("requestBody", {}).get("content", {})
            if "application/json" not in content:
                continue
            answer = self.client.post(
                f"/api{real}", {"misspelt_field": 1}, content_type="application/json"
            )
            self.assertLess(answer.status_code, 500, path)
            if answer.status_code < 400:
                passed.append(path)
        self.assertEqual(passed, [])
        self.assertEqual(rows(), self.before)

    def test_files_that_are_none(self):
        from django.core.files.uploadedfile import SimpleUploadedFile

        asked = 0
        for path, real, operation in self.posts():
            content = operation.get("requestBody", {}).get("content", {})
            if "multipart/form-data" not in content:
                continue
            for name, data in (
                ("empty.csv", b""), ("noise.csv", bytes(range(256)) * 20), ("x.zip", b"PK\x03\x04torn"),
                ("p.png", b"\x89PNG\r\n\x1a\n" + b"0" * 60), ("t.csv", b"only words\nand more words\n"),
            ):  # fmt: skip
                with self.subTest(path=path, name=name):
                    answer = self.client.post(
                        f"/api{real}", {"file": SimpleUploadedFile(name, data)}
                    )
                    asked += 1
                    self.assertLess(answer.status_code, 500, answer.content[:200])
                    if answer.status_code >= 400:
                        self.assert_problem(answer.json())
        self.assertGreater(asked, 20)

    def test_a_stranger_gets_nothing_from_any_of_them(self):
        self.client.force_login(self.stranger)
        for path, real, _ in self.posts():
            if "{job_id}" not in path:
                continue
            with self.subTest(path=path):
                answer = self.client.post(f"/api{real}", {}, content_type="application/json")
                self.assertIn(answer.status_code, (400, 404, 422), answer.content[:200])
        self.assertEqual(rows(), self.before)

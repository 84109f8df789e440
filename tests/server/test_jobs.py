"""Jobs over HTTP: creation with generated tables, refusals with fields, units."""

from server.calibration.models import Revision
from server.jobs.models import Job

from .base import FOUR, ApiTestCase


class CreateTests(ApiTestCase):
    def test_a_job_comes_with_revision_one_and_its_next_action(self):
        job = self.make_job(note="will not start")
        self.assertEqual((job["revision"], job["trials"]), (1, 0))
        self.assertEqual(
            (job["next_action"]["kind"], job["next_action"]["station"]), ("enter", "wiring")
        )
        self.assertEqual(job["judgement"]["level"], "fits")
        self.assertEqual(self.get("/jobs")[0]["id"], job["id"])

    def test_a_job_begins_where_the_car_stands(self):
        """One choice opens the gates behind it, with that in the record; nothing else is taken as done."""
        begun = {b["key"]: b for b in self.get("/vocabulary")["car_begins"]}
        self.assertEqual(list(begun), ["bare", "wired", "runs", "starts_left"])
        for key, begins in begun.items():
            job = self.make_job(car=key)
            path = f"/jobs/{job['id']}"
            is_open = {gate["key"]: gate["is_open"] for gate in job["gates"]}
            for station in ("wiring", "trigger"):
                opened = station in begins["opened"]
                self.assertEqual(is_open[station], opened, (key, station))
                kept = self.get(f"{path}/{station}")["reason"]
                self.assertEqual(kept, begins["reason"] if opened else "")
        self.post("/jobs", {"name": "x", "engine": FOUR, "car": "nearly"}, status=422)

    def test_the_board_tells_where_it_is_proven(self):
        job = self.make_job()
        self.assertEqual([c["coolant_c"] for c in job["checks"]], [-10, 0, 10, 20, 40, 60, 85])
        self.assertFalse(any(check["proven"] for check in job["checks"]))
        seen = {"outcome": "started", "coolant_c": 14, "cranking_s": 0.8, "flare_rpm": 1250,
                "dip_rpm": 980, "settled_rpm": 1040, "lambda_later": 0.95}  # fmt: skip
        good = self.post(f"/jobs/{job['id']}/trials", {"observation": seen})["good"]
        proven = [c["coolant_c"] for c in self.get("/jobs")[0]["checks"] if c["proven"]]
        self.assertEqual((good, proven), (True, [10, 20]))

    def test_three_numbers_are_enough(self):
        engine = {"displacement_l": 1.6, "chambers": 4, "injectors": {"flow_cm3_min": 230}}
        self.post("/jobs", {"name": "Short", "engine": engine})

    def test_impossible_data_are_refused_by_field_and_nothing_is_kept(self):
        for change, field in (
            ({"displacement_l": 0}, "displacement_l"),
            ({"displacement_l": "two"}, "displacement_l"),
            ({"displacement_l": None}, "displacement_l"),
            ({"chambers": 0}, "chambers"),
            ({"cam": "hot"}, "cam"),
            ({"colour": "red"}, "colour"),
            ({"injectors": {"flow_cm3_min": 39}}, "flow_cm3_min"),
            (
                {
                    "injectors": {
                        "flow_cm3_min": 390,
                        "dead_time": {"voltage_v": [8, 12], "dead_time_ms": [1, 2]},
                    }
                },
                "dead_time",
            ),
            (
                {
                    "injectors": {
                        "flow_cm3_min": 390,
                        "dead_time": {"voltage_v": [12, 8], "dead_time_ms": [1, 2]},
                    }
                },
                "dead_time",
            ),
            ({"rail_pressure_kpa": 43}, "rail_pressure_kpa"),
        ):
            with self.subTest(change=change):
                answer = self.post("/jobs", {"name": "X", "engine": {**FOUR, **change}}, status=422)
                self.assert_problem(answer)
                self.assertTrue(
                    any(field in p["field"] for p in answer["problems"]), answer["problems"]
                )
        self.assertEqual(Job.objects.count(), 0)

    def test_numbers_that_json_does_not_know_are_refused(self):
        for text in ("NaN", "Infinity", "1e999"):
            engine = (
                f'"displacement_l": {text}, "chambers": 4, "injectors": {{"flow_cm3_min": 390}}'
            )
            body = f'{{"name": "X", "engine": {{{engine}}}}}'
            response = self.client.post("/api/jobs", body, content_type="application/json")
            self.assertIn(response.status_code, (400, 422))
            self.assert_problem(response.json())

    def test_an_implausible_injector_is_taken_with_a_written_reason(self):
        tiny = {"name": "X", "engine": {**FOUR, "injectors": {"flow_cm3_min": 39}}}
        self.assert_problem(
            self.post("/jobs", tiny, status=422), "far too small", "override_reason"
        )
        job = self.post("/jobs", {**tiny, "override_reason": "a model engine"})
        self.assertEqual(Job.objects.get(pk=job["id"]).override_reason, "a model engine")

    def test_own_axes(self):
        axes = {"coolant_c": [-20, 0, 20, 80], "rpm": [500, 1000, 6000]}
        job = self.make_job(axes=axes)
        tables = self.get(f"/jobs/{job['id']}/calibration")["tables"]
        self.assertEqual(tables["idle_valve"]["axes"][0]["points"], axes["coolant_c"])
        self.assertEqual(tables["ve"]["axes"][0]["points"], axes["rpm"])
        falling = self.post(
            "/jobs", {"name": "X", "engine": FOUR, "axes": {"coolant_c": [0, 20, 10]}}, status=422
        )
        self.assert_problem(falling, "must rise")
        self.assertEqual(Revision.objects.count(), 1)

    def test_broken_json_gets_a_sentence(self):
        response = self.client.post("/api/jobs", "{", content_type="application/json")
        self.assertEqual(response.status_code, 400)
        self.assert_problem(response.json())


class PreviewTests(ApiTestCase):
    def test_judges_while_typing_and_saves_nothing(self):
        judgement = self.post("/jobs/preview", {"engine": FOUR}, status=200)
        self.assertAlmostEqual(judgement["reference_pulse_ms"], 9.18, delta=0.02)
        warned = self.post(
            "/jobs/preview", {"engine": {**FOUR, "injectors": {"flow_cm3_min": 39}}}, status=200
        )
        self.assertEqual(warned["level"], "implausible")
        self.assertEqual(Job.objects.count(), 0)


class UnitsTests(ApiTestCase):
    def test_display_units_of_a_job(self):
        job = self.make_job(units={"temperature": "°F"})
        self.assertEqual(job["units"]["temperature"], "°F")
        changed = self.post(f"/jobs/{job['id']}/units", {"units": {"pressure": "bar"}}, status=200)
        self.assertEqual(
            (changed["units"]["temperature"], changed["units"]["pressure"]), ("°F", "bar")
        )
        self.assert_problem(
            self.post(f"/jobs/{job['id']}/units", {"units": {"pressure": "atm"}}, status=422)
        )

    def test_vocabulary_holds_the_definitions(self):
        words = self.get("/vocabulary")
        self.assertIn("cranking_fuel", [table["key"] for table in words["tables"]])
        self.assertEqual(len(words["stations"]), 13)

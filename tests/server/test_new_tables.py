"""Tables, axes and channels that later stations fill: through the interface, in every form."""

import io
import json
import zipfile

import numpy as np
from django.core.files.uploadedfile import SimpleUploadedFile
from inbetrieb_core.tables import AXES, DEFINITIONS

from .base import ApiTestCase

#: A curve or setting of every kind that is new, as it travels.
NEW = {
    "air_meter": ("meter_v", [0.5, 2.0, 4.5], [1.0, 40.0, 210.0]),
    "charge_temperature_correction": ("intake_c", [-20, 20, 80], [104.0, 100.0, 93.0]),
    "barometric_correction": ("barometric_kpa", [60, 80, 101], [92.0, 97.0, 100.0]),
    "acceleration_enrichment": ("throttle_rate_pct_s", [50, 200, 800], [0.0, 12.0, 35.0]),
    "acceleration_cold": ("coolant_c", [-20, 20, 80], [260.0, 170.0, 100.0]),
    "idle_spark_correction": ("speed_error_rpm", [-200, 0, 200], [-6.0, 0.0, 6.0]),
}
SETTINGS = {
    "acceleration_fade": 0.4, "idle_load_gear": 4.0, "idle_load_lamps": 1.5,
    "idle_load_fan": 2.0, "idle_load_air_conditioning": 6.0,
}  # fmt: skip


class NewTableTests(ApiTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()["id"]

    def document(self, **tables):
        exported = self.client.get(f"/api/jobs/{self.job}/export?format=json")
        document = json.loads(b"".join(exported) if exported.streaming else exported.content)
        document["tables"].update(tables)
        document["settings"].update(
            {k: {"unit": DEFINITIONS[k].unit, "value": v} for k, v in SETTINGS.items()}
        )
        return document

    def curves(self):
        return {
            key: {
                "unit": DEFINITIONS[key].unit,
                "axes": [{"name": axis, "unit": AXES[axis].unit, "points": points}],
                "values": values,
            }
            for key, (axis, points, values) in NEW.items()
        }

    def bring(self, data, name="c.json", status=201):
        answer = self.client.post(
            f"/api/jobs/{self.job}/import", {"file": SimpleUploadedFile(name, data)}
        )
        self.assertEqual(answer.status_code, status, answer.content[:400])
        return answer.json()

    def exported(self, form):
        answer = self.client.get(f"/api/jobs/{self.job}/export?format={form}")
        self.assertEqual(answer.status_code, 200)
        return b"".join(answer) if answer.streaming else answer.content

    def tables(self):
        return self.get(f"/jobs/{self.job}/calibration")["tables"]

    def test_a_file_with_every_new_table_comes_in_and_goes_out_in_every_form(self):
        self.bring(json.dumps(self.document(**self.curves())).encode())
        tables = self.tables()
        for key, (axis, points, values) in NEW.items():
            with self.subTest(key=key):
                self.assertEqual(tables[key]["axes"][0]["name"], axis)
                self.assertEqual(tables[key]["axes"][0]["points"], points)
                self.assertEqual(tables[key]["values"], values)
        before = self.tables()
        for form in ("json", "csv"):
            with self.subTest(form=form):
                self.bring(self.exported(form), f"c.{form}")
                after = self.tables()
                self.assertEqual(
                    {k: (t["axes"], t["values"]) for k, t in after.items()},
                    {k: (t["axes"], t["values"]) for k, t in before.items()},
                )
        with zipfile.ZipFile(io.BytesIO(self.exported("csv-set"))) as archive:
            names = {name.removesuffix(".csv") for name in archive.namelist()}
        self.assertLessEqual({*NEW, *SETTINGS}, names)
        self.assertTrue(self.exported("workbook").startswith(b"PK"))

    def test_a_map_by_throttle_angle_is_taken_shown_and_worked_on(self):
        plain = self.tables()["ve"]
        count = len(plain["axes"][1]["points"])
        points = np.linspace(0, 100, count).round(1).tolist()
        axes = [{"name": "rpm", "unit": "rpm", "points": plain["axes"][0]["points"]},
                {"name": "throttle_pct", "unit": "%", "points": points}]  # fmt: skip
        by_throttle = {"unit": "%", "axes": axes, "values": plain["values"]}
        revision = self.bring(json.dumps(self.document(ve=by_throttle)).encode())
        self.assertEqual(self.tables()["ve"]["axes"][1]["name"], "throttle_pct")
        region = {"first_row": 0, "last_row": 1, "first_column": 0, "last_column": 1}
        worked = self.post(
            f"/jobs/{self.job}/table-bench/operate",
            {"revision": revision["revision"], "table": "ve", "operation": "percent", "amount": 10.0,
             "region": region, "values": plain["values"], "locked": []}, 200,
        )  # fmt: skip
        self.assertEqual(len(worked["changes"]), 4)
        self.assertEqual(self.get(f"/jobs/{self.job}/review")["verdict"], "sound")

    def test_axes_that_do_not_belong_to_a_table_are_refused_in_words(self):
        wrong = {"unit": "%", "axes": [{"name": "battery_v", "unit": "V", "points": [8, 14]}], "values": [100, 100]}  # fmt: skip
        for key in ("barometric_correction", "acceleration_cold", "cranking_air"):
            with self.subTest(key=key):
                answer = self.bring(json.dumps(self.document(**{key: wrong})).encode(), status=422)
                self.assert_problem(answer, DEFINITIONS[key].title, "not over battery voltage")
        self.assertNotIn("barometric_correction", self.tables())

    def test_values_beyond_the_bounds_are_refused_in_words(self):
        for key, (axis, points, values) in NEW.items():
            definition = DEFINITIONS[key]
            beyond = [*values[:-1], 1e9]  # a file as found may hold anything that can be a number
            table = {"unit": definition.unit, "axes": [{"name": axis, "unit": AXES[axis].unit, "points": points}], "values": beyond}  # fmt: skip
            with self.subTest(key=key):
                answer = self.bring(json.dumps(self.document(**{key: table})).encode(), status=422)
                self.assert_problem(answer, definition.title, "between")

    def test_cranking_air_may_be_taken_away_down_to_thirty(self):
        values = self.tables()["cranking_air"]["values"]
        self.edit(self.job, {"cranking_air": [-30.0] * len(values)})
        self.assertEqual(set(self.tables()["cranking_air"]["values"]), {-30.0})
        answer = self.edit(
            self.job, {"cranking_air": [-30.1] * len(values)}, based_on=2, status=422
        )
        self.assert_problem(answer, "Cranking air", "−30 and 100 %")

    def test_less_cranking_air_reaches_the_valve_of_the_bench_engine(self):
        def opening(revision):
            log = self.post(
                f"/jobs/{self.job}/bench/starts",
                {
                    "engine": "port_four",
                    "coolant_c": 20,
                    "seed": 1,
                    "run_s": 4,
                    "revision": revision,
                },
            )["id"]
            samples = self.get(f"/jobs/{self.job}/logs/{log}/samples")["channels"]
            cranking = [
                v
                for v, n in zip(samples["idle_valve_pct"], samples["rpm"], strict=True)
                if 50 < n < 300
            ]
            return sum(cranking) / len(cranking)

        self.write_reasons(self.job, "wiring", "trigger", "output-tests")
        values = self.tables()["cranking_air"]["values"]
        self.edit(self.job, {"cranking_air": [-10.0] * len(values)})
        self.assertLess(opening(2), opening(1) - 5.0)

    def test_the_difference_names_new_tables(self):
        self.bring(json.dumps(self.document(**self.curves())).encode())
        shown = self.get(f"/jobs/{self.job}/calibration/diff?first=1&second=2")
        self.assertIn("air_meter", json.dumps(shown))

    def test_the_vocabulary_says_everything_of_them(self):
        vocabulary = self.get("/vocabulary")
        told = {table["key"]: table for table in vocabulary["tables"]}
        for key in (*NEW, *SETTINGS):
            with self.subTest(key=key):
                self.assertTrue(told[key]["optional"])
                self.assertEqual(told[key]["unit"], DEFINITIONS[key].unit)
                self.assertTrue(told[key]["meaning"])
        self.assertEqual(told["ve"]["alternatives"], [["rpm", "throttle_pct"]])
        axes = {axis["name"]: axis for axis in vocabulary["axes"]}
        self.assertEqual(axes["speed_error_rpm"]["lower"], -2000.0)


class NewChannelTests(ApiTestCase):
    HEADS = "Time;RPM;CLT;Idle Target;Lambda 2;MAF Hz;Ambient Temp [°F];Gear;Torque [lb·ft];Power [PS];Baro [mbar];Knock Count"

    def setUp(self):
        super().setUp()
        self.job = self.make_job()["id"]

    def data(self):
        rows = [
            f"{i * 0.05:.2f};{900 + i};20;950;1.01;3200;68;3;100;100;1013.25;0" for i in range(200)
        ]
        return "\n".join([self.HEADS, *rows]).encode()

    def test_they_are_kept_in_canonical_units(self):
        log = self.upload(self.job, self.data())
        samples = self.get(f"/jobs/{self.job}/logs/{log['id']}/samples")["channels"]
        for channel, value in (
            ("idle_target_rpm", 950.0), ("lambda_2", 1.01), ("meter_hz", 3200.0), ("ambient_c", 20.0),
            ("gear", 3.0), ("torque_nm", 135.58), ("power_kw", 73.55), ("barometric_kpa", 101.325),
            ("knock_count", 0.0),
        ):  # fmt: skip
            with self.subTest(channel=channel):
                self.assertAlmostEqual(samples[channel][3], value, places=2)

    def test_the_preview_offers_their_units(self):
        answer = self.client.post(
            f"/api/jobs/{self.job}/logs/preview", {"file": SimpleUploadedFile("l.csv", self.data())}
        )
        self.assertEqual(answer.status_code, 200, answer.content[:300])
        uses = {use["column"]: use for use in answer.json()["uses"]}
        self.assertEqual(uses["Torque [lb·ft]"]["read_unit"], "lb·ft")
        self.assertEqual(uses["Power [PS]"]["read_unit"], "PS")
        self.assertEqual(uses["Ambient Temp [°F]"]["channel"], "ambient_c")


class LongStartTests(ApiTestCase):
    def test_a_start_may_run_ten_minutes_and_no_longer(self):
        job = self.make_job()["id"]
        self.write_reasons(job, "wiring", "trigger", "output-tests")
        body = {"engine": "port_four", "coolant_c": 20, "seed": 1, "rate_hz": 5}
        log = self.post(f"/jobs/{job}/bench/starts", {**body, "run_s": 600})["id"]
        self.assertGreater(self.get(f"/jobs/{job}/logs/{log}")["duration_s"], 590.0)
        refused = self.post(f"/jobs/{job}/bench/starts", {**body, "run_s": 601}, 422)
        self.assert_problem(refused, "600")

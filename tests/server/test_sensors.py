"""Sensors over HTTP: versions, previews, tables, the library, pasted tables, agreement."""

from server.entries.models import Entry
from server.hardware.models import LibraryItem

from .base import ApiTestCase
from .parts import COOLANT, MAP, PAIRS, WIDEBAND


class SensorTests(ApiTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()["id"]
        self.path = f"/jobs/{self.job}/sensors"

    def save(self, sensor, status=201):
        return self.post(self.path, {"sensor": sensor}, status)

    def test_every_save_is_a_version_and_the_newest_counts(self):
        self.assertEqual(self.get(self.path), [])
        self.assertEqual(self.save(COOLANT)["number"], 1)
        self.save(MAP)
        changed = {**COOLANT, "transfer": {**COOLANT["transfer"], "pull_up_ohm": 1000}}
        self.assertEqual(self.save(changed)["number"], 2)
        listed = self.get(self.path)
        self.assertEqual([row["function"] for row in listed], ["manifold_pressure", "coolant"])
        self.assertEqual(listed[1]["sensor"]["transfer"]["pull_up_ohm"], 1000)
        versions = self.get(f"{self.path}/coolant/versions")
        self.assertEqual([v["sensor"]["transfer"]["pull_up_ohm"] for v in versions], [1000, 2490])
        self.assertEqual(versions[0]["created_by"], "owner")

    def test_removing_keeps_the_record(self):
        self.save(COOLANT)
        self.call("delete", f"{self.path}/coolant", status=204)
        self.assertEqual(self.get(self.path), [])
        versions = self.get(f"{self.path}/coolant/versions")
        self.assertEqual([v["sensor"] is None for v in versions], [True, False])
        self.call("delete", f"{self.path}/coolant", status=404)
        self.call("delete", f"{self.path}/nonsense", status=404)
        self.assertEqual(self.save(COOLANT)["number"], 3)

    def test_a_refused_sensor_names_its_field_and_writes_nothing(self):
        bad = {**COOLANT, "transfer": {**COOLANT["transfer"], "pull_up_ohm": 0}}
        answer = self.save(bad, 422)
        self.assertEqual(answer["problems"][0]["field"], "transfer.pull_up_ohm")
        self.assertIn("no voltage", answer["detail"])
        self.assertEqual(Entry.objects.count(), 0)

    def test_only_the_kind_that_was_meant_is_complained_about(self):
        for transfer, words in (
            ({"kind": "thermistor", "points": [[0, 5000]]}, "pull_up_ohm: Field required"),
            ({"kind": "linear", "points": [["a", 1], [2, 3]]}, "valid number"),
            ({"kind": "linear", "slope": 1, "offset": 0, "colour": "red"}, "colour"),
        ):
            answer = self.save({**COOLANT, "transfer": transfer}, 422)
            self.assertIn(words, answer["detail"])
            self.assertEqual(len(answer["problems"]), 1, answer["problems"])
            self.assertNotIn("Entry", str(answer["problems"]))

    def test_preview_computes_and_saves_nothing(self):
        seen = self.post("/sensors/preview", {"sensor": COOLANT, "axis": [0.5, 2.5]}, 200)
        self.assertEqual([row["at"] for row in seen["table"]], [0.5, 2.5])
        self.assertAlmostEqual(seen["table"][1]["value"], 20.1, delta=0.1)
        self.assertEqual(seen["sheet"]["signal_unit"], "V")
        self.assertIsNone(seen["fuel_level"])
        over = self.post("/sensors/preview", {"sensor": COOLANT, "of": "resistance"}, 200)
        self.assertGreater(over["table"][-1]["at"], 10_000)
        tank = {
            "function": "fuel_level",
            "name": "Float",
            "transfer": {"kind": "table", "points": [[3, 0], [0.5, 60]]},
        }
        level = self.post("/sensors/preview", {"sensor": tank}, 200)["fuel_level"]
        self.assertEqual(len(level["volumes"]), 11)
        self.assertEqual(Entry.objects.count(), 0)

    def test_value_table_as_csv_in_the_jobs_units(self):
        self.save(COOLANT)
        response = self.client.get(f"/api{self.path}/coolant/table.csv", {"axis": "1 2.5; 4"})
        self.assertEqual(response["Content-Type"], "text/csv; charset=utf-8")
        lines = response.content.decode().split("\r\n")
        self.assertEqual(lines[0], "Signal [V],Coolant temperature [°C],extrapolated")
        celsius = float(lines[2].split(",")[1])
        self.post(f"/jobs/{self.job}/units", {"units": {"temperature": "°F"}}, 200)
        text = self.client.get(
            f"/api{self.path}/coolant/table.csv", {"axis": "1 2.5 4"}
        ).content.decode()
        self.assertIn("[°F]", text)
        fahrenheit = float(text.split("\r\n")[2].split(",")[1])
        self.assertAlmostEqual(fahrenheit, 1.8 * celsius + 32, delta=0.1)
        for query, status in (
            ({"axis": "one two"}, 422),
            ({"of": "colour"}, 422),
            ({"of": "resistance"}, 200),
        ):
            self.assertEqual(
                self.client.get(f"/api{self.path}/coolant/table.csv", query).status_code, status
            )
        self.assertEqual(
            self.client.get(f"/api{self.path}/oil_pressure/table.csv").status_code, 404
        )

    def test_history_cannot_be_changed_even_in_the_database(self):
        from django.db import DatabaseError, connection, transaction

        from server.config.append_only import AppendOnlyError

        self.save(COOLANT)
        row = Entry.objects.get()
        with self.assertRaises(AppendOnlyError):
            row.save()
        with self.assertRaises(DatabaseError), transaction.atomic(), connection.cursor() as cursor:
            cursor.execute("UPDATE hardware_hardwareentry SET number = 9")


class VocabularyTests(ApiTestCase):
    def test_says_all_that_can_be_fitted(self):
        seen = self.get("/hardware")
        functions = [function["key"] for function in seen["functions"]]
        self.assertEqual(len(functions), 13)
        self.assertEqual({row["sensor"]["function"] for row in seen["sensors"]}, set(functions))
        self.assertGreater(len(seen["injectors"]), 4)
        self.assertGreater(len(seen["supplies"]), 2)
        e10 = next(fuel for fuel in seen["sold_fuels"] if fuel["ethanol_pct"] == 10)
        self.assertAlmostEqual(e10["stoichiometric_afr"], 14.1, delta=0.05)

    def test_what_ships_can_be_saved_as_it_is(self):
        job = self.make_job()["id"]
        for row in self.get("/hardware")["sensors"]:
            self.post(f"/jobs/{job}/sensors", {"sensor": row["sensor"]})

    def test_the_workshops_own_parts_come_first_and_stay_its_own(self):
        own = self.post("/library", {"sensor": {**COOLANT, "name": "My favourite"}})
        self.post("/library", {"sensor": {**COOLANT, "name": "My favourite", "note": "better"}})
        self.assertEqual(LibraryItem.objects.count(), 1)
        first = self.get("/hardware")["sensors"][0]
        self.assertEqual((first["id"], first["sensor"]["note"]), (own["id"], "better"))
        self.client.force_login(self.stranger)
        self.assertIsNone(self.get("/hardware")["sensors"][0]["id"])
        self.call("delete", f"/library/{own['id']}", status=404)
        self.client.force_login(self.owner)
        self.call("delete", f"/library/{own['id']}", status=204)
        self.assertIsNone(self.get("/hardware")["sensors"][0]["id"])

    def test_a_bad_part_is_not_kept(self):
        self.post("/library", {"sensor": {**COOLANT, "name": ""}}, 422)
        self.post("/library", {}, 422)
        self.post(
            "/library",
            {
                "sensor": COOLANT,
                "supply": None,
                "injectors": {"name": "x", "count": 4, "flow": 300},
            },
            422,
        )
        self.assertEqual(LibraryItem.objects.count(), 0)


class SmallSheetsTests(ApiTestCase):
    def test_pasted_tables(self):
        seen = self.post(
            "/pasted", {"purpose": "resistance", "text": "T [°F];R [kΩ]\n32;5,896\n68;2,5"}, 200
        )
        self.assertAlmostEqual(seen["rows"][0][0], 0.0, places=6)
        self.assertAlmostEqual(seen["rows"][1][1], 2500.0, places=6)
        self.assertEqual([c["unit"] for c in seen["columns"]], ["°C", "Ω"])
        self.assertEqual(
            self.post("/pasted", {"purpose": "resistance", "text": "x"}, 422)["problems"][0][
                "field"
            ],
            "text",
        )
        self.assertEqual(
            self.post("/pasted", {"purpose": "poem", "text": "x"}, 422)["problems"][0]["field"],
            "purpose",
        )

    def test_throttle_and_ethanol(self):
        seen = self.post("/throttle-capture", {"closed_v": 0.6, "open_v": 4.2}, 200)
        self.assertTrue(seen["rising"])
        self.post("/throttle-capture", {"closed_v": 3.0, "open_v": 3.1}, 422)
        fresh = self.post("/ethanol-share", {"signal_hz": 120, "last_pct": 10}, 200)
        self.assertEqual((fresh["in_use_pct"], fresh["frozen"]), (70.0, False))
        held = self.post("/ethanol-share", {"signal_hz": 120, "rpm": 4000, "last_pct": 10}, 200)
        self.assertEqual((held["in_use_pct"], held["frozen"]), (10.0, True))
        self.post("/ethanol-share", {"signal_hz": -1}, 422)
        # Another sensor reads by its own transfer, not by the usual one.
        other = {
            "function": "flexible_fuel",
            "name": "100 to 300 Hz",
            "transfer": {"kind": "frequency", "points": [[100, 0], [300, 100]]},
        }
        own = self.post("/ethanol-share", {"signal_hz": 250, "sensor": other}, 200)
        self.assertEqual((own["read_pct"], own["in_use_pct"]), (75.0, 75.0))
        dead = self.post("/ethanol-share", {"signal_hz": 60, "last_pct": 40, "sensor": other}, 200)
        self.assertEqual((dead["in_use_pct"], dead["frozen"]), (40.0, True))
        self.post("/ethanol-share", {"signal_hz": 60, "sensor": COOLANT}, 422)

    def test_agreement_is_judged_and_written_down(self):
        job = self.make_job()["id"]
        path = f"/jobs/{job}/agreement"
        self.assertIsNone(self.get(path)["result"])
        bare = self.post(f"{path}/preview", {"pairs": PAIRS}, 200)["result"]
        self.assertEqual((bare["verdict"], bare["proposal"]), ("ground_offset", None))
        self.post(f"/jobs/{job}/sensors", {"sensor": WIDEBAND})
        seen = self.post(f"{path}/preview", {"pairs": PAIRS}, 200)["result"]
        self.assertAlmostEqual(seen["shift"], 0.013, delta=0.001)
        self.assertIsNotNone(seen["ground_offset_v"])
        corrected = {**WIDEBAND, "transfer": seen["proposal"]}
        self.post(f"/jobs/{job}/sensors", {"sensor": corrected})
        self.assertEqual(self.get(path)["number"], 0)
        self.assertEqual(self.post(path, {"pairs": PAIRS})["number"], 1)
        self.assertEqual(self.get(path)["pairs"], PAIRS)
        self.post(path, {"pairs": PAIRS[:2]}, 422)
        self.post(path, {"pairs": [[14.7, 14.5]] * 4}, 422)

"""Calibrations over HTTP: edits, stale edits, history, restore, files."""

import csv
import io
import json

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import IntegrityError, connection, transaction
from django.test import override_settings
from inbetrieb_core.tables import DEFINITIONS

from server.calibration.models import Revision
from server.config.append_only import AppendOnlyError

from .base import ApiTestCase


class CalibrationTestCase(ApiTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()["id"]
        self.path = f"/jobs/{self.job}"

    def values(self, key, revision=None):
        query = "" if revision is None else f"?revision={revision}"
        return self.get(f"{self.path}/calibration{query}")["tables"][key]["values"]


class ReadTests(CalibrationTestCase):
    def test_every_cell_has_its_origin(self):
        tables = self.get(f"{self.path}/calibration")["tables"]
        needed = {key for key, table in DEFINITIONS.items() if not table.optional}
        self.assertLessEqual(needed, set(tables))
        for key, table in tables.items():
            marks, values = table["provenance"], table["values"]
            if len(table["axes"]) == 2:
                marks, values = sum(marks, []), sum(values, [])
            self.assertEqual(len(marks), len(values), key)
            self.assertTrue(
                all(mark["kind"] in ("assumed", "calculated") and mark["reason"] for mark in marks),
                key,
            )

    def test_no_such_revision(self):
        self.get(f"{self.path}/calibration?revision=7", status=404)


class EditTests(CalibrationTestCase):
    def test_an_edit_is_a_new_revision_with_marked_cells(self):
        values = self.values("idle_valve")
        values[2] += 1.5
        saved = self.edit(self.job, {"idle_valve": values}, provenance="measured")
        self.assertEqual(saved["revision"], 2)
        marks = saved["tables"]["idle_valve"]["provenance"]
        self.assertEqual([mark["kind"] for mark in marks].count("measured"), 1)
        self.assertIn("owner: why", marks[2]["reason"])
        self.assertEqual(self.values("idle_valve", revision=1)[2], values[2] - 1.5)

    def test_a_stale_edit_is_409_and_says_what_changed_meanwhile(self):
        mine, theirs = self.values("idle_valve"), self.values("cranking_fuel")
        theirs[0] = 500.0
        self.edit(self.job, {"cranking_fuel": theirs})
        mine[0] = 50.0
        answer = self.edit(self.job, {"idle_valve": mine}, based_on=1, status=409)
        self.assert_problem(answer, "cranking fuel", "not lost")
        self.assertEqual(answer["extra"]["newest"], 2)
        self.assertEqual(answer["extra"]["changed"]["cranking_fuel"][0]["to"], 500.0)
        self.assertEqual(Revision.objects.count(), 2)
        self.edit(self.job, {"idle_valve": mine}, based_on=2)
        self.assertEqual(self.values("cranking_fuel")[0], 500.0)

    def test_bad_edits_change_nothing(self):
        good = self.values("idle_valve")
        for tables, status in (
            ({"idle_valve": [*good[:-1], 400.0]}, 422),
            ({"idle_valve": good[:-1]}, 422),
            ({"idle_valve": [[1.0], [2.0]]}, 422),
            ({"nonsense": good}, 422),
            ({"idle_valve": good}, 422),
            ({}, 422),
        ):
            with self.subTest(tables=str(tables)[:60]):
                self.assert_problem(self.edit(self.job, tables, status=status))
        self.edit(self.job, {"idle_valve": good}, based_on=9, status=422)
        self.assertEqual(Revision.objects.count(), 1)

    def test_one_bad_table_keeps_the_good_one_from_being_saved(self):
        good, bad = self.values("cranking_air"), self.values("idle_valve")
        good[0], bad[0] = 1.0, -5.0
        self.edit(self.job, {"cranking_air": good, "idle_valve": bad}, status=422)
        self.assertNotEqual(self.values("cranking_air")[0], 1.0)


class HistoryTests(CalibrationTestCase):
    def test_list_difference_and_restore(self):
        values = self.values("idle_target")
        before = list(values)
        values[0] = 1400.0
        self.edit(self.job, {"idle_target": values})
        listed = self.get(f"{self.path}/revisions")
        self.assertEqual([r["revision"] for r in listed], [2, 1])
        self.assertEqual(listed[0]["changed"], ["idle_target"])
        diff = self.get(f"{self.path}/calibration/diff?first=1&second=2")
        self.assertEqual(diff["tables"]["idle_target"][0]["to"], 1400.0)
        restored = self.post(f"{self.path}/calibration/restore", {"revision": 1, "based_on": 2})
        self.assertEqual(
            (restored["revision"], restored["tables"]["idle_target"]["values"]), (3, before)
        )
        self.post(f"{self.path}/calibration/restore", {"revision": 3, "based_on": 3}, status=422)
        self.post(f"{self.path}/calibration/restore", {"revision": 2, "based_on": 1}, status=409)

    def test_the_first_of_two_may_be_another_jobs(self):
        engine = self.get(self.path)["engine"]
        other = self.post("/jobs", {"name": "Other", "engine": {**engine, "compression_ratio": engine["compression_ratio"] - 1.0}})["id"]  # fmt: skip
        diff = self.get(f"{self.path}/calibration/diff?second=1&of_job={other}")
        theirs = self.get(f"/jobs/{other}/calibration")["tables"]["ve"]["values"]
        own = self.get(f"{self.path}/calibration")["tables"]["ve"]["values"]
        self.assertEqual(1, diff["first"])
        cell = diff["tables"]["ve"][0]
        row, column = cell["index"]
        self.assertEqual((theirs[row][column], own[row][column]), (cell["from"], cell["to"]))
        self.get(f"{self.path}/calibration/diff?second=1&of_job=999999", 404)
        self.get(f"{self.path}/calibration/diff?second=1&first=9&of_job={other}", 404)

    def test_the_list_comes_on_pages(self):
        for number in range(4):
            values = self.values("idle_target")
            self.edit(
                self.job, {"idle_target": [values[0] + 10.0 + number, *values[1:]]}, number + 1
            )
        numbers = [r["revision"] for r in self.get(f"{self.path}/revisions?limit=2&offset=1")]
        self.assertEqual(numbers, [4, 3])
        for query in ("limit=0", "limit=501", "offset=-1"):
            self.get(f"{self.path}/revisions?{query}", status=422)

    def test_what_one_cell_was_before(self):
        first = self.values("idle_target")[2]
        for newest, step in enumerate((10.0, 20.0), start=1):
            values = self.values("idle_target")
            self.edit(
                self.job, {"idle_target": [*values[:2], values[2] + step, *values[3:]]}, newest
            )
        past = self.get(f"{self.path}/calibration/past?table=idle_target&index=2")
        told = [(p["revision"], p["from"], p["to"]) for p in past]
        self.assertEqual(told, [(3, first + 10.0, first + 30.0), (2, first, first + 10.0)])
        other = "/calibration/past?table=idle_target&index="
        self.assertEqual(self.get(f"{self.path}{other}3"), [])
        for query in ("table=nothing&index=1", "table=idle_target&index=x", "table=idle_target"):
            self.get(f"{self.path}/calibration/past?{query}", status=422)

    def test_revisions_never_change(self):
        revision = Revision.objects.get()
        for act in (revision.save, revision.delete, Revision.objects.all().delete):
            with self.assertRaises(AppendOnlyError):
                act()
        with self.assertRaises(AppendOnlyError):
            Revision.objects.update(note="x")
        with self.assertRaises(IntegrityError), transaction.atomic(), connection.cursor() as cursor:
            cursor.execute("UPDATE calibration_revision SET note = 'x'")

    def test_two_cannot_have_one_number(self):
        first = Revision.objects.get()
        with self.assertRaises(IntegrityError), transaction.atomic():
            Revision.objects.create(
                job=first.job, number=1, origin="edit", tables="{}", created_by=self.owner
            )


class FileTests(CalibrationTestCase):
    def send(self, data, status=201, name="x.json"):
        response = self.client.post(
            f"/api{self.path}/import", {"file": SimpleUploadedFile(name, data)}
        )
        self.assertEqual(response.status_code, status, response.content[:300])
        return response.json()

    def test_export_and_import_of_both_formats(self):
        values = self.values("idle_valve")
        values[0] = 42.0
        self.edit(self.job, {"idle_valve": values})
        for number, kind in enumerate(("json", "csv"), start=3):
            response = self.client.get(f"/api{self.path}/export?format={kind}")
            self.assertIn(f"probe-revision-{number - 1}.{kind}", response["Content-Disposition"])
            again = self.send(response.content)
            self.assertEqual(
                (again["revision"], again["tables"]["idle_valve"]["values"]), (number, values)
            )

    def test_exported_files_are_what_the_format_document_says(self):
        document = json.loads(self.client.get(f"/api{self.path}/export?format=json").content)
        self.assertEqual((document["format"], document["version"]), ("inbetrieb-calibration", 1))
        text = self.client.get(f"/api{self.path}/export?format=csv").content.decode("utf-8-sig")
        lines = list(csv.DictReader(io.StringIO(text)))
        self.assertEqual(
            len(lines),
            sum(
                len(t["axes"][0]["points"])
                * (len(t["axes"][1]["points"]) if len(t["axes"]) > 1 else 1)
                for t in document["tables"].values()
            )
            + len(document["settings"]),
        )

    def test_wrong_files_are_refused_and_nothing_is_saved(self):
        for data in (b"", b"\x00\x01", b"{}", b"table,unit\nve,%\n"):
            with self.subTest(data=data):
                self.assert_problem(self.send(data, status=422))
        self.assert_problem(self.get(f"{self.path}/export?format=xml", status=422))
        self.assertEqual(Revision.objects.count(), 1)


class UnexpectedTests(CalibrationTestCase):
    @override_settings(DEBUG_PROPAGATE_EXCEPTIONS=False)
    def test_a_mistake_of_the_server_shows_no_inside(self):
        from unittest.mock import patch

        with (
            patch("server.order.api.jobs_of", side_effect=RuntimeError("secret detail")),
            self.assertLogs("server.config.problems", "ERROR"),
        ):
            answer = self.get("/jobs", status=500)
        self.assert_problem(answer)
        self.assertNotIn("secret", str(answer))

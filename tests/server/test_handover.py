"""The handover over HTTP and as PDF."""

import io
import re

from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import override_settings
from PIL import Image
from pypdf import PdfReader

from server.hardware.models import KeyOnCheck
from server.jobs.models import Job

from .base import ApiTestCase


def photograph(shade):
    """Return a picture of one shade as PNG."""
    out = io.BytesIO()
    Image.new("RGB", (320, 200), shade).save(out, "PNG")
    return out.getvalue()


class HandoverTests(ApiTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()["id"]
        self.path = f"/jobs/{self.job}/handover"

    def pdf(self, paper="shop", size="a4"):
        digest = self.post(f"{self.path}/pdf", {"paper": paper, "size": size}, 202)["result"][
            "digest"
        ]
        answer = self.client.get(f"/api{self.path}/pdf/{digest}")
        self.assertEqual(answer["Content-Type"], "application/pdf")
        return digest, b"".join(answer.streaming_content)

    def test_a_start_changes_the_record_and_nothing_is_coloured_rosy(self):
        before = self.get(f"{self.path}?paper=shop")["paper"]
        self.assertFalse(before["is_proven"])
        self.assertIn("This car is not proven", before["head"])
        self.assertIn("No start was ever recorded", str(before))
        log = self.post(f"/jobs/{self.job}/bench/starts", {"coolant_c": 20})["id"]
        self.post(f"/jobs/{self.job}/trials", {"log_id": log})
        after = self.get(f"{self.path}?paper=shop")["paper"]
        self.assertNotIn("No start was ever recorded", str(after))
        self.assertNotEqual(before, after)

    def test_reasons_and_closing_checks_stand_in_it(self):
        self.post(
            f"/jobs/{self.job}/wiring/reason", {"reason": "An old loom, left as it was."}, 201
        )
        self.post(f"{self.path}/closing/read_back", {"note": "Firmware 3.1, sum 7f20."}, 200)
        found = self.get(f"{self.path}?paper=shop")
        self.assertIn("An old loom, left as it was.", str(found["paper"]))
        self.assertIn("Firmware 3.1, sum 7f20.", str(found["paper"]))
        self.assertTrue(
            next(c for c in found["closing"] if c["check"]["key"] == "read_back")["done"]
        )
        self.post(f"{self.path}/closing/nothing", {}, 404)
        self.get(f"{self.path}?paper=mine", 422)

    def test_a_job_that_comes_back_keeps_what_still_stands(self):
        log = self.post(f"/jobs/{self.job}/bench/starts", {"coolant_c": 20})["id"]
        self.post(f"/jobs/{self.job}/trials", {"log_id": log})
        self.post(f"{self.path}/closing/read_back", {"note": "Sum 7f20."}, 200)
        self.assertIsNone(self.get(self.path)["reopening"])
        self.assert_problem(self.post(f"{self.path}/reopen", {"parts": [], "reason": "Back again."}, 422), "which part")  # fmt: skip
        self.assert_problem(self.post(f"{self.path}/reopen", {"parts": ["wheels"], "reason": "Back again."}, 422), "no part 'wheels'")  # fmt: skip
        self.assert_problem(self.post(f"{self.path}/reopen", {"parts": ["fuel"], "reason": " "}, 422), "Say why")  # fmt: skip
        back = self.post(f"{self.path}/reopen", {"parts": ["injectors"], "reason": "Larger injectors for the new cam."}, 200)  # fmt: skip
        fallen = {one["stand"]: one["again"] for one in back["fallen"]}
        self.assertEqual(set(fallen), {"injectors", "starts", "map", "transients", "pulls", "read_back"})  # fmt: skip
        self.assertFalse(any(fallen.values()))
        shop = self.get(f"{self.path}?paper=shop")["paper"]
        self.assertIn("The controller read back: fell with other injectors.", str(shop["unproven"]))
        self.assertIn("Larger injectors for the new cam.", str(shop["sections"]))
        self.post(f"{self.path}/closing/read_back", {"note": "Sum 11aa."}, 200)
        again = {one["stand"]: one["again"] for one in self.get(self.path)["reopening"]["fallen"]}
        self.assertTrue(again["read_back"])
        self.assertFalse(again["map"])
        self.assertNotIn("read back: fell", str(self.get(self.path)["paper"]["unproven"]))

    def test_sensors_fall_until_the_key_on_check_passes_again(self):
        def sensors():
            fallen = self.get(self.path)["reopening"]["fallen"]
            return next(one["again"] for one in fallen if one["stand"] == "sensors")

        self.post(
            f"{self.path}/reopen", {"parts": ["sensors"], "reason": "Another coolant sender."}, 200
        )
        self.assertFalse(sensors())
        job = Job.objects.get(pk=self.job)
        made = {"job": job, "readings": {}, "circumstances": {}, "versions": {}, "result": {"sentence": "Read."}, "created_by": job.created_by}  # fmt: skip
        KeyOnCheck.objects.create(number=1, state="fail", **made)
        self.assertFalse(sensors())
        KeyOnCheck.objects.create(number=2, state="pass", **made)
        self.assertTrue(sensors())

    def test_the_same_job_gives_the_same_bytes_with_its_fonts_and_heads(self):
        first, data = self.pdf()
        again, same = self.pdf()
        self.assertEqual((first, data), (again, same))
        self.assertNotEqual(self.pdf(size="letter")[0], first)
        reader = PdfReader(io.BytesIO(data))
        text = "\n".join(page.extract_text() for page in reader.pages)
        for part in (
            "This car is not proven",
            "What is not proven",
            "Revisions",
            "Page 1",
            f"Page {len(reader.pages)}",
        ):
            self.assertIn(part, text)
        fonts = {
            str(f["/BaseFont"])
            for p in reader.pages
            for f in (o.get_object() for o in p["/Resources"]["/Font"].values())
        }
        embedded = {name for name in fonts if "AtkinsonHyperlegibleNext" in name}
        self.assertEqual(len({name.split("+")[1].split("-")[-1] for name in embedded}), 2, fonts)
        self.assertLessEqual(len(PdfReader(io.BytesIO(self.pdf("customer")[1])).pages), 2)

    def test_units_of_the_job_are_those_of_its_paper(self):
        job = self.post(
            "/jobs",
            {
                "name": "Probe",
                "engine": self.get(f"/jobs/{self.job}")["engine"],
                "units": {"temperature": "°F"},
            },
        )
        digest = self.post(f"/jobs/{job['id']}/handover/pdf", {"paper": "customer"}, 202)["result"][
            "digest"
        ]
        data = b"".join(
            self.client.get(f"/api/jobs/{job['id']}/handover/pdf/{digest}").streaming_content
        )
        text = PdfReader(io.BytesIO(data)).pages[0].extract_text()
        self.assertIn("14 °F", text)
        self.assertNotIn("−10 °C", text)

    def test_a_paper_of_another_job_or_none_is_404(self):
        digest, _ = self.pdf()
        other = self.make_job()["id"]
        self.get(f"/jobs/{other}/handover/pdf/{digest}", 404)
        self.get(f"{self.path}/pdf/{'z' * 64}", 404)
        with override_settings(PAPERS=self.settings_folder()):
            self.get(f"{self.path}/pdf/{digest}", 404)

    def section(self, title, paper="calibrator", job=None):
        found = self.get(f"/jobs/{job or self.job}/handover?paper={paper}")["paper"]["sections"]
        return next(section for section in found if section["title"].startswith(title))

    def test_tables_stand_in_the_calibrators_paper_with_the_origin_of_each_value(self):
        tables = self.get(f"/jobs/{self.job}/calibration")["tables"]
        sheets = {sheet["title"]: sheet for sheet in self.section("The tables")["maps"]}
        sheet = sheets["Volumetric efficiency"]
        self.assertEqual(tables["ve"]["values"], sheet["values"])
        self.assertEqual({"C"}, {letter for row in sheet["origins"] for letter in row})
        self.assertEqual({"A"}, {row[0] for row in sheets["Idle target"]["origins"]})
        text = "".join(p.extract_text() for p in PdfReader(io.BytesIO(self.pdf("calibrator")[1])).pages)  # fmt: skip
        self.assertIn(f"{tables['ve']['values'][3][4]:.1f} C", text)

    def test_a_start_is_drawn_as_it_was_logged(self):
        self.assertEqual([], self.section("Starts", "shop")["plots"])
        log = self.post(f"/jobs/{self.job}/bench/starts", {"coolant_c": 20})["id"]
        self.post(f"/jobs/{self.job}/trials", {"log_id": log})
        plot = self.section("Starts", "shop")["plots"][0]
        line = plot["lines"][0]
        logged = self.get(f"/jobs/{self.job}/logs/{log}/samples?channels=rpm")
        self.assertEqual("rpm", plot["y_unit"])
        self.assertAlmostEqual(max(v for v in logged["channels"]["rpm"] if v), max(line["y"]), delta=25.0)  # fmt: skip
        before = [v for t, v in zip(line["x"], line["y"], strict=True) if t < -0.2]
        self.assertLess(max(before), 60.0)

    def test_pressures_of_a_table_are_those_of_the_job(self):
        engine = self.get(f"/jobs/{self.job}")["engine"]
        job = self.post("/jobs", {"name": "Probe", "engine": engine, "units": {"pressure": "psi"}})["id"]  # fmt: skip
        digest = self.post(f"/jobs/{job}/handover/pdf", {"paper": "calibrator"}, 202)["result"]["digest"]  # fmt: skip
        data = b"".join(self.client.get(f"/api/jobs/{job}/handover/pdf/{digest}").streaming_content)
        text = "".join(page.extract_text() for page in PdfReader(io.BytesIO(data)).pages)
        self.assertIn("rpm / psi", text)
        self.assertIn("14.5", text)  # 100 kPa in psi (NIST SP 811)

    def test_a_job_that_shows_mixture_as_a_ratio_has_it_in_its_paper(self):
        engine = self.get(f"/jobs/{self.job}")["engine"]
        job = self.post("/jobs", {"name": "Probe", "engine": engine, "units": {"mixture": "AFR"}})["id"]  # fmt: skip
        target = self.get(f"/jobs/{job}/calibration")["tables"]["lambda_target"]["values"][0][0]
        digest = self.post(f"/jobs/{job}/handover/pdf", {"paper": "calibrator"}, 202)["result"]["digest"]  # fmt: skip
        data = b"".join(self.client.get(f"/api/jobs/{job}/handover/pdf/{digest}").streaming_content)
        text = "".join(page.extract_text() for page in PdfReader(io.BytesIO(data)).pages)
        self.assertIn("Lambda target, AFR", text)
        afr = 14.7 * target  # petrol, common practice
        found = re.search(r"Lambda target, AFR.*?500 rpm\s+([\d.]+)", text, flags=re.DOTALL)
        self.assertAlmostEqual(afr, float(found.group(1)), delta=0.1)

    def test_photographs_are_in_the_shops_paper_unless_put_aside(self):
        def send(shade):
            file = SimpleUploadedFile("bay.png", photograph(shade), "image/png")
            path = f"/api/jobs/{self.job}/photographs"
            self.assertEqual(201, self.client.post(path, {"file": file, "caption": shade}).status_code)  # fmt: skip

        def images():
            return [image for page in PdfReader(io.BytesIO(self.pdf()[1])).pages for image in page.images]  # fmt: skip

        send("#777777")
        send("#aa3311")
        self.assertEqual(2, len(images()))
        self.post(f"/jobs/{self.job}/photographs/1/aside", {"aside": True}, None)
        shown = self.section("Photographs", "shop")["pictures"]
        self.assertEqual(["#aa3311"], [picture["caption"] for picture in shown])
        self.assertEqual(1, len(images()))

    def test_revisions_say_what_they_changed(self):
        revision = self.get(f"/jobs/{self.job}")["revision"]
        values = self.get(f"/jobs/{self.job}/calibration")["tables"]["idle_target"]["values"]
        values[2] += 20
        self.post(f"/jobs/{self.job}/calibration", {"note": "", "based_on": revision, "tables": {"idle_target": {"values": values}}})  # fmt: skip
        rows = self.section("Revisions")["grid"]["rows"]
        self.assertTrue(rows[-1][4].endswith(": 1 cell"), rows[-1])

    def settings_folder(self):
        import tempfile
        from pathlib import Path

        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        return Path(folder.name)

"""The handover over HTTP and as PDF."""

import io

from django.test import override_settings
from pypdf import PdfReader

from server.hardware.models import KeyOnCheck
from server.jobs.models import Job

from .base import ApiTestCase


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

    def settings_folder(self):
        import tempfile
        from pathlib import Path

        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        return Path(folder.name)

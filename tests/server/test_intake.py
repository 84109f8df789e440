"""Station 1 over HTTP: intake, photographs, inherited calibrations and their review."""

import io

from django.core.files.uploadedfile import SimpleUploadedFile
from inbetrieb_core.basemaps import generate
from inbetrieb_core.tables.file_sets import write_csv_set, write_workbook
from PIL import Image

from server.calibration.models import AcceptedFinding, Revision
from server.config.append_only import AppendOnlyError
from server.intake.models import Photograph
from server.jobs.engine_data import spec_of
from server.jobs.models import Job

from .base import ApiTestCase

ENTRY = {
    "complaint": "Hunts at idle.",
    "items": [
        {"key": "injectors", "claimed": "550 cm³/min", "fitted": "440", "differs": True},
        {"key": "fuel_pump", "claimed": "new"},
    ],
    "configured_inputs": ["wideband", "clutch_switch"],
}
VE = "ve [%]\tmap_kpa [kPa]\nrpm [rpm]\t30\t60\t100\n800\t40\t60\t70\n3000\t60\t80\t92\n6000\t55\t76\t88"


def picture(kind="PNG", size=(640, 400), exif=None):
    out = io.BytesIO()
    image = Image.new("RGB", size, "#777777")
    image.save(out, kind, **({"exif": exif} if exif else {}))
    return out.getvalue()


class IntakeCase(ApiTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()["id"]
        self.path = f"/jobs/{self.job}"

    def send(self, path, data, name, status, **fields):
        response = self.client.post(
            f"/api{self.path}{path}", {"file": SimpleUploadedFile(name, data), **fields}
        )
        self.assertEqual(response.status_code, status, response.content[:400])
        return response.json()


class IntakeTests(IntakeCase):
    def test_what_differs_from_the_claim_is_said_with_its_station(self):
        saved = self.post(f"{self.path}/intake", {"entry": ENTRY, "based_on": 0})
        self.assertEqual(saved["number"], 1)
        first, second = saved["differences"]
        self.assertEqual((first["station"], first["looked_at"]), ("injectors", True))
        self.assertIn("440 is fitted, 550 cm³/min was claimed", first["sentence"])
        self.assertIn("nobody looked", second["sentence"])
        self.assertEqual(self.get(f"{self.path}/intake")["entry"]["complaint"], "Hunts at idle.")

    def test_two_people_do_not_overwrite_each_other(self):
        self.post(f"{self.path}/intake", {"entry": ENTRY, "based_on": 0})
        answer = self.post(f"{self.path}/intake", {"entry": {}, "based_on": 0}, 409)
        self.assert_problem(answer, "not lost")
        self.assertEqual(len(self.get(f"{self.path}/intake")["entry"]["items"]), 2)

    def test_bad_entries_are_refused_in_words(self):
        for entry in (
            {"items": [{"key": "flux_capacitor"}]},
            {"items": [{"key": "cam"}, {"key": "cam"}]},
            {"complaint": "x" * 5000},
            {"configured_inputs": ["nothing"]},
            {"items": [{"key": "cam", "colour": "red"}]},
        ):
            with self.subTest(entry=str(entry)[:50]):
                self.assert_problem(self.post(f"{self.path}/intake", {"entry": entry}, 422))

    def test_a_photograph_is_kept_without_what_else_was_in_the_file(self):
        exif = Image.Exif()
        exif[0x010E] = "a secret place"
        kept = self.send("/photographs", picture("JPEG", exif=exif), "bay.jpg", 201, caption="Bay")
        self.assertEqual((kept["number"], kept["width"], kept["caption"]), (1, 640, "Bay"))
        response = self.client.get(f"/api{self.path}/photographs/1")
        body = b"".join(response.streaming_content)
        self.assertEqual(response["Content-Type"], "image/jpeg")
        self.assertEqual(Image.open(io.BytesIO(body)).size, (640, 400))
        self.assertNotIn(b"secret", body)

    def test_large_ones_are_made_smaller_and_hostile_ones_refused(self):
        kept = self.send("/photographs", picture(size=(4000, 2500)), "large.png", 201)
        self.assertEqual((kept["width"], kept["height"]), (2000, 1250))
        for data, name in (
            (b"<svg onload=alert(1)>", "x.svg"),
            (b"\x89PNG\r\n\x1a\nbroken", "x.png"),
            (b"GIF89a", "x.gif"),
            (b"", "empty.jpg"),
            (picture()[:200], "torn.png"),
        ):
            with self.subTest(name=name):
                self.assert_problem(self.send("/photographs", data, name, 422))
        self.assertEqual(Photograph.objects.count(), 1)

    def test_put_aside_and_brought_back_but_never_deleted(self):
        self.send("/photographs", picture(), "x.png", 201)
        path = f"{self.path}/photographs/1/aside"
        self.assertTrue(self.post(path, {"aside": True}, 200)["aside"])
        self.assertFalse(self.post(path, {"aside": False}, 200)["aside"])
        with self.assertRaises(AppendOnlyError):
            Photograph.objects.get().delete()


class InheritedTests(IntakeCase):
    def calibration(self):
        return generate(spec_of(Job.objects.get(pk=self.job)))

    def keep(self, *sources, status=201):
        return self.post(f"{self.path}/inherited", {"sources": list(sources), "note": "x"}, status)

    def test_a_set_of_files_becomes_an_untouched_revision(self):
        tables = list(self.calibration().tables.values())
        for number, (name, data) in enumerate(
            (("set.zip", write_csv_set(tables)), ("book.xlsx", write_workbook(tables, "x"))),
            start=2,
        ):
            found = self.send("/inherited/file", data, name, 200)
            self.assertEqual(len(found["tables"]), len(tables))
            kept = self.keep({"upload_id": found["upload_id"], "name": name})
            self.assertEqual(kept["revision"], number)
            revision = self.get(f"{self.path}/revisions")[0]
            self.assertEqual((revision["origin"], revision["inherited"]), ("inherited", True))
            saved = self.get(f"{self.path}/calibration?revision={number}")
            for table in tables:
                if table.axes:
                    self.assertEqual(saved["tables"][table.key]["values"], table.values.tolist())
                    mark = saved["tables"][table.key]["provenance"]
                    while isinstance(mark, list):
                        mark = mark[0]
                    self.assertEqual(mark["kind"], "carried_over")

    def test_pasted_tables_with_their_axes_and_the_rest_from_engine_data(self):
        found = self.post(f"{self.path}/inherited/paste", {"text": VE}, 200)
        self.assertEqual(found["tables"][0]["shape"], [3, 3])
        kept = self.keep(
            {"text": VE}, {"text": "0\t1000\n20\t950\n80\t900", "table": "idle_target"}
        )
        self.assertEqual(kept["tables"], ["idle_target", "ve"])
        saved = self.get(f"{self.path}/calibration")
        self.assertEqual(saved["tables"]["ve"]["values"][1], [60.0, 80.0, 92.0])
        # All start tables stand on one axis, the one that was found.
        for key in ("idle_target", "cranking_fuel"):
            self.assertEqual(saved["tables"][key]["axes"][0]["points"], [0.0, 20.0, 80.0])
        review = self.get(f"{self.path}/review")
        self.assertEqual(review["looked_at"], ["idle_target", "ve"])

    def test_a_file_without_a_table_is_refused_kept_and_nothing_is_saved(self):
        answer = self.send("/inherited/file", b"a,b\n1,2\n", "x.csv", 422)
        self.assert_problem(answer, "no table")
        self.assertEqual(len(answer["extra"]["upload_id"]), 64)
        self.assert_problem(self.post(f"{self.path}/inherited/paste", {"text": "a\tb"}, 422))
        self.assert_problem(self.keep({"upload_id": "0" * 64}, status=404))
        self.assertEqual(Revision.objects.count(), 1)

    def seeded(self):
        idle = "0\t900\n20\t900\n80\t900"
        self.keep({"text": VE}, {"text": idle, "table": "idle_target"})
        return self.get(f"{self.path}/review")

    def test_the_review_ranks_locates_and_can_be_accepted_with_a_reason(self):
        review = self.seeded()
        self.assertEqual(review["verdict"], "repair")
        finding = review["findings"][0]
        self.assertEqual((finding["rule"], finding["severity"]), ("cold_idle", "stop"))
        body = {"revision": review["revision"], "tables": {}, "identifier": finding["identifier"]}
        accept = f"{self.path}/table-bench/accept"
        self.assert_problem(self.post(accept, {**body, "reason": "ok"}, 422), "stays in the record")
        again = self.post(accept, {**body, "reason": "A heated engine house."}, 200)
        self.assertEqual(again[0]["accepted"], "A heated engine house.")
        self.assertEqual(again[0]["accepted_by"], "owner")
        self.assert_problem(
            self.post(accept, {**body, "identifier": "x", "reason": "long enough"}, 422),
            "not there",
        )
        with self.assertRaises(AppendOnlyError):
            AcceptedFinding.objects.get().delete()
        # Another value in the cell: the reason was not given for that.
        self.edit(self.job, {"idle_target": [880.0, 900.0, 900.0]}, based_on=2)
        fresh = [f for f in self.get(f"{self.path}/review")["findings"] if f["rule"] == "cold_idle"]
        self.assertEqual(fresh[0]["accepted"], "")

    def test_inputs_that_are_on_but_not_wired_are_found_once_there_is_a_plan(self):
        self.post(f"{self.path}/intake", {"entry": ENTRY, "based_on": 0})
        self.assertNotIn("unwired_input", [f["rule"] for f in self.seeded()["findings"]])
        wiring = self.get(f"{self.path}/wiring")
        self.post(
            f"{self.path}/wiring", {"controller": wiring["controller"], "entry": wiring["entry"]}
        )
        found = self.get(f"{self.path}/review")["findings"]
        said = " ".join(f["sentence"] for f in found if f["rule"] == "unwired_input")
        self.assertIn("Clutch switch is switched on", said)
        # A change of what is switched on shows at once, whatever was looked over before.
        self.post(f"{self.path}/intake", {"entry": {}, "based_on": 1})
        rules = [f["rule"] for f in self.get(f"{self.path}/review")["findings"]]
        self.assertNotIn("unwired_input", rules)

    def test_the_gate_waits_for_a_decision_and_starting_afresh_generates(self):
        self.seeded()
        gate = self.get(self.path)["gates"][0]
        self.assertEqual(
            (gate["key"], gate["is_open"], gate["is_refused"]), ("intake", False, False)
        )
        self.assertEqual(self.get(self.path)["next_action"]["station"], "intake")
        made = self.post(f"{self.path}/inherited/decision", {"decision": "start_afresh"})
        self.assertEqual(made["revision"]["origin"], "base_maps")
        self.assertTrue(self.get(self.path)["gates"][0]["is_open"])
        self.assertEqual(self.get(f"{self.path}/review")["verdict"], "sound")
        # What was found is still there, untouched.
        old = self.get(f"{self.path}/calibration?revision=2")
        self.assertEqual(old["tables"]["idle_target"]["values"], [900.0, 900.0, 900.0])

    def test_starting_afresh_takes_learned_trims_away(self):
        trims = VE.replace("ve [%]", "learned_trim [%]")
        for old in ("40\t60\t70", "60\t80\t92", "55\t76\t88"):
            trims = trims.replace(old, "17\t16\t18")
        self.keep({"text": trims})
        self.assertIn("learned_trim", self.get(f"{self.path}/calibration")["tables"])
        self.assertIn("Mend fuel pressure", self.get(f"{self.path}/review")["sentence"])
        self.post(f"{self.path}/inherited/decision", {"decision": "start_afresh"})
        self.assertNotIn("learned_trim", self.get(f"{self.path}/calibration")["tables"])

    def test_repairing_changes_nothing_by_itself(self):
        self.seeded()
        made = self.post(f"{self.path}/inherited/decision", {"decision": "repair", "note": "Few."})
        self.assertIsNone(made["revision"])
        self.assertEqual(self.get(f"{self.path}/intake")["inherited"]["decision"], "repair")
        self.assertEqual(Revision.objects.count(), 2)

    def test_nothing_inherited_nothing_to_decide(self):
        self.post(f"{self.path}/inherited/decision", {"decision": "repair"}, 422)

"""Logs, trials and decisions over HTTP."""

import json
import tempfile
import tracemalloc
from pathlib import Path

import numpy as np
from django.conf import settings
from django.core.files.uploadedfile import SimpleUploadedFile
from inbetrieb_core.logs import Trace, import_log

from server.config.append_only import AppendOnlyError
from server.jobs.models import Job
from server.logbook import samples
from server.logbook.models import Log, LogChunk
from server.logbook.services import add_log, add_upload
from server.tasks.services import Cancelled
from server.trials.models import Decision, Trial

from .base import ApiTestCase

ODD = (
    "Recorder;v3\nZeit [ms];Drehzahl;KMT;Öldruck;Spalte X\n"
    + "".join(f"{40 * i};{0 if i < 50 else 220};12,5;1,0;7\n" for i in range(250))
).encode("cp1252")


class LogTests(ApiTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()["id"]
        self.path = f"/jobs/{self.job}"

    def preview(self, status=200, **fields):
        response = self.client.post(f"/api{self.path}/logs/preview", fields)
        self.assertEqual(response.status_code, status, response.content[:400])
        return response.json()

    def test_an_odd_file_is_understood_and_explained(self):
        log = self.upload(self.job, ODD)
        self.assertEqual(
            [c["name"] for c in log["channels"]], ["time_s", "rpm", "coolant_c", "oil_pressure_kpa"]
        )
        self.assertEqual([use["column"] for use in log["ignored"]], ["Spalte X"])
        self.assertTrue(all(use["reason"] for use in log["uses"]))
        self.assertAlmostEqual(log["duration_s"], 9.96, places=2)
        self.assertAlmostEqual(log["rate_hz"], 25.0, places=2)

    def test_preview_saves_nothing_and_its_upload_can_be_saved(self):
        seen = self.preview(file=SimpleUploadedFile("a.csv", ODD))
        self.assertEqual((Log.objects.count(), seen["missing"]), (0, []))
        response = self.client.post(
            f"/api{self.path}/logs", {"upload_id": seen["upload_id"], "name": "morning"}
        )
        self.assertEqual((response.status_code, response.json()["name"]), (201, "morning"))

    def test_a_refused_file_is_kept_and_can_be_mapped_without_sending_it_again(self):
        data = b"time,foo,clt\n" + b"".join(b"%.2f,%d,20\n" % (i / 25, 200) for i in range(50))
        answer = self.upload(self.job, data, status=422)
        self.assert_problem(answer, "engine speed", "foo")
        self.assertEqual(answer["extra"]["columns"], ["time", "foo", "clt"])
        mapping = json.dumps({"foo": "rpm"})
        response = self.client.post(
            f"/api{self.path}/logs", {"upload_id": answer["extra"]["upload_id"], "mapping": mapping}
        )
        self.assertEqual(response.status_code, 201, response.content)
        # The confirmed mapping is remembered for the next file with these heads.
        again = self.preview(file=SimpleUploadedFile("b.csv", data))
        self.assertTrue(again["remembered"])
        self.assertEqual([u["channel"] for u in again["uses"]], ["time_s", "rpm", "coolant_c"])

    def test_bad_files_are_refused_with_a_sentence_and_nothing_is_lost(self):
        for data, words in (
            (b"", "empty"),
            (b"\xff\xd8\xff\xe0" + bytes(200), "photo"),
            (
                b"time,rpm\n" + b"".join(b"%d,900\n" % ((7 * i) % 10) for i in range(40)),
                "backwards",
            ),
            (bytes(range(256)) * 20, "binary"),
            (b"one two three", "No table"),
        ):
            with self.subTest(words=words):
                answer = self.upload(self.job, data, status=422)
                self.assert_problem(answer, words)
        self.assertEqual(Log.objects.count(), 0)
        self.assertGreaterEqual(len(list(Path(settings.UPLOADS).rglob("*"))), 5)

    def test_200_megabytes_are_413_before_they_are_parsed(self):
        response = self.client.post(
            f"/api{self.path}/logs",
            b"x",
            content_type="multipart/form-data; boundary=x",
            CONTENT_LENGTH=200_000_000,
        )
        self.assertEqual(response.status_code, 413)
        self.assert_problem(response.json(), "200 MB")

    def read(self, upload_id, status=202, **more):
        return self.post(f"{self.path}/logs/read", {"upload_id": upload_id, **more}, status)

    def test_a_kept_upload_is_read_as_a_task(self):
        seen = self.preview(file=SimpleUploadedFile("a.csv", ODD))
        task = self.read(seen["upload_id"], name="dawn")
        self.assertEqual((task["state"], task["problem"]), ("done", None))
        log = self.get(f"{self.path}/logs/{task['result']['log']}")
        self.assertEqual((log["name"], log["origin"]), ("dawn", "upload"))
        self.read(seen["upload_id"], status=404)  # it has become a log

    def test_a_mapping_goes_along_and_one_that_is_missing_is_told(self):
        data = b"time,foo,clt\n" + b"".join(b"%.2f,%d,20\n" % (i / 25, 200) for i in range(50))
        upload = self.preview(file=SimpleUploadedFile("b.csv", data))["upload_id"]
        task = self.read(upload)
        self.assertEqual(task["state"], "failed")
        self.assert_problem(task["problem"], "engine speed", "foo")
        self.assertEqual(self.read(upload, mapping={"foo": "rpm"})["state"], "done")
        self.assertEqual(Log.objects.count(), 1)

    def test_a_reading_that_is_cancelled_writes_nothing_and_keeps_the_file(self):
        upload = self.preview(file=SimpleUploadedFile("a.csv", ODD))["upload_id"]

        def ended(share):
            self.assertGreater(share, 0.0)
            raise Cancelled

        with self.assertRaises(Cancelled):
            add_upload(Job.objects.get(), self.owner, name="", upload_id=upload, mapping=None, told=ended)  # fmt: skip
        self.assertEqual((Log.objects.count(), LogChunk.objects.count()), (0, 0))
        self.assertEqual(self.read(upload)["state"], "done")

    def test_a_large_file_is_neither_held_in_memory_nor_read_twice_over(self):
        """Thirty megabytes: what is kept of them are numbers of the columns that are used."""
        row = b"%d,%02d;900;18,5;" + b";".join([b"123456789,5"] * 12) + b"\n"
        head = b"time [s];rpm;clt;" + b";".join(b"c%d" % i for i in range(12)) + b"\n"
        with tempfile.TemporaryFile() as file:
            file.write(head)
            for i in range(200_000):
                file.write(row % divmod(i * 4, 100))
            size = file.tell()
            tracemalloc.start()
            read = import_log(file)
            _, most = tracemalloc.get_traced_memory()
            tracemalloc.stop()
        self.assertEqual(read.trace.time_s.size, 200_000)
        # A few blocks of 4 MB, however long the file is; the columns used have 5 MB.
        self.assertLess(most, 0.8 * size)

    def test_mapping_must_be_json_and_uploads_are_private(self):
        self.upload(self.job, ODD, status=422, mapping="{")
        self.upload(self.job, ODD, status=422, mapping="[1]")
        upload = self.preview(file=SimpleUploadedFile("a.csv", ODD))["upload_id"]
        self.client.force_login(self.stranger)
        theirs = self.make_job()["id"]
        for name in (upload, "../../secret_key", "0" * 64):
            response = self.client.post(f"/api/jobs/{theirs}/logs", {"upload_id": name})
            self.assertEqual(response.status_code, 404)
        without = self.client.post(f"/api/jobs/{theirs}/logs", {})
        self.assertEqual(without.status_code, 422)


class SamplesTests(ApiTestCase):
    def make_log(self, count):
        job = self.make_job()["id"]
        time = np.arange(count) / 50.0
        speed = 1000 + 500 * np.sin(time)
        speed[count // 2] = 9000.0  # one spike that no zoom may lose
        trace = Trace({"time_s": time, "rpm": speed})
        from server.jobs.models import Job

        return (
            job,
            add_log(Job.objects.get(pk=job), self.owner, name="x", origin="upload", trace=trace),
            trace,
        )

    def test_samples_come_back_as_they_went_in(self):
        _, log, trace = self.make_log(40_000)
        np.testing.assert_allclose(samples.read_trace(log)["rpm"], trace["rpm"], rtol=1e-6)
        np.testing.assert_allclose(
            samples.read_channel(log, "rpm", 16_000, 17_000), trace["rpm"][16_000:17_000], rtol=1e-6
        )

    def test_any_zoom_is_a_bounded_read_that_loses_no_spike(self):
        for count in (900, 40_000, 200_000):
            job, log, _ = self.make_log(count)
            answer = self.get(f"/jobs/{job}/logs/{log.pk}/samples?points=2000")
            with self.subTest(count=count):
                self.assertLessEqual(len(answer["time_s"]), 7000)
                self.assertEqual(max(v for v in answer["channels"]["rpm"] if v is not None), 9000.0)
            middle = count / 100.0
            zoom = self.get(
                f"/jobs/{job}/logs/{log.pk}/samples?start_s={middle - 1}&end_s={middle + 1}"
            )
            self.assertEqual(zoom["bucket"], 1)
            self.assertIn(9000.0, zoom["channels"]["rpm"])

    def test_missing_samples_are_null(self):
        job = self.make_job()["id"]
        log = self.upload(job, b"time,rpm,clt\n0,0,20\n0.1,,20\n0.2,220,\n")
        answer = self.get(f"/jobs/{job}/logs/{log['id']}/samples")
        self.assertEqual(answer["channels"]["rpm"], [0.0, None, 220.0])


class BesideTests(ApiTestCase):
    def test_two_logs_of_one_drive_are_laid_over_each_other(self):
        job = self.make_job()["id"]
        time = np.arange(0.0, 90.0, 0.05)
        draw = np.random.default_rng(1)
        rpm = np.interp(time, np.cumsum(draw.uniform(2, 7, 30)), draw.uniform(900, 4000, 30))
        held = Job.objects.get(pk=job)
        ids = []
        for name, begin, end, ahead in (("first", 0, 1800, 0.0), ("second", 200, 1500, 4.0)):
            part = Trace({"time_s": time[begin:end] - time[begin] + ahead, "rpm": rpm[begin:end]})
            ids.append(
                add_log(held, held.created_by, name=name, origin="file", trace=part, about={}).pk
            )
        told = self.get(f"/jobs/{job}/logs/{ids[0]}/beside/{ids[1]}")
        self.assertTrue(told["is_told"])
        self.assertAlmostEqual(told["shift_s"], 10.0 - 4.0, delta=0.1)
        self.assert_problem(
            self.get(f"/jobs/{job}/logs/{ids[0]}/beside/{ids[1]}?channel=lambda", 422),
            "both logs hold",
        )
        self.get(f"/jobs/{job}/logs/{ids[0]}/beside/999999", 404)


class TrialTests(ApiTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()["id"]
        self.path = f"/jobs/{self.job}"

    def wrong_tables(self, **factors):
        tables = self.get(f"{self.path}/calibration")["tables"]
        return self.edit(
            self.job,
            {k: [round(v * f, 2) for v in tables[k]["values"]] for k, f in factors.items()},
        )

    def start(self, coolant=8.0, **more):
        log = self.post(
            f"{self.path}/bench/starts",
            {"coolant_c": coolant, "engine": "port_four", "seed": 1, **more},
        )
        return self.post(f"{self.path}/trials", {"kind": "start", "log_id": log["log_id"]})

    def test_the_main_job_wrong_tables_advice_accept_better_start(self):
        self.wrong_tables(cranking_fuel=0.4, prime_pulse=0.3)
        revisions, seconds = [], []
        for _ in range(8):
            trial = self.start()
            seconds.append(trial["figures"]["fire_after_s"])
            if trial["good"]:
                break
            advice = trial["advice"][0]
            self.assertEqual(advice["table"], "cranking_fuel")
            for change in advice["changes"]:
                self.assertGreater(change["to"], change["from"])
            revisions.append(self.post(f"{self.path}/trials/{trial['id']}/accept", {})["revision"])
        self.assertTrue(trial["good"], seconds)
        self.assertLess(seconds[-1], seconds[0])
        self.assertEqual(revisions, list(range(3, 3 + len(revisions))))
        self.assertEqual(self.get(self.path)["next_action"]["kind"], "prove")
        marks = self.get(f"{self.path}/calibration")["tables"]["cranking_fuel"]["provenance"]
        self.assertTrue(any(mark["source"].startswith("trial") for mark in marks))

    def test_the_answer_has_everything_the_contract_promises(self):
        trial = self.start(ambient_c=8.0)
        for name in (
            "id",
            "phases",
            "figures",
            "verdict",
            "findings",
            "advice",
            "waits",
            "sentence",
            "good",
        ):
            self.assertIn(name, trial)
        self.assertEqual(trial["verdict"], "started")
        self.assertEqual({"name", "start_s", "end_s"}, set(trial["phases"][0]))

    def test_a_bench_start_is_judged_by_the_tables_it_ran_on(self):
        log = self.post(f"{self.path}/bench/starts", {"coolant_c": 20})["id"]
        self.wrong_tables(idle_target=1.1)
        self.assertEqual(self.post(f"{self.path}/trials", {"log_id": log})["revision"], 1)
        self.assertEqual(
            self.post(f"{self.path}/trials", {"log_id": log, "revision": 2})["revision"], 2
        )

    def test_the_rulebook_is_published(self):
        rules = self.get("/vocabulary")["rules"]
        self.assertIsNone(rules[0]["table"])
        self.assertIn("cranking-fuel-late", [rule["identifier"] for rule in rules])

    def test_observations_go_through_the_same_rules(self):
        trial = self.post(
            f"{self.path}/trials",
            {"observation": {"outcome": "no fire", "coolant_c": 5, "cranking_s": 7}},
        )
        self.assertEqual(
            (trial["evidence"], trial["advice"][0]["table"]), ("observation", "prime_pulse")
        )
        refused = self.post(
            f"{self.path}/trials",
            {"observation": {"outcome": "started", "coolant_c": 5, "lambda_later": 14.7}},
            status=422,
        )
        self.assert_problem(refused)
        self.post(
            f"{self.path}/trials", {"observation": {"outcome": "boom", "coolant_c": 5}}, status=422
        )

    def test_trials_need_evidence_that_holds_a_start(self):
        self.assert_problem(
            self.post(f"{self.path}/trials", {}, status=422), "log or an observation"
        )
        running = b"time,rpm,clt\n" + b"".join(b"%.2f,950,80\n" % (i / 25) for i in range(100))
        log = self.upload(self.job, running)["id"]
        self.assert_problem(
            self.post(f"{self.path}/trials", {"log_id": log}, status=422), "no start"
        )
        self.post(f"{self.path}/trials", {"log_id": log, "revision": 99}, status=404)
        for field in ("ambient_c", "soak_h"):
            self.post(f"{self.path}/trials", {"log_id": log, field: 1e6}, status=422)
        self.assertEqual(Trial.objects.count(), 0)

    def test_accept_with_own_values_and_only_once(self):
        self.wrong_tables(cranking_fuel=0.4, prime_pulse=0.3)
        trial = self.start()
        change = trial["advice"][0]["changes"][0]
        path = f"{self.path}/trials/{trial['id']}"
        self.post(f"{path}/accept", {"changes": [{"index": [99], "to": 100.0}]}, status=422)
        self.post(
            f"{path}/accept", {"changes": [{"index": change["index"], "to": 99_999}]}, status=422
        )
        self.post(f"{path}/accept", {"changes": []}, status=422)
        answer = self.post(
            f"{path}/accept",
            {"changes": [{"index": change["index"], "to": 111.0}], "note": "bolder"},
        )
        values = self.get(f"{self.path}/calibration")["tables"]["cranking_fuel"]["values"]
        self.assertEqual(values[change["index"][0]], 111.0)
        self.assertEqual(answer["trial"]["decision"]["note"], "bolder")
        self.assert_problem(self.post(f"{path}/accept", {}, status=409), "decided")
        self.assert_problem(self.post(f"{path}/decline", {"note": "no"}, status=409), "decided")

    def test_accepting_after_somebody_edited_the_cell_is_409(self):
        self.wrong_tables(cranking_fuel=0.4, prime_pulse=0.3)
        trial = self.start()
        values = self.get(f"{self.path}/calibration")["tables"]["cranking_fuel"]["values"]
        values[trial["advice"][0]["changes"][0]["index"][0]] += 50
        self.edit(self.job, {"cranking_fuel": values}, based_on=2)
        answer = self.post(f"{self.path}/trials/{trial['id']}/accept", {}, status=409)
        self.assert_problem(answer, "revision 3")
        self.assertEqual(Decision.objects.count(), 0)

    def test_an_edit_elsewhere_does_not_stand_in_the_way(self):
        self.wrong_tables(cranking_fuel=0.4, prime_pulse=0.3)
        trial = self.start()
        values = self.get(f"{self.path}/calibration")["tables"]["idle_target"]["values"]
        self.edit(self.job, {"idle_target": [v + 10 for v in values]}, based_on=2)
        self.post(f"{self.path}/trials/{trial['id']}/accept", {})
        self.assertEqual(
            self.get(f"{self.path}/calibration")["tables"]["idle_target"]["values"][0],
            values[0] + 10,
        )

    def test_decline_keeps_the_reason_and_changes_nothing(self):
        self.wrong_tables(cranking_fuel=0.4, prime_pulse=0.3)
        trial = self.start()
        declined = self.post(
            f"{self.path}/trials/{trial['id']}/decline", {"note": "battery was flat"}
        )
        self.assertEqual(declined["decision"]["kind"], "declined")
        self.assertEqual(self.get(self.path)["revision"], 2)

    def test_a_check_cannot_be_accepted_into_a_table(self):
        trial = self.start(faults=["lost_sync"])
        self.assertIsNone(trial["advice"][0]["table"])
        self.assert_problem(
            self.post(f"{self.path}/trials/{trial['id']}/accept", {}, status=422), "mend"
        )
        self.assertEqual(self.get(self.path)["next_action"]["kind"], "mend")

    def test_evidence_is_append_only(self):
        self.start()
        for row in (Log.objects.get(), Trial.objects.get()):
            with self.assertRaises(AppendOnlyError):
                row.save()
            with self.assertRaises(AppendOnlyError):
                row.delete()


class BenchTests(ApiTestCase):
    def test_offers_engines_and_faults(self):
        bench = self.get("/bench")
        self.assertGreaterEqual(len(bench["engines"]), 4)
        self.assertEqual(len(bench["faults"]), 6)

    def test_says_that_it_is_a_stand_in_and_refuses_nonsense(self):
        job = self.make_job()["id"]
        log = self.post(f"/jobs/{job}/bench/starts", {"coolant_c": 20})
        self.assertEqual((log["origin"], log["id"]), ("bench", log["log_id"]))
        self.assertIn("Simulated", log["about"]["stand_in"])
        for body in (
            {"coolant_c": 900},
            {"coolant_c": 20, "engine": "warp"},
            {"coolant_c": 20, "faults": ["gremlin"]},
            {},
            {"coolant_c": 20, "run_s": 9999},
            {"coolant_c": 20, "faults": [{"kind": "dead_time", "size": 99}]},
            {"coolant_c": 20, "revision": 5},
        ):
            with self.subTest(body=body):
                answer = self.call("post", f"/jobs/{job}/bench/starts", body)
                self.assertIn(answer["status"], (404, 422))
                self.assert_problem(answer)

    def test_the_same_seed_gives_the_same_log(self):
        job = self.make_job()["id"]
        logs = [
            self.post(f"/jobs/{job}/bench/starts", {"coolant_c": 20, "seed": 5})["id"]
            for _ in range(2)
        ]
        first, second = (
            self.get(f"/jobs/{job}/logs/{log}/samples?points=8000")["channels"]["rpm"]
            for log in logs
        )
        self.assertEqual(first, second)

"""A whole job out of one installation and into another; what a stranger may have made of it is refused."""

import hashlib
import io
import json
import random
import zipfile
from unittest.mock import patch

from django.contrib.auth.models import User
from django.core.files.uploadedfile import SimpleUploadedFile
from django.core.management import call_command
from django.db import OperationalError
from django.test import TestCase

from server.accounts.services import register
from server.archive.contents import MODELS, rows_of
from server.entries.models import Entry
from server.jobs.models import Job
from server.logbook.models import Log
from server.logbook.samples import read_trace
from tests.examples import few

from .base import ApiTestCase

#: Of another installation these differ by nature.
_OTHER = ("id", "job_id", "created_by_id", "workshop_id", "log_id", "revision_id", "trial_id", "photograph_id", "check_made_id")  # fmt: skip


def values_of(job):
    """Return every value that a job holds, but for the numbers of its rows here."""
    found = {}
    for model, way in MODELS:
        rows = list(rows_of(model, way, job).values())
        found[model.__name__] = [{k: v for k, v in row.items() if k not in _OTHER} for row in rows]
    logs = {log.pk: place for place, log in enumerate(Log.objects.filter(job=job).order_by("pk"))}

    def plain(data):
        if isinstance(data, dict):
            return {k: logs.get(v, v) if k == "log_id" else [logs[i] for i in v] if k == "log_ids" else plain(v) for k, v in data.items()}  # fmt: skip
        return [plain(one) for one in data] if isinstance(data, list) else data

    for row in found["Entry"]:
        row["data"] = plain(row["data"])
    found["samples"] = [
        {name: values.tobytes() for name, values in read_trace(log).channels.items()}
        for log in Log.objects.filter(job=job).order_by("pk")
    ]
    return found


class ArchiveTestCase(ApiTestCase):
    def archive(self, job):
        key = self.post(f"/jobs/{job}/archive", {}, 202)["result"]["key"]
        answer = self.client.get(f"/api/jobs/{job}/archive/{key}")
        return b"".join(answer.streaming_content)

    def bring(self, data, path="/archives"):
        return self.client.post(f"/api{path}", {"file": SimpleUploadedFile("job.zip", data)})


class RoundTripTests(ArchiveTestCase):
    def test_a_job_with_starts_drives_and_decisions_comes_back_value_for_value(self):
        job = self.make_job()["id"]
        log = self.post(f"/jobs/{job}/bench/starts", {"coolant_c": 5})["id"]
        self.post(f"/jobs/{job}/trials", {"log_id": log})
        drive = self.post(f"/jobs/{job}/bench/drive", {"minutes": 2}, 202)["result"]["log_id"]
        self.post(f"/jobs/{job}/fuel-map", {"log_ids": [drive]}, 202)
        self.post(f"/jobs/{job}/wiring/reason", {"reason": "An old loom, left as it was."}, 201)
        data = self.archive(job)
        before = Job.objects.count()
        look = self.bring(data, "/archives/look").json()
        self.assertEqual(look["counts"]["log"], 2)
        self.assertIn("would be added", look["sentence"])
        self.assertEqual(Job.objects.count(), before)
        answer = self.bring(data)
        self.assertEqual(answer.status_code, 201, answer.content)
        taken = answer.json()["job_id"]
        self.assertNotEqual(taken, job)
        self.assertEqual(values_of(Job.objects.get(pk=taken)), values_of(Job.objects.get(pk=job)))
        # The drive's pass points at the log as it is numbered here, and goes on from there.
        passes = Entry.objects.get(job=taken, kind="fuel-pass").data["logs"]
        self.assertEqual(Log.objects.get(pk=passes[0]["log_id"]).job_id, taken)
        self.post(f"/jobs/{taken}/fuel-map", {"log_ids": [passes[0]["log_id"]]}, 202)
        self.get(f"/jobs/{taken}")

    def test_somebody_else_brings_it_and_nobody_reads_it_but_them(self):
        job = self.make_job()["id"]
        data = self.archive(job)
        register(username="berta", password="correct-horse-9", workshop="Elsewhere")
        self.client.force_login(User.objects.get(username="berta"))
        taken = self.bring(data).json()["job_id"]
        self.assertEqual(Job.objects.get(pk=taken).workshop.name, "Elsewhere")
        self.assertEqual(Job.objects.get(pk=taken).created_by.username, "berta")
        self.get(f"/jobs/{job}", 404)
        self.assertEqual(self.client.post(f"/api/jobs/{job}/archive", {}, content_type="application/json").status_code, 404)  # fmt: skip


class DemoJobsTests(TestCase):
    def test_each_demo_job_comes_back_value_for_value(self):
        call_command("load_demo", verbosity=0)
        user = User.objects.get(username="demo")
        self.client.force_login(user)
        for job in Job.objects.order_by("pk"):
            with (
                self.subTest(job.name),
                patch("server.tasks.services.settings.TASKS_AT_ONCE", True),
            ):
                key = self.client.post(f"/api/jobs/{job.pk}/archive", {}, content_type="application/json").json()["result"]["key"]  # fmt: skip
                data = b"".join(self.client.get(f"/api/jobs/{job.pk}/archive/{key}").streaming_content)  # fmt: skip
                answer = self.client.post("/api/archives", {"file": SimpleUploadedFile("j.zip", data)})  # fmt: skip
                self.assertEqual(answer.status_code, 201, answer.content)
                taken = Job.objects.get(pk=answer.json()["job_id"])
                self.assertEqual(values_of(taken), values_of(job))


class HostileTests(ArchiveTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()["id"]
        log = self.post(f"/jobs/{self.job}/bench/starts", {"coolant_c": 20, "run_s": 5})["id"]
        self.post(f"/jobs/{self.job}/trials", {"log_id": log})
        self.data = self.archive(self.job)

    def rebuilt(self, change=None, *, sums=True, **manifest):
        """The archive with members changed; the sums follow unless they are to be wrong."""
        with zipfile.ZipFile(io.BytesIO(self.data)) as old:
            members = {name: old.read(name) for name in old.namelist()}
        told = json.loads(members.pop("manifest.json"))
        if change:
            change(members)
        if sums:
            told["sums"] = {n: hashlib.sha256(d).hexdigest() for n, d in members.items()}
        told.update(manifest)
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new:
            for name, data in members.items():
                new.writestr(name, data)
            new.writestr("manifest.json", json.dumps(told))
        return out.getvalue()

    def state(self):
        return {model.__name__: model._default_manager.count() for model, _ in MODELS}

    def refused(self, data, words):
        before = self.state()
        answer = self.bring(data)
        self.assertEqual(answer.status_code, 422, answer.content)
        self.assertIn(words, answer.json()["detail"])
        self.assertEqual(self.state(), before)

    def edited(self, name, change):
        def edit(members):
            rows = [json.loads(line) for line in members[name].decode().splitlines() if line]
            for row in rows:
                change(row["fields"])
            members[name] = "".join(json.dumps(row) + "\n" for row in rows).encode()

        return self.rebuilt(edit)

    def test_each_thing_that_is_wrong_is_told_and_nothing_is_taken(self):
        samples = next(n for n in zipfile.ZipFile(io.BytesIO(self.data)).namelist() if n.endswith("time_s.bin"))  # fmt: skip
        for data, words in (
            (b"no zip at all", "no zip file"),
            (self.data[: len(self.data) // 2], "no zip file"),
            (self.rebuilt(lambda m: m.update({"../../evil.sh": b"x"})), "belongs to no job"),
            (self.rebuilt(lambda m: m.update({"rows/auth.user.jsonl": b""}), sums=False), "does not name"),
            (self.rebuilt(lambda m: m.update({samples: b"\0" * 16}), sums=False), "its sum differs"),
            (self.rebuilt(lambda m: m.update({samples: b"\0" * 16})), "are not all there"),
            (self.rebuilt(lambda m: m.update({samples: bytes(reversed(m[samples]))})), "runs backwards"),
            (self.rebuilt(lambda m: m.update({"samples/1/bomb.bin": b"\0" * 30_000_000})), "more than it can be"),
            (self.rebuilt(format=99), "Bring the program up to date"),
            (self.rebuilt(format="one"), "says no format"),
            (self.rebuilt(counts={"auth.user": 1}), "what no job holds"),
            (self.rebuilt(lambda m: m.update({"rows/jobs.job.jsonl": b""})), "holds 0"),
            (self.rebuilt(lambda m: m.update({"rows/jobs.job.jsonl": m["rows/trials.trial.jsonl"]})), "of another kind"),
            (self.edited("rows/calibration.revision.jsonl", lambda f: f.update(tables="{}")), "not what this program writes"),
            (self.edited("rows/calibration.revision.jsonl", lambda f: f.update(number=10**30)), "not what this program writes"),
            (self.edited("rows/trials.trial.jsonl", lambda f: f.update(revision=999)), "not what this program writes"),
            (self.edited("rows/trials.trial.jsonl", lambda f: f.update(analysis=[])), "not what this program writes"),
            (self.edited("rows/jobs.job.jsonl", lambda f: f.update(name="x" * 500)), "longer than it can be"),
            (self.edited("rows/jobs.job.jsonl", lambda f: f.update(engine={})), "not what this program writes"),
        ):  # fmt: skip
            with self.subTest(words):
                self.refused(data, words)

    def test_whatever_is_damaged_nothing_half_comes_of_it(self):
        random_ = random.Random(7)
        for _ in range(few(130)):
            data = bytearray(self.data)
            for _ in range(random_.randint(1, 6)):
                data[random_.randrange(len(data))] = random_.randrange(256)
            before = self.state()
            answer = self.bring(bytes(data))
            self.assertIn(answer.status_code, (201, 422), answer.content)
            if answer.status_code == 422:
                self.assertEqual(self.state(), before)

    def test_a_full_disk_is_no_fault_of_the_archive(self):
        before = self.state()
        full = OperationalError("database or disk is full")
        with patch("server.archive.reading.LogChunk.objects.bulk_create", side_effect=full):
            answer = self.bring(self.data)
        self.assertEqual(answer.status_code, 507, answer.content)
        self.assertEqual(self.state(), before)

    def test_an_archive_that_is_not_kept_answers_404(self):
        self.get(f"/jobs/{self.job}/archive/nothing1", 404)
        self.get(f"/jobs/{self.job}/archive/..", 404)

"""What no body may hold, how large it may be, and who may send it: refused at the door with a sentence."""

import json
import threading
from pathlib import Path
from unittest import mock

from asgiref.sync import async_to_sync
from django.conf import settings
from django.contrib.auth.models import User
from django.core.cache import cache
from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import IntegrityError, OperationalError, connection, transaction
from django.test import Client, SimpleTestCase, TestCase, override_settings
from hypothesis import given
from hypothesis import strategies as st
from inbetrieb_core.errors import CoreError

from server.accounts.models import ApiToken, Membership, Workshop
from server.accounts.who import is_known
from server.calibration.models import Revision
from server.config.append_only import guards_of
from server.config.at_the_door import MOST_VALUES, read_json, refuse_what_cannot_be_kept
from server.config.bodies_in import BoundedBodies
from server.entries.models import Entry
from server.jobs.models import Job
from server.logbook import uploads
from server.logbook.models import Log

from .base import FOUR, PASSWORD, ApiTestCase
from .parts import COOLANT

JSON = "application/json"


class BodyTests(ApiTestCase):
    def send(self, body, path="/api/jobs"):
        return self.client.post(path, body, content_type=JSON)

    def assert_refused(self, response, words, status=422):
        self.assertEqual(response.status_code, status, response.content[:300])
        self.assert_problem(response.json(), words)

    def test_half_a_character_and_control_characters(self):
        for text in (r"\ud800", r"x\udfffy", r"\u0000", r"\u0007bell", r"\u007f"):
            body = json.dumps({"name": "NAME", "engine": FOUR}).replace("NAME", text)
            with self.subTest(text):
                self.assert_refused(self.send(body), "name ")
        body = '{"na\\ud800me": 1}'
        self.assert_refused(self.send(body), "half a character")

    def test_lines_and_tabs_are_text(self):
        body = json.dumps({"name": "Heron", "note": "one\n\ttwo\r\n", "engine": FOUR})
        self.assertEqual(self.send(body).status_code, 201)

    def test_numbers_beyond_all(self):
        for number in ("1e999", "-1e999", "1" * 400, "NaN", "Infinity"):
            body = json.dumps({"name": "x", "engine": {**FOUR, "displacement_l": 7.25}})
            with self.subTest(number[:10]):
                response = self.send(body.replace("7.25", number))
                self.assertEqual(response.status_code, 422)
                self.assert_problem(response.json())

    def test_depth_and_length(self):
        self.assert_refused(self.send("[" * 100_000), "nested deeper")
        self.assert_refused(self.send("{"), "no JSON", 400)
        self.assert_refused(self.send('{"name":' + "[" * 60 + "]" * 60 + "}"), "nested deeper")
        self.assert_refused(
            self.send('{"name":[' + "0," * (MOST_VALUES + 1) + "0]}"), "more than", 422
        )

    def test_a_thousand_wrong_elements_are_told_in_few_words(self):
        wrong = {"name": "x", "engine": FOUR, "axes": {"rpm": ["no"] * 50_000}}
        response = self.send(json.dumps(wrong))
        self.assert_refused(response, "more.")
        self.assertLess(len(response.content), 40_000)

    def test_parts_without_a_boundary(self):
        job = self.make_job()["id"]
        for kind in (
            "multipart/form-data",
            "multipart/form-data; boundary=",
            "multipart/form-data; boundary=\x01",
        ):
            response = self.client.generic(
                "POST", f"/api/jobs/{job}/logs", b"--x\r\n", content_type=kind
            )
            with self.subTest(kind):
                self.assertIn(response.status_code, (400, 422))
                self.assert_problem(response.json())


class AnyDataTests(SimpleTestCase):
    @given(
        st.recursive(
            st.none() | st.booleans() | st.floats() | st.text() | st.integers(),
            lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=4), inner),
        )
    )
    def test_what_is_let_in_can_be_written_again(self, data):
        try:
            refuse_what_cannot_be_kept(data)
        except CoreError as error:
            str(error).encode("utf-8")
            return
        text = json.dumps(data, allow_nan=False)
        self.assertEqual(read_json(text.encode("utf-8")), data)


class FullDiskTests(ApiTestCase):
    def test_a_full_disk_is_said_and_nothing_is_half_written(self):
        job = self.make_job()["id"]
        full = OperationalError("database or disk is full")
        with mock.patch("server.calibration.models.Revision.save", side_effect=full):
            response = self.client.post(
                f"/api/jobs/{job}/calibration", json.dumps({"note": "x", "based_on": 1, "tables": {
                    "idle_target": {"values": [900.0] * len(self.get(f"/jobs/{job}/calibration")["tables"]["idle_target"]["values"])}}}),
                content_type=JSON,
            )  # fmt: skip
        self.assertEqual(response.status_code, 507)
        self.assert_problem(response.json(), "The disk is full")
        self.assertEqual(self.get(f"/jobs/{job}")["revision"], 1)  # reading goes on


class BoundedBodiesTests(TestCase):
    """The application in front of all: it is asked as a server asks it."""

    def setUp(self):
        self.read = 0
        self.user = User.objects.create_user("anna", password=PASSWORD)

    async def behind(self, scope, receive, send):
        more = True
        while more:
            message = await receive()
            self.read += len(message.get("body", b""))
            more = message.get("more_body", False)
        await send({"type": "http.response.start", "status": 200, "headers": []})
        await send({"type": "http.response.body", "body": b""})

    def ask(self, blocks, *, length=None, path="/api/jobs/1/logs", **headers):
        sent, left = [], list(blocks)
        head = [(name.encode(), value.encode()) for name, value in headers.items()]
        if length is not None:
            head.append((b"content-length", str(length).encode()))

        async def receive():
            body = left.pop(0) if left else b""
            return {"type": "http.request", "body": body, "more_body": bool(left)}

        async def send(message):
            sent.append(message)

        scope = {
            "type": "http",
            "method": "POST",
            "path": path,
            "headers": head,
            "client": ("10.1.1.1", 9),
        }
        async_to_sync(BoundedBodies(self.behind))(scope, receive, send)
        self.said = sent[1]["body"].decode()
        return sent[0]["status"]

    def signed_in(self):
        client = Client()
        client.force_login(self.user)
        return {"cookie": f"{settings.SESSION_COOKIE_NAME}={client.cookies['sessionid'].value}"}

    def test_a_stranger_is_turned_away_before_a_byte_is_read(self):
        self.assertEqual(self.ask([b"x" * 10**6], length=10**6), 401)
        self.assertEqual(self.ask([b"x" * 10**6], length=10**6, cookie="sessionid=made-up"), 401)
        self.assertEqual(self.ask([b"x" * 10**6], length=10**6, authorization="Bearer no"), 401)
        self.assertEqual(self.read, 0)
        self.assertEqual(self.ask([b"{}"], length=2, path="/api/session"), 200)

    def test_a_stranger_who_states_no_length_is_stopped_on_the_way(self):
        self.assertEqual(self.ask([b"x" * 30_000] * 100), 413)
        self.assertLess(self.read, 100_000)
        self.assertIn("up to 64 kB can be read. Sign in first.", self.said)

    def test_who_is_signed_in_sends_what_the_address_takes(self):
        known = self.signed_in()
        self.assertEqual(self.ask([b"x" * 10**6], length=10**6, **known), 200)
        self.assertEqual(self.ask([], length=10**10, **known), 413)
        self.assertRegex(
            self.said, r"The file has 10000 MB; up to [1-9]\d* MB can be read\. Cut the log"
        )
        self.assertEqual(self.ask([], length=10**7, path="/api/jobs", **known), 413)
        token = ApiToken.new_token()
        ApiToken.objects.create(user=self.user, name="t", digest=ApiToken.digest_of(token))
        self.assertEqual(
            self.ask([b"x" * 10**6], length=10**6, authorization=f"Bearer {token}"), 200
        )

    def test_a_demo_program_is_known_on_this_machine_only(self):
        with override_settings(DEMO=True):
            self.assertTrue(is_known({}, "127.0.0.1"))
            self.assertFalse(is_known({}, "192.168.0.4"))
            for header in ("x-forwarded-for", "forwarded", "via", "x-real-ip", "x-forwarded-host"):
                self.assertFalse(is_known({header: "1.2.3.4"}, "127.0.0.1"), header)
        self.assertFalse(is_known({}, "127.0.0.1"))


class UploadTests(ApiTestCase):
    def setUp(self):
        super().setUp()
        self.workshop = Workshop.objects.get(memberships__user=self.owner)

    def test_two_at_once_keep_the_same_file_whole(self):
        data = bytes(range(256)) * 4000
        found, threads = [], []
        for _ in range(6):
            threads.append(
                threading.Thread(target=lambda: found.append(uploads.keep(self.workshop, data)))
            )
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(len(set(found)), 1)
        self.assertEqual(uploads.fetch(self.workshop, found[0]), data)
        self.assertEqual(list(Path(settings.UPLOADS).rglob("*.part")), [])

    @override_settings(UPLOAD_QUOTA=5000)
    def test_what_waits_is_bounded(self):
        job = self.make_job()["id"]
        rows = b"time_s,rpm\n" + b"0,0\n" * 3000
        response = self.client.post(
            f"/api/jobs/{job}/logs", {"file": SimpleUploadedFile("x.csv", rows)}
        )
        self.assertEqual(response.status_code, 413)
        self.assert_problem(response.json(), "wait to be read")
        self.assertEqual(list(Path(settings.UPLOADS).rglob("*.part")), [])

    def test_files_are_the_owners_alone(self):
        digest = uploads.keep(self.workshop, b"mine")
        mode = uploads.path_of(self.workshop, digest).stat().st_mode
        self.assertEqual(mode & 0o077, 0)


class GuardTests(ApiTestCase):
    """The database itself keeps what was written, whoever asks it and how."""

    def setUp(self):
        super().setUp()
        self.job = Job.objects.get(pk=self.make_job()["id"])
        self.post(f"/jobs/{self.job.pk}/sensors", {"sensor": COOLANT})

    def run_sql(self, sql, *values):
        with transaction.atomic(), connection.cursor() as cursor:
            cursor.execute(sql, values)

    def test_no_row_is_changed_deleted_or_replaced(self):
        for sql in (
            "UPDATE calibration_revision SET note = 'x'",
            "DELETE FROM calibration_revision",
            "INSERT OR REPLACE INTO calibration_revision SELECT * FROM calibration_revision",
            "REPLACE INTO entries_entry SELECT * FROM entries_entry",
            "INSERT OR REPLACE INTO entries_entry (job_id, kind, key, number, data, created_by_id, created_at) "
            "SELECT job_id, kind, key, number, 'null', created_by_id, created_at FROM entries_entry",
        ):
            with self.subTest(sql), self.assertRaisesRegex(IntegrityError, "append-only"):
                self.run_sql(sql)
        self.assertEqual(Revision.objects.filter(job=self.job).count(), 1)
        self.assertEqual(Entry.objects.filter(job=self.job).count(), 1)

    def test_a_job_with_history_is_not_deleted(self):
        with self.assertRaises(IntegrityError), transaction.atomic():
            self.job.delete()
        with self.assertRaises(IntegrityError):
            self.run_sql("DELETE FROM jobs_job")

    def test_every_table_that_is_written_once_is_guarded(self):
        with connection.cursor() as cursor:
            cursor.execute("SELECT name FROM sqlite_master WHERE type = 'trigger'")
            there = {name for (name,) in cursor.fetchall()}
        from django.apps import apps

        from server.config.append_only import AppendOnly

        models = [model for model in apps.get_models() if issubclass(model, AppendOnly)]
        self.assertGreater(len(models), 18)
        for model in models:
            self.assertEqual(len(list(guards_of(model))), 3)
            for kind in ("append_only", "kept", "in_place"):
                self.assertIn(f"{model._meta.db_table}_{kind}", there)


class TokenTests(ApiTestCase):
    def test_listed_named_expiring_and_taken_back(self):
        token = self.post("/tokens", {"name": "crib sheet", "days": 5})["token"]
        (known,) = self.get("/tokens")
        self.assertEqual(known["name"], "crib sheet")
        self.assertGreater(known["expires_at"], known["created_at"])
        self.assertNotIn(token, json.dumps(known))
        program = Client(headers={"Authorization": f"Bearer {token}"})
        self.assertEqual(program.get("/api/jobs").status_code, 200)
        self.client.force_login(self.stranger)
        self.assertEqual(self.client.delete(f"/api/tokens/{known['id']}").status_code, 404)
        self.client.force_login(self.owner)
        self.assertEqual(self.client.delete(f"/api/tokens/{known['id']}").status_code, 204)
        self.assertEqual(program.get("/api/jobs").status_code, 401)
        for days in (0, 10_000):
            self.post("/tokens", {"name": "x", "days": days}, status=422)

    def test_one_that_has_run_out_or_is_wrong_is_401_even_beside_a_session(self):
        token = self.post("/tokens", {"name": "old"})["token"]
        ApiToken.objects.update(expires_at="2001-01-01T00:00:00Z")
        for wrong in (token, "made-up", ""):
            answer = self.client.get("/api/jobs", headers={"Authorization": f"Bearer {wrong}"})
            self.assertEqual(answer.status_code, 401, wrong)
        self.assertEqual(self.client.get("/api/jobs").status_code, 200)


class PasswordTests(ApiTestCase):
    def setUp(self):
        super().setUp()
        cache.clear()
        self.addCleanup(cache.clear)

    def test_changed_by_who_knows_the_old_one_and_others_are_out(self):
        elsewhere = Client()
        elsewhere.force_login(self.owner)
        new = "another long phrase"
        self.assert_problem(
            self.post("/session/password", {"old": "no", "new": new}, status=422),
            "not the password",
        )
        self.post("/session/password", {"old": PASSWORD, "new": "short"}, status=422)
        answer = self.client.post(
            "/api/session/password", json.dumps({"old": PASSWORD, "new": new}), content_type=JSON
        )
        self.assertEqual(answer.status_code, 204)
        self.assertEqual(self.client.get("/api/jobs").status_code, 200)
        self.assertEqual(elsewhere.get("/api/jobs").status_code, 401)
        self.owner.refresh_from_db()
        self.assertTrue(self.owner.check_password(new))

    def test_wrong_passwords_have_to_wait(self):
        client = Client()
        body = json.dumps({"username": "owner", "password": "wrong"})
        statuses = [
            client.post("/api/session", body, content_type=JSON).status_code for _ in range(7)
        ]
        self.assertEqual(statuses, [422] * 5 + [429] * 2)
        right = json.dumps({"username": "owner", "password": PASSWORD})
        answer = client.post("/api/session", right, content_type=JSON)
        self.assertEqual(answer.status_code, 429)  # also the right one: nothing is told
        self.assert_problem(answer.json(), "wait")

    @override_settings(REGISTRATION_OPEN=False)
    def test_workshops_are_not_made_by_anybody(self):
        body = json.dumps({"username": "new", "password": PASSWORD})
        answer = Client().post("/api/users", body, content_type=JSON)
        self.assertEqual(answer.status_code, 403)
        self.assertFalse(Client().get("/api/session").json()["registration"])

    def test_reading_makes_nobody_a_workshop(self):
        lone = User.objects.create_user("lone", password=PASSWORD)
        client = Client()
        client.force_login(lone)
        self.assertEqual(client.get("/api/jobs").json(), [])
        self.assertEqual(client.get("/api/session").status_code, 200)
        self.assertFalse(Membership.objects.filter(user=lone).exists())
        body = json.dumps({"username": "lone", "password": PASSWORD})
        Client().post("/api/session", body, content_type=JSON)
        self.assertTrue(Membership.objects.filter(user=lone).exists())


class HeaderTests(SimpleTestCase):
    def test_every_answer_says_where_scripts_may_come_from(self):
        for path in ("/", "/jobs/1", "/api/openapi.json", "/api/nothing", "/static/nothing.js"):
            with self.subTest(path):
                policy = self.client.get(path).headers["Content-Security-Policy"]
                parts = dict(part.split(maxsplit=1) for part in policy.split(";"))
                self.assertEqual(parts.get("script-src", parts["default-src"]), "'self'")
                self.assertNotIn("unsafe-eval", policy)

    def test_the_page_holds_no_script_of_its_own(self):
        page = (settings.WEB_DIST / "index.html").read_text()
        for script in page.split("<script")[1:]:
            self.assertIn("src=", script.split(">", 1)[0])
            self.assertEqual(script.split(">", 1)[1].split("</script>")[0].strip(), "")


class LongLogTests(ApiTestCase):
    """A start is judged by its own part of a log, in its own transaction."""

    def test_of_hours_only_the_start_is_read(self):
        import numpy as np
        from inbetrieb_core.bench import NAMED, StartConditions, simulate_start
        from inbetrieb_core.logs import Trace

        from server.calibration.services import calibration_of, revision_of
        from server.jobs.engine_data import spec_of
        from server.logbook.services import add_log

        job = Job.objects.get(pk=self.make_job()["id"])
        run = simulate_start(
            NAMED["port_four"],
            spec_of(job),
            calibration_of(revision_of(job)),
            StartConditions(12.0),
        )
        start = {name: np.asarray(values, dtype=float) for name, values in run.channels.items()}
        count = 90_000  # an hour at 25 a second
        time = start["time_s"][-1] + 0.04 * np.arange(1, count + 1)
        long = {
            name: np.concatenate([values, np.full(count, values[-1]) if name != "time_s" else time])
            for name, values in start.items()
        }
        logs = [
            add_log(job, self.owner, name=name, origin="upload", trace=Trace(channels))
            for name, channels in (("alone", start), ("hour", long))
        ]
        self.assertGreater(Log.objects.get(pk=logs[1].pk).sample_count, 80_000)
        with mock.patch("server.trials.logged.read_trace", side_effect=AssertionError) as whole:
            judged = self.post(f"/jobs/{job.pk}/trials", {"log_id": logs[1].pk})
            whole.assert_not_called()
        alone = self.post(f"/jobs/{job.pk}/trials", {"log_id": logs[0].pk})
        self.assertEqual(judged["verdict"], alone["verdict"])
        for name in ("run_after_s", "flare_rpm", "cranking_rpm"):
            self.assertAlmostEqual(judged["figures"][name], alone["figures"][name], places=3)

    def test_judging_holds_nobody_up(self):
        job = self.make_job()["id"]
        log = self.post(f"/jobs/{job}/bench/starts", {"coolant_c": 20})["id"]
        seen = []

        def watch(*args, **rest):
            seen.append(connection.in_atomic_block and len(connection.savepoint_ids))
            return real(*args, **rest)

        from inbetrieb_core.starts import judge_start as real

        depth = len(connection.savepoint_ids)
        with mock.patch("server.trials.judging.judge_start", side_effect=watch):
            self.post(f"/jobs/{job}/trials", {"log_id": log})
            self.post(f"/jobs/{job}/trials/of-log", {"log_id": log, "start_numbers": [1]})
        self.assertEqual(seen, [depth, depth])  # no block of its own is open while it is judged

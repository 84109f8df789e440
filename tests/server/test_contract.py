"""The published contract: the snapshot is current, operations have names, the page is served."""

import json

from django.conf import settings
from django.core.management import call_command
from django.test import Client, SimpleTestCase, TestCase

#: What some addresses need besides the job.
QUERIES = {
    "diff": "?first=1&second=1",
    "why": "?table=ve&at=2000&at=60",
    "evidence": "?table=ve",
    "past": "?table=idle_target&index=1",
}


class ContractTests(SimpleTestCase):
    def test_the_snapshot_is_what_the_server_publishes(self):
        from server.config.api import api

        snapshot = json.loads((settings.ROOT / "server" / "openapi.json").read_text())
        self.assertEqual(
            json.loads(json.dumps(api.get_openapi_schema())), snapshot, "run make contract"
        )

    def test_no_two_shapes_share_a_name(self):
        """The contract has one shape for each name: of two with the same one would be told wrong."""
        from ninja import Schema

        def below(shape):
            for other in shape.__subclasses__():
                yield other
                yield from below(other)

        own = {s for s in below(Schema) if s.__module__.startswith("server.")}
        names = [s.__name__ for s in own]
        self.assertGreater(len(names), 150)
        self.assertEqual({name for name in names if names.count(name) > 1}, set())

    def test_the_stable_addresses_are_there(self):
        paths = json.loads((settings.ROOT / "server" / "openapi.json").read_text())["paths"]
        for path, method in (
            ("/api/jobs", "post"),
            ("/api/jobs", "get"),
            ("/api/jobs/{job_id}", "get"),
            ("/api/jobs/{job_id}/calibration", "get"),
            ("/api/jobs/{job_id}/calibration", "post"),
            ("/api/jobs/{job_id}/logs", "post"),
            ("/api/jobs/{job_id}/trials", "post"),
            ("/api/jobs/{job_id}/trials/{trial_id}/accept", "post"),
            ("/api/jobs/{job_id}/bench/starts", "post"),
            ("/api/jobs/{job_id}/export", "get"),
            ("/api/jobs/{job_id}/live", "post"),
            ("/api/jobs/{job_id}/live/{number}/stream", "get"),
            ("/api/jobs/{job_id}/fuel-map/{number}/accept", "post"),
            ("/api/jobs/{job_id}/pulls", "get"),
            ("/api/jobs/{job_id}/pulls/compare", "post"),
        ):
            self.assertIn(method, paths[path])


class PageTests(TestCase):
    def test_any_address_of_the_application_is_its_page_and_the_api_is_not(self):
        client = Client()
        for path in ("/", "/jobs/7/ladder"):
            response = client.get(path)
            self.assertIn(response.status_code, (200, 503))
            self.assertIn("no-cache", response["Cache-Control"])
        self.assertEqual(client.get("/api/nothing").status_code, 404)

    def test_the_contract_can_be_read_without_signing_in(self):
        self.assertEqual(Client().get("/api/openapi.json").status_code, 200)

    def test_no_migration_is_missing(self):
        call_command("makemigrations", "--check", "--dry-run", verbosity=0)


class DemoDataTests(TestCase):
    def setUp(self):
        from django.contrib.auth.models import User

        call_command("load_demo", verbosity=0)
        call_command("load_demo", verbosity=0)  # a second time changes nothing
        self.client.force_login(User.objects.get(username="demo"))
        self.jobs = self.client.get("/api/jobs").json()

    def test_demo_jobs_stand_in_different_states(self):
        self.assertEqual(len(self.jobs), 4)
        kinds = {job["next_action"]["kind"] for job in self.jobs}
        self.assertEqual(kinds, {"decide", "mend", "check"})

    def test_everything_that_can_be_read_of_a_job_in_work_is_read(self):
        """Whatever a job has been through, no answer of the contract falls over it."""
        paths = json.loads((settings.ROOT / "server" / "openapi.json").read_text())["paths"]
        asked = 0
        for job in self.jobs:
            first = {
                "job_id": job["id"],
                "function": "coolant",
                "number": 1,
                "revision": 1,
                "digest": "0" * 64,
                "key": "nothing1",
            }
            for name, key in (("logs", "log_id"), ("trials", "trial_id")):
                rows = self.client.get(f"/api/jobs/{job['id']}/{name}").json()
                first[key] = rows[0]["id"] if rows else 0
            first["other_id"] = first["log_id"]
            for path, operations in paths.items():
                if "get" not in operations or "{job_id}" not in path:
                    continue
                real = path.format(**first)
                real += QUERIES.get(path.rsplit("/", 1)[1], "")
                response = self.client.get(real)
                asked += 1
                with self.subTest(path=path, job=job["name"]):
                    lacks = first["trial_id"] == 0 or "captures" in path or "photographs/" in path
                    # No job of the demo is a season, and none has been on a live link.
                    lacks = lacks or path.endswith("/season") or "/live/" in path
                    # nor has one been driven, or pulled
                    lacks = (
                        lacks
                        or "/fuel-map/" in path
                        or "/pulls/" in path
                        or "/pdf/" in path
                        or "/archive/" in path
                    )
                    known = (200, 404) if lacks else (200,)
                    # A log in which nothing moves says nothing of time.
                    known = (*known, 404, 422) if "/beside/" in path else known
                    said = b"" if response.streaming else response.content[:200]
                    self.assertIn(response.status_code, known, said)
        self.assertGreater(asked, 60)

"""What a reading costs: so many questions to the database, however much a job holds."""

import json
import re
from unittest import mock

from django.conf import settings
from django.db import connection
from django.test import SimpleTestCase
from django.test.utils import CaptureQueriesContext

from server.config.said import rendered
from server.config.writes import writing
from server.jobs.models import Job
from server.order import summaries
from server.order.job_out import job_out
from server.order.models import JobSummary
from server.trials import estimates

from .base import FOUR, ApiTestCase
from .parts import COIL, COOLANT, INJECTORS, PAIRS, READINGS, SUPPLY, TRIGGER

#: What some addresses need besides the job.
QUERIES = {
    "past": "?table=idle_target&index=1",
    "diff": "?first=1&second=2",
    "why": "?table=ve&at=2000&at=60",
    "evidence": "?table=ve",
    "pulls": "?table=cranking_fuel&coolant_c=10",
    "forecast": "?coolant_c=10",
    "plan": "?mornings=-3,1",
}
#: Who asks: the session and the person.
ASKING = 2


class GrowthTests(ApiTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()["id"]
        self.path = f"/jobs/{self.job}"
        self.put_in(SUPPLY, "supply", "supply")
        self.put_in(INJECTORS, "injectors", "injectors")
        self.put_in(TRIGGER, "trigger", "trigger")
        self.put_in(COIL, "dwell", "dwell")
        plan = self.get(f"{self.path}/wiring")
        self.post(f"{self.path}/wiring", {"controller": plan["controller"], "entry": plan["entry"]})
        self.numbers = 0
        self.grow(1)

    def put_in(self, part, path, field):
        self.post(f"{self.path}/{path}", {field: part})

    def grow(self, times):
        """Add rows of every kind that a job gathers."""
        for _ in range(times):
            self.numbers += 1
            self.make_job()
            scenario = self.get("/trainer/scenarios")[0]["key"]
            self.post("/trainer/seasons", {"key": scenario})
            self.put_in(COOLANT, "sensors", "sensor")
            self.post(f"{self.path}/agreement", {"pairs": PAIRS})
            self.post(f"{self.path}/timing", {"readings": READINGS})
            self.post(f"{self.path}/bench/captures", {"seed": self.numbers})
            self.post(f"{self.path}/bench/key-on", {})
            self.post(f"{self.path}/key-on", {"readings": {"coolant": {"value": 12}}})
            seen = {"outcome": "started", "coolant_c": 10 + self.numbers, "cranking_s": 3.0}
            trial = self.post(f"{self.path}/trials", {"observation": seen})
            self.post(f"{self.path}/ladder/evidence/{trial['number']}/strike", {"reason": "other"})
            revision = self.get(self.path)["revision"]
            cell = {"idle_target": {"values": [900.0 + self.numbers]}}
            tables = self.get(f"{self.path}/calibration")["tables"]["idle_target"]["values"]
            cell["idle_target"]["values"] = [v + self.numbers for v in tables]
            self.post(
                f"{self.path}/calibration",
                {"note": "more", "based_on": revision, "tables": cell},
            )
            self.trial, self.log = trial["id"], self.get(f"{self.path}/logs")[0]["id"]

    def addresses(self):
        """Yield every address of the contract that is only read."""
        contract = json.loads((settings.ROOT / "server" / "openapi.json").read_text())
        for path, operations in contract["paths"].items():
            if "get" in operations:
                yield path

    def count(self, path):
        """Return (status, questions asked) of one reading; nothing is kept of earlier ones."""
        real = path.format(
            job_id=self.job, log_id=self.log, trial_id=self.trial, function="coolant", number=1,
            key="shipped:kutter-52", task_id="none", item_id=1, other_id=self.log, digest="0" * 64, name="boost",
        )  # fmt: skip
        real += QUERIES.get(path.rsplit("/", 1)[1], "")
        estimates._computed.cache_clear()
        with CaptureQueriesContext(connection) as queries:
            answer = self.client.get(real)
        return answer.status_code, len(queries)

    def test_no_reading_asks_more_of_a_job_that_holds_more(self):
        before = {path: self.count(path) for path in self.addresses()}
        read = [path for path, (status, _) in before.items() if status == 200]
        self.assertGreater(len(read), 45)
        self.grow(4)
        grown = {
            path: (before[path][1], self.count(path)[1])
            for path in read
            if self.count(path)[1] > before[path][1]
        }
        self.assertEqual(grown, {})

    def test_the_readings_of_every_hour_ask_little(self):
        self.grow(2)
        most = {
            "/api/jobs": 8,
            "/api/jobs/{job_id}": 10,
            "/api/jobs/{job_id}/logs/{log_id}/samples": 3,
            "/api/jobs/{job_id}/key-on": 10,
            "/api/jobs/{job_id}/base-maps/nearest": 10,
            "/api/jobs/{job_id}/trials": 10,
            "/api/jobs/{job_id}/revisions": 10,
        }
        for path, allowed in most.items():
            with self.subTest(path):
                self.assertLessEqual(self.count(path)[1] - ASKING, allowed)

    def test_a_reading_writes_nothing(self):
        for path in self.addresses():
            with CaptureQueriesContext(connection) as queries:
                self.client.get(
                    path.format(
                        job_id=self.job,
                        log_id=self.log,
                        trial_id=self.trial,
                        function="coolant",
                        number=1,
                        key="shipped:kutter-52",
                        task_id="none",
                        item_id=1,
                        other_id=self.log,
                        digest="0" * 64,
                        name="boost",
                    )  # fmt: skip
                    + QUERIES.get(path.rsplit("/", 1)[1], "")
                )
            wrote = [
                q["sql"] for q in queries if q["sql"].split()[0] in ("INSERT", "UPDATE", "DELETE")
            ]
            with self.subTest(path):
                self.assertEqual(wrote, [])


class BoardTests(ApiTestCase):
    def names(self, query=""):
        return [job["name"] for job in self.get(f"/jobs{query}")]

    def add(self, *names):
        return [self.post("/jobs", {"name": name, "engine": FOUR})["id"] for name in names]

    def test_is_paged_searched_and_filtered(self):
        self.add(*(f"Boat {i}" for i in range(7)), "Tractor")
        answer = self.client.get("/api/jobs?limit=3&offset=2")
        self.assertEqual(answer.headers["X-Total-Count"], "8")
        self.assertEqual([job["name"] for job in answer.json()], ["Boat 5", "Boat 4", "Boat 3"])
        self.assertEqual(self.names("?search=tract"), ["Tractor"])
        self.assertEqual(self.names("?search=%25"), [])
        station = self.get("/jobs")[0]["next_action"]["station"]
        self.assertEqual(len(self.names(f"?needs={station}")), 8)
        self.assertEqual(self.names("?needs=handover"), [])
        for query in ("?limit=0", "?limit=999", "?offset=-1"):
            self.get(f"/jobs{query}", status=422)

    def test_a_job_is_put_aside_with_a_reason_and_comes_back(self):
        first, _ = self.add("Old", "New")
        self.assert_problem(
            self.post(f"/jobs/{first}/aside", {"aside": True, "reason": "no"}, status=422), "aside"
        )
        gone = self.post(
            f"/jobs/{first}/aside", {"aside": True, "reason": "sold to a farm"}, status=200
        )
        self.assertTrue(gone["aside"])
        self.assertEqual((self.names(), self.names("?aside=true")), (["New"], ["Old"]))
        self.assertEqual(self.get(f"/jobs/{first}")["name"], "Old")
        self.post(f"/jobs/{first}/aside", {"aside": False}, status=200)
        self.assertEqual(self.names(), ["New", "Old"])

    def test_what_is_shown_is_what_stands(self):
        """The summary that is kept says the same as the job worked out anew, after every write."""
        job = self.add("Heron")[0]
        self.post(f"/jobs/{job}/sensors", {"sensor": COOLANT})
        self.post(f"/jobs/{job}/units", {"units": {"temperature": "°F"}}, status=200)
        seen = {"outcome": "no fire", "coolant_c": 5}
        trial = self.post(f"/jobs/{job}/trials", {"observation": seen})["id"]
        self.post(f"/jobs/{job}/trials/{trial}/decline", {"note": "plugs were wet"})
        self.post(f"/jobs/{job}/wiring/reason", {"reason": "it was wired by somebody else"})
        shown = self.get("/jobs")[0]
        anew = rendered(job_out(Job.objects.get(pk=job)).model_dump_json(by_alias=True))
        self.assertEqual(shown, json.loads(anew))
        self.assertEqual(self.get(f"/jobs/{job}"), shown)

    def test_one_job_that_cannot_be_told_takes_no_other_with_it(self):
        """After an upgrade: its old summary stands, the others are written anew."""
        broken, well = self.add("Heron", "Crow")
        JobSummary.objects.update(version="older")
        told = summaries.job_out

        def falling(job):
            if job.pk == broken:
                raise ValueError("written by a version that knew more")
            return told(job)

        with (
            mock.patch.object(summaries, "job_out", falling),
            self.assertLogs("server.order.summaries", "ERROR") as logged,
        ):
            summaries.renew("default")
            self.assertEqual(self.names(), ["Crow", "Heron"])
        self.assertIn(str(broken), logged.output[0])
        versions = dict(JobSummary.objects.values_list("job_id", "version"))
        self.assertEqual(versions, {broken: "older", well: summaries.VERSION})

    def test_a_summary_of_another_version_is_not_trusted(self):
        job = self.add("Heron")[0]
        JobSummary.objects.filter(job=job).update(version="older", body='{"name": "Crow"}')
        self.assertEqual(self.names(), ["Heron"])
        self.assertEqual(
            JobSummary.objects.get(job=job).version, "older"
        )  # a reading writes nothing
        summaries.renew("default")
        self.assertNotEqual(JobSummary.objects.get(job=job).version, "older")
        JobSummary.objects.all().delete()
        self.assertEqual(self.names(), ["Heron"])

    def test_a_write_that_fails_leaves_the_summary_as_it_was(self):
        job = Job.objects.get(pk=self.add("Heron")[0])
        with self.assertRaises(RuntimeError), writing():
            job.name = "Crow"
            job.save()
            raise RuntimeError("the power went")
        self.assertEqual(self.names(), ["Heron"])
        with writing(), writing():
            Job.objects.get(pk=job.pk).save()
        self.assertEqual(self.names(), ["Heron"])


class FirstLoadTests(SimpleTestCase):
    """What a tablet fetches before the board is seen, as it was built."""

    #: Compressed as every browser takes it. [bytes]
    MOST = 180_000
    ASSETS = settings.WEB_DIST / "assets"

    def first(self):
        """Return the files that the page and the board cannot do without."""
        found = set(re.findall(r"assets/([\w.-]+\.(?:js|css))", (settings.WEB_DIST / "index.html").read_text()))  # fmt: skip
        found |= {path.name for path in self.ASSETS.glob("board-*.js")}
        left = list(found)
        while left:
            text = (self.ASSETS / left.pop()).read_text()
            for name in re.findall(r"""(?:from|import)\s*["']\./([\w.-]+\.js)["']""", text):
                if name not in found:
                    found.add(name)
                    left.append(name)
        return found

    def test_is_small(self):
        sizes = {name: (self.ASSETS / f"{name}.gz").stat().st_size for name in self.first()}
        self.assertGreater(len(sizes), 3)
        self.assertLess(sum(sizes.values()), self.MOST, sizes)

    def test_is_sent_compressed_and_kept_for_ever(self):
        for name in sorted(self.first()):
            for coding in ("br", "gzip"):
                answer = self.client.get(
                    f"/static/assets/{name}", headers={"Accept-Encoding": coding}
                )
                with self.subTest(name, coding=coding):
                    self.assertEqual(answer.status_code, 200)
                    self.assertEqual(answer.headers["Content-Encoding"], coding)
                    self.assertIn("immutable", answer.headers["Cache-Control"])

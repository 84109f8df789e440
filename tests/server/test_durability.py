"""Two saving at once, and a server killed in the middle of saving."""

import json
import os
import random
import signal
import sqlite3
import subprocess
import sys
import tempfile
import threading
import time
from pathlib import Path

from django.conf import settings
from django.db import connections
from django.test import Client, SimpleTestCase, TransactionTestCase
from inbetrieb_core.tables import from_plain

from server.accounts.services import register
from tests.examples import few

from .base import FOUR
from .migrated import migrated

WRITER = """
import os, sys
os.environ["DJANGO_SETTINGS_MODULE"] = "server.config.settings"
import django
django.setup()
from django.contrib.auth.models import User
from server.accounts.services import register
from server.bench.services import add_bench_start
from server.calibration.services import calibration_of, edit, revision_of
from server.jobs.engine_data import entered_engine
from server.jobs.models import Job
from server.order.services import create_job
from server.trials.judging import add_trial
from server.trials.told import Told
from inbetrieb_core.bench import StartConditions
# One process stands ready, and every line asks it for a child that writes until it is killed.
while sys.stdin.readline():
    child = os.fork()
    if not child:
        break
    print(child, flush=True)
    os.waitpid(child, 0)
    print("gone", flush=True)
else:
    sys.exit()
user = User.objects.first() or register(username="w", password=None, workshop="w")
job = Job.objects.first() or create_job(
    user, name="J", note="", engine=entered_engine(%s), display_units={}, axes=None, override_reason="")
print("ready", flush=True)
step = 0
while True:
    step += 1
    newest = revision_of(job)
    values = calibration_of(newest)["idle_target"].values + (1 if step %% 2 else -1)
    made = edit(job, user, note=str(step), based_on=newest.number, tables={"idle_target": values.tolist()}, provenance="assumed")
    print("kept", made.number, flush=True)
    log = add_bench_start(job, user, engine="port_four", conditions=StartConditions(20.0, seed=step, run_s=4.0), faults=[], revision=None)
    add_trial(job, user, log=log, observation=None, told=Told())
"""

BEGINS = """
import os, sys
os.environ["DJANGO_SETTINGS_MODULE"] = "server.config.settings"
import django
django.setup()
from django.contrib.auth.models import User
from inbetrieb_core.bench import LiveSetup
from server.accounts.services import register
from server.jobs.engine_data import entered_engine
from server.jobs.models import Job
from server.live import hosts, services
from server.order.services import create_job
"""
LIVE = (
    BEGINS
    + """
import time
user = register(username="l", password=None, workshop="l")
job = create_job(user, name="J", note="", engine=entered_engine(%s), display_units={}, axes=None, override_reason="")
session = services.open_bench(job, user, engine="port_four", setup=LiveSetup(20.0), tables="newest", speed=1)
host = hosts.host_of(session.pk)
host.command("l", "", {"key": True})
while True:
    time.sleep(0.05)
    print(host.rows, flush=True)
"""
)
#: A database grows with every one: so many kills, then the next begins anew. [–]
_KILLS_OF_ONE = 20
#: What the next process does when it finds the session.
AFTER = (
    BEGINS
    + """
from datetime import timedelta
services._LOST_AFTER = timedelta(0)
for end in services.end_lost():
    print(end.log.sample_count, end.log.duration_s, end.log.about["stand_in"])
"""
)


class KillTests(SimpleTestCase):
    def test_a_killed_live_session_is_whole_up_to_the_last_second(self):
        with tempfile.TemporaryDirectory() as folder:
            env = migrated(folder)
            server = subprocess.Popen(
                [sys.executable, "-c", LIVE % repr(FOUR)], cwd=settings.ROOT, env=env, stdout=subprocess.PIPE,
            )  # fmt: skip
            came = 0
            while came < 90:
                came = int(server.stdout.readline())
            server.send_signal(signal.SIGKILL)
            server.wait()
            server.stdout.close()
            told = subprocess.run(
                [sys.executable, "-c", AFTER], cwd=settings.ROOT, env=env, check=True, capture_output=True,
            ).stdout.split(maxsplit=2)  # fmt: skip
            kept, lasted_s = int(told[0]), float(told[1])
            # 25 rows a second: at most the last second is lost, and what came while it was killed.
            self.assertGreaterEqual(kept, came - 35)
            self.assertAlmostEqual(lasted_s, kept / 25, delta=0.1)
            self.assertIn(b"Simulated", told[2])

    def test_a_killed_server_leaves_only_whole_revisions_logs_and_trials(self):
        """And everything that was acknowledged; with `EXAMPLES=72` a thousand kills."""
        random.seed(7)
        kills, kept = few(14), 0
        for begun in range(0, kills, _KILLS_OF_ONE):
            kept += self.killed_often(min(_KILLS_OF_ONE, kills - begun))
        print(f"\n{kills} kills, {kept} acknowledged revisions, none lost")
        self.assertGreater(kept, 2)

    def killed_often(self, times):
        with tempfile.TemporaryDirectory() as folder:
            env = migrated(folder)
            kept = 1  # the one that a job begins with
            writers = subprocess.Popen(
                [sys.executable, "-c", WRITER % repr(FOUR)],
                cwd=settings.ROOT, env=env, stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True,
            )  # fmt: skip
            for _ in range(times):
                writers.stdin.write("write\n")
                writers.stdin.flush()
                said = {writers.stdout.readline().strip(), writers.stdout.readline().strip()}
                self.assertIn("ready", said)
                time.sleep(random.uniform(0.1, 0.6))
                os.kill(int((said - {"ready"}).pop()), signal.SIGKILL)
                while (line := writers.stdout.readline().strip()) != "gone":
                    kept = int(line.removeprefix("kept "))
                # What was told to have been kept is there; what was under way may be.
                found = self.check_whole(Path(folder) / "inbetrieb.sqlite3")
                self.assertIn(found - kept, (0, 1))
                kept = found
            writers.communicate()
            return kept

    def check_whole(self, path):
        """Open the database as it was left and check every row that counts."""
        database = sqlite3.connect(path)
        self.assertEqual(database.execute("PRAGMA integrity_check").fetchone()[0], "ok")
        self.assertEqual(database.execute("PRAGMA foreign_key_check").fetchall(), [])
        rows = database.execute(
            "SELECT number, tables FROM calibration_revision ORDER BY number"
        ).fetchall()
        self.assertEqual([number for number, _ in rows], list(range(1, len(rows) + 1)))
        for _, tables in rows:
            from_plain(json.loads(tables))
        for log, count, channels in database.execute(
            "SELECT id, sample_count, channels FROM logbook_log"
        ).fetchall():
            kept = database.execute(
                "SELECT COUNT(DISTINCT channel) FROM logbook_logchunk WHERE log_id = ? AND level = 1",
                (log,),
            ).fetchone()[0]
            self.assertEqual(kept, len(json.loads(channels)))
            self.assertGreater(count, 10)
        for (analysis,) in database.execute("SELECT analysis FROM trials_trial").fetchall():
            json.loads(analysis)
        database.close()
        return len(rows)


class TwoBrowsersTests(TransactionTestCase):
    def test_of_two_saving_at_once_one_is_told_and_nothing_is_mixed(self):
        user = register(username="two", password=None, workshop="w")
        client = Client()
        client.force_login(user)
        job = client.post(
            "/api/jobs", {"name": "J", "engine": FOUR}, content_type="application/json"
        ).json()["id"]
        values = client.get(f"/api/jobs/{job}/calibration").json()["tables"]["idle_target"][
            "values"
        ]
        statuses, barrier = [], threading.Barrier(6)

        def save(number):
            own = Client()
            own.force_login(user)
            barrier.wait()
            body = {
                "note": str(number),
                "based_on": 1,
                "tables": {"idle_target": {"values": [v + number for v in values]}},
            }
            statuses.append(
                own.post(
                    f"/api/jobs/{job}/calibration", body, content_type="application/json"
                ).status_code
            )
            connections.close_all()

        threads = [threading.Thread(target=save, args=(i,)) for i in range(1, 7)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(sorted(statuses), [201, 409, 409, 409, 409, 409])
        listed = client.get(f"/api/jobs/{job}/revisions").json()
        self.assertEqual([r["revision"] for r in listed], [2, 1])
        saved = client.get(f"/api/jobs/{job}/calibration").json()["tables"]["idle_target"]["values"]
        self.assertEqual(saved, [v + int(listed[0]["note"]) for v in values])

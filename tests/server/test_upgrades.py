"""Databases that earlier versions of this program wrote, brought up to date by this one.

Each file of ``schemas`` was made by the program as it was before its database changed: one job with
revisions, a log, trials and a decision, and whatever of the rest that version had. Before the
database changes again, keep one more: ``keep_schema``.
"""

import gzip
import json
import os
import sqlite3
import subprocess
import sys
import tempfile
from pathlib import Path

from django.conf import settings
from django.test import SimpleTestCase

FOLDER = Path(__file__).parent / "schemas"
#: Brings databases up to date, looks them over, and asks what a person would look at first.
PROGRAM = """
import json, sys, django
django.setup()
from django.core.management import call_command
from django.contrib.auth.models import User
from django.db import connection
from django.test import Client
from server.accounts.rights import role_of
from server.command.check import problems
ASKED = ("", "/1", "/1/calibration", "/1/revisions", "/1/trials", "/1/ladder", "/1/sensors", "/1/wiring")
for name in sys.argv[1:]:
    connection.close()
    connection.settings_dict["NAME"] = name
    call_command("migrate", verbosity=0)
    user = User.objects.get(username="anna")
    client = Client()
    client.force_login(user)
    asked = {}
    for path in ASKED:
        answer = client.get(f"/api/jobs{path}", headers={"host": "localhost"})
        asked[path] = [answer.status_code, answer.json()]
    print(json.dumps({"problems": list(problems()), "role": role_of(user), "asked": asked}))
"""


def rows_of(path, question):
    with sqlite3.connect(path) as database:
        return database.execute(question).fetchall()


class UpgradeTests(SimpleTestCase):
    def test_every_earlier_database_is_brought_up_to_date(self):
        packed = sorted(FOLDER.glob("*.sqlite3.gz"))
        self.assertGreaterEqual(len(packed), 8)
        revisions = "SELECT id, number, tables FROM calibration_revision ORDER BY id"
        with tempfile.TemporaryDirectory() as folder:
            paths = [Path(folder) / one.stem for one in packed]
            for path, one in zip(paths, packed, strict=True):
                path.write_bytes(gzip.decompress(one.read_bytes()))
            before = [rows_of(path, revisions) for path in paths]
            done = subprocess.run(
                [sys.executable, "-c", PROGRAM, *map(str, paths)],
                cwd=settings.ROOT,
                env={
                    **os.environ,
                    "INBETRIEB_DATA": folder,
                    "DJANGO_SETTINGS_MODULE": "server.config.settings",
                },
                capture_output=True,
                text=True,
                check=False,
            )
            self.assertEqual(done.returncode, 0, done.stderr[-2000:])
            # What was written once is as it was, to the letter.
            self.assertEqual([rows_of(path, revisions) for path in paths], before)
        answers = [json.loads(line) for line in done.stdout.splitlines()]
        for path, rows, found in zip(paths, before, answers, strict=True):
            with self.subTest(path.name):
                self.assertEqual(found["problems"], [])
                self.assertEqual(found["role"], "owner")
                statuses = {path: status for path, (status, _) in found["asked"].items()}
                self.assertEqual(set(statuses.values()), {200}, statuses)
                self.assertEqual([job["name"] for job in found["asked"][""][1]], ["Heron"])
                self.assertEqual(len(found["asked"]["/1/revisions"][1]), len(rows))
                trials = found["asked"]["/1/trials"][1]
                self.assertGreaterEqual(len(trials), 1)
                self.assertTrue(all(trial["sentence"] for trial in trials))

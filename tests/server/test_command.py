"""The command line: a backup of one moment that is read back, a restore that trusts nothing, a check."""

import json
import os
import shutil
import sqlite3
import subprocess
import sys
import tempfile
import threading
import zipfile
from contextlib import closing
from pathlib import Path

from click.testing import CliRunner
from django.conf import settings
from django.contrib.auth.models import User
from django.db import connection
from django.test import SimpleTestCase, override_settings
from inbetrieb_core.logs import is_mdf

from server.command.backup import DATABASE, BackupError, make_backup, read_backup, restore_backup
from server.command.check import problems
from server.command.commands import inbetrieb
from server.logbook.models import Log
from server.logbook.uploads import keep
from tests.core import test_measurement_files as files

from .base import PASSWORD, ApiTestCase


class FolderCase(SimpleTestCase):
    def setUp(self):
        self.folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, self.folder, ignore_errors=True)
        self.data = self.folder / "data"
        (self.data / "photographs" / "1").mkdir(parents=True)
        (self.data / "photographs" / "1" / "bay.jpg").write_bytes(b"a picture")
        (self.data / "secret_key").write_text("not to be carried about")
        with closing(sqlite3.connect(self.data / DATABASE)) as database:
            database.execute("PRAGMA journal_mode=WAL")
            database.execute("CREATE TABLE jobs_job (id INTEGER PRIMARY KEY, name TEXT)")
            database.executemany(
                "INSERT INTO jobs_job (name) VALUES (?)", [(f"job {i}",) for i in range(500)]
            )
            database.commit()
        self.file = self.folder / "kept" / "backup.zip"


class BackupTests(FolderCase):
    def test_there_and_back(self):
        made = make_backup(self.data, self.file)
        self.assertEqual((made.rows["jobs_job"], made.files), (500, 1))
        restored = self.folder / "elsewhere"
        self.assertEqual(restore_backup(self.file, restored), made)
        self.assertEqual((restored / "photographs/1/bay.jpg").read_bytes(), b"a picture")
        self.assertFalse((restored / "secret_key").exists())
        with closing(sqlite3.connect(restored / DATABASE)) as database:
            self.assertEqual(database.execute("SELECT count(*) FROM jobs_job").fetchone(), (500,))

    def test_of_one_moment_while_others_write(self):
        """Every transaction writes two rows: a backup never holds one of them alone."""
        stop = threading.Event()

        def write():
            with closing(sqlite3.connect(self.data / DATABASE, timeout=20)) as database:
                number = 0
                while not stop.is_set():
                    number += 1
                    with database:
                        for half in "ab":
                            name = f"pair {number} {half}"
                            database.execute("INSERT INTO jobs_job (name) VALUES (?)", (name,))

        writer = threading.Thread(target=write)
        writer.start()
        try:
            counts = []
            for n in range(4):
                made = make_backup(self.data, self.folder / f"{n}.zip")
                counts.append(made.rows["jobs_job"] - 500)
        finally:
            stop.set()
            writer.join()
        self.assertTrue(all(count % 2 == 0 for count in counts), counts)
        self.assertGreater(counts[-1], counts[0])

    def test_nothing_is_overwritten(self):
        make_backup(self.data, self.file)
        before = self.file.read_bytes()
        with self.assertRaisesRegex(BackupError, "already"):
            make_backup(self.data, self.file)
        with self.assertRaisesRegex(BackupError, "holds data already"):
            restore_backup(self.file, self.data)
        self.assertEqual(self.file.read_bytes(), before)
        with self.assertRaisesRegex(BackupError, "no database"):
            make_backup(self.folder, self.folder / "x.zip")
        self.assertEqual([p.name for p in self.file.parent.iterdir()], ["backup.zip"])

    def test_a_damaged_one_is_not_trusted(self):
        make_backup(self.data, self.file)
        whole = self.file.read_bytes()
        target = self.folder / "target"
        for place in range(0, len(whole), max(1, len(whole) // 60)):
            self.file.write_bytes(whole[:place] + bytes([whole[place] ^ 0x5A]) + whole[place + 1 :])
            try:
                read_backup(self.file)
            except BackupError:
                with self.assertRaises(BackupError):
                    restore_backup(self.file, target)
                self.assertFalse((target / DATABASE).exists())
        self.file.write_bytes(whole[: len(whole) // 2])
        with self.assertRaisesRegex(BackupError, "no whole backup"):
            restore_backup(self.file, target)

    def test_a_database_that_is_damaged_is_not_backed_up(self):
        path = self.data / DATABASE
        with closing(sqlite3.connect(path)) as database:
            database.execute("PRAGMA journal_mode=DELETE")
        data = bytearray(path.read_bytes())
        data[4096 : 4096 + 600] = b"\x7f" * 600
        path.write_bytes(data)
        with self.assertRaises(BackupError):
            make_backup(self.data, self.file)
        self.assertFalse(self.file.exists())


class HostileBackupTests(FolderCase):
    def forged(self, name, data=b"x", **manifest):
        make_backup(self.data, self.file)
        forged = self.folder / "forged.zip"
        with zipfile.ZipFile(self.file) as source, zipfile.ZipFile(forged, "w") as target:
            said = json.loads(source.read("manifest.json"))
            said["sums"][name] = "0" * 64
            said.update(manifest)
            target.writestr("manifest.json", json.dumps(said))
            for kept in source.namelist()[:-1]:  # all but the manifest
                target.writestr(kept, source.read(kept))
            target.writestr(name, data)
        return forged

    def test_names_that_lead_elsewhere(self):
        for name in (
            "../evil", "/etc/evil", "photographs/../../evil", "secret_key", "photographs", "a\\b",
            "uploads/..\\..\\evil",
        ):  # fmt: skip
            with self.subTest(name), self.assertRaisesRegex(BackupError, "belong|whole"):
                restore_backup(self.forged(name), self.folder / "target")
            self.file.unlink()
        self.assertFalse((self.folder / "evil").exists())

    def test_later_versions_and_lies(self):
        with self.assertRaisesRegex(BackupError, "later version"):
            read_backup(self.forged("uploads/1", format=99))
        self.file.unlink()
        with self.assertRaisesRegex(BackupError, "damaged"):
            read_backup(self.forged("uploads/1"))
        (self.folder / "text.zip").write_text("no zip at all")
        with self.assertRaisesRegex(BackupError, "no whole backup"):
            read_backup(self.folder / "text.zip")


class CheckTests(ApiTestCase):
    def setUp(self):
        super().setUp()
        self.job = self.make_job()["id"]
        self.log = self.post(f"/jobs/{self.job}/bench/starts", {"coolant_c": 20})["id"]

    def test_nothing_is_wrong_with_what_the_program_wrote(self):
        self.assertEqual(list(problems()), [])
        result = CliRunner().invoke(inbetrieb, ["check"])
        self.assertEqual((result.exit_code, result.output.strip()), (0, "Nothing is wrong."))

    def unguarded(self, sql, *values):
        with connection.cursor() as cursor:
            for kind in ("append_only", "kept"):
                cursor.execute(f"DROP TRIGGER logbook_logchunk_{kind}")
            cursor.execute(sql, values)

    def test_samples_that_cannot_be_read(self):
        self.unguarded("UPDATE logbook_logchunk SET data = %s WHERE channel = 'rpm'", b"\x00")
        said = list(problems())
        self.assertTrue(any(f"Log {self.log} of job" in sentence for sentence in said), said)
        self.assertTrue(any("not guarded" in sentence for sentence in said), said)
        result = CliRunner().invoke(inbetrieb, ["check"])
        self.assertEqual(result.exit_code, 1)

    def test_samples_that_are_missing(self):
        self.unguarded("DELETE FROM logbook_logchunk WHERE level = 1 AND log_id = %s", self.log)
        self.assertTrue(any(f"Log {self.log}" in sentence for sentence in problems()))
        self.assertTrue(Log.objects.filter(pk=self.log).exists())

    def test_files_that_are_not_what_they_were(self):
        workshop = self.owner.membership.workshop
        digest = keep(workshop, b"a file")
        path = settings.UPLOADS / str(workshop.pk) / digest
        self.addCleanup(path.unlink)
        path.write_bytes(b"another")
        self.assertIn(f"The upload {digest} is damaged.", list(problems()))


class UserTests(ApiTestCase):
    def run_it(self, *words):
        return CliRunner().invoke(inbetrieb, words, input=f"{PASSWORD}\n{PASSWORD}\n")

    @override_settings(REGISTRATION_OPEN=False)
    def test_the_first_user_and_another_password(self):
        made = self.run_it("user", "berta", "--workshop", "Boathouse")
        self.assertEqual(made.exit_code, 0, made.output)
        self.assertEqual(User.objects.get(username="berta").membership.workshop.name, "Boathouse")
        again = self.run_it("user", "berta")
        self.assertEqual(again.exit_code, 1)
        self.assertIn("is taken", again.output)
        changed = CliRunner().invoke(
            inbetrieb, ["password", "berta"], input="one more phrase\none more phrase\n"
        )
        self.assertEqual(changed.exit_code, 0)
        self.assertTrue(User.objects.get(username="berta").check_password("one more phrase"))
        self.assertEqual(self.run_it("password", "nobody").exit_code, 1)

    def test_a_weak_password_is_refused(self):
        weak = CliRunner().invoke(inbetrieb, ["user", "carl"], input="123\n123\n")
        self.assertEqual(weak.exit_code, 1)
        self.assertFalse(User.objects.filter(username="carl").exists())


class InstallationTests(SimpleTestCase):
    """The commands as a person runs them, on a folder of their own."""

    def setUp(self):
        self.folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, self.folder, ignore_errors=True)

    def run_it(self, *words, data="data", said="", code=0):
        kept = {k: v for k, v in os.environ.items() if not k.startswith(("INBETRIEB", "DJANGO"))}
        done = subprocess.run(
            [sys.executable, "-m", "server.command", *words], cwd=settings.ROOT, input=said, text=True,
            env={**kept, "INBETRIEB_DATA": str(self.folder / data)}, capture_output=True, check=False,
        )  # fmt: skip
        self.assertEqual(done.returncode, code, done.stderr[-800:])
        return done.stdout + done.stderr

    def test_from_the_first_user_to_a_restored_shop(self):
        made = self.run_it("user", "anna", "--workshop", "Shed", said=f"{PASSWORD}\n{PASSWORD}\n")
        self.assertIn("anna can sign in.", made)
        self.assertEqual((self.folder / "data").stat().st_mode & 0o077, 0)
        self.assertEqual((self.folder / "data" / DATABASE).stat().st_mode & 0o077, 0)
        file = self.folder / "shop.zip"
        self.assertIn("was read back: 0 jobs", self.run_it("backup", str(file)))
        restored = self.folder / "restored"
        self.assertIn("holds what was backed up", self.run_it("restore", str(file), str(restored)))
        self.assertIn("Nothing is wrong.", self.run_it("check", data="restored"))


class SaidTests(SimpleTestCase):
    """What the commands say, without a process for each."""

    def setUp(self):
        self.folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, self.folder, ignore_errors=True)

    def run_it(self, *words, code=0):
        with override_settings(VAR=self.folder / "data"):
            done = CliRunner().invoke(inbetrieb, [str(word) for word in words])
        self.assertEqual(done.exit_code, code, done.output)
        return done.output

    def test_what_is_not_there_is_said(self):
        self.assertIn("no database", self.run_it("backup", self.folder / "x.zip", code=1))
        (self.folder / "torn.zip").write_bytes(b"PK\x03\x04 torn")
        torn = self.folder / "torn.zip"
        self.assertIn("no whole backup", self.run_it("restore", torn, self.folder / "y", code=1))
        self.assertNotIn("Traceback", self.run_it("restore", torn, self.folder / "y", code=1))
        self.run_it("nonsense", code=2)
        helps = self.run_it("--help")
        for command in ("backup", "check", "password", "restore", "serve", "upgrade", "user"):
            self.assertIn(command, helps)


class JobCommandTests(ApiTestCase):
    def setUp(self):
        super().setUp()
        self.folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, self.folder, ignore_errors=True)
        self.job = self.make_job()["id"]

    def run_command(self, *given, code=0):
        answer = CliRunner().invoke(inbetrieb, [str(one) for one in given])
        self.assertEqual(answer.exit_code, code, answer.output)
        return answer.output

    def test_a_log_is_judged_and_converted(self):
        log = Path(__file__).parents[2] / "demo" / "kranich-morning.csv"
        self.assertRegex(self.run_command("judge", log, self.job), r"Start 1: \w+")
        out = self.folder / "plain.csv"
        self.assertIn("channels", self.run_command("convert", log, out))
        self.assertRegex(self.run_command("judge", out, self.job), r"Start 1: \w+")
        self.assertIn("nothing was overwritten", self.run_command("convert", log, out, code=1))
        measured = self.folder / "morning.mf4"
        self.run_command("convert", log, measured)
        self.assertTrue(is_mdf(measured.read_bytes()))
        self.assertRegex(self.run_command("judge", measured, self.job), r"Start 1: \w+")
        bus, dbc = self.folder / "bus.blf", self.folder / "bus.dbc"
        bus.write_bytes(files.BusTests().logged("blf"))
        dbc.write_text(files.DBC)
        self.run_command("convert", bus, self.folder / "bus.csv", "--dbc", dbc)
        self.assertIn("rpm", (self.folder / "bus.csv").read_text().splitlines()[0].lower())
        self.assertIn("no bus log", self.run_command("convert", log, self.folder / "no.csv", "--dbc", dbc, code=1))  # fmt: skip
        nothing = self.folder / "nothing.csv"
        nothing.write_text("a poem")
        self.run_command("judge", nothing, self.job, code=1)
        self.assertIn("There is no job", self.run_command("judge", log, 999, code=1))

    def test_two_calibrations_are_set_side_by_side(self):
        data = self.client.get(f"/api/jobs/{self.job}/export?format=json")
        first, second = self.folder / "a.json", self.folder / "b.json"
        first.write_bytes(b"".join(data.streaming_content) if data.streaming else data.content)
        changed = json.loads(first.read_bytes())
        changed["tables"]["cranking_fuel"]["values"][0] += 7.0
        second.write_text(json.dumps(changed))
        said = self.run_command("diff", first, second).splitlines()
        self.assertEqual(len(said), 2)
        self.assertIn("cranking_fuel", said[1])

    def test_a_report_and_an_archive_out_and_in(self):
        self.assertIn("What is not proven", self.run_command("report", self.job))
        file = self.folder / "job.zip"
        self.assertIn("holds", self.run_command("archive", self.job, file))
        self.assertIn(
            "nothing was overwritten", self.run_command("archive", self.job, file, code=1)
        )
        name = User.objects.first().username
        self.assertRegex(self.run_command("take", file, name), r"Job \d+ holds it")
        file.write_bytes(b"no archive")
        self.assertIn("no zip file", self.run_command("take", file, name, code=1))

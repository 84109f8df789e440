"""What the environment says of an installation, and how long wrong passwords wait.

Settings are read in a process of their own, as a server reads them.
"""

import json
import os
import subprocess
import sys
import tempfile
from pathlib import Path
from unittest import mock

from django.conf import settings
from django.core.cache import cache
from django.test import RequestFactory, SimpleTestCase

from server.accounts import throttle
from server.config.problems import Refusal

SAY = """
import json, django
from django.conf import settings
django.setup()
from django.db import connection
def pragma(name):
    with connection.cursor() as cursor:
        return cursor.execute("PRAGMA " + name).fetchone()[0]
asked = {{"SYNCHRONOUS": "synchronous", "FOREIGN_KEYS": "foreign_keys", "JOURNAL": "journal_mode"}}
print(json.dumps({{
    name: pragma(asked[name]) if name in asked else getattr(settings, name, None) for name in {names!r}
}}, default=str))
"""


class EnvironmentTests(SimpleTestCase):
    def said(self, *names, **environment):
        with tempfile.TemporaryDirectory() as folder:
            kept = {k: v for k, v in os.environ.items() if not k.startswith("INBETRIEB")}
            environment = {
                **kept, "INBETRIEB_DATA": folder, "DJANGO_SETTINGS_MODULE": "server.config.settings",
                **environment,
            }  # fmt: skip
            out = subprocess.run(
                [sys.executable, "-c", SAY.format(names=names)], env=environment, cwd=settings.ROOT,
                capture_output=True, text=True, check=True,
            )  # fmt: skip
            self.modes = {p.name: p.stat().st_mode & 0o077 for p in Path(folder).iterdir()}
        return json.loads(out.stdout)

    def test_left_alone_it_is_for_this_machine_and_closed(self):
        said = self.said("DEBUG", "DEMO", "REGISTRATION_OPEN", "ALLOWED_HOSTS", "SESSION_COOKIE_SECURE")  # fmt: skip
        self.assertEqual((said["DEBUG"], said["DEMO"], said["REGISTRATION_OPEN"]), (False,) * 3)
        self.assertEqual(said["ALLOWED_HOSTS"], ["127.0.0.1", "localhost", "[::1]"])
        self.assertFalse(said["SESSION_COOKIE_SECURE"])
        self.assertEqual(set(self.modes.values()), {0})  # nobody else reads the folder

    def test_the_database_syncs_what_it_acknowledges(self):
        said = self.said("SYNCHRONOUS", "FOREIGN_KEYS", "JOURNAL")
        # Numbers of SQLite's own documentation of its pragmas, from memory: 2 is FULL.
        self.assertEqual(
            (said["SYNCHRONOUS"], said["FOREIGN_KEYS"], said["JOURNAL"]), (2, 1, "wal")
        )

    def test_hosts_are_stripped_of_blanks(self):
        said = self.said("ALLOWED_HOSTS", INBETRIEB_HOSTS=" shop.example ,, other.example ")
        self.assertEqual(said["ALLOWED_HOSTS"], ["shop.example", "other.example"])

    def test_behind_a_proxy_cookies_are_secure_and_origins_are_known(self):
        said = self.said(
            "SESSION_COOKIE_SECURE", "CSRF_COOKIE_SECURE", "SECURE_HSTS_SECONDS", "CSRF_TRUSTED_ORIGINS",
            "SECURE_PROXY_SSL_HEADER", INBETRIEB_HTTPS="1", INBETRIEB_HOSTS="shop.example",
        )  # fmt: skip
        self.assertTrue(said["SESSION_COOKIE_SECURE"])
        self.assertTrue(said["CSRF_COOKIE_SECURE"])
        self.assertGreater(said["SECURE_HSTS_SECONDS"], 10**7)
        self.assertEqual(said["CSRF_TRUSTED_ORIGINS"], ["https://shop.example"])
        self.assertEqual(said["SECURE_PROXY_SSL_HEADER"], ["HTTP_X_FORWARDED_PROTO", "https"])

    def test_the_demo_is_open_and_only_it(self):
        self.assertTrue(self.said("REGISTRATION_OPEN", INBETRIEB_DEMO="1")["REGISTRATION_OPEN"])
        self.assertTrue(self.said("REGISTRATION_OPEN", INBETRIEB_REGISTRATION="open")["REGISTRATION_OPEN"])  # fmt: skip
        self.assertFalse(self.said("REGISTRATION_OPEN", INBETRIEB_REGISTRATION="yes")["REGISTRATION_OPEN"])  # fmt: skip


class ThrottleTests(SimpleTestCase):
    def setUp(self):
        cache.clear()
        self.addCleanup(cache.clear)

    def request(self, address="10.0.0.1"):
        return RequestFactory().post("/api/session", REMOTE_ADDR=address)

    def wrong(self, times, name="anna", address="10.0.0.1"):
        for _ in range(times):
            throttle.note_wrong(self.request(address), name)

    def waits(self, name="anna", address="10.0.0.1"):
        try:
            throttle.refuse_if_too_often(self.request(address), name)
        except Refusal as refusal:
            self.assertEqual(refusal.status, 429)
            return int(refusal.detail.split("wait ")[1].split()[0])
        return 0

    def test_a_few_are_free(self):
        self.wrong(4)
        self.assertEqual(self.waits(), 0)
        self.wrong(1)
        self.assertGreater(self.waits(), 0)

    def test_each_further_one_waits_longer_up_to_a_quarter_of_an_hour(self):
        self.wrong(5)
        waits = [self.waits()]
        for _ in range(12):
            self.wrong(1)
            waits.append(self.waits())
        self.assertEqual(waits, sorted(waits))
        self.assertEqual((waits[0], waits[-1]), (4, 900))

    def test_one_name_from_many_places_and_many_names_from_one(self):
        for n in range(5):
            self.wrong(1, address=f"10.0.0.{n}")
        self.assertGreater(self.waits(address="10.9.9.9"), 0)
        self.assertEqual(self.waits("berta", "10.9.9.9"), 0)
        for n in range(5):
            self.wrong(1, name=f"guess{n}", address="10.7.7.7")
        self.assertGreater(self.waits("never tried", "10.7.7.7"), 0)

    def test_a_name_is_the_same_however_it_is_written(self):
        self.wrong(5, name=" ANNA ")
        self.assertGreater(self.waits("anna", "10.9.9.9"), 0)

    def test_who_knows_it_after_all_begins_anew(self):
        self.wrong(4)
        throttle.note_right(self.request(), "anna")
        self.wrong(1, address="10.2.2.2")
        self.assertEqual(self.waits(address="10.3.3.3"), 0)

    def test_after_the_wait_it_may_be_tried(self):
        self.wrong(5)
        with mock.patch("time.time", return_value=__import__("time").time() + 60):
            self.assertEqual(self.waits(), 0)

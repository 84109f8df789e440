"""The examples run as they are written: the core without a server, and a server without a browser."""

import io
import runpy
from contextlib import redirect_stdout
from pathlib import Path

from django.contrib.auth.models import User
from django.contrib.staticfiles.testing import StaticLiveServerTestCase
from django.test import SimpleTestCase

from server.accounts.services import issue_token, register

ROOT = Path(__file__).parents[2]
FOLDER = ROOT / "examples"


def said_by(script, *given):
    out = io.StringIO()
    with redirect_stdout(out):
        runpy.run_path(str(FOLDER / script))["main"](*given)
    return out.getvalue()


class CoreExampleTests(SimpleTestCase):
    def test_a_start_log_is_judged(self):
        said = said_by("judge_a_start.py", str(ROOT / "demo" / "kranich-morning.csv"))
        self.assertRegex(said, r"Start 1: \w+")

    def test_a_fuel_map_is_solved(self):
        said = said_by("solve_a_fuel_map.py")
        self.assertRegex(said, r"Speed steady: \d+ s left out")
        self.assertIn("cells", said)

    def test_a_wiring_list_is_planned(self):
        for controller in sorted((ROOT / "server" / "wiring" / "controllers").glob("*.json")):
            with self.subTest(controller.name):
                said = said_by("plan_a_wiring_list.py", str(controller))
                self.assertIn("Injector", said)
                self.assertIn("mm²", said)

    def test_each_is_named_in_the_list(self):
        told = (FOLDER / "README.md").read_text()
        for script in FOLDER.glob("*.py"):
            self.assertIn(script.name, told)


class HttpExampleTests(StaticLiveServerTestCase):
    def test_a_start_is_recorded_and_the_advice_read(self):
        register(username="anna", password="correct-horse-9", workshop="Shed")
        token = issue_token(User.objects.get(username="anna"), "script")
        said = said_by("record_a_start.py", self.live_server_url, token)
        self.assertRegex(said, r"Job \d+, trial 1: \w+")

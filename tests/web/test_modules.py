"""The pure modules of the web: their own tests, told one by one by Django's runner."""

import json
import subprocess
import tempfile
from pathlib import Path

from django.conf import settings
from django.test import SimpleTestCase

WEB = Path(settings.ROOT) / "web"


class ModuleTests(SimpleTestCase):
    def test_each(self):
        with tempfile.TemporaryDirectory() as folder:
            report = Path(folder) / "report.json"
            ran = subprocess.run(
                ["node", "node_modules/vitest/vitest.mjs", "run", "--reporter=json",
                 f"--outputFile={report}"],
                cwd=WEB, capture_output=True, text=True, timeout=300,
            )  # fmt: skip
            self.assertTrue(report.exists(), ran.stdout + ran.stderr)
            found = json.loads(report.read_text())
        self.assertGreater(found["numTotalTests"], 100, "the tests were not found")
        print(f"\n{found['numPassedTests']} of {found['numTotalTests']} tests of web modules passed")
        for suite in found["testResults"]:
            name = Path(suite["name"]).name
            for test in suite["assertionResults"]:
                with self.subTest(file=name, test=test["fullName"]):
                    self.assertEqual(test["status"], "passed", "\n".join(test["failureMessages"]))
            if not suite["assertionResults"]:
                self.assertEqual(suite["status"], "passed", suite.get("message", name))

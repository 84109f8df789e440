"""The pure modules of the web: their own tests, told one by one by Django's runner."""

import itertools
import json
import os
import random
import subprocess
import tempfile
from dataclasses import asdict
from pathlib import Path

from django.conf import settings
from django.test import SimpleTestCase
from inbetrieb_core.sentences import Quantity, plain, quantity, typed, written

WEB = Path(settings.ROOT) / "web"


def written_sentences():
    """Quantities and sentences with their canonical text, for the other side to compare with."""
    chance = random.Random(5)
    values = [0.0, -0.4, 0.5, 2.5, -4.5, 14.7, 100.05, 101.325, 1234.5, 6894.757, -40.0, 0.005, 99.995]
    values += [round(chance.uniform(-500.0, 2000.0), chance.randint(0, 6)) for _ in range(120)]
    units = ["°C", "K", "kPa", "cm³/min", "lambda"]
    quantities = [
        Quantity(value, unit, decimals, bare, signed)
        for value, unit, decimals in itertools.product(values, units, (0, 1, 2, 3))
        for bare, signed in ((False, False), (True, True))
    ]
    sentences = [
        f"Between {quantity(a, unit, 1, bare=True)} and {quantity(b, unit, 1)}, {{as}} read."
        for unit in units
        for a, b in itertools.pairwise(values[:20])
    ]
    return {
        "quantities": [{**asdict(q), "text": written(q)} for q in quantities],
        "sentences": [{"said": asdict(typed(s)), "text": plain(s)} for s in sentences],
    }


class ModuleTests(SimpleTestCase):
    def test_each(self):
        with tempfile.TemporaryDirectory() as folder:
            report = Path(folder) / "report.json"
            sentences = Path(folder) / "written.json"
            sentences.write_text(json.dumps(written_sentences()))
            ran = subprocess.run(
                ["node", "node_modules/vitest/vitest.mjs", "run", "--reporter=json",
                 f"--outputFile={report}"],
                cwd=WEB, capture_output=True, text=True, timeout=300,
                env={**os.environ, "INBETRIEB_WRITTEN": str(sentences)},
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

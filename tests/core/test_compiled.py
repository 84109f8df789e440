"""What is compiled ahead is what stands in the source, and computes the same."""

from __future__ import annotations

import hashlib
import subprocess
import sys
import unittest

from manage import CORE, stale

#: Takes what is compiled from its source, then simulates a start and follows a wheel.
_PLAIN = """
import importlib.abc, importlib.util, sys
class Plain(importlib.abc.MetaPathFinder):
    def find_spec(self, name, path, target=None):
        if name in NAMES:
            return importlib.util.spec_from_file_location(name, NAMES[name])
sys.meta_path.insert(0, Plain())
"""
_WORK = """
import hashlib
import numpy as np
from inbetrieb_core.basemaps import generate
from inbetrieb_core.bench import NAMED, StartConditions, plant, simulate_start
from inbetrieb_core.triggers import follow, toothed
found = hashlib.sha256()
for engine in NAMED.values():
    calibration = generate(engine.truth.hardware)
    run = simulate_start(engine, engine.truth.hardware, calibration, StartConditions(-5.0, seed=3, run_s=30.0))
    found.update(np.array(list(run.channels.values())).round(3).tobytes())
edges = np.cumsum(np.tile([*[0.004] * 33, 0.008, 0.004, 0.009], 20))
found.update(follow(edges, toothed("wheel", 36, (35,))).angle_deg.round(6).tobytes())
print(plant.__file__.endswith(".py"), found.hexdigest())
"""


def _told(script: str) -> list[str]:
    done = subprocess.run(
        [sys.executable, "-c", script], capture_output=True, text=True, check=True, timeout=120
    )
    return done.stdout.split()


class CompiledTests(unittest.TestCase):
    def test_nothing_compiled_is_older_than_its_source(self) -> None:
        self.assertEqual(stale(), [])

    def test_nothing_that_travels_between_processes_is_compiled(self) -> None:
        """A frozen record of a compiled module can be sent, but not be made again where it arrives."""
        for name in (CORE / "compiled.txt").read_text().split():
            source = (CORE / "inbetrieb_core" / name).read_text()
            self.assertNotIn("@dataclass(frozen", source, name)

    def test_it_computes_what_the_source_does(self) -> None:
        names = {}
        for name in (CORE / "compiled.txt").read_text().split():
            module = "inbetrieb_core." + name.removesuffix(".py").replace("/", ".")
            names[module] = str(CORE / "inbetrieb_core" / name)
        plain, source = _told(f"NAMES = {names!r}\n{_PLAIN}\n{_WORK}")
        self.assertEqual(plain, "True")  # the check is one of the source
        self.assertEqual(len(source), len(hashlib.sha256().hexdigest()))
        self.assertEqual(_told(_WORK)[1], source)

"""The documents say what is: names, folders, links and pictures that they mention are there."""

import json
import re
from pathlib import Path

from django.test import SimpleTestCase
from inbetrieb_core.logs import CHANNELS
from inbetrieb_core.pasted import PURPOSES
from inbetrieb_core.starts import VERDICTS
from inbetrieb_core.tables import AXES, DEFINITIONS

ROOT = Path(__file__).resolve().parents[1]
DOCS = ROOT / "docs"
README = (ROOT / "README.md").read_text()
FORMATS = (DOCS / "formats.md").read_text()


def words(text):
    """Every word that stands as code, also inside lists of them."""
    text = re.sub(r"```.*?```", "", text, flags=re.S)
    return {word for code in re.findall(r"`([^`]+)`", text) for word in re.findall(r"[\w-]+", code)}


class FormatTests(SimpleTestCase):
    def test_every_table_axis_channel_and_purpose_is_described(self):
        told = words(FORMATS)
        for names in (DEFINITIONS, CHANNELS, PURPOSES):
            self.assertEqual(set(names) - told, set())
        self.assertEqual(set(AXES) - told - {"rpm", "coolant_c", "battery_v", "ethanol_pct", "map_kpa"}, set())  # fmt: skip
        self.assertEqual([verdict for verdict in VERDICTS if f"`{verdict}`" not in FORMATS], [])

    def test_every_address_in_it_is_in_the_contract(self):
        contract = json.loads((ROOT / "server" / "openapi.json").read_text())["paths"]
        known = {re.sub(r"\{\w+\}", "{}", path) for path in contract}
        told = re.findall(r"(?:GET|POST|PUT|DELETE) (/api/[\w/{}.-]+)", FORMATS)
        self.assertGreater(len(told), 12)
        for path in told:
            with self.subTest(path=path):
                self.assertIn(re.sub(r"\{\w+\}", "{}", path), known)

    def test_the_examples_are_json(self):
        blocks = re.findall(r"```json\n(.*?)```", FORMATS, flags=re.S)
        self.assertTrue(blocks)
        for block in blocks:
            json.loads(block.replace("{ }", "{}"))


class ReadmeTests(SimpleTestCase):
    def test_every_folder_and_file_of_the_table_is_there(self):
        table = README.split("## Where things are")[1].split("##")[0]
        for cell in re.findall(r"^\| (?:… )?(.*?) \|", table, flags=re.M):
            for name in re.findall(r"`([\w/.<>-]+(?: [\w./]+)*)`", cell):
                for part in name.split():
                    places = [ROOT / part, ROOT / "core" / "inbetrieb_core" / part]
                    with self.subTest(name=part):
                        self.assertTrue(any(place.exists() for place in places))

    def test_every_app_of_the_server_is_named(self):
        apps = {path.parent.name for path in (ROOT / "server").glob("*/__init__.py")} - {"config"}
        (line,) = [line for line in README.splitlines() if line.startswith("| `server/` |")]
        self.assertEqual(apps - words(line), set())

    def test_every_target_it_names_is_in_the_makefile(self):
        targets = set(re.findall(r"^([\w-]+):", (ROOT / "Makefile").read_text(), flags=re.M))
        told = set(re.findall(r"`?make ([a-z-]+)", README))
        self.assertLessEqual(told, targets)
        self.assertLessEqual({"demo", "test", "bench", "studies", "shots"}, told)

    def test_pictures_are_there_all_linked_and_few(self):
        pictures = {path.name for path in (DOCS / "screenshots").glob("*.png")}
        linked = set(re.findall(r"docs/screenshots/([\w-]+\.png)", README))
        self.assertEqual(pictures, linked)
        self.assertLess(len(pictures), 20)


class LinkTests(SimpleTestCase):
    def test_every_link_leads_somewhere(self):
        for path in [ROOT / "README.md", *DOCS.rglob("*.md")]:
            for target in re.findall(r"\]\(([^)#]+?)(?:#[^)]*)?\)", path.read_text()):
                with self.subTest(file=path.name, target=target):
                    self.assertFalse(target.startswith("http"), "nothing is fetched from elsewhere")
                    self.assertTrue((path.parent / target).exists())

    def test_decisions_are_numbered_through(self):
        numbers = [int(path.name[:4]) for path in sorted((DOCS / "decisions").glob("*.md"))]
        self.assertEqual(numbers, list(range(numbers[0], numbers[0] + len(numbers))))

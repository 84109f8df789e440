"""Agreements about the shape of the code, held by tests."""

import ast
import importlib
import inspect
import pkgutil
import re
from pathlib import Path

import inbetrieb_core
from django.test import SimpleTestCase

ROOT = Path(__file__).resolve().parents[1]
CORE = ROOT / "core" / "inbetrieb_core"
#: A float parameter whose name ends so says its unit itself.
UNIT_ENDINGS = (
    "_kpa",
    "_c",
    "_k",
    "_s",
    "_ms",
    "_rpm",
    "_pct",
    "_v",
    "_l",
    "_g",
    "_gps",
    "_deg",
    "_m",
    "_hz",
    "_ohm",
    "_mv",
    "_kw",
    "_l_h",
    "_h",
    "_nm",
    "_kg_m3",
    "_cm3_min",
    "_lb_h",
    "_pct",
    "_share",
    "rpm",
)


def imports_of(path):
    """Yield the absolute names of everything a module imports."""
    package = ["inbetrieb_core", *path.relative_to(CORE).parts[:-1]] if CORE in path.parents else []
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            yield from (alias.name for alias in node.names)
        elif isinstance(node, ast.ImportFrom):
            base = package[: len(package) - node.level + 1] if node.level else []
            yield ".".join([*base, *(node.module or "").split(".")]).strip(".")


class DirectionTests(SimpleTestCase):
    def test_core_knows_neither_server_nor_http_nor_files(self):
        for path in CORE.rglob("*.py"):
            for name in imports_of(path):
                with self.subTest(module=str(path.relative_to(ROOT)), imports=name):
                    top = name.split(".")[0]
                    self.assertNotIn(
                        top,
                        {
                            "django",
                            "ninja",
                            "server",
                            "pathlib",
                            "os",
                            "requests",
                            "http",
                            "socket",
                        },
                    )

    def test_analysis_never_sees_the_bench_engine(self):
        for folder in (
            "starts",
            "logs",
            "tables",
            "basemaps",
            "sensors",
            "injectors",
            "supply",
            "commissioning",
            "wiring",
            "triggers",
        ):
            paths = list((CORE / folder).rglob("*.py"))
            self.assertTrue(paths, folder)
            for path in paths:
                for name in imports_of(path):
                    with self.subTest(module=str(path.relative_to(ROOT))):
                        self.assertFalse(name.startswith("inbetrieb_core.bench"), name)

    def test_the_rule_would_notice(self):
        source = CORE / "bench" / "simulate.py"
        self.assertIn("inbetrieb_core.tables", set(imports_of(source)))


#: A number that something is compared with, on either side; 0, 1 and 2 count things.
COMPARED = re.compile(
    r"(?<![=<>])[<>]=?\s*-?(\d[\d_]*\.?\d*(?:e-?\d+)?)|[!=]==\s*-?(\d[\d_]*\.?\d*)|"
    r"(?<![\w.])(\d[\d_]*\.?\d*)\s*[<>]=?\s*[a-zA-Z(]"
)
#: Numbers clamped to: the other way to write a bound.
CLAMPED = re.compile(r"Math\.(?:min|max)\(\s*-?(\d[\d_]*\.?\d*)\s*,")
COUNTING = {"0", "1", "2"}
#: What is compared with a number for the sake of drawing, sound or keys: no rule of the job.
DRAWING = {
    "CellNote.tsx": {"0.5"},  # half a sample is none
    "BenchPlay.tsx": {"1000"},  # a speed axis reaches at least so far
    "CompareSheet.tsx": {"0.05", "0.5"},  # half a last digit
    "CurvePlot.tsx": {"3"},  # ticks and their decimals
    "ListSheet.tsx": {"8"},  # columns of numbers
    "LightFit.tsx": {"3"},  # the fourth fact has another name
    "PlacePicture.tsx": {"9", "20"},  # pixels
    "RevisionsPanel.tsx": {"16"},  # lines before the rest is folded away
    "Ribbon.tsx": {"0.02", "20", "0.3"},  # zoom and decimals of a time axis
    "SettingsSheet.tsx": {"1e-9"},  # the same number, typed again
    "SignOff.tsx": {"8"},  # lines before the rest is folded away
    "Surface.tsx": {"0.1", "1.45", "14"},  # tilt of the picture, pixels
    "TransferSheet.tsx": {"4", "0.05"},  # decimals
    "ValueTable.tsx": {"100", "10"},  # decimals by size
    "WheelDrawing.tsx": {"180"},  # the large arc of a circle
    "display.ts": {"3"},  # decimals
    "engineSound.ts": {"20"},  # silence
    "layers.tsx": {"0.5"},  # half a last digit, half a sample
    "shortcuts.ts": {"1200"},  # milliseconds between two keys
    "useDraft.ts": {"3"},  # numbers that stand in fours
    "useDrawn.ts": {"0.05"},  # a breakpoint without decimals
}


def compared_numbers(text):
    """Return the numbers that a TypeScript text compares something with, or clamps it to."""
    code = re.sub(r"/\*.*?\*/", "", text, flags=re.S)
    code = re.sub(r"(?<!:)//.*", "", code)
    found = {next(filter(None, match.groups())) for match in COMPARED.finditer(code)}
    return (found | set(CLAMPED.findall(code))) - COUNTING


class WebRuleTests(SimpleTestCase):
    """Rules come from the server: the screen compares nothing with numbers of its own."""

    def test_the_web_has_no_bounds_or_thresholds(self):
        looked_at = 0
        for path in (ROOT / "web" / "src").rglob("*.ts*"):
            if path.name == "schema.d.ts":
                continue
            looked_at += 1
            with self.subTest(file=str(path.relative_to(ROOT))):
                own = compared_numbers(path.read_text()) - DRAWING.get(path.name, set())
                self.assertEqual(own, set())
        self.assertGreater(looked_at, 150)

    def test_the_rule_would_notice(self):
        for text in (
            "if (rpm > 450) start();",
            "const isRich = lambda <= 0.85;",
            "return 77 < coolant;",
            "x === 14.7",
            "Math.min(30, value)",
        ):
            with self.subTest(text=text):
                self.assertEqual(len(compared_numbers(text)), 1)
        self.assertEqual(compared_numbers("rows.length > 1 && i >= 0 // above 450"), set())


def public_functions():
    for module in pkgutil.walk_packages(inbetrieb_core.__path__, "inbetrieb_core."):
        loaded = importlib.import_module(module.name)
        for name, thing in vars(loaded).items():
            if name.startswith("_") or getattr(thing, "__module__", "") != module.name:
                continue
            if inspect.isfunction(thing):
                yield f"{module.name}.{name}", thing
            elif inspect.isclass(thing):
                for method, function in vars(thing).items():
                    if inspect.isfunction(function) and not method.startswith("_"):
                        yield f"{module.name}.{name}.{method}", function


def explained(doc, parameter):
    """Return what a docstring says of a parameter: its own entry, else the sentence that names it."""
    entry = re.search(
        rf"^(?:\w+, )*{parameter}(?:, \w+)* : .*\n((?:(?: .*)?\n?)*?)(?=^\S|\Z)", doc, flags=re.M
    )
    if entry:
        return entry.group(0)
    sentences = re.split(r"(?<=[.;])\s+(?=[A-Z])|\n\s*\n", doc)
    return next((s for s in sentences if re.search(rf"\b{parameter}\b", s)), "")


class DocstringTests(SimpleTestCase):
    def test_every_public_function_is_explained_and_every_float_has_its_unit(self):
        count = 0
        for name, function in public_functions():
            doc = inspect.getdoc(function) or ""
            with self.subTest(function=name):
                self.assertTrue(doc, "no docstring")
                for parameter in inspect.signature(function).parameters.values():
                    if parameter.annotation not in ("float", float, "float | None"):
                        continue
                    count += 1
                    if parameter.name.endswith(UNIT_ENDINGS):
                        continue
                    said = explained(doc, parameter.name)
                    self.assertTrue(said, f"{parameter.name} is not explained")
                    self.assertRegex(said, r"\[[^\]]+\]", f"{parameter.name} has no [unit]")
        self.assertGreater(count, 80)

    def test_the_unit_of_another_parameter_does_not_count(self):
        doc = (
            "Do.\n\nParameters\n----------\nspeed : float\n    How fast.\nwidth : float\n    [mm]\n"
        )
        self.assertNotIn("[", explained(doc, "speed"))
        self.assertIn("[mm]", explained(doc, "width"))
        self.assertEqual(explained(doc, "height"), "")


class WriteTests(SimpleTestCase):
    """A summary is only as new as its rows where every service writes under the one block."""

    #: The block itself, and what brings the summaries up to date under it.
    THEMSELVES = ("config/writes.py", "order/summaries.py")

    def test_no_service_opens_a_block_of_its_own(self):
        found = []
        for path in (ROOT / "server").rglob("*.py"):
            place = path.relative_to(ROOT / "server").as_posix()
            if "migrations" in place or place in self.THEMSELVES:
                continue
            if re.search(
                r"transaction\.atomic|ATOMIC_REQUESTS|from django.db.transaction", path.read_text()
            ):
                found.append(place)
        self.assertEqual(found, [])

    def test_nothing_written_once_is_changed_or_deleted_by_a_service(self):
        for path in (ROOT / "server").rglob("*.py"):
            if "migrations" in path.parts or path.name == "append_only.py":
                continue
            with self.subTest(file=path.name):
                self.assertNotRegex(path.read_text(), r"_raw_delete|raw\(.*(DELETE|UPDATE)")


class OriginTests(SimpleTestCase):
    def test_no_path_of_a_machine_is_in_the_sources(self):
        for folder in ("core", "server", "web/src", "tests", "docs", "demo", "benchmarks"):
            for path in (ROOT / folder).rglob("*"):
                if path.suffix in {".py", ".ts", ".tsx", ".md", ".json", ".sh"} and path.is_file():
                    with self.subTest(file=str(path.relative_to(ROOT))):
                        self.assertNotRegex(path.read_text(), r"/(home|root|Users)/\w")

    def test_requirements_name_no_folder_and_no_host(self):
        """A lock that was made here must install anywhere: only versions and hashes in it."""
        files = list((ROOT / "requirements").iterdir())
        self.assertEqual(len(files), 4)
        for path in files:
            with self.subTest(file=path.name):
                text = path.read_text().replace("--no-emit-find-links --no-emit-index-url", "")
                named = re.findall(
                    r"(?i)file:\S+|find-links.*|index-url.*|\w+://.*|.* @ .*|[\s=](?:/|\.\./|[a-z]:\\)\w.*",
                    text,
                )
                self.assertEqual(named, [])

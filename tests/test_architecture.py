"""Agreements about the shape of the code, held by tests."""

import ast
import importlib
import inspect
import pkgutil
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

    def test_web_has_no_bounds_or_thresholds_of_its_own(self):
        """Rules come from the server: the acceptance limits must not appear in TypeScript."""
        for path in (ROOT / "web" / "src").rglob("*.ts*"):
            text = path.read_text()
            for number in ("450", "1.35 *", "0.08 *"):
                if path.name == "schema.d.ts":
                    continue
                with self.subTest(file=path.name, number=number):
                    self.assertNotRegex(text, rf"[<>]=? ?{number.replace('*', '[*]')}")


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
                    self.assertIn(parameter.name, doc, "a float parameter is not explained")
                    after = doc[doc.index(parameter.name) :]
                    self.assertIn("[", after, f"{parameter.name} has no [unit]")
        self.assertGreater(count, 80)


class OriginTests(SimpleTestCase):
    def test_no_path_of_a_machine_is_in_the_sources(self):
        for folder in ("core", "server", "web/src", "tests", "docs", "demo", "benchmarks"):
            for path in (ROOT / folder).rglob("*"):
                if path.suffix in {".py", ".ts", ".tsx", ".md", ".json", ".sh"} and path.is_file():
                    with self.subTest(file=str(path.relative_to(ROOT))):
                        self.assertNotRegex(path.read_text(), r"/(home|root|Users)/\w")

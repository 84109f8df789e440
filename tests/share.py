"""How much of the code is tests: `python -m tests.share`, printed by `make test`."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
CODE = ("core", "server", "benchmarks", "web/src")


def sources(folder: str) -> Iterator[Path]:
    """Yield what people wrote in a folder: no migrations, nothing generated."""
    for path in (ROOT / folder).rglob("*"):
        written = path.suffix in {".py", ".ts", ".tsx"} and path.name != "schema.d.ts"
        if written and not {"migrations", "__pycache__"} & set(path.parts):
            yield path


def lines(*folders: str) -> int:
    """Return the lines of what people wrote in some folders."""
    return sum(len(path.read_text().splitlines()) for folder in folders for path in sources(folder))


if __name__ == "__main__":
    code, tests = lines(*CODE), lines("tests")
    print(f"{tests} lines of tests beside {code} of code: {100 * tests / (code + tests):.1f} %")

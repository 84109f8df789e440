"""The arrows between rooms, drawn from the sources, and the order that the documents promise."""

from __future__ import annotations

import ast
import re
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).resolve().parents[1]
BUILT = ROOT / "docs" / "how-it-is-built.md"
CORE, SERVER, WEB = ROOT / "core" / "inbetrieb_core", ROOT / "server", ROOT / "web" / "src"
#: Files of `config` that put the apps together.
PUT_TOGETHER = {SERVER / "config" / "api.py", SERVER / "config" / "settings.py"}

Arrow = tuple[str, str, str]  # from room, to room, file


def promised(floor: str) -> list[list[str]]:
    """Return the lines of rooms that the document promises for a floor, the lowest first."""
    block = re.search(rf"```rooms {floor}\n(.*?)```", BUILT.read_text(), re.S)
    assert block is not None, floor
    return [line.split() for line in block.group(1).splitlines() if line.strip()]


def _python_imports(path: Path, package: list[str]) -> Iterator[list[str]]:
    """Yield everything a module imports, as parts of absolute names."""
    for node in ast.walk(ast.parse(path.read_text())):
        if isinstance(node, ast.Import):
            yield from (alias.name.split(".") for alias in node.names)
        elif isinstance(node, ast.ImportFrom):
            base = package[: len(package) - node.level + 1] if node.level else []
            module = [*base, *(node.module.split(".") if node.module else [])]
            yield from ([*module, alias.name] for alias in node.names)


def python_arrows(folder: Path, package: str) -> Iterator[Arrow]:
    """Yield every arrow between two rooms of a package."""
    for path in sorted(folder.rglob("*.py")):
        parts = path.relative_to(folder).parts
        if "migrations" in parts or parts == ("__init__.py",) or path in PUT_TOGETHER:
            continue
        room = parts[0].removesuffix(".py")
        for name in _python_imports(path, [package, *parts[:-1]]):
            if name[0] == package and len(name) > 1 and name[1] != room:
                yield room, name[1], str(path.relative_to(ROOT))


_TS_IMPORT = re.compile(r"""(?:from|import)\s*\(?\s*['"](\.[^'"]*)['"]""")


def web_arrows() -> Iterator[Arrow]:
    """Yield every arrow between two rooms of the web, and between two stations."""
    for path in sorted([*WEB.rglob("*.ts"), *WEB.rglob("*.tsx")]):
        room = _web_room(path)
        for found in _TS_IMPORT.findall(path.read_text()):
            target = _web_room((path.parent / found).resolve())
            if target != room:
                yield room, target, str(path.relative_to(ROOT))


def _web_room(path: Path) -> str:
    parts = path.relative_to(WEB).parts
    if parts[0] == "stations":
        # the one file beside the stations knows all of them
        return "registry" if parts[-1].startswith("registry") else f"stations/{parts[1]}"
    return parts[0].split(".")[0]


def circles(arrows: set[tuple[str, str]]) -> list[list[str]]:
    """Return one circle for every room that reaches itself."""
    onward: dict[str, set[str]] = {}
    for start, end in arrows:
        onward.setdefault(start, set()).add(end)
    found = []
    for start in sorted(onward):
        paths = [[start, end] for end in sorted(onward[start])]
        seen: set[str] = set()
        while paths:
            path = paths.pop()
            if path[-1] == start:
                found.append(path)
                break
            if path[-1] not in seen:
                seen.add(path[-1])
                paths += [[*path, end] for end in sorted(onward.get(path[-1], ()))]
    return found

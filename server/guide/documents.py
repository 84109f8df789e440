"""The documents as pages of the guide: read once, in plain pieces that a browser shows and searches offline."""

from __future__ import annotations

import functools
import re
from dataclasses import dataclass
from pathlib import Path

from django.conf import settings
from inbetrieb_core.commissioning import STATIONS

_LINK = re.compile(r"\[([^\]]*)\]\([^)]*\)")
_MARKS = re.compile(r"\*\*|`")
#: A picture of each station that has one, by its file.
_PICTURES = {
    "intake": "intake-review", "wiring": "wiring-plan", "sensors": "key-on", "injectors": "injectors", "trigger": "edge-capture",
    "base-maps": "base-maps", "first-start": "first-start", "hot-idle": "hot-idle", "ladder": "ladder-curves", "trial": "trial",
    "fuel-map": "fuel-map", "pulls": "boost", "handover": "handover",
}  # fmt: skip


@dataclass(frozen=True)
class GuideStation:
    """A station of the order of work: number, key, title, what it does, and its picture's name; empty for none."""

    number: int
    key: str
    title: str
    does: str
    picture: str


@dataclass(frozen=True)
class Word:
    """A word of the glossary: what it is called here, what others say, its unit or name in code."""

    term: str
    also: str
    unit: str


@dataclass(frozen=True)
class Chapter:
    """A chapter of how it computes: its title and paragraphs."""

    title: str
    paragraphs: tuple[str, ...]


@dataclass(frozen=True)
class Guide:
    """The whole guide."""

    stations: tuple[GuideStation, ...]
    words: tuple[Word, ...]
    chapters: tuple[Chapter, ...]


@functools.cache
def guide() -> Guide:
    """Return the guide."""
    docs: Path = settings.ROOT / "docs"
    stations = tuple(
        GuideStation(s.number, s.key, s.title, s.does, _PICTURES.get(s.key, "") if picture_of(_PICTURES.get(s.key, "")) else "")
        for s in STATIONS
    )  # fmt: skip
    return Guide(
        stations, _words((docs / "glossary.md").read_text()), _chapters((docs / "how-it-computes.md").read_text())
    )  # fmt: skip


def picture_of(name: str) -> Path | None:
    """Return the file of a picture of the guide; None where it is none."""
    path = Path(settings.ROOT) / "docs" / "screenshots" / f"{name}.png"
    return path if name in _PICTURES.values() and path.is_file() else None


def plain(text: str) -> str:
    """Return a line of a document without its marks."""
    return _MARKS.sub("", _LINK.sub(r"\1", text)).strip()


def _words(text: str) -> tuple[Word, ...]:
    found = []
    for line in text.splitlines():
        cells = [plain(cell) for cell in line.strip().strip("|").split("|")]
        if (
            line.startswith("|")
            and len(cells) == 3
            and cells[0] != "Term here"
            and set(cells[0]) - set("-")
        ):
            found.append(Word(*cells))
    return tuple(found)


def _row(line: str) -> str:
    """Return a row of a table as a line of words; empty for a rule."""
    cells = [plain(cell) for cell in line.strip().strip("|").split("|")]
    return "" if set("".join(cells)) <= set("-: ") else "; ".join(cell for cell in cells if cell)


def _chapters(text: str) -> tuple[Chapter, ...]:
    found = []
    for part in text.split("\n## ")[1:]:
        title, _, body = part.partition("\n")
        lines = [
            _row(line) if line.startswith("|") else plain(line.lstrip("- "))
            for line in body.splitlines()
        ]
        found.append(Chapter(plain(title), tuple(line for line in lines if line)))
    return tuple(found)

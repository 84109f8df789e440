"""A pin list pasted from a spreadsheet or a manual, made into connectors and pins."""

from __future__ import annotations

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass, replace

from ..delimited import best_mark, rows_of
from ..errors import field_refused
from .capability import CAPABILITIES, Capability
from .profile import MOST_PINS, Connector, InjectorClass, Pin, PullUp

_LARGEST_TEXT = 200_000

#: Words that mean an ability, looked for in this order; the first match of a cell's part wins.
_WORDS: tuple[tuple[str, tuple[Capability, ...]], ...] = (
    (r"(sensor|signal|analog(ue)?)[ _-]*(ground|gnd)", ("sensor_ground",)),
    (r"analog(ue)?|0 ?(-|to|–|…) ?5 ?v|\bain?\d*\b", ("analogue",)),
    (r"power ground|\bgnd\b|\bground\b|\bearth\b", ("power_ground",)),
    (r"5 ?v (supply|out|ref)|sensor supply|sensor 5|\bvref\b|\b5 ?v\b(?! (in|sig))", ("sensor_supply",)),
    (r"\bknock\b", ("knock",)),
    (r"\bbridge\b|\bh.?bridge|motor (out|drive)", ("bridge",)),
    (r"wide ?band|lambda cell", ("wideband",)),
    (r"inductive|magnetic|reluct|\bvr\b", ("inductive",)),
    (r"\bhall\b", ("hall",)),
    (r"injector|\binj\b|\binj ?\d+", ("injector",)),
    (r"ignition.*logic|logic.*ignition|spark.*logic|igniter", ("ignition_logic",)),
    (r"ignition|\bign\b|\bign ?\d+|\bcoil\b|\bspark\b", ("ignition",)),
    (r"\bpwm\b|pulse.?width", ("pwm",)),
    (r"low.?side|\bls\b", ("low_side",)),
    (r"high.?side|\bhs\b", ("high_side",)),
    (r"(bus|can)[ ,_-]*(h|hi|high)\b", ("bus_high",)),
    (r"(bus|can)[ ,_-]*(l|lo|low)\b", ("bus_low",)),
    (r"frequency|digital|\bfreq\b|\bdin?\d*\b|pulse in|switch in", ("frequency",)),
    (r"battery|\b12 ?v\b|\bsupply\b|main relay in|ignition switch|\bvbat\b", ("supply",)),
)  # fmt: skip

_HEADS: dict[str, tuple[str, ...]] = {
    "name": ("pin", "terminal", "cavity", "contact"),
    "connector": ("connector", "plug", "header"),
    "can": ("can", "ability", "abilities", "capabilit", "type", "kind", "function", "description", "signal"),
    "pull_up": ("pull",),
    "current_a": ("current", "amp"),
    "hz": ("frequency range", "hz", "pwm range"),
    "row": ("row",),
    "column": ("column", "position"),
    "fixed": ("fixed", "assigned"),
    "note": ("note", "remark", "comment"),
}  # fmt: skip


@dataclass(frozen=True)
class PinList:
    """What was understood of a pasted pin list.

    Attributes
    ----------
    connectors : tuple of Connector
        As the pins' names tell; rows and columns are made up where no place was given.
    pins : tuple of Pin
    sentences : tuple of str
        What was read, made up and passed over.
    """

    connectors: tuple[Connector, ...]
    pins: tuple[Pin, ...]
    sentences: tuple[str, ...]


def read_pin_list(text: str) -> PinList:
    """Return the pins of a pasted table with a heading.

    Parameters
    ----------
    text : str
        Columns parted by tabs, semicolons or commas: pin, what it can do, and where they are
        known connector, pull-up, current, frequency range, row, column, fixed function, note.

    Raises
    ------
    InputRefused
        If there is no pin in it.
    """
    if len(text) > _LARGEST_TEXT:
        raise field_refused("text", "That is too much text for a pin list.")
    rows = _cells(text)
    if not rows:
        raise field_refused("text", "Nothing was pasted.")
    places, body = _headed(rows)
    sentences: list[str] = []
    read: dict[str, Pin] = {}
    placed = True
    unknown: dict[str, list[str]] = {}
    for number, row in body:
        cell = {key: row[i].strip() if i < len(row) else "" for key, i in places.items()}
        name = cell.get("name", "")
        if not name:
            continue
        if len(read) >= MOST_PINS:
            sentences.append(f"Only the first {MOST_PINS} pins were read.")
            break
        if name in read:
            sentences.append(f"Row {number}: pin {name} is listed twice; the first one counts.")
            continue
        pin, has_place = _pin(name, cell, number, sentences)
        placed = placed and has_place
        if not pin.capabilities:
            unknown.setdefault(cell.get("can", "")[:40], []).append(name)
        read[name] = pin
    if not read:
        raise field_refused("text", "No pins were found: the heading must name a column 'pin'.")
    for words, members in unknown.items():
        sentences.append(
            f"'{words}' is no ability that is known; {'pin' if len(members) == 1 else 'pins'} "
            f"{', '.join(members[:8])}{' …' if len(members) > 8 else ''} kept, and nothing is planned there."
        )
    pins = tuple(read.values())
    if not placed:
        pins = _laid_out(pins)
        sentences.append("Places on the connectors were made up in the order of the list.")
    connectors = _connectors(pins)
    names = ", ".join(connector.name for connector in connectors)
    sentences.insert(0, f"{len(pins)} pins on {len(connectors)} connector(s) read: {names}.")
    return PinList(connectors, pins, tuple(sentences[:40]))


def _cells(text: str) -> list[tuple[int, list[str]]]:
    lines = [line for line in text.replace("\x00", "").splitlines() if line.strip()]
    mark = best_mark(lines[:20], lambda rows, _: (sum(len(row) > 1 for row in rows),), "\t;,")
    return [(i + 1, row) for i, row in enumerate(rows_of(lines, mark or "\t"))]


def _headed(
    rows: Sequence[tuple[int, list[str]]],
) -> tuple[dict[str, int], Sequence[tuple[int, list[str]]]]:
    """Return which column is which, and the rows below the heading."""
    for at, (_, row) in enumerate(rows[:10]):
        places: dict[str, int] = {}
        for i, cell in enumerate(row):
            word = cell.strip().lower()
            for key, heads in _HEADS.items():
                if key not in places and any(
                    word.startswith(h) or h in word.split() for h in heads
                ):
                    places[key] = i
                    break
        if "name" in places and "can" in places:
            return places, rows[at + 1 :]
    return {"name": 0, "can": 1, "pull_up": 2, "current_a": 3, "note": 4}, rows


def _pin(name: str, cell: dict[str, str], number: int, sentences: list[str]) -> tuple[Pin, bool]:
    found = capabilities_in(cell.get("can", ""))
    pull_up, ohm = _pull_up(cell.get("pull_up", ""), cell.get("can", ""))
    if pull_up != "none" and not {"analogue", "frequency", "hall"} & set(found):
        pull_up, ohm = "none", None
    current = _number(cell.get("current_a", ""))
    if cell.get("current_a", "") and current is None:
        sentences.append(f"Row {number}: '{cell['current_a'][:20]}' is no current.")
    low, high = _range(cell.get("hz", ""))
    row, column = _number(cell.get("row", "")), _number(cell.get("column", ""))
    letters = re.match(r"[A-Za-z]+", name)
    connector = cell.get("connector", "") or (letters.group().upper() if letters else "A")
    injector: InjectorClass = (
        "current_limiting"
        if re.search(r"peak|limit|low.?ohm|low.?imp", cell.get("can", "").lower())
        else "plain"
    )
    is_output = {"injector", "ignition", "low_side", "high_side", "pwm"} & set(found)
    pin = Pin(
        name[:12], connector[:12], int(row or 1), int(column or 1), found, pull_up, ohm,
        current if is_output else None, injector, low, high,
        cell.get("fixed", ""), cell.get("note", "")[:200],
    )  # fmt: skip
    return pin, row is not None and column is not None


def capabilities_in(text: str) -> tuple[Capability, ...]:
    """Return the abilities that a cell names, by key or in plain words.

    Parameters
    ----------
    text : str
        Such as "injector / low side" or "analogue input".
    """
    found: list[Capability] = []
    for part in re.split(r"[/|+&]|\band\b|\bor\b", text.lower().replace("_", " ")):
        key = part.strip().replace(" ", "_")
        named: tuple[Capability, ...] = ()
        if key in CAPABILITIES:
            named = (key,)
        elif part.strip():
            named = next((caps for words, caps in _WORDS if re.search(words, part)), ())
        found += [c for c in named if c not in found]
    shared = [c for c in found if c in ("supply", "sensor_supply", "sensor_ground", "power_ground")]
    return (shared[0],) if shared else tuple(found)


def _pull_up(text: str, ability: str) -> tuple[PullUp, float | None]:
    word = text.lower().strip()
    if not word and "pull" in ability.lower():
        word = ability.lower()
    if not word or word in ("no", "none", "-", "–", "0", "n"):
        return "none", None
    ohm = _ohm(word)
    return ("fixed" if "fix" in word or "always" in word else "switchable"), ohm


def _ohm(word: str) -> float | None:
    # Bounded runs: a cell of digits is searched once, not from each of them. 2k49 is 2.49 kΩ.
    word = re.sub(r"(?<!\d)(\d{1,7})k(\d{1,7})", r"\1.\2k", word)
    match = re.search(r"(?<!\d)(\d{1,9}(?:[.,]\d{1,9})?)\s{0,3}(k|kohm|kω|ω|ohm)?", word)
    if match is None:
        return None
    value = float(match.group(1).replace(",", "."))
    value = value * 1000.0 if (match.group(2) or "").startswith("k") else value
    return value if 50.0 <= value <= 1e6 else None


def _number(text: str) -> float | None:
    match = re.match(r"^\s*(\d{1,7}(?:[.,]\d{1,6})?)\s*[A-Za-z]{0,3}\s*$", text)
    if match is None:
        return None
    value = float(match.group(1).replace(",", "."))
    return value if math.isfinite(value) and 0.0 < value < 1e6 else None


def _range(text: str) -> tuple[float | None, float | None]:
    numbers = [float(n.replace(",", ".")) for n in re.findall(r"\d{1,6}(?:[.,]\d{1,3})?", text)[:2]]
    if len(numbers) == 2 and numbers[0] < numbers[1]:
        return numbers[0], numbers[1]
    return (None, numbers[0]) if len(numbers) == 1 and numbers[0] > 0.0 else (None, None)


def _laid_out(pins: Sequence[Pin]) -> tuple[Pin, ...]:
    """Return the pins in rows, so that each connector is about three times as wide as high."""
    by_plug: dict[str, list[Pin]] = {}
    for pin in pins:
        by_plug.setdefault(pin.connector, []).append(pin)
    placed: dict[str, Pin] = {}
    for members in by_plug.values():
        columns = max(1, math.ceil(math.sqrt(3.0 * len(members))))
        for i, pin in enumerate(members):
            placed[pin.name] = replace(pin, row=i // columns + 1, column=i % columns + 1)
    return tuple(placed[pin.name] for pin in pins)


def _connectors(pins: Sequence[Pin]) -> tuple[Connector, ...]:
    plugs: dict[str, tuple[int, int]] = {}
    for pin in pins:
        rows, columns = plugs.get(pin.connector, (1, 1))
        plugs[pin.connector] = (max(rows, pin.row), max(columns, pin.column))
    return tuple(
        Connector(name, f"Connector {name}", min(rows, 40), min(columns, 40))
        for name, (rows, columns) in plugs.items()
    )

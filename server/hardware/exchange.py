"""Parts that travel: small JSON files with where the data come from and under which licence they may be passed on."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

from django.contrib.auth.models import User
from inbetrieb_core.errors import CoreError
from inbetrieb_core.json_text import json_of
from pydantic import ValidationError

from server.accounts.services import workshop_of
from server.config.writes import writing

from .library import KINDS, LibraryKind, Part, check, keep, place_of
from .models import LibraryItem

FORMAT, VERSION = "inbetrieb-parts", 1
LARGEST_BYTES, _MOST_PARTS, _LONGEST, _LONGEST_LIST = 1_000_000, 200, 400, 4000
State = Literal["new", "same", "differs"]
#: Fields whose names are no words of the trade, as they are told where two parts are laid side by side.
_TITLES = {
    "adc_bits": "resolution of the input, bits",
    "capacity_l": "tank, l",
    "count": "number of injectors",
    "decay": "pressure with the key off",
    "driver": "kind of driver",
    "fluid": "fluid of the flow test",
    "fluid_density_kg_m3": "density of that fluid, kg/m³",
    "freeze_rpm": "holds its reading above, rpm",
    "dead_zone_pct": "dead zone, %",
    "lamp_share_pct": "lamp on below, %",
    "line_loss_kpa": "loss of the line, kPa",
    "line_loss_at_l_h": "loss measured at, l/h",
    "override_reason": "written reason",
    "prime": "pressure while it primes",
    "provenance": "where the data are from",
    "rail_pressure_kpa": "rail pressure, kPa",
    "rated_pressure_kpa": "pressure of the flow test, kPa",
    "readings": "flow over pressure",
    "report": "test report",
    "resistance_ohm": "resistance, Ω",
    "smallest_open_ms": "shortest steady pulse, ms",
    "target_power_kw": "power aimed at, kW",
    "transfer": "curve",
    "voltage_v": "voltage of the flow test, V",
}


@dataclass(frozen=True)
class TravellingPart:
    """A part of a file.

    Attributes
    ----------
    kind : {"sensor", "injectors", "supply"}
    part : SensorEntry or InjectorEntry or SupplyEntry
        Checked.
    source, licence : str
        As the file says; empty where it says nothing.
    """

    kind: LibraryKind
    part: Part
    source: str
    licence: str


@dataclass(frozen=True)
class Beside:
    """A part of a file beside the workshop's own of that name.

    Attributes
    ----------
    number : int
        In the file, from 0.
    kind, name, source, licence : str
    state : {"new", "same", "differs"}
    differs : tuple of (str, str, str)
        Field, what the file says, what is kept.
    own_source : str
        Where the kept one comes from.
    """

    number: int
    kind: LibraryKind
    name: str
    source: str
    licence: str
    state: State
    differs: tuple[tuple[str, str, str], ...]
    own_source: str


def written(items: Sequence[LibraryItem]) -> bytes:
    """Return parts of a library as a file."""
    parts = [
        {"kind": item.kind, "source": item.source, "licence": item.licence, "part": item.data}
        for item in items
    ]
    document = {"format": FORMAT, "version": VERSION, "parts": parts}
    return json.dumps(document, ensure_ascii=False, indent=1).encode()


def read_parts(data: bytes) -> tuple[TravellingPart, ...]:
    """Return the parts of a file, each checked as if it had been entered.

    Raises
    ------
    CoreError
        With the first part that is none.
    """
    if len(data) > LARGEST_BYTES:
        raise CoreError("A file of parts has up to 1 MB.")
    try:
        document = json_of(data.decode("utf-8-sig"))
    except ValueError as error:
        raise CoreError("This is no JSON file.") from error
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise CoreError(f"This is no file of parts: its format is not '{FORMAT}'.")
    if document.get("version") != VERSION:
        raise CoreError(f"This file is of version {str(document.get('version'))[:20]}; version {VERSION} can be read.")  # fmt: skip
    parts = document.get("parts")
    if not isinstance(parts, list) or not 0 < len(parts) <= _MOST_PARTS:
        raise CoreError(f"A file holds 1 to {_MOST_PARTS} parts.")
    return tuple(_part(number, row) for number, row in enumerate(parts, 1))


def _part(number: int, row: Any) -> TravellingPart:
    kind = row.get("kind") if isinstance(row, dict) else None
    if not isinstance(kind, str) or kind not in KINDS:  # what a file holds need not be hashable
        raise CoreError(f"Part {number} is neither a sensor, nor injectors, nor a supply.")
    try:
        part = KINDS[kind].read(row.get("part"))
    except (ValidationError, ValueError, TypeError) as error:
        raise CoreError(f"Part {number} cannot be read as {kind}.") from error
    try:
        check(part)
    except CoreError as error:
        raise CoreError(f"Part {number} ({part.name[:60]}): {error}") from error
    if not part.name.strip():
        raise CoreError(f"Part {number} has no name.")
    source, licence = (
        str(row.get(name) or "").strip()[:_LONGEST] for name in ("source", "licence")
    )
    return TravellingPart(kind, part, source, licence)


def numbers_of(text: str) -> list[int]:
    """Return the numbers of chosen parts, which travel as a JSON list beside a file.

    Raises
    ------
    CoreError
        If they are none.
    """
    try:
        chosen = json_of(text[:_LONGEST_LIST])
    except ValueError as error:
        raise CoreError("The numbers of the parts are no list.") from error
    if not isinstance(chosen, list) or not all(type(n) is int for n in chosen):
        raise CoreError("The numbers of the parts are no list.")
    return chosen


def beside(user: User, parts: Sequence[TravellingPart]) -> tuple[Beside, ...]:
    """Return parts of a file beside the workshop's own."""
    own = {
        (item.kind, item.key, item.name): item
        for item in LibraryItem.objects.filter(workshop=workshop_of(user))
    }
    return tuple(
        _beside(number, one, own.get(place_of(one.part))) for number, one in enumerate(parts)
    )


def _beside(number: int, one: TravellingPart, own: LibraryItem | None) -> Beside:
    name = place_of(one.part)[2]
    if own is None:
        return Beside(number, one.kind, name, one.source, one.licence, "new", (), "")
    told, kept = KINDS[one.kind].plain(one.part), own.data
    differs = tuple(
        (_TITLES.get(field, field.replace("_", " ")), _short(told, field), _short(kept, field))
        for field in dict.fromkeys((*told, *kept))
        if told.get(field) != kept.get(field)
    )
    state: State = "differs" if differs else "same"
    return Beside(number, one.kind, name, one.source, one.licence, state, differs, own.source)


def _short(entry: dict[str, Any], field: str) -> str:
    """Return a field of an entry in short, with the unit that stands beside it."""
    value = entry.get(field)
    text = "–" if value is None else json.dumps(value, ensure_ascii=False).strip('"')
    text = f"{text} {entry[f'{field}_unit']}" if f"{field}_unit" in entry else text
    return text if len(text) <= _LONGEST else f"{text[:_LONGEST]} …"


@writing()
def take(user: User, parts: Sequence[TravellingPart], numbers: Sequence[int]) -> int:
    """Keep the chosen parts of a file, in place of own ones of the same name; return how many.

    Raises
    ------
    CoreError
        If one is chosen that the file does not hold.
    """
    if not set(numbers) <= set(range(len(parts))):
        raise CoreError("The file holds no such part.")
    for number in sorted(set(numbers)):
        one = parts[number]
        keep(user, one.part, one.source, one.licence)
    return len(set(numbers))

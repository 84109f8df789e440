"""The parts that ship with the program, and those a workshop keeps for its next job."""

from __future__ import annotations

from typing import Any, Literal

from django.contrib.auth.models import User
from django.shortcuts import get_object_or_404
from inbetrieb_core.errors import field_refused
from inbetrieb_core.injectors import INJECTORS as GENERIC_INJECTORS
from inbetrieb_core.sensors import LIBRARY, SensorEntry
from inbetrieb_core.supply import PUMPS, DeadTimeEntry, InjectorEntry, SupplyEntry

from server.accounts.services import workshop_of
from server.config.writes import writing
from server.entries.kinds import Kind

from .kinds import INJECTORS, SENSOR, SUPPLY
from .models import LibraryItem

LibraryKind = Literal["sensor", "injectors", "supply"]
_MOST_ITEMS = 500


def generic_injectors() -> list[InjectorEntry]:
    """Return the injectors that ship with the program, as entries to begin from."""
    return [
        InjectorEntry(
            name=item.name,
            count=1,
            flow=item.flow_cm3_min,
            rated_pressure_kpa=item.rated_pressure_kpa,
            dead_time=DeadTimeEntry(item.voltage_v, (item.dead_time_ms,)),
            resistance_ohm=item.resistance_ohm,
            smallest_open_ms=item.smallest_pulse_ms,
            note="Generic data. Compare them with the part that is fitted.",
        )
        for item in GENERIC_INJECTORS
    ]


def generic_supplies() -> list[SupplyEntry]:
    """Return the pumps that ship with the program, as entries to begin from."""
    return [
        SupplyEntry(
            item.name, item.readings, note="Generic curve. Compare it with the pump's data sheet."
        )
        for item in PUMPS
    ]


def generic_sensors() -> tuple[Any, ...]:
    """Return the sensors that ship with the program."""
    return LIBRARY


def own_items(user: User, kind: LibraryKind) -> list[LibraryItem]:
    """Return what the user's workshop has kept, newest first."""
    return list(
        LibraryItem.objects.filter(workshop__memberships__user=user, kind=kind).order_by("-pk")[
            :_MOST_ITEMS
        ]
    )


Part = SensorEntry | InjectorEntry | SupplyEntry
KINDS: dict[LibraryKind, Kind[Any]] = {"sensor": SENSOR, "injectors": INJECTORS, "supply": SUPPLY}


def check(part: Part) -> None:
    """Refuse a part that cannot be.

    Raises
    ------
    CoreError
        With what is wrong with it.
    """
    part.made() if isinstance(part, SensorEntry) else part.check()


def place_of(part: Part) -> tuple[LibraryKind, str, str]:
    """Return kind, function and name under which a part is kept: one of each."""
    name = part.name.strip()[:120]
    if isinstance(part, SensorEntry):
        return "sensor", part.function, name
    return ("injectors" if isinstance(part, InjectorEntry) else "supply"), "", name


@writing()
def keep(user: User, part: Part, source: str = "", licence: str = "") -> LibraryItem:
    """Keep a part for the next job; one of the same name is replaced, with where its data came from."""
    check(part)
    kind, key, name = place_of(part)
    if LibraryItem.objects.filter(workshop=workshop_of(user), kind=kind).count() >= _MOST_ITEMS:
        raise field_refused("name", "The library is full: drop a part that is not used any more.")
    kept = {"data": KINDS[kind].plain(part), "source": source, "licence": licence}
    item, _ = LibraryItem.objects.update_or_create(
        workshop=workshop_of(user), kind=kind, key=key, name=name, defaults=kept
    )
    return item


@writing()
def drop(user: User, item_id: int) -> None:
    """Drop a part from the workshop's library; jobs that use it keep their own copy."""
    get_object_or_404(LibraryItem, pk=item_id, workshop=workshop_of(user)).delete()

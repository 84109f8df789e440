"""Sensors, injectors, supply and key-on check of a demo job, through the same services as real ones."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

from django.contrib.auth.models import User
from inbetrieb_core.bench import Fault
from inbetrieb_core.sensors import LIBRARY, SensorEntry, ThermistorEntry
from inbetrieb_core.supply import PUMPS

from server.bench.services import add_bench_key_on
from server.hardware import key_on, sensors, supply
from server.hardware.kinds import INJECTORS, SUPPLY
from server.jobs.models import Job


def load_hardware(job: Job, user: User, entry: dict[str, Any]) -> None:
    """Enter what the scenario says is fitted, then check it with the simulated key on."""
    for wanted in entry.get("sensors", ()):
        sensors.save_sensor(job, user, _sensor(wanted))
    if "fitted" in entry:
        supply.save_injectors(job, user, INJECTORS.read(entry["fitted"]))
    if "supply" in entry:
        wanted = dict(entry["supply"])
        name = wanted.pop("from")
        pump = next(pump for pump in PUMPS if pump.name == name)
        rail = supply.supply_of(job)[0].rail_pressure_kpa
        plain = {"name": pump.name, "readings": pump.readings, "rail_pressure_kpa": rail, **wanted}
        supply.save_supply(job, user, SUPPLY.read(plain))
    if "key_on" in entry:
        _check(job, user, dict(entry["key_on"]))


def _sensor(wanted: dict[str, Any]) -> SensorEntry:
    """Return a sensor of the library under its own name, its pull-up as somebody entered it."""
    item = next(i for i in LIBRARY if (i.function, i.name) == (wanted["function"], wanted["from"]))
    transfer = item.transfer
    if "pull_up_ohm" in wanted and isinstance(transfer, ThermistorEntry):
        transfer = replace(transfer, pull_up_ohm=float(wanted["pull_up_ohm"]))
    return replace(
        item,
        name=wanted["name"],
        transfer=transfer,
        provenance=wanted["provenance"],
        note=wanted.get("note", ""),
    )


def _check(job: Job, user: User, wanted: dict[str, Any]) -> None:
    faults = [Fault(**fault) for fault in wanted.pop("faults")]
    around = replace(key_on.known_circumstances(job), **wanted)
    log = add_bench_key_on(job, user, circumstances=around, faults=faults, seed=1)
    key_on.add_check(job, user, log=log, typed={}, circumstances=around)

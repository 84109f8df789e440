"""What is entered of sensors, injectors and supply."""

from __future__ import annotations

from dataclasses import dataclass

from inbetrieb_core.sensors import FUNCTIONS, SensorEntry
from inbetrieb_core.supply import InjectorEntry, SupplyEntry

from server.entries.kinds import Kind
from server.entries.models import Entry
from server.jobs.models import Job


@dataclass(frozen=True)
class GaugePairs:
    """Readings of gauge and log side by side.

    Attributes
    ----------
    pairs : tuple of pairs
        Mixture of gauge and of log. [–]
    """

    pairs: tuple[tuple[float, float], ...]


SENSOR: Kind[SensorEntry] = Kind("sensor", SensorEntry)
INJECTORS: Kind[InjectorEntry] = Kind("injectors", InjectorEntry)
SUPPLY: Kind[SupplyEntry] = Kind("supply", SupplyEntry)
AGREEMENT: Kind[GaugePairs] = Kind("agreement", GaugePairs)


def sensor_rows(job: Job) -> list[Entry]:
    """Return the newest version of every entered sensor, in the order of the functions."""
    order = list(FUNCTIONS)
    return sorted(SENSOR.newest_of_each(job), key=lambda row: order.index(row.key))


def sensors_of(job: Job) -> list[SensorEntry]:
    """Return the sensors of a job as they are now."""
    return [SENSOR.read(row.data) for row in sensor_rows(job)]


def versions_of(job: Job) -> dict[str, int]:
    """Return the version number of every sensor that a job has now."""
    return {row.key: row.number for row in sensor_rows(job)}

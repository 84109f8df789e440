"""Fuel level: the volume table and the lamp."""

from __future__ import annotations

from dataclasses import dataclass

from ..errors import field_refused
from .entry import SensorEntry


@dataclass(frozen=True)
class FuelLevelSheet:
    """What follows from the known fills of a tank.

    Attributes
    ----------
    volumes : tuple of (share [%], volume [l], signal [V])
        Signal at every tenth of the tank.
    lamp_l, lamp_v : float
        Volume and signal at which the lamp lights. [l, V]
    capacity_l : float
        [l]
    rising : bool
        Whether the signal rises as the tank fills.
    """

    volumes: tuple[tuple[float, float, float], ...]
    lamp_l: float
    lamp_v: float
    capacity_l: float
    rising: bool


def fuel_level_sheet(sensor: SensorEntry) -> FuelLevelSheet:
    """Return the volume table of a fuel level sender.

    Raises
    ------
    InputRefused
        If it is not a fuel level sender, or the tank holds less than its highest fill.
    """
    if sensor.function != "fuel_level":
        raise field_refused("function", "Only a fuel level sender has a volume table.")
    transfer = sensor.made()
    known = sorted(transfer.value(s) for s in transfer.known)
    capacity = sensor.capacity_l if sensor.capacity_l is not None else known[1]
    if capacity < known[1]:
        raise field_refused(
            "capacity_l", f"The tank holds {capacity:g} l, but a fill of {known[1]:g} l is entered."
        )
    rows = []
    for share in range(0, 101, 10):
        litres = capacity * share / 100.0
        rows.append((float(share), litres, transfer.signal(litres)))
    lamp = capacity * sensor.lamp_share_pct / 100.0
    return FuelLevelSheet(
        tuple(rows), lamp, transfer.signal(lamp), capacity, rows[-1][2] > rows[0][2]
    )

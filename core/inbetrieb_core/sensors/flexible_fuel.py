"""Flexible fuel: from frequency to ethanol share, and what a blend asks for."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..fuel import Fuel
from .entry import SensorEntry
from .sheet import sensor_sheet

#: 50 Hz is pure petrol, 150 Hz pure ethanol, straight between (common practice, no source).
PETROL_HZ, ETHANOL_HZ = 50.0, 150.0
FREEZE_RPM = 3000.0


@dataclass(frozen=True)
class SoldFuel:
    """A fuel as sold: what the pump says, and the ethanol by volume that is really in it."""

    title: str
    ethanol_volume_share: float


#: Pump fuels (common practice, no source): high-ethanol fuel is weaker than its label.
SOLD_FUELS = (
    SoldFuel("Petrol without ethanol", 0.0),
    SoldFuel("E5 petrol", 0.05),
    SoldFuel("E10 petrol", 0.10),
    SoldFuel("High-ethanol fuel, winter (50–60 %)", 0.55),
    SoldFuel("High-ethanol fuel, summer (about 70 %)", 0.70),
    SoldFuel("E85 as labelled", 0.85),
)


@dataclass(frozen=True)
class BlendNeed:
    """What a blend asks for.

    Attributes
    ----------
    title : str
        The fuel.
    ethanol_pct : float
        By volume. [%]
    signal_hz : float
        What the sensor shows. [Hz]
    stoichiometric_afr : float
        [kg/kg]
    density_kg_m3 : float
        [kg/m³]
    volume_factor : float
        Fuel volume for the same air against petrol. [–]
    """

    title: str
    ethanol_pct: float
    signal_hz: float
    stoichiometric_afr: float
    density_kg_m3: float
    volume_factor: float


def ethanol_share(signal_hz: float) -> float:
    """Return the ethanol share by volume that a frequency stands for, held at 0 and 1. [–]

    Parameters
    ----------
    signal_hz : float
        Frequency of the sensor. [Hz]
    """
    return min(1.0, max(0.0, (signal_hz - PETROL_HZ) / (ETHANOL_HZ - PETROL_HZ)))


def share_in_use(
    signal_hz: float,
    rpm: float,
    last_share: float,
    freeze_rpm: float = FREEZE_RPM,
    sensor: SensorEntry | None = None,
) -> float:
    """Return the share to fuel by: fresh at low speed, the last good one above. [–]

    Flow in the return line disturbs the sensor at high speed, and a signal outside the fault
    limits (45–180 Hz where no sensor is entered) is no reading at all.

    Parameters
    ----------
    signal_hz : float
        Frequency of the sensor. [Hz]
    rpm : float
        Engine speed. [1/min]
    last_share : float
        Share in use until now. [–]
    freeze_rpm : float
        Above this speed the last share is kept. [1/min]
    sensor : SensorEntry or None
        As entered; None takes the usual one.
    """
    low, high = 45.0, 180.0
    if sensor is not None:
        limits = sensor_sheet(sensor).fault_limits
        low, high = limits.below or 0.0, math.inf if limits.above is None else limits.above
    if rpm > freeze_rpm or not low <= signal_hz <= high:
        return last_share
    return read_share(signal_hz, sensor)


def read_share(signal_hz: float, sensor: SensorEntry | None = None) -> float:
    """Return the ethanol share that a frequency stands for by the entered transfer, 0 to 1. [–]

    Parameters
    ----------
    signal_hz : float
        Frequency of the sensor. [Hz]
    sensor : SensorEntry or None
        As entered; None takes the usual one.

    Raises
    ------
    InputRefused
        If the sensor's data cannot be.
    """
    if sensor is None:
        return ethanol_share(signal_hz)
    return min(1.0, max(0.0, sensor.made().value(signal_hz) / 100.0))


def blend_need(title: str, share: float) -> BlendNeed:
    """Return what a blend asks for against pure petrol.

    Parameters
    ----------
    title : str
        What to call it.
    share : float
        Ethanol by volume, 0 to 1. [–]

    Raises
    ------
    OutOfRangeError
        If the share is not between 0 and 1.
    """
    fuel, petrol = Fuel(share), Fuel(0.0)
    factor = (petrol.stoichiometric_afr * petrol.density_kg_m3) / (
        fuel.stoichiometric_afr * fuel.density_kg_m3
    )
    return BlendNeed(
        title,
        100.0 * share,
        PETROL_HZ + (ETHANOL_HZ - PETROL_HZ) * share,
        fuel.stoichiometric_afr,
        fuel.density_kg_m3,
        factor,
    )


def sold_blends() -> tuple[BlendNeed, ...]:
    """Return what each fuel on sale asks for."""
    return tuple(blend_need(fuel.title, fuel.ethanol_volume_share) for fuel in SOLD_FUELS)

"""A sensor as an installer enters it, and the transfer made of it."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from ..errors import field_refused
from ..provenance import ProvenanceKind
from ..quantities import PSI_KPA
from ..sentences import kilopascal, quantity
from .functions import FUNCTIONS, SensorFunction
from .thermistor import (
    ResistanceTable,
    Thermistor,
    beta_curve,
    check_pull_up,
    resistance_points,
    steinhart_hart,
)
from .thermocouple import Thermocouple
from .transfers import Table, Transfer, linear_from_points, linear_from_slope

#: Full scale of an analogue input, and the highest frequency a digital input is asked for.
INPUT_FULL_V = 5.0
INPUT_FULL_HZ = 2000.0
BATTERY_FULL_V = 20.0


@dataclass(frozen=True)
class LinearEntry:
    """A line by two or more (signal [V], reading) points, or by slope [per V] and offset."""

    kind: Literal["linear"] = "linear"
    points: tuple[tuple[float, float], ...] | None = None
    slope: float | None = None
    offset: float | None = None


@dataclass(frozen=True)
class FrequencyEntry:
    """A line over frequency, by (frequency [Hz], reading) points, or by slope and offset."""

    kind: Literal["frequency"]
    points: tuple[tuple[float, float], ...] | None = None
    slope: float | None = None
    offset: float | None = None


@dataclass(frozen=True)
class TableEntry:
    """A monotone table of (signal [V], reading)."""

    kind: Literal["table"]
    points: tuple[tuple[float, float], ...]


@dataclass(frozen=True)
class ThermistorEntry:
    """A two-wire temperature sensor: (temperature [°C], resistance [Ω]) points and pull-up.

    Three points make a Steinhart–Hart curve, four or more a table, one point with `beta_k`
    [K] a Beta curve.
    """

    kind: Literal["thermistor"]
    pull_up_ohm: float
    points: tuple[tuple[float, float], ...]
    beta_k: float | None = None
    supply_v: float = INPUT_FULL_V


@dataclass(frozen=True)
class ThermocoupleEntry:
    """Type K behind an amplifier: gain [V/mV], offset [V], cold junction [°C] if not compensated."""

    kind: Literal["thermocouple"]
    gain_v_per_mv: float
    offset_v: float = 0.0
    cold_junction_c: float | None = None


TransferEntry = LinearEntry | FrequencyEntry | TableEntry | ThermistorEntry | ThermocoupleEntry


@dataclass(frozen=True)
class SensorEntry:
    """One sensor of a job.

    Attributes
    ----------
    function : str
        Key of :data:`.functions.FUNCTIONS`.
    name : str
        What is fitted, in the installer's words.
    transfer : TransferEntry
        How the signal becomes a reading.
    provenance : str
        Where the data come from.
    note : str
        For example the data sheet or how the points were measured.
    adc_bits : {10, 12}
        Width of the controller's converter. [bit]
    capacity_l : float or None
        Fuel level only: a full tank. [l]
    lamp_share_pct : float
        Fuel level only: the lamp lights below this share of the tank. [%]
    freeze_rpm : float
        Flexible fuel only: above it the last reading is kept. [1/min]
    dead_zone_pct : float
        Throttle only: travel at both ends that reads closed or open. [%]
    """

    function: str
    name: str
    transfer: TransferEntry
    provenance: ProvenanceKind = "assumed"
    note: str = ""
    adc_bits: Literal[10, 12] = 10
    capacity_l: float | None = None
    lamp_share_pct: float = 12.0
    freeze_rpm: float = 3000.0
    dead_zone_pct: float = 1.0

    @property
    def definition(self) -> SensorFunction:
        """The function's definition.

        Raises
        ------
        InputRefused
            If there is no such function.
        """
        if self.function not in FUNCTIONS:
            known = ", ".join(FUNCTIONS)
            raise field_refused(
                "function", f"There is no function '{self.function}'; known are {known}."
            )
        return FUNCTIONS[self.function]

    def made(self) -> Transfer:
        """Return the transfer, everything about the sensor checked.

        Raises
        ------
        InputRefused
            With a sentence for the first field that cannot be.
        """
        definition = self.definition
        if self.transfer.kind not in definition.transfers:
            fit = " or ".join(definition.transfers)
            raise field_refused(
                "transfer.kind",
                f"{definition.title} is entered as {fit}, not as {self.transfer.kind}.",
            )
        if not self.name.strip():
            raise field_refused("name", "Say what is fitted, so that it is found again.")
        _check_extras(self)
        transfer = make_transfer(self.transfer, full_v=full_signal_v(definition.key))
        _check_reach(definition, transfer)
        return transfer


def full_signal_v(function: str) -> float:
    """Return the highest voltage the input of a function reads. [V]"""
    return BATTERY_FULL_V if function == "battery" else INPUT_FULL_V


def make_transfer(entry: TransferEntry, full_v: float = INPUT_FULL_V) -> Transfer:
    """Return the transfer of an entry.

    Parameters
    ----------
    entry : TransferEntry
        As typed.
    full_v : float
        Highest voltage of the input. [V]

    Raises
    ------
    InputRefused
        If the entry cannot be, with a sentence on the field.
    """
    if isinstance(entry, ThermistorEntry):
        return _thermistor(entry)
    if isinstance(entry, ThermocoupleEntry):
        return Thermocouple(
            entry.gain_v_per_mv, entry.offset_v, entry.cold_junction_c, full_v=full_v
        )
    if isinstance(entry, TableEntry):
        _check_signals(entry.points, full_v, "V")
        return Table(entry.points)
    hertz = isinstance(entry, FrequencyEntry)
    unit: Literal["V", "Hz"] = "Hz" if hertz else "V"
    full = INPUT_FULL_HZ if hertz else full_v
    if entry.points:
        _check_signals(entry.points, full, unit)
        return linear_from_points(entry.points, unit)
    if entry.slope is None or entry.offset is None:
        raise field_refused("transfer.points", "Enter two points, or slope and offset.")
    return linear_from_slope(entry.slope, entry.offset, unit, full)


def _thermistor(entry: ThermistorEntry) -> Thermistor:
    check_pull_up(entry.pull_up_ohm, entry.supply_v)
    if entry.beta_k is not None:
        if len(entry.points) != 1:
            raise field_refused("transfer.points", "Beta goes with exactly one resistance point.")
        celsius, ohm = entry.points[0]
        curve = beta_curve(celsius, ohm, entry.beta_k)
        return Thermistor(curve, entry.pull_up_ohm, entry.supply_v, ((celsius, ohm),))
    ordered = resistance_points(entry.points, 3)
    if len(ordered) == 3:
        return Thermistor(steinhart_hart(ordered), entry.pull_up_ohm, entry.supply_v, ordered)
    return Thermistor(ResistanceTable(ordered), entry.pull_up_ohm, entry.supply_v, ordered)


def _check_signals(points: tuple[tuple[float, float], ...], full: float, unit: str) -> None:
    for point in points:
        if len(point) == 2 and not 0.0 <= point[0] <= full:
            raise field_refused(
                "transfer.points",
                f"A signal of {quantity(point[0], unit)} cannot reach the input: it reads 0 to "
                f"{quantity(full, unit)}. Are the two columns swapped?",
            )


def _check_extras(sensor: SensorEntry) -> None:
    bounds = {
        "lamp_share_pct": (1.0, 50.0, "The lamp's share of the tank", "%"),
        "freeze_rpm": (0.0, 20_000.0, "The speed above which the reading is kept", "rpm"),
        "dead_zone_pct": (0.0, 10.0, "The dead zone", "%"),
    }
    for field, (low, high, name, unit) in bounds.items():
        value = float(getattr(sensor, field))
        if not low <= value <= high:
            raise field_refused(
                field,
                f"{name} must be between {quantity(low, unit, bare=True)} and {quantity(high, unit)}, not {quantity(value, unit, bare=True)}.",
            )
    if sensor.capacity_l is not None and not 0.5 <= sensor.capacity_l <= 2000.0:
        raise field_refused("capacity_l", "The tank must hold between 0.5 and 2000 l.")


def _check_reach(definition: SensorFunction, transfer: Transfer) -> None:
    """Refuse data whose readings the quantity can never have: a unit or column is wrong."""
    readings = [point[1] for point in transfer.points]
    if not readings:
        low, high = transfer.known
        readings = [transfer.value(low), transfer.value(high)]
        if not all(map(math.isfinite, readings)):
            raise field_refused("transfer", "The curve has no finite reading.")
    room = 0.5 * (definition.upper - definition.lower)
    for reading in readings:
        if not definition.lower - room <= reading <= definition.upper + room:
            raise field_refused(
                "transfer.points" if transfer.points else "transfer.slope",
                f"A reading of {quantity(reading, definition.unit)} cannot be for "
                f"{definition.title.lower()} ({definition.lower:g} to {definition.upper:g} "
                f"{definition.unit}). Is it in another unit?",
            )
    if definition.unit == "kPa" and definition.key != "barometric":
        top = max(readings)
        if 1.0 < top < 80.0:
            raise field_refused(
                "transfer.points" if transfer.points else "transfer.slope",
                f"The highest reading is {quantity(top, 'kPa')}: that cannot be. If it is psi, "
                f"{top:g} psi are {kilopascal(top * PSI_KPA)}.",
            )

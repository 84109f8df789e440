"""Everything that follows from one entered sensor: what its sheet shows."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..errors import field_refused
from ..sentences import celsius, quantity, significant, temperature_step
from .entry import SensorEntry, ThermistorEntry, full_signal_v
from .functions import SensorFunction
from .points import checked_points
from .thermistor import Thermistor, divider_v
from .transfers import Transfer

#: Pull-up resistors met in controllers (common practice, no source). [Ω]
USUAL_PULL_UPS_OHM = (1000.0, 2200.0, 2490.0, 2700.0, 3300.0, 4700.0, 10_000.0)
_CURVE_POINTS = 141
#: A gap of less than this between working range and rail tells no fault from a reading.
_LEAST_GAP_SHARE = 0.01


@dataclass(frozen=True)
class CurvePoint:
    """One point of the drawn curve: signal [V or Hz], reading [unit], and whether it is beyond the data."""

    signal: float
    value: float
    extrapolated: bool


@dataclass(frozen=True)
class Resolution:
    """Smallest step of the reading at a working point.

    Attributes
    ----------
    at : float
        Working point. [unit of the reading]
    signal : float
        Signal there. [V or Hz]
    step : float or None
        Change of the reading by one count of the converter; None for a frequency. [unit]
    extrapolated : bool
        Whether the point lies beyond the data.
    """

    at: float
    signal: float
    step: float | None
    extrapolated: bool


@dataclass(frozen=True)
class FaultLimits:
    """Signals at which the controller should take the sensor for broken.

    Attributes
    ----------
    below, above : float or None
        Limits; None where the working range leaves no room for one. [V or Hz]
    below_means, above_means : str
        What is wrong then, or why there is no limit.
    """

    below: float | None
    above: float | None
    below_means: str
    above_means: str


@dataclass(frozen=True)
class WhatIf:
    """What the controller would read if something about the input were otherwise.

    Attributes
    ----------
    case : str
        What is otherwise.
    readings : tuple of float
        Reading at each true working point. [unit of the reading]
    """

    case: str
    readings: tuple[float, ...]


@dataclass(frozen=True)
class TableRow:
    """One row of the value table: axis value, reading [unit], and whether it is beyond the data."""

    at: float
    value: float
    extrapolated: bool


@dataclass(frozen=True)
class SensorSheet:
    """What follows from one sensor.

    Attributes
    ----------
    signal_unit : str
        V or Hz.
    points : tuple of (signal, reading)
        The entered points.
    residuals : tuple of float
        Curve minus point. [unit of the reading]
    worst_residual : float
        The largest of them, without sign. [unit of the reading]
    curve : tuple of CurvePoint
    known_low, known_high : float
        Readings that the data cover. [unit of the reading]
    resolutions : tuple of Resolution
    fault_limits : FaultLimits
    true_points : tuple of float
        Working points that the what-ifs refer to. [unit of the reading]
    what_ifs : tuple of WhatIf
    remarks : tuple of str
        What to look at, in sentences.
    """

    signal_unit: str
    points: tuple[tuple[float, float], ...]
    residuals: tuple[float, ...]
    worst_residual: float
    curve: tuple[CurvePoint, ...]
    known_low: float
    known_high: float
    resolutions: tuple[Resolution, ...]
    fault_limits: FaultLimits
    true_points: tuple[float, ...]
    what_ifs: tuple[WhatIf, ...]
    remarks: tuple[str, ...]


def sensor_sheet(sensor: SensorEntry) -> SensorSheet:
    """Return everything that follows from a sensor.

    Raises
    ------
    InputRefused
        If its data cannot be.
    """
    transfer = sensor.made()
    definition = sensor.definition
    full = full_signal(sensor, transfer)
    known = sorted(transfer.value(s) for s in transfer.known)
    worst = max((abs(r) for r in transfer.residuals), default=0.0)
    return SensorSheet(
        transfer.signal_unit,
        transfer.points,
        transfer.residuals,
        worst,
        _curve(definition, transfer, full),
        known[0],
        known[1],
        _resolutions(sensor, transfer, full),
        fault_limits(definition, transfer, full),
        definition.working_points,
        what_ifs(sensor),
        tuple(_remarks(sensor, definition, transfer, worst)),
    )


def full_signal(sensor: SensorEntry, transfer: Transfer) -> float:
    """Return the end of the input's range for a sensor. [V or Hz]"""
    if transfer.signal_unit == "Hz":
        return 1.1 * transfer.known[1]
    if isinstance(sensor.transfer, ThermistorEntry):
        return sensor.transfer.supply_v
    return full_signal_v(sensor.function)


def _is_beyond(transfer: Transfer, signal: float) -> bool:
    low, high = transfer.known
    slack = 1e-9 + 1e-6 * (high - low)
    return not low - slack <= signal <= high + slack


def _curve(definition: SensorFunction, transfer: Transfer, full: float) -> tuple[CurvePoint, ...]:
    """Sample the curve over all signals whose reading the quantity can have."""
    # The ends of a divider stand for infinite or no resistance.
    signals = np.linspace(0.002 * full, 0.998 * full, _CURVE_POINTS)
    signals = np.unique(np.concatenate([signals, transfer.known]))
    points = [
        CurvePoint(float(s), float(transfer.value(s)), _is_beyond(transfer, s)) for s in signals
    ]
    # Table and thermistor hold their ends; a line runs on, but only where the quantity can be.
    return tuple(p for p in points if definition.lower <= p.value <= definition.upper)


def _resolutions(sensor: SensorEntry, transfer: Transfer, full: float) -> tuple[Resolution, ...]:
    count = full / (2**sensor.adc_bits - 1)
    rows = []
    for at in sensor.definition.working_points:
        signal = transfer.signal(at)
        if not 0.0 <= signal <= full or abs(transfer.value(signal) - at) > 1e-3 * (1 + abs(at)):
            continue  # this sensor cannot read so far
        step = None
        if transfer.signal_unit == "V":
            step = abs(transfer.value(signal + count / 2) - transfer.value(signal - count / 2))
        rows.append(Resolution(at, signal, step, _is_beyond(transfer, signal)))
    return tuple(rows)


def fault_limits(definition: SensorFunction, transfer: Transfer, full: float) -> FaultLimits:
    """Return limits half-way between the ends of the working range and the rails.

    Parameters
    ----------
    definition : SensorFunction
        Its range is the working range, as far as the data cover it.
    transfer : Transfer
        The sensor.
    full : float
        End of the input's range. [V or Hz]
    """
    if transfer.signal_unit == "Hz":
        low, high = transfer.known
        span = high - low
        return FaultLimits(
            low - 0.1 * span if low > 0.1 * span else None,
            high + 0.2 * span,
            "no pulses: supply, wire or sensor",
            "more pulses than it can give: fuel it cannot read (water), or interference",
        )
    ends = [transfer.signal(v) for v in _ends(definition, transfer)]
    low, high = max(0.0, min(ends)), min(full, max(ends))
    warm_low = transfer.value(low) > transfer.value(high)
    two_wire = isinstance(transfer, Thermistor)
    below, above = low / 2.0, (high + full) / 2.0
    return FaultLimits(
        below if low > _LEAST_GAP_SHARE * full else None,
        above if full - high > _LEAST_GAP_SHARE * full else None,
        _limit_words(
            low > _LEAST_GAP_SHARE * full,
            "signal shorted to ground, or no pull-up"
            if two_wire and warm_low
            else "signal or supply open, or shorted to ground",
        ),
        _limit_words(
            full - high > _LEAST_GAP_SHARE * full,
            "wire or connector open"
            if two_wire
            else "sensor ground open, or signal shorted to supply",
        ),
    )


def _limit_words(room: bool, meaning: str) -> str:
    return meaning if room else "the working range reaches the end of the input: no limit can tell"


def _ends(definition: SensorFunction, transfer: Transfer) -> tuple[float, float]:
    """Return the working range: the function's, and for lines and tables not beyond the data."""
    if isinstance(transfer, Thermistor):
        return definition.lower, definition.upper
    known = sorted(transfer.value(s) for s in transfer.known)
    return max(definition.lower, known[0]), min(definition.upper, known[1])


def what_ifs(sensor: SensorEntry) -> tuple[WhatIf, ...]:
    """Return what a thermistor would read behind other pull-ups, without one, or with a bad wire.

    Other sensors have no pull-up that matters: nothing is returned for them.
    """
    transfer = sensor.made()
    if not isinstance(transfer, Thermistor):
        return ()
    truth = sensor.definition.working_points
    resistances = [transfer.curve.resistance_ohm(t) for t in truth]
    hot, cold = rail_readings(transfer)

    def readings(pull_up_ohm: float) -> tuple[float, ...]:
        return tuple(
            min(hot, max(cold, transfer.value(divider_v(r, pull_up_ohm, transfer.supply_v))))
            for r in resistances
        )

    others = [
        WhatIf(f"pull-up really {ohm:g} Ω", readings(ohm))
        for ohm in USUAL_PULL_UPS_OHM
        if abs(ohm / transfer.pull_up_ohm - 1.0) > 0.03
    ]
    ends = [
        WhatIf("pull-up off (input pulled to ground), or wire shorted", tuple(hot for _ in truth)),
        WhatIf("wire open, or pull-up off and the input floats high", tuple(cold for _ in truth)),
    ]
    return tuple(others + ends)


def rail_readings(transfer: Thermistor) -> tuple[float, float]:
    """Return what the controller shows at 0 V and at the supply: its hottest and coldest. [°C]

    The controller's table ends where the sensor's function ends, −40 and 150 °C.
    """
    return (
        min(150.0, max(-40.0, transfer.value(0.0))),
        min(150.0, max(-40.0, transfer.value(transfer.supply_v))),
    )


def _remarks(
    sensor: SensorEntry, definition: SensorFunction, transfer: Transfer, worst: float
) -> list[str]:
    remarks = []
    if isinstance(transfer, Thermistor):
        known = sorted(transfer.value(s) for s in transfer.known)
        remarks.append(
            "Switch the input's pull-up on: a two-wire sensor gives no voltage without it."
        )
        for place, residual in zip(transfer.points, transfer.residuals, strict=True):
            if abs(residual) > 1.5 and abs(residual) == worst:
                remarks.append(
                    f"The point at {quantity(place[1], '°C')} lies {temperature_step(abs(residual), 1)} from a smooth "
                    "thermistor curve through all: read it again."
                )
        if len(transfer.data) == 1:
            remarks.append(
                f"A Beta is given between {celsius(25, bare=True)} and {celsius(85)}; colder and hotter it is a "
                "guess. "
                "Three measured points are better."
            )
        elif known[0] > -10.0:
            remarks.append(
                f"The data begin at {celsius(known[0])}; cold starts rest on extrapolation. "
                "A point from the freezer helps."
            )
    elif transfer.points and worst > 0.02 * abs(definition.upper - definition.lower):
        remarks.append(
            f"A point lies {worst:.{definition.decimals}f} {definition.unit} from the line: "
            "is the sensor really linear?"
        )
    if sensor.provenance == "assumed":
        remarks.append("Where the data come from is not said: they count as assumed.")
    return remarks


AxisOf = Literal["signal", "resistance"]


def value_table(
    sensor: SensorEntry, of: AxisOf = "signal", axis: Sequence[float] | None = None
) -> tuple[TableRow, ...]:
    """Return the sensor's readings on the controller's own axis.

    Parameters
    ----------
    sensor : SensorEntry
        A sensor.
    of : {"signal", "resistance"}
        What the controller's axis holds; resistance only for a thermistor.
    axis : sequence of float or None
        Its breakpoints; 17 even ones over the input's range by default. [V, Hz or Ω]

    Raises
    ------
    InputRefused
        If the axis cannot be.
    """
    transfer = sensor.made()
    if of == "resistance" and not isinstance(transfer, Thermistor):
        raise field_refused("of", "Only a thermistor has a table over resistance.")
    if axis is None:
        axis = _usual_axis(sensor, transfer, of)
    if len(axis) < 1:
        raise field_refused("axis", "The axis needs at least one breakpoint.")
    axis = [a for a, _ in checked_points([(a, 0.0) for a in axis], "axis", 1, "breakpoint", "")]
    rows = []
    for at in axis:
        signal = at
        if of == "resistance" and isinstance(transfer, Thermistor):
            if at < 0.0:
                raise field_refused("axis", "A resistance cannot be negative.")
            signal = divider_v(at, transfer.pull_up_ohm, transfer.supply_v)
        rows.append(TableRow(at, float(transfer.value(signal)), _is_beyond(transfer, signal)))
    return tuple(rows)


def _usual_axis(sensor: SensorEntry, transfer: Transfer, of: AxisOf) -> list[float]:
    full = full_signal(sensor, transfer)
    if of == "resistance" and isinstance(transfer, Thermistor):
        warm, cold = transfer.curve.resistance_ohm(130.0), transfer.curve.resistance_ohm(-35.0)
        ohms = np.geomspace(min(warm, cold), max(warm, cold), 17)
        return [significant(ohm, 3) for ohm in ohms]
    low = 0.02 * full if isinstance(transfer, Thermistor) else 0.0
    high = full - low
    if transfer.signal_unit == "Hz":
        low, high = transfer.known
    step = (high - low) / 16.0
    digits = max(0, 2 - math.floor(math.log10(max(step, 1e-9))))
    return [round(low + i * step, digits) for i in range(17)]

"""The unit of a column: as stated, or judged by the size of its values; and what that makes of it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..quantities import linear_conversion, recognise_unit, written_unit
from ..trade import PETROL_GAUGE_AFR
from .columns import Column, ColumnUse
from .names import ChannelName
from .words import normalise_name

#: What is said of a temperature whose unit nobody stated.
MAYBE_CELSIUS = "read as °C; say so if it is °F"


def use_as(column: Column, channel: ChannelName, why: str = "") -> ColumnUse:
    """Return how a column is read as a channel, its unit stated or judged by its values."""
    if not channel.dimension:
        return ColumnUse(column, channel.channel, f"{channel.title}: {why}.")
    if column.clock:
        return ColumnUse(column, channel.channel, f"{channel.title}: {why}; clock times read.")
    unit, reason = _unit_of(column, channel)
    if channel.dimension == "mixture":
        return replace(
            _mixture_use(column, channel, unit, f"{channel.title}: {why}; {reason}."),
            unit=written_unit(unit),
        )
    factor, offset = linear_conversion(unit, channel.unit)
    if channel.channel == "lambda_correction_pct":
        base, note = _correction_base(column)
        offset, reason = offset - base, reason + note
    text = f"{channel.title}: {why}; {reason}."
    return ColumnUse(column, channel.channel, text, factor, offset, unit=written_unit(unit))


def _mixture_use(column: Column, channel: ChannelName, unit: str, reason: str) -> ColumnUse:
    if unit == "air_fuel_ratio":
        return ColumnUse(column, channel.channel, reason, factor=1.0 / PETROL_GAUGE_AFR)
    return ColumnUse(column, channel.channel, reason, inverse=unit == "equivalence_ratio")


def _unit_of(column: Column, channel: ChannelName) -> tuple[str, str]:
    """Return the unit of a column, stated or judged by the size of its values, and why."""
    stated = recognise_unit(column.unit) if column.unit else None
    if stated is not None and stated[0] == channel.dimension:
        if channel.dimension == "mixture" and not column.chosen:
            return _check_mixture(column, stated[1])
        how = "chosen" if column.chosen else "stated"
        return stated[1], f"unit {column.unit.strip()} {how}"
    guess = _GUESSES.get(channel.dimension)
    if guess is None or not column.sample.size:
        return channel.unit, "no unit stated, read in the usual one"
    unit, reason = guess(column, channel)
    return unit, f"no unit stated, {reason}"


def _check_mixture(column: Column, unit: str) -> tuple[str, str]:
    """Return the mixture unit, corrected where the values cannot be what the head says."""
    middle = float(np.median(column.sample)) if column.sample.size else 1.0
    if unit == "lambda" and middle > 4.0:
        return "air_fuel_ratio", "named lambda but the size of an air–fuel ratio; 14.7 taken as 1"
    if unit == "air_fuel_ratio" and middle < 3.0:
        return "lambda", "named air–fuel ratio but the size of lambda"
    if unit == "air_fuel_ratio":
        return unit, "air–fuel ratio on the petrol scale, 14.7 taken as lambda 1"
    return unit, f"unit {column.unit.strip()} stated"


def _guess_mixture(column: Column, channel: ChannelName) -> tuple[str, str]:
    middle = float(np.median(column.sample))
    if middle > 4.0:
        return "air_fuel_ratio", "the size of an air–fuel ratio; 14.7 taken as lambda 1"
    if any(
        word in normalise_name(column.name).split()
        for word in ("phi", "equivalence", "eq", "richesse")
    ):
        return "equivalence_ratio", "named as an equivalence ratio"
    return "lambda", "the size of lambda"


def _guess_temperature(column: Column, channel: ChannelName) -> tuple[str, str]:
    low, high = float(np.min(column.sample)), float(np.max(column.sample))
    if low > 200.0 and high < 420.0:
        return "kelvin", f"values {low:.0f} to {high:.0f} can only be kelvin"
    if high > 130.0:
        return "degF", f"values up to {high:.0f} can only be °F"
    return "degC", MAYBE_CELSIUS


def _guess_pressure(column: Column, channel: ChannelName) -> tuple[str, str]:
    high = float(np.max(column.sample))
    limits: tuple[tuple[float, str], ...]
    if channel.channel == "map_kpa":
        limits = ((4.5, "bar"), (26.0, "psi"), (32.0, "inHg"), (600.0, "kPa"), (6000.0, "millibar"))
    else:
        limits = ((12.0, "bar"), (120.0, "psi"), (1200.0, "kPa"), (12_000.0, "millibar"))
    for limit, unit in limits:
        if high <= limit:
            return unit, f"values up to {high:g} look like {unit}"
    return "Pa", f"values up to {high:g} look like Pa"


def _guess_time(column: Column, channel: ChannelName) -> tuple[str, str]:
    values = column.sample
    name = normalise_name(column.name).split()
    if channel.channel == "pulse_ms":
        if float(np.max(values)) > 200.0:
            return "us", "values above 200 look like microseconds"
        return "ms", "read as milliseconds"
    if "ms" in name or "millis" in name or "milliseconds" in name:
        return "ms", "named in milliseconds"
    steps = np.diff(values)
    step = float(np.median(steps[steps > 0])) if (steps > 0).any() else 1.0
    if step > 4000.0:
        return "us", f"steps of {step:g} look like microseconds"
    if step >= 5.0:
        return "ms", f"steps of {step:g} look like milliseconds"
    return "s", f"steps of {step:g} look like seconds"


def _guess_share(column: Column, channel: ChannelName) -> tuple[str, str]:
    return "percent", "read as percent"


def _correction_base(column: Column) -> tuple[float, str]:
    """Return what a correction column reads without correction: 0, or 100 in some logs. [%]"""
    middle = float(np.median(column.sample)) if column.sample.size else 0.0
    return (100.0, "; values about 100 taken as no correction") if 70 < middle < 130 else (0.0, "")


def _guess_voltage(column: Column, channel: ChannelName) -> tuple[str, str]:
    if float(np.median(column.sample)) > 1000.0:
        return "mV", "the size of millivolts"
    return "V", "read as volts"


_GUESSES = {
    "mixture": _guess_mixture,
    "temperature": _guess_temperature,
    "pressure": _guess_pressure,
    "time": _guess_time,
    "share": _guess_share,
    "voltage": _guess_voltage,
}

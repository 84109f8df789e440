"""What the steps of a run sheet ask for, read from a live engine instead of typed."""

from __future__ import annotations

import math

import numpy as np

from ..logs import after_newest_pause
from ..quantities import FloatArray
from ..supply.prime import BUILT_SHARE
from .limits import LAMBDA_READS
from .watch import Channels

#: A reading is the middle of so long. [s]
_READ_OVER_S = 1.0
#: What was read as it turned is offered for so long after it. [s]
_KEPT_S = 20.0
#: As the shaft runs down speed and pressure have begun to fall: so long before it stands is left out. [s]
_RUNS_DOWN_S = 0.3
#: What a link can give, by the key of the reading.
_LIVE = (
    "oil_kpa",
    "charging_v",
    "coolant_c",
    "lambda",
    "cranking_rpm",
    "rail_kpa",
    "to_pressure_s",
    "fall_kpa",
)
#: A fall is read after the pump has stood for so long. [s]
_FALLS_OVER_S = 6.0
#: The starter turns it between these. [1/min]
_CRANKS_RPM = (40.0, 450.0)


def readings_now(channels: Channels) -> dict[str, float | None]:
    """Return the readings of a run sheet that a live engine can give, by their key.

    Parameters
    ----------
    channels : mapping of str to ndarray
        Canonical channels of the last minutes, ``time_s`` among them.

    Returns
    -------
    dict of str to float or None
        Each in the unit of its reading; None as long as it cannot be read.
    """
    nothing = dict.fromkeys(_LIVE)
    time_s = channels.get("time_s")
    if time_s is None or len(time_s) < 2:
        return nothing
    first = after_newest_pause(time_s)
    since = {name: values[first:] for name, values in channels.items()}
    if len(since["time_s"]) < 2:
        return nothing
    found = {
        **nothing,
        "oil_kpa": _middle(_turning(since), "oil_pressure_kpa"),
        "charging_v": _middle(since, "battery_v"),
        "coolant_c": _middle(since, "coolant_c"),
        "lambda": _within(_middle(since, "lambda"), *LAMBDA_READS),
        "cranking_rpm": _within(_middle(_turning(since), "rpm"), *_CRANKS_RPM),
        **_key_on(since),
    }
    return {key: None if value is None else round(value, 3) for key, value in found.items()}


def _turning(channels: Channels) -> Channels:
    """Return what was read until it last turned: whoever lets go of the starter has not lost the reading."""
    rpm, time_s = channels.get("rpm"), channels["time_s"]
    if rpm is None:
        return channels
    turned = np.flatnonzero(np.nan_to_num(rpm) > _CRANKS_RPM[0])
    if not len(turned) or time_s[-1] - time_s[turned[-1]] > _KEPT_S:
        return channels
    until_s = time_s[turned[-1]]
    if turned[-1] < len(rpm) - 1:
        until_s -= _RUNS_DOWN_S
    return {name: values[time_s <= until_s] for name, values in channels.items()}


def _middle(channels: Channels, name: str) -> float | None:
    """Return the median of a channel over the last second; None where it is not read."""
    values, time_s = channels.get(name), channels["time_s"]
    if values is None or not len(time_s):
        return None
    newest = values[time_s >= time_s[-1] - _READ_OVER_S]
    newest = newest[np.isfinite(newest)]
    return float(np.median(newest)) if len(newest) else None


def _within(value: float | None, low: float, high: float) -> float | None:
    return value if value is not None and low <= value <= high else None


def _key_on(channels: Channels) -> dict[str, float | None]:
    """Return pressure, time to it and its fall at a key-on, before anything turned."""
    pressure, rpm = channels.get("fuel_pressure_kpa"), channels.get("rpm")
    if pressure is None:
        return {}
    time_s = channels["time_s"]
    rests = np.isfinite(pressure)
    if rpm is not None:
        turned = np.flatnonzero(np.nan_to_num(rpm) > _CRANKS_RPM[0])
        if len(turned):
            rests[turned[0] :] = False
    time_s, pressure = time_s[rests], pressure[rests]
    if len(time_s) < 3:
        return {"rail_kpa": _middle(channels, "fuel_pressure_kpa")}
    top = int(np.argmax(pressure))
    built = int(np.flatnonzero(pressure >= BUILT_SHARE * pressure[top])[0])
    return {
        "rail_kpa": float(pressure[top]),
        "to_pressure_s": float(time_s[built] - time_s[0]),
        "fall_kpa": _fall(time_s[top:], pressure[top:]),
    }


def _fall(time_s: FloatArray, pressure: FloatArray) -> float | None:
    """Return how much is lost in a minute from where the pump stopped; None as long as nobody can tell. [kPa]"""
    if time_s[-1] - time_s[0] < _FALLS_OVER_S:
        return None
    # The pump stops somewhat after the most: what is flat until then says nothing of a leak.
    half = (time_s[0] + time_s[-1]) / 2.0
    late = time_s >= half
    if late.sum() < 3 or pressure[late].min() <= 0.0:
        return float(max(0.0, pressure[0] - pressure[-1]))
    slope = float(np.polyfit(time_s[late], np.log(pressure[late]), 1)[0])
    return float(max(0.0, pressure[0] * (1.0 - math.exp(60.0 * min(0.0, slope)))))

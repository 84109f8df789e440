"""The watch list of a running engine: live values, each with the limit that stops the work."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..quantities import FloatArray
from ..sentences import quantity
from .limits import (
    CHARGING_V,
    HOTTEST_C,
    LAMBDA_READS,
    LEANEST,
    OIL_WITHIN_S,
    PRIME_SHARE,
    RUNNING_OIL_KPA,
    RUNS_AWAY_RPM,
    UNDER_LOAD_KPA,
)

Level = Literal["none", "good", "look", "stop"]
Channels = Mapping[str, FloatArray]
BoolArray = NDArray[np.bool_]

#: Above this it runs. [1/min]
_RUNS_RPM = 400.0
#: What is out of bounds for less than this is a flicker. [s]
_HOLDS_S = 0.6
#: It flares as it starts; the alternator needs a moment. [s]
_FLARES_S, _CHARGES_AFTER_S = 5.0, 10.0
_AT_REST_PCT = 1.5
#: Where no target is logged. [1/min]
_USUAL_IDLE_RPM = 1000.0


@dataclass(frozen=True)
class Watched:
    """One line of the watch list.

    Attributes
    ----------
    key, title, unit : str
        Channel, wording, canonical unit.
    value : float or None
        The newest reading; None where nothing is read. [unit]
    level : {"none", "good", "look", "stop"}
    sentence : str
        What to do; names the limit and the reading where it stops.
    """

    key: str
    title: str
    unit: str
    value: float | None
    level: Level
    sentence: str


@dataclass(frozen=True)
class _Now:
    """The last seconds of an engine."""

    channels: Channels
    rail_kpa: float
    rev_limit_rpm: float

    def last(self, key: str) -> float | None:
        values = self.channels.get(key)
        if values is None or not len(values) or not np.isfinite(values[-1]):
            return None
        return float(values[-1])

    def holds(
        self, key: str, beyond: Callable[[FloatArray], BoolArray], since_s: float = _HOLDS_S
    ) -> bool:
        """Say whether a channel has been beyond something in every sample of the last seconds."""
        values, time_s = self.channels.get(key), self.channels["time_s"]
        if values is None or time_s[-1] - time_s[0] < since_s:
            return False
        inside = values[time_s >= time_s[-1] - since_s]
        return bool(len(inside) > 1 and np.isfinite(inside).all() and beyond(inside).all())

    @property
    def ran_s(self) -> float:
        """How long it has run without a break. [s]"""
        rpm, time_s = self.channels.get("rpm"), self.channels["time_s"]
        if rpm is None:
            return 0.0
        stood = np.flatnonzero(~(rpm > _RUNS_RPM))
        if not len(stood):
            return float(time_s[-1] - time_s[0])
        return float(time_s[-1] - time_s[stood[-1]])


def watch(channels: Channels, *, rail_kpa: float, rev_limit_rpm: float) -> tuple[Watched, ...]:
    """Return the watch list of the last seconds of an engine.

    Parameters
    ----------
    channels : mapping of str to ndarray
        Canonical channels with ``time_s``; a quarter of a minute is enough.
    rail_kpa, rev_limit_rpm : float
        Fuel pressure that is wanted, and the engine's own limit. [kPa, 1/min]
    """
    time_s = channels.get("time_s")
    if time_s is None or not len(time_s):
        return ()
    now = _Now(channels, rail_kpa, rev_limit_rpm)
    return tuple(line for judge in _LINES for line in judge(now))


def _line(
    now: _Now, key: str, title: str, unit: str, *ways: tuple[bool, Level, str]
) -> Iterator[Watched]:
    if key not in now.channels:
        return
    value = now.last(key)
    for is_so, level, sentence in ways:
        if is_so:
            yield Watched(key, title, unit, value, level, sentence)
            return
    # A figure of an engine that stands is no good news.
    is_told = value is not None and now.ran_s > 0.0
    yield Watched(key, title, unit, value, "good" if is_told else "none", "")


def _speed(now: _Now) -> Iterator[Watched]:
    target = now.last("idle_target_rpm")
    fastest = (_USUAL_IDLE_RPM if target is None else target) + RUNS_AWAY_RPM
    pedal = now.last("throttle_pct")
    rests = pedal is not None and pedal < _AT_REST_PCT
    runs_away = rests and now.ran_s > _FLARES_S and now.holds("rpm", lambda v: v > fastest)
    over = now.holds("rpm", lambda v: v > now.rev_limit_rpm, 0.2)
    read = quantity(now.last("rpm") or 0.0, "rpm", 0)
    return _line(
        now, "rpm", "Engine speed", "rpm",
        (over, "stop", f"STOP. {read}, and the engine's limit is {quantity(now.rev_limit_rpm, 'rpm', 0)}. Fuel off."),
        (runs_away, "stop", f"STOP. {read} with the pedal at rest, above {quantity(fastest, 'rpm', 0)} it runs away. Fuel off."),
    )  # fmt: skip


def _oil(now: _Now) -> Iterator[Watched]:
    read = quantity(now.last("oil_pressure_kpa") or 0.0, "kPa", 0)
    is_low = now.ran_s > OIL_WITHIN_S and now.holds(
        "oil_pressure_kpa", lambda v: v < RUNNING_OIL_KPA
    )
    limit = quantity(RUNNING_OIL_KPA, "kPa", 0)
    return _line(
        now, "oil_pressure_kpa", "Oil pressure", "kPa",
        (is_low, "stop", f"STOP. Oil pressure is {read} after {OIL_WITHIN_S:.0f} s, at least {limit} is needed. Key off: the bearings run dry."),
    )  # fmt: skip


def _charging(now: _Now) -> Iterator[Watched]:
    read = quantity(now.last("battery_v") or 0.0, "V", 1)
    low, high = CHARGING_V
    over = now.holds("battery_v", lambda v: v > high)
    none = now.ran_s > _CHARGES_AFTER_S and now.holds("battery_v", lambda v: v < low, 3.0)
    return _line(
        now, "battery_v", "Charging", "V",
        (over, "stop", f"STOP. Charging is {read}, at most {quantity(high, 'V', 0)} is allowed. Key off: too much kills the controller."),
        (none, "look", f"{read}: it does not charge. Look at the alternator, its wire and its lamp."),
    )  # fmt: skip


def _coolant(now: _Now) -> Iterator[Watched]:
    read = quantity(now.last("coolant_c") or 0.0, "°C", 0)
    hot = now.holds("coolant_c", lambda v: v > HOTTEST_C)
    return _line(
        now, "coolant_c", "Coolant", "°C",
        (hot, "stop", f"STOP. Coolant is {read}, at most {quantity(HOTTEST_C, '°C', 0)} is allowed. Key off and let it stand; never open a hot cap."),
    )  # fmt: skip


def _mixture(now: _Now) -> Iterator[Watched]:
    low, high = LAMBDA_READS
    value, pressure = now.last("lambda"), now.last("map_kpa")
    usable = value is not None and low <= value <= high
    loaded = (
        pressure is not None
        and now.holds("map_kpa", lambda v: v > UNDER_LOAD_KPA)
        and now.ran_s > _FLARES_S
    )
    lean = usable and loaded and now.holds("lambda", lambda v: v > LEANEST)
    read = quantity(value or 0.0, "lambda", 2)
    if value is not None and not usable:
        return iter(
            (Watched("lambda", "Mixture", "lambda", None, "none", "The sensor does not read yet."),)
        )
    return _line(
        now, "lambda", "Mixture", "lambda",
        (lean, "stop", f"STOP. Lambda is {read} under load, at most {quantity(LEANEST, 'lambda', 2)} is allowed. Off the pedal: fuel first."),
    )  # fmt: skip


def _fuel(now: _Now) -> Iterator[Watched]:
    least = PRIME_SHARE[0] * now.rail_kpa
    read = quantity(now.last("fuel_pressure_kpa") or 0.0, "kPa", 0)
    low = now.ran_s > 2.0 and now.holds("fuel_pressure_kpa", lambda v: v < least)
    return _line(
        now, "fuel_pressure_kpa", "Fuel pressure", "kPa",
        (low, "look", f"Fuel pressure is {read}, at least {quantity(least, 'kPa', 0)} is wanted: pump, filter, regulator, voltage at the pump."),
    )  # fmt: skip


_LINES = (_speed, _oil, _charging, _coolant, _mixture, _fuel)

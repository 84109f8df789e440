"""Limits of full load, entered before the first pull, and every pull against them."""

from __future__ import annotations

from dataclasses import dataclass, fields
from typing import Literal

import numpy as np

from ..engine import EngineSpec
from ..errors import FieldProblem, InputRefused
from ..quantities import FloatArray
from ..sentences import celsius, kilopascal, mixture
from .pull import PullRecord

LimitKey = Literal[
    "boost_kpa",
    "leanest",
    "exhaust_c",
    "knock",
    "duty_pct",
    "pressure_falls_kpa",
    "charge_c",
    "speed_rpm",
]

#: Title, unit, bounds; common practice, no source.
_FIELDS: dict[LimitKey, tuple[str, str, float, float]] = {
    "boost_kpa": ("Manifold pressure, absolute", "kPa", 60.0, 600.0),
    "leanest": ("Lambda, the leanest", "", 0.6, 1.2),
    "exhaust_c": ("Exhaust gas", "°C", 500.0, 1100.0),
    "knock": ("Knock events in a pull", "", 0.0, 100.0),
    "duty_pct": ("Injector duty", "%", 30.0, 100.0),
    "pressure_falls_kpa": ("Fuel pressure below its target", "kPa", 5.0, 150.0),
    "charge_c": ("Charge air", "°C", 20.0, 150.0),
    "speed_rpm": ("Engine speed", "rpm", 1500.0, 20_000.0),
}
#: Lambda counts as lean where it stays beyond its limit over so many bins.
_BINS = 2


@dataclass(frozen=True)
class PullLimits:
    """What no pull may pass.

    Attributes
    ----------
    boost_kpa, leanest, exhaust_c, knock, duty_pct, pressure_falls_kpa, charge_c, speed_rpm : float
        [kPa, –, °C, –, %, kPa, °C, 1/min]
    """

    boost_kpa: float
    leanest: float
    exhaust_c: float
    knock: float
    duty_pct: float
    pressure_falls_kpa: float
    charge_c: float
    speed_rpm: float

    def check(self) -> PullLimits:
        """Return them once they can be.

        Raises
        ------
        InputRefused
            With a sentence for each that cannot.
        """
        problems = [
            FieldProblem(f"limits.{key}", f"{title} of {getattr(self, key):g} {unit} is no limit: {low:g} to {high:g} {unit}.")
            for key, (title, unit, low, high) in _FIELDS.items()
            if not low <= getattr(self, key) <= high
        ]  # fmt: skip
        if problems:
            raise InputRefused(problems)
        return self


def proposed_limits(spec: EngineSpec) -> PullLimits:
    """Return limits as they are usual for an engine; somebody has to enter them. (common practice, no source)

    Parameters
    ----------
    spec : EngineSpec
    """
    boosted = spec.boost_kpa > 0.0
    return PullLimits(
        boost_kpa=round(spec.top_map_kpa + (10.0 if boosted else 8.0)), leanest=0.88 if boosted else 0.95, exhaust_c=950.0, knock=2.0,
        duty_pct=88.0, pressure_falls_kpa=25.0, charge_c=80.0 if boosted else 65.0, speed_rpm=spec.rev_limit_rpm,
    )  # fmt: skip


@dataclass(frozen=True)
class Exceeded:
    """A limit that a pull passed.

    Attributes
    ----------
    key, title, unit : str
    value, limit : float
        [unit]
    rpm : float
        Where. [1/min]
    sentence : str
    """

    key: LimitKey
    title: str
    unit: str
    value: float
    limit: float
    rpm: float
    sentence: str


@dataclass(frozen=True)
class Feed:
    """What duty and pressure are judged by.

    Attributes
    ----------
    injections_per_cycle, turns_per_cycle : float
        [–]
    rail_kpa, barometric_kpa : float
        Pressure that is wanted, against the air, and the air's. [kPa]
    manifold_referenced : bool
        Whether it follows the manifold.
    """

    injections_per_cycle: float
    turns_per_cycle: float
    rail_kpa: float
    barometric_kpa: float
    manifold_referenced: bool

    def duty_pct(self, pull: PullRecord) -> FloatArray:
        """Return the injector duty over a pull. [%]"""
        cycle_ms = 60_000.0 * self.turns_per_cycle / np.maximum(pull.speed, 1.0)
        return np.asarray(100.0 * pull.channel("pulse_ms") * self.injections_per_cycle / cycle_ms)

    def missing_kpa(self, pull: PullRecord) -> FloatArray:
        """Return by how much fuel pressure stays below its target over a pull. [kPa]"""
        wanted = np.full(len(pull.rpm), self.rail_kpa)
        if self.manifold_referenced:
            boost = pull.channel("map_kpa") - self.barometric_kpa
            wanted = wanted + np.where(np.isfinite(boost), boost, 0.0)
        return np.asarray(wanted - pull.channel("fuel_pressure_kpa"))


def passed_limits(pull: PullRecord, limits: PullLimits, feed: Feed) -> tuple[Exceeded, ...]:
    """Return every limit that a pull passed, the worst bin of each.

    Parameters
    ----------
    pull : PullRecord
    limits : PullLimits
    feed : Feed
    """
    series: dict[LimitKey, FloatArray] = {
        "boost_kpa": pull.channel("map_kpa"), "leanest": _held(pull.channel("lambda")), "exhaust_c": pull.channel("exhaust_c"),
        "duty_pct": feed.duty_pct(pull), "pressure_falls_kpa": _held(feed.missing_kpa(pull)), "charge_c": pull.channel("intake_c"),
        "speed_rpm": pull.speed,
    }  # fmt: skip
    events = pull.knock_events
    if np.isfinite(events).any():
        # The limit is of a whole pull: it stands where it knocked most.
        series["knock"] = np.where(events == np.nanmax(events), np.nansum(events), 0.0)
    found = []
    for key, values in series.items():
        limit = float(getattr(limits, key))
        if not np.isfinite(values).any() or float(np.nanmax(values)) <= limit:
            continue
        place = int(np.nanargmax(values))
        title, unit, _, _ = _FIELDS[key]
        value = float(values[place])
        found.append(Exceeded(
            key, title, unit, round(value, 3), limit, pull.rpm[place],
            f"{title}: {_said(key, value)} at {pull.rpm[place]:.0f} rpm, the limit is {_said(key, limit)}.",
        ))  # fmt: skip
    return tuple(found)


def _said(key: LimitKey, value: float) -> str:
    """Return a value of a limit as a quantity, where a job may show it in other units."""
    unit = _FIELDS[key][1]
    if unit == "kPa":
        return kilopascal(value)
    if unit == "°C":
        return celsius(value)
    if key == "leanest":
        return mixture(value)
    return f"{value:.0f} {unit}".strip()


def _held(values: FloatArray) -> FloatArray:
    """Return what a value stays above over neighbouring bins: one bin alone is noise."""
    out = values.copy()
    for i in range(len(values)):
        out[i] = (
            np.nanmin(values[i : i + _BINS]) if np.isfinite(values[i : i + _BINS]).any() else np.nan
        )
    return out


def titles() -> dict[str, tuple[str, str]]:
    """Return title and unit of every limit."""
    return {f.name: _FIELDS[f.name][:2] for f in fields(PullLimits)}  # type: ignore[index]


def measured_beyond(limits: PullLimits, pulls: list[PullRecord], feed: Feed) -> list[str]:
    """Return what was measured already beyond limits that are entered now, in sentences.

    Parameters
    ----------
    limits : PullLimits
    pulls : list of PullRecord
        That were driven.
    feed : Feed
    """
    told = dict.fromkeys(
        one.sentence for pull in pulls for one in passed_limits(pull, limits, feed)
    )
    return list(told)

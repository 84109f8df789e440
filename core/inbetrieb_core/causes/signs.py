"""What single figures of a start say about the causes, each with its sentence."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from ..charge.cold_fuel import WARM_C
from ..engine import EngineSpec
from ..sentences import kilopascal, number
from .observed import Observed

#: Cranking without pressure or position longer than this is their doing.
LATE_S = 0.8
RESTED_LOW_V = 12.0
_PRESSURE_THERE, _PRESSURE_LOW = 0.85, 0.9
#: Weather moves air pressure by so much (one standard deviation); a logged one is as good as its sensor.
_WEATHER_KPA, _SENSOR_KPA, _OFFSET_KPA = 1.3, 0.8, 7.0
#: How well a pressure sensor on the rail tells (assumed). [%]
_GAUGE_PCT = 2.0
#: A sensor that has not woken after so long is not going to.
WAKES_WITHIN_S = 75.0
_ROUGH, _HUNTS_RPM = 0.035, 120.0
#: Pressure that falls by more with the flow is a pump or filter at its end; a good sensor at idle
#: flow tells of cut fuel within this, exhaust delay included. [–, s]
_FALLS, _LAGS_S = 0.08, 1.8


@dataclass(frozen=True)
class Size:
    """How large a cause would be.

    Attributes
    ----------
    value, error : float
        Above zero where it is more, longer or reads too much; and its standard error. [`unit`]
    unit : {"%", "ms", "kPa"}
        Percent against what was entered or commanded.
    """

    value: float
    error: float
    unit: str


@dataclass(frozen=True)
class Sign:
    """One piece of evidence.

    Attributes
    ----------
    cause : str
        For or against which cause.
    log_odds : float
        ln(how likely it is with the cause ÷ without). [–]
    sentence : str
        What was seen; empty where it only speaks against.
    size : Size or None
        How large the cause would be by this evidence, where it tells.
    """

    cause: str
    log_odds: float
    sentence: str = ""
    size: Size | None = None


def slow_crank_rpm(coolant_c: float) -> float:
    """Return the cranking speed below which battery and starter come before any table.

    Parameters
    ----------
    coolant_c : float
        Coolant temperature. [°C]

    Returns
    -------
    float
        110 warm, falling to 70 at −20 °C. [1/min]
    """
    return min(110.0, max(70.0, 90.0 + coolant_c))


def low_while_cranking_v(coolant_c: float) -> float:
    """Return the battery voltage below which cranking is starved.

    Parameters
    ----------
    coolant_c : float
        Coolant temperature. [°C]

    Returns
    -------
    float
        8.5 warm, falling to 7.3 in frost. [V]
    """
    return min(8.5, max(7.3, 8.5 + 0.05 * coolant_c))


def signs_of(observed: Observed, spec: EngineSpec) -> tuple[Sign, ...]:
    """Return everything that single figures say.

    Parameters
    ----------
    observed : Observed
        One log.
    spec : EngineSpec
        The engine.
    """
    return (
        *_starter(observed),
        *_position(observed),
        *_supply(observed),
        *_manifold_sensor(observed, spec),
        *_wideband(observed),
        *_roughness(observed),
    )


def _starter(o: Observed) -> Iterator[Sign]:
    low_v, limit = o.battery_low_v, slow_crank_rpm(o.coolant_c)
    if not o.turned:
        yield Sign("no-crank", 9.0, "The engine never turned.")
        return
    yield Sign("no-crank", -9.0)
    rest_low = o.battery_rest_v is not None and 5.0 < o.battery_rest_v < RESTED_LOW_V
    crank_low = low_v is not None and low_v < low_while_cranking_v(o.coolant_c)
    slow = o.cranking_rpm is not None and o.cranking_rpm < limit
    if o.turned_slowly and o.cranking_rpm is None:
        for cause in ("weak-battery", "slow-starter"):
            yield Sign(cause, 5.0, "The starter turned it slowly and it did not fire.")
    if rest_low or crank_low:
        at_rest = "" if o.battery_rest_v is None else f"{number(o.battery_rest_v, 3)} V at rest"
        cranking = "" if low_v is None else f"{number(low_v, 3)} V cranking"
        seen = ", ".join(part for part in (at_rest, cranking) if part)
        yield Sign("weak-battery", 7.0, f"The battery is low: {seen}.")
    elif o.battery_rest_v is not None or low_v is not None:
        yield Sign("weak-battery", -3.0)
    if slow and o.cranking_rpm is not None:
        text = f"It was cranked at {o.cranking_rpm:.0f} rpm; at least {limit:.0f} rpm is needed."
        known_good = low_v is not None and not crank_low and not rest_low
        yield Sign("slow-starter", 7.5 if known_good else 4.0, text)
        if low_v is None and o.battery_rest_v is None:
            yield Sign("weak-battery", 5.0, text)
    elif o.cranking_rpm is not None:
        yield Sign("slow-starter", -3.0)


def _position(o: Observed) -> Iterator[Sign]:
    if o.fired:
        yield Sign("no-sync", -9.0)
    if o.no_position:
        yield Sign("no-sync", 8.0, "The crankshaft's position was never found while it cranked.")
        return
    if o.sync_late_s is None:
        return
    if o.sync_late_s > LATE_S:
        yield Sign(
            "late-sync",
            7.0,
            f"The crankshaft's position was known only after {number(o.sync_late_s, 2)} s of "
            "cranking.",
        )
    else:
        yield Sign("late-sync", -4.0)
        yield Sign("no-sync", -4.0)


def _supply(o: Observed) -> Iterator[Sign]:
    if o.pressure_late_s is not None:
        weak = o.pressure_share is None or o.pressure_share < _PRESSURE_THERE
        if weak and o.pressure_late_s > LATE_S:
            share = (
                ""
                if o.pressure_share is None
                else f" (on average {100 * o.pressure_share:.0f} % in the first second)"
            )
            yield Sign(
                "late-pressure",
                7.0,
                f"Fuel pressure took {number(o.pressure_late_s, 2)} s of cranking to build{share}.",
            )
        else:
            yield Sign("late-pressure", -4.0)
    if o.rail_falls is not None and o.rail_falls > _FALLS:
        yield Sign(
            "low-pressure",
            6.0,
            f"Fuel pressure falls by {100 * o.rail_falls:.0f} % as the flow grows.",
        )
    if o.rail_share is not None:
        if o.rail_share < _PRESSURE_LOW:
            yield Sign(
                "low-pressure",
                7.0,
                f"Fuel pressure is {100 * o.rail_share:.0f} % of what was entered.",
                Size(round(100.0 * (o.rail_share - 1.0), 1), _GAUGE_PCT, "%"),
            )
        else:
            yield Sign("low-pressure", -5.0)


def _manifold_sensor(o: Observed, spec: EngineSpec) -> Iterator[Sign]:
    if o.rest_map_kpa is None:
        return
    air = spec.barometric_kpa if o.barometric_kpa is None else o.barometric_kpa
    spread = _WEATHER_KPA if o.barometric_kpa is None else _SENSOR_KPA
    off = o.rest_map_kpa - air
    wide = math.hypot(spread, _OFFSET_KPA)
    odds = 0.5 * (off / spread) ** 2 - 0.5 * (off / wide) ** 2 - math.log(wide / spread)
    sentence = (
        f"At rest the manifold sensor reads {kilopascal(o.rest_map_kpa)}, the air pressure "
        f"{'logged' if o.barometric_kpa is not None else 'of the place'} is {kilopascal(air)}."
    )
    size = Size(round(off, 1), round(spread, 1), "kPa")
    yield Sign("map-sensor", min(9.0, max(-4.0, odds)), sentence if odds > 0 else "", size)


def _wideband(o: Observed) -> Iterator[Sign]:
    if o.lambda_lag_s is not None:
        slow = o.lambda_lag_s > _LAGS_S
        yield Sign(
            "wideband-slow",
            6.0 if slow else -3.0,
            f"The wideband took {number(o.lambda_lag_s, 2)} s to tell that fuel was cut."
            if slow
            else "",
        )
    if o.lambda_alive is False and o.ran_s > WAKES_WITHIN_S:
        # Far too lean looks the same, so that an engine that idles far too fast says little.
        far_off = abs(o.idle_off_rpm or 0.0) > 250.0
        yield Sign(
            "wideband-dead",
            1.0 if far_off else 5.0,
            f"The wideband stood still for the whole {o.ran_s:.0f} s that the engine ran.",
        )
    elif o.lambda_alive:
        yield Sign("wideband-dead", -6.0)


def _roughness(o: Observed) -> Iterator[Sign]:
    # An idle far from its target hunts for other reasons.
    if o.roughness is None or abs(o.idle_off_rpm or 0.0) > _HUNTS_RPM:
        return
    warm = o.coolant_c >= WARM_C
    limit = _ROUGH if warm else 1.5 * _ROUGH
    if o.roughness > limit:
        yield Sign(
            "weak-ignition",
            min(4.0, 2.0 * o.roughness / limit),
            f"Speed jumps by {100 * o.roughness:.1f} % from one moment to the next at idle.",
        )
    else:
        yield Sign("weak-ignition", -1.5)


#: How often a start fails for a fault of fuel or spark, and for tables that stand by the engine data:
#: warm, and cold, where the data say less; and how fast tables that stand elsewhere make it likely.
_FAILS_BY_FAULT, _FAILS_WARM, _FAILS_COLD = 0.6, 0.25, 0.30
_DEPARTURE = 0.35


def failed_with(logs: Sequence[Observed]) -> tuple[Sign, ...]:
    """Return what failed starts say, as far as position, pressure and battery are not to blame.

    A hot engine with tables by its data starts; where it does not, fuel or spark is less than the
    controller believes. How far the tables in force stand from the engine data is only a measure of
    how much the tables may be blamed, never of a direction.

    Parameters
    ----------
    logs : sequence of Observed
        Of the job, the last is the one in question. Failures of one temperature repeat themselves
        and count once; each further temperature counts half.
    """
    if not _failed(logs[-1]):
        return ()
    by_place: dict[int, float] = {}
    for log in logs:
        if _failed(log):
            place = round(log.coolant_c / 15.0)
            by_place[place] = min(by_place.get(place, math.inf), _failure_odds(log))
    ordered = sorted(by_place.values(), reverse=True)
    odds = ordered[0] + 0.5 * sum(ordered[1:])
    good = _known_good(logs[-1])
    if good is None:
        return ()
    where = "" if len(ordered) == 1 else f" at {len(ordered)} temperatures"
    sentence = f"It failed{where} although {good}." if good else f"It failed{where}."
    rail = logs[-1].rail_share
    measured = rail is not None and rail > _PRESSURE_LOW
    return tuple(
        Sign(cause, odds, sentence if odds > 0.7 else "")
        for cause in ("injector-flow", "dead-time", "low-pressure", "weak-ignition", "air-leak")
        if not (cause == "low-pressure" and measured)
    )


def _known_good(o: Observed) -> str | None:
    """Return what else a start needs that was logged and good, in words; None where some was not."""
    checks = {
        "the position was known": None if o.sync_late_s is None else o.sync_late_s <= LATE_S,
        "fuel pressure was there": None
        if o.pressure_late_s is None
        else o.pressure_late_s <= LATE_S or (o.pressure_share or 0.0) >= _PRESSURE_THERE,
        "the battery was good": None
        if o.battery_low_v is None
        else o.battery_low_v >= low_while_cranking_v(o.coolant_c),
    }
    if False in checks.values():
        return None
    return ", ".join(words for words, good in checks.items() if good)


def _failed(o: Observed) -> bool:
    return (not o.ran or o.stalled) and o.turned and o.departure is not None


def _failure_odds(o: Observed) -> float:
    cold = min(1.0, max(0.0, (WARM_C - o.coolant_c) / 60.0))
    by_data = _FAILS_WARM + (_FAILS_COLD - _FAILS_WARM) * cold
    blame = 1.0 - math.exp(-0.5 * ((o.departure or 0.0) / _DEPARTURE) ** 2)
    return math.log(_FAILS_BY_FAULT / (by_data + (0.8 - by_data) * blame))

"""Spark at full load: the best advance from a sweep, and degrees to take out where it knocked."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import stdtrit

from ..errors import field_refused
from ..sentences import kilopascal
from .pull import PullRecord

#: Stay so far from the first knock; take so much out where it knocked beside what the controller took. [°] (common practice)
MARGIN_DEG, KNOCKED_DEG = 2.0, 2.0
_BAND = 0.90
_LEAST_POINTS, _LEAST_SPAN_DEG = 4, 6.0
#: The floor of a knock signal: over so much speed, so many deviations above its mean. [1/min, –]
_LENDS_RPM, _FLOOR_DEVIATIONS = 400.0, 3.0
#: Half of a parabola lies outside what was tried at most so far. [°]
_BEYOND_DEG = 2.0
#: A best that is known no better than this is not told. [°]
_WIDEST_DEG = 6.0


@dataclass(frozen=True)
class SparkPoint:
    """One point of a sweep: spark [°], torque [N·m or relative], whether it knocked."""

    spark_deg: float
    torque: float
    knocked: bool = False


@dataclass(frozen=True)
class BestSpark:
    """What a sweep tells.

    Attributes
    ----------
    told : bool
    best_deg, low_deg, high_deg : float or None
        Advance of most torque, with its 90 % band. [°]
    advised_deg : float or None
        What is advised: no more than the first knock minus the margin. [°]
    loses_pct : float or None
        What is given away against the best. [%]
    curve : tuple of (°, torque)
        The fitted parabola, for drawing.
    sentence : str
    """

    told: bool
    best_deg: float | None
    low_deg: float | None
    high_deg: float | None
    advised_deg: float | None
    loses_pct: float | None
    curve: tuple[tuple[float, float], ...]
    sentence: str


def fit_spark(
    points: Sequence[SparkPoint], fuel: str = "", knocks_from_deg: float | None = None
) -> BestSpark:
    """Return the advance of best torque at one load point.

    Parameters
    ----------
    points : sequence of SparkPoint
        Of one sweep, everything else held.
    fuel : str
        What was in the tank, for the sentence.
    knocks_from_deg : float, optional
        Where knock began, beside what the points say; it may lie between them. [°]

    Raises
    ------
    InputRefused
        If there are too few, or they cannot be.
    """
    if any(
        not (-30.0 <= p.spark_deg <= 70.0) or not math.isfinite(p.torque) or p.torque <= 0.0
        for p in points
    ):
        raise field_refused("points", "Spark lies between −30 and 70°, torque is above 0.")
    if knocks_from_deg is not None and not -30.0 <= knocks_from_deg <= 70.0:
        raise field_refused("knocks_from_deg", "Spark lies between −30 and 70°.")
    degrees, torque = (
        np.array([getattr(p, name) for p in points], dtype=float)
        for name in ("spark_deg", "torque")
    )
    if len(set(degrees.tolist())) < _LEAST_POINTS or np.ptp(degrees) < _LEAST_SPAN_DEG:
        raise field_refused(
            "points",
            f"A sweep is {_LEAST_POINTS} advances at least, {_LEAST_SPAN_DEG:.0f}° apart in all.",
        )
    heard = [] if knocks_from_deg is None else [knocks_from_deg]
    knocked = sorted([*heard, *(p.spark_deg for p in points if p.knocked)])
    ceiling = knocked[0] - MARGIN_DEG if knocked else math.inf
    on = f" on {fuel}" if fuel else ""
    centre = float(degrees.mean())
    x = degrees - centre
    basis = np.column_stack([np.ones_like(x), x, x**2])
    free = len(points) - 3
    inverse = np.linalg.inv(basis.T @ basis)
    a = inverse @ basis.T @ torque
    rest = torque - basis @ a
    variance = max(float(rest @ rest) / free if free else 0.0, (0.002 * float(torque.mean())) ** 2)
    quantile = float(stdtrit(max(1, free), 0.5 + _BAND / 2.0))
    bends = a[2] < 0.0 and abs(a[2]) > quantile * math.sqrt(variance * inverse[2, 2])
    if not bends:
        rises = a[1] > 0.0
        said = (
            "Torque still rises at the latest advance"
            if rises
            else "Torque does not bend over in this sweep"
        )
        advised = None if not knocked else min(ceiling, float(degrees.max()))
        tail = (
            f"; it knocked at {knocked[0]:.0f}°{on}: no more than {ceiling:.0f}°."
            if knocked
            else ": the best is not told. Go on in steps of 2°, listening for knock."
        )
        return BestSpark(False, None, None, None, advised, None, (), said + tail)
    best = -a[1] / (2.0 * a[2])
    slope = np.array([0.0, -1.0 / (2.0 * a[2]), a[1] / (2.0 * a[2] ** 2)])
    error = quantile * math.sqrt(max(0.0, variance * float(slope @ inverse @ slope)))
    place = best + centre
    top = float(degrees.max()) + _BEYOND_DEG
    curve = tuple((float(d), float(a[0] + a[1] * (d - centre) + a[2] * (d - centre) ** 2)) for d in np.linspace(degrees.min(), min(top, max(place + 3, degrees.max())), 25))  # fmt: skip
    if not degrees.min() - _BEYOND_DEG <= place <= top or error > _WIDEST_DEG:
        if knocked:
            said = f"It knocked at {knocked[0]:.0f}°{on}, before torque bends over: no more than {ceiling:.0f}°."
        else:
            said = "The best lies outside what was tried: not told. Sweep on towards it in steps of 2°, listening for knock."
        return BestSpark(False, None, None, None, ceiling if knocked else None, None, curve, said)
    advised = min(place, ceiling)
    peak = float(a[0] + a[1] * best + a[2] * best**2)
    loses = -100.0 * float(a[2]) * (advised - place) ** 2 / peak
    said = f"Most torque at {place:.1f} ± {error:.1f}°{on}."
    if knocked:
        said += f" It knocked at {knocked[0]:.0f}°: {advised:.1f}° keeps {MARGIN_DEG:.0f}° from it" + (f" and gives {loses:.1f} % away." if loses > 0.05 else ".")  # fmt: skip
    else:
        said += f" {advised:.1f}° is advised; no knock was noted."
    return BestSpark(True, round(place, 2), round(place - error, 2), round(place + error, 2), round(advised, 2), round(loses, 2), curve, said)  # fmt: skip


@dataclass(frozen=True)
class KnockCell:
    """Degrees to take out of the spark table.

    Attributes
    ----------
    rpm, map_kpa : float
        Place. [1/min, kPa]
    take_deg : float
        [°]
    pulls : int
        In which it knocked there.
    sentence : str
    """

    rpm: float
    map_kpa: float
    take_deg: float
    pulls: int
    sentence: str


@dataclass(frozen=True)
class HeardKnock:
    """Knock that somebody heard, or read off: at a speed and pressure. [1/min, kPa]"""

    rpm: float
    map_kpa: float


def knock_floor(quiet: Sequence[PullRecord]) -> dict[float, float]:
    """Return what the knock counter shows without knock, by speed: mean plus three deviations of quiet pulls.

    Parameters
    ----------
    quiet : sequence of PullRecord
        Pulls without knock: little load, much retard, good fuel.
    """
    rpm = np.concatenate([pull.speed for pull in quiet]) if quiet else np.empty(0)
    steps = np.concatenate([pull.knock_events for pull in quiet]) if quiet else np.empty(0)
    known = np.isfinite(steps)
    rpm, steps = rpm[known], steps[known]
    floor = {}
    for place in np.unique(rpm):
        # Neighbours lend their scatter: a few pulls of one speed show hardly any.
        near = steps[np.abs(rpm - place) <= _LENDS_RPM]
        floor[float(place)] = float(np.mean(near) + _FLOOR_DEVIATIONS * np.std(near))
    return floor


def knock_cells(
    pulls: Sequence[PullRecord], quiet: Sequence[PullRecord] = (), heard: Sequence[HeardKnock] = ()
) -> list[KnockCell]:  # fmt: skip
    """Return where it knocked and how much spark to take out there, the margin kept.

    Parameters
    ----------
    pulls : sequence of PullRecord
    quiet : sequence of PullRecord
        From which the floor of the knock signal is learned.
    heard : sequence of HeardKnock
        Typed.
    """
    floor = knock_floor(quiet)
    places: dict[tuple[float, float], list[tuple[float, int]]] = {}
    for number, pull in enumerate(pulls):
        pressure, retard = pull.channel("map_kpa"), np.abs(pull.channel("knock_deg"))
        for i, (rpm, events) in enumerate(zip(pull.rpm, pull.knock_events, strict=True)):
            taken = float(retard[i]) if np.isfinite(retard[i]) else 0.0
            knocks = np.isfinite(events) and events > max(0.5, floor.get(rpm, 0.0))
            if not knocks and taken < 0.5:
                continue
            place = (
                round(rpm / 250.0) * 250.0,
                round(float(pressure[i]) / 10.0) * 10.0 if np.isfinite(pressure[i]) else 0.0,
            )
            places.setdefault(place, []).append((taken, number))
    for one in heard:
        places.setdefault(
            (round(one.rpm / 250.0) * 250.0, round(one.map_kpa / 10.0) * 10.0), []
        ).append((0.0, -1))
    cells = []
    for (rpm, load), events in sorted(places.items()):
        take = KNOCKED_DEG + max(taken for taken, _ in events)
        pulls_of = len({number for _, number in events})
        where = f"{rpm:.0f} rpm" + (f" and {kilopascal(load)}" if load else "")
        cells.append(KnockCell(rpm, load, round(take, 1), pulls_of, f"Take {take:.1f}° out at {where}: it knocked in {pulls_of} pull{'s' if pulls_of > 1 else ''}; the margin stays out."))  # fmt: skip
    return cells

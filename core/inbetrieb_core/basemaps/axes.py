"""Breakpoints chosen for an engine: dense where it lives."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from ..charge.charge_temperature import INTAKE_C
from ..charge.idle_air import warm_idle_rpm
from ..engine import EngineSpec
from ..errors import FieldProblem, InputRefused
from ..tables import AXES, Axis, AxisError, make_axis

THREE_POINTS_C = (-7.0, 18.0, 77.0)  # 20, 65 and 170 °F (common practice, no source)
FULL_CURVE_C = (-30.0, -20.0, -10.0, 0.0, 10.0, 20.0, 30.0, 40.0, 55.0, 70.0, 85.0, 100.0)
ETHANOL_PCT = (0.0, 30.0, 60.0, 85.0)
BATTERY_V = (8.0, 9.0, 10.0, 11.0, 12.0, 13.0, 14.0, 15.0, 16.0)


def choose_axes(
    spec: EngineSpec, wanted: Mapping[str, Sequence[float]] | None = None
) -> dict[str, Axis]:
    """Return the axes of all tables.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    wanted : mapping of axis name to breakpoints, optional
        The controller's own axes; those not given are chosen for the engine.

    Returns
    -------
    dict of str to Axis
        Every axis of :data:`~inbetrieb_core.tables.AXES`.

    Raises
    ------
    InputRefused
        If given breakpoints do not rise, are out of bounds or name no axis.
    """
    points: dict[str, Sequence[float]] = {
        "coolant_c": THREE_POINTS_C if spec.schools.curve == "three_point" else FULL_CURVE_C,
        "rpm": _speed_points(spec),
        "map_kpa": _pressure_points(spec),
        "battery_v": BATTERY_V,
        "ethanol_pct": ETHANOL_PCT,
        "intake_c": INTAKE_C,
    }
    problems = []
    for name, given in (wanted or {}).items():
        if name not in AXES:
            problems.append(FieldProblem(f"axes.{name}", f"There is no axis named {name}."))
            continue
        points[name] = given
    result: dict[str, Axis] = {}
    for name, given in points.items():
        try:
            result[name] = make_axis(name, given)
        except AxisError as error:
            problems.append(
                FieldProblem(f"axes.{name}", f"{str(error)[0].upper()}{error.args[0][1:]}.")
            )
    if problems:
        raise InputRefused(problems)
    return result


def _speed_points(spec: EngineSpec, count: int = 16) -> tuple[float, ...]:
    """Return speeds: 200 apart around idle, then ever wider up to the limit. [1/min]"""
    idle = round(warm_idle_rpm(spec) / 100.0) * 100.0
    low = [idle - 300.0, idle - 100.0, idle + 100.0, idle + 300.0]
    if count < 10:  # a coarse controller still brackets idle
        low = [idle - 200.0, idle + 100.0][: max(1, count - 2)]
    if count < 3:
        return (idle, float(spec.rev_limit_rpm))[:count]
    high = np.geomspace(
        low[-1] + 300.0, max(spec.rev_limit_rpm, low[-1] + 2000.0), max(1, count - len(low))
    )
    return _apart((*low, *(float(round(point / 50.0) * 50.0) for point in high)), 50.0)[:count]


def _pressure_points(spec: EngineSpec, count: int | None = None) -> tuple[float, ...]:
    """Return manifold pressures from deep vacuum to the highest boost. [kPa]"""
    top = round(spec.barometric_kpa / 5.0) * 5.0
    boosted = spec.boost_kpa > 0.0
    steps = max(2, min(8, round(spec.boost_kpa / 20.0))) if boosted else 0
    below = 9
    if count is not None and count != below + steps:
        steps = max(1, round(count * 0.4)) if boosted else 0
        below = max(1, count - steps)
    # Filling bends most at light load, by the inverse of pressure: breakpoints stand closer there.
    natural = [float(point) for point in (np.linspace(20.0**0.5, top**0.5, below) ** 2).round()]
    if not boosted:
        return _apart(tuple(natural), 1.0)
    above = np.linspace(top, spec.barometric_kpa + spec.boost_kpa, steps + 1)[1:].round()
    return _apart((*natural, *(float(point) for point in above)), 1.0)


def _apart(points: Sequence[float], least: float) -> tuple[float, ...]:
    """Return points of which none is nearer than `least` to the one before it."""
    result: list[float] = []
    for point in points:
        if not result or point >= result[-1] + least:
            result.append(float(point))
    return tuple(result)


def thinned(points: Sequence[float], most: int) -> tuple[float, ...]:
    """Return at most so many of the breakpoints, both ends kept, the rest evenly dropped.

    Parameters
    ----------
    points : sequence of float
        Rising. [unit of the axis]
    most : int
        [–]
    """
    if len(points) <= most:
        return tuple(points)
    keep = np.linspace(0, len(points) - 1, most).round().astype(int)
    return tuple(float(points[i]) for i in keep)


@dataclass(frozen=True)
class AxisLimit:
    """What a controller allows on an axis.

    Attributes
    ----------
    most_points : int
        [–]
    points : tuple of float
        Where it fixes them; empty where they are free. [unit of the axis]
    """

    most_points: int
    points: tuple[float, ...] = ()


#: A map finer than this is more than anybody fills with evidence, whatever the controller holds.
_FINEST = {"rpm": 24, "map_kpa": 24, "coolant_c": 16, "battery_v": 12, "ethanol_pct": 6}


def controller_points(
    spec: EngineSpec, limits: Mapping[str, AxisLimit]
) -> dict[str, tuple[float, ...]]:
    """Return breakpoints for an engine within what a controller allows.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    limits : mapping of axis name to AxisLimit
        Axes that the controller says nothing of are chosen freely.

    Returns
    -------
    dict of str to tuple of float
        To be given to :func:`choose_axes`.
    """
    usual = choose_axes(spec)
    result: dict[str, tuple[float, ...]] = {}
    for name, limit in limits.items():
        if limit.points:
            result[name] = limit.points
        elif name == "rpm":
            result[name] = _speed_points(spec, min(limit.most_points, _FINEST[name]))
        elif name == "map_kpa":
            result[name] = _pressure_points(spec, min(limit.most_points, _FINEST[name]))
        else:
            result[name] = thinned(usual[name].points, limit.most_points)
    return result

"""Breakpoints chosen for an engine: dense where it lives."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np

from ..engine import EngineSpec
from ..errors import FieldProblem, InputRefused
from ..tables import AXES, Axis, AxisError, make_axis
from .idle import warm_idle_rpm

THREE_POINTS_C = (-7.0, 18.0, 77.0)  # 20, 65 and 170 °F (common practice, no source)
FULL_CURVE_C = (-30.0, -20.0, -10.0, 0.0, 10.0, 20.0, 30.0, 40.0, 55.0, 70.0, 85.0, 100.0)
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


def _speed_points(spec: EngineSpec) -> tuple[float, ...]:
    """Return 16 speeds: 200 apart around idle, then ever wider up to the limit. [1/min]"""
    idle = round(warm_idle_rpm(spec) / 100.0) * 100.0
    low = [idle - 300.0, idle - 100.0, idle + 100.0, idle + 300.0]
    high = np.geomspace(low[-1] + 300.0, max(spec.rev_limit_rpm, low[-1] + 2000.0), 12)
    return (*low, *(float(round(point / 50.0) * 50.0) for point in high))


def _pressure_points(spec: EngineSpec) -> tuple[float, ...]:
    """Return manifold pressures from deep vacuum to the highest boost. [kPa]"""
    top = round(spec.barometric_kpa / 5.0) * 5.0
    natural = [float(point) for point in np.linspace(20.0, top, 9).round()]
    if spec.boost_kpa <= 0.0:
        return tuple(natural)
    steps = max(2, min(8, round(spec.boost_kpa / 20.0)))
    boosted = np.linspace(top, spec.barometric_kpa + spec.boost_kpa, steps + 1)[1:].round()
    return (*natural, *(float(point) for point in boosted))

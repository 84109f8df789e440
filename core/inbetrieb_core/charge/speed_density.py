"""The air an engine breathes, by speed and density."""

from __future__ import annotations

from typing import TypeVar

from ..air import DRY_AIR_GAS_CONSTANT
from ..engine import EngineSpec
from ..quantities import ZERO_CELSIUS_K, FloatArray

Numbers = TypeVar("Numbers", float, FloatArray)


def speed_density_gps(
    spec: EngineSpec, filling_pct: Numbers, rpm: Numbers, map_kpa: Numbers, charge_c: Numbers
) -> Numbers:
    """Return the air an engine breathes, at one point or at many. [g/s]

    Parameters
    ----------
    spec : EngineSpec
        The engine.
    filling_pct : float or ndarray
        Filling against the manifold's density. [%]
    rpm, map_kpa, charge_c : float or ndarray
        Speed, absolute manifold pressure, temperature of the charge. [1/min, kPa, °C]

    Notes
    -----
    m = η·p·V/(R·T)·n/60/turns: the ideal gas; Heywood, Internal Combustion Engine Fundamentals, ch. 2.
    """
    per_cycle = map_kpa * spec.displacement_l / (DRY_AIR_GAS_CONSTANT * (charge_c + ZERO_CELSIUS_K))
    return filling_pct / 100.0 * per_cycle * rpm / 60.0 / spec.turns_per_cycle

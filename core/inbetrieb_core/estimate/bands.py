"""How far a generated value may be off: the width of what is assumed, as a band that holds with 90 %.

Start tables take the width that the estimate begins with: one definition. Of what is chosen and not
found out (limits, targets of mixture and idle, settings) there is no band.
"""

from __future__ import annotations

import math

import numpy as np

from ..charge.filling import Filling
from ..charge.valve_flow import mach_index_per_rpm
from ..engine import EngineSpec
from ..tables.definitions import SPARK_MAPS, VE_MAPS
from .coordinates import COORDINATES, widened_by

#: 90 % of a normal distribution lie within so many standard deviations.
_BAND = 1.645
#: Filling of an engine nobody has measured: at full load about its torque peak; more above the peak by its
#: logarithm, for a rotor and for each class of cam (common practice, no source). [ln]
_FILLING, _ABOVE_PEAK, _ROTOR, _BY_CAM = 0.07, 0.16, 0.04, 0.03
#: Of what residual gas takes of a filling, what the clearance holds and what flows back are known to (common practice,
#: no source); below the pressure nothing more is told. [–, –, kPa]
_LEFT, _FLOWS_BACK, _LEAST_KPA = 0.2, 0.6, 15.0
#: The same above the peak where bore and stroke tell what the valves let past. [ln]
_VALVES_KNOWN = 0.11
#: Advance; dead time assumed and entered; dwell; prime beside cranking fuel. [°, ln, ms, ln, ln]
_SPARK_DEG, _DEAD_ASSUMED, _DEAD_ENTERED_MS, _DWELL, _PRIME = 3.0, 0.14, 0.03, 0.12, 0.5


def band_of(spec: EngineSpec, key: str, value: float, *place: float) -> tuple[float, float] | None:
    """Return within which a generated value's truth lies with 90 %.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    key : str
        Of the table.
    value : float
        What was generated. [unit of the table]
    place : float
        Where, on each axis of the table. [unit of the axis]

    Returns
    -------
    tuple of float, or None
        Low and high, None for what is chosen. [unit of the table]
    """
    if key in VE_MAPS:
        spread = _filling_spread(spec, *place)
        return value * math.exp(-_BAND * spread), value * math.exp(_BAND * spread)
    if key in SPARK_MAPS:
        return value - _BAND * _SPARK_DEG, value + _BAND * _SPARK_DEG
    if key == "dead_time":
        if not spec.injectors.dead_time_assumed:
            return max(0.0, value - _BAND * _DEAD_ENTERED_MS), value + _BAND * _DEAD_ENTERED_MS
        return value * math.exp(-_BAND * _DEAD_ASSUMED), value * math.exp(_BAND * _DEAD_ASSUMED)
    if key == "dwell":
        return value * math.exp(-_BAND * _DWELL), value * math.exp(_BAND * _DWELL)
    if key == "prime_pulse":
        return value * math.exp(-_BAND * _PRIME), value * math.exp(_BAND * _PRIME)
    coordinate = COORDINATES.get(key)
    if coordinate is None:
        return None
    wide = _BAND * widened_by(spec, key) * float(coordinate.spread_at(np.array([place[0]]))[0])
    middle = float(coordinate.to_scale(value))
    low, high = (float(coordinate.from_scale(middle + side * wide)) for side in (-1.0, 1.0))
    # No engine needs less than nothing on top of a warm one's fuel.
    return (max(low, 100.0) if key == "warm_up_enrichment" else max(low, 0.0)), high


def _filling_spread(spec: EngineSpec, rpm: float, map_kpa: float) -> float:
    """Return the standard deviation of a generated filling. [ln]"""
    above = max(0.0, math.log(max(rpm, 1.0) / spec.torque_peak_rpm))
    by_speed = _ABOVE_PEAK if mach_index_per_rpm(spec) is None else _VALVES_KNOWN
    parts = [
        _FILLING,
        _loss_spread(Filling.of(spec), rpm, map_kpa),
        by_speed * above,
        _BY_CAM * spec.cam_wildness,
    ]
    if spec.cycle == "rotary":
        parts.append(_ROTOR)
    return math.hypot(*parts)


def _loss_spread(filling: Filling, rpm: float, map_kpa: float) -> float:
    """Return the standard deviation of a filling by what is not known of its loss y (VE·p = s·p − y). [ln]

    Full load is what the formula is anchored at: the loss counts by what it takes beyond it.
    """
    loss_kpa = math.hypot(_LEFT * filling.left_kpa, _FLOWS_BACK * filling.flows_back_at_kpa(rpm))
    beyond = max(0.0, 100.0 / max(map_kpa, _LEAST_KPA) - 100.0 / filling.barometric_kpa)
    return loss_kpa * beyond / filling.ve_pct(rpm, map_kpa)

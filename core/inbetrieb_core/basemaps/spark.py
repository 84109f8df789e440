"""Ignition: a conservative advance to start an unknown engine on."""

from __future__ import annotations

import functools
import math
from typing import NamedTuple

from ..charge.idle_air import warm_idle_rpm
from ..charge.idle_region import IDLE_ENDS_RPM, idle_share, ramp
from ..engine import EngineSpec

#: What is trusted of the formula at its ends. [°]
SPARK_LEAST_DEG, SPARK_MOST_DEG = 2.0, 38.0
#: Later under load where an engine is held there for long (common practice, no source). [°]
_LATER_USE = {"road": 0.0, "towing": 1.5, "stationary": 1.5, "competition": 0.0}
#: Degrees taken out for each kPa of boost, by how warm the charge is (common practice, no source).
PER_BOOST_KPA = {"none": 0.13, "air": 0.10, "water": 0.09}


def spark_deg(spec: EngineSpec, rpm: float, map_kpa: float) -> float:
    """Return ignition advance without any claim to knock margin.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    rpm : float
        Shaft speed. [1/min]
    map_kpa : float
        Manifold pressure, absolute. [kPa]

    Returns
    -------
    float
        Advance before top dead centre, 2 to 38. [°]

    Notes
    -----
    The sum of :func:`spark_parts`: rises with speed to the torque peak, more at light load, less
    for compression and boost, a little more for ethanol; idle 14 ° to 19 ° by cam (common
    practice, no source).
    """
    return min(SPARK_MOST_DEG, max(SPARK_LEAST_DEG, sum(spark_parts(spec, rpm, map_kpa))))


def idle_spark_deg(spec: EngineSpec) -> float:
    """Return the advance in the middle of the idle region. [°]"""
    return 5.0 if spec.cycle == "rotary" else spec.by_cam(14.0, 18.0, 19.0)


class SparkParts(NamedTuple):
    """What the advance is the sum of. [°]"""

    start: float
    speed: float
    light_load: float
    compression: float
    boost: float
    fuel: float
    use: float
    bore: float
    rotor: float
    idle: float


def spark_parts(spec: EngineSpec, rpm: float, map_kpa: float) -> SparkParts:
    """Return ignition advance as what it is the sum of, before it is held at 2 and 38. [°]

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    rpm : float
        Shaft speed. [1/min]
    map_kpa : float
        Manifold pressure, absolute. [kPa]
    """
    away = _away_parts(spec, rpm, map_kpa)
    share = idle_spark_share(spec, rpm, map_kpa)
    return away._replace(idle=share * (idle_spark_deg(spec) - sum(away)))


def idle_spark_share(spec: EngineSpec, rpm: float, map_kpa: float) -> float:
    """Return how far the advance at a place is that of idle, 0 to 1. [–]

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    rpm : float
        Shaft speed. [1/min]
    map_kpa : float
        Manifold pressure, absolute. [kPa]
    """
    return idle_share(spec, rpm, map_kpa, _wider(spec))


@functools.lru_cache(maxsize=256)  # the same for every cell of a map
def _wider(spec: EngineSpec) -> float:
    """Return how much wider than usual idle is blended into the spark map, 0 to 1: the more there
    is to climb from idle advance, the longer the way, so that no step is felt. [–]"""
    there = sum(_away_parts(spec, warm_idle_rpm(spec) + IDLE_ENDS_RPM, 0.4 * spec.barometric_kpa))
    climb = abs(there - idle_spark_deg(spec))
    return min(1.0, max(0.0, (climb - 8.0) / 16.0))


def _away_parts(spec: EngineSpec, rpm: float, map_kpa: float) -> SparkParts:
    """Return advance away from idle as what it is the sum of. [°]"""
    barometric = spec.barometric_kpa
    climb = ramp(math.log(max(rpm, 400.0)), math.log(600.0), math.log(spec.torque_peak_rpm))
    loaded = ramp(map_kpa, 0.7 * barometric, 0.95 * barometric)
    flame = 0.0 if spec.bore_mm is None else min(20.0, max(-20.0, spec.bore_mm - 86.0))
    return SparkParts(
        start=9.0,
        speed=16.0 * climb,
        light_load=0.16 * max(0.0, min(55.0, barometric - map_kpa)),
        compression=-1.2 * (spec.compression_ratio - 9.5),
        boost=-PER_BOOST_KPA[spec.charge_cooling] * max(0.0, map_kpa - barometric),
        fuel=3.0 * spec.ethanol_volume_share,
        use=-_LATER_USE[spec.use] * loaded,
        bore=0.06 * flame,
        rotor=-3.0 if spec.cycle == "rotary" else 0.0,
        idle=0.0,
    )

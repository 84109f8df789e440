"""Mixture target and ignition: conservative values to start an unknown engine on."""

from __future__ import annotations

import functools
import math

from ..engine import EngineSpec
from .idle import warm_idle_rpm
from .terms import Term, total


def _ramp(value: float, start: float, end: float) -> float:
    """Return 0 below `start`, 1 above `end`, and a smooth step between."""
    share = min(1.0, max(0.0, (value - start) / (end - start)))
    return share * share * (3.0 - 2.0 * share)


#: Above warm idle: where the idle region begins to end, and where it has ended. [1/min]
_IDLE_FADES_RPM, _IDLE_ENDS_RPM = 250.0, 700.0


def _idle_share(spec: EngineSpec, rpm: float, map_kpa: float, wider: float = 0.0) -> float:
    """Return how far a place belongs to idle, 1 in its middle and 0 outside; `wider` up to 1. [–]"""
    idle = warm_idle_rpm(spec)
    slow = 1.0 - _ramp(rpm, idle + _IDLE_FADES_RPM, idle + _IDLE_ENDS_RPM + 1500.0 * wider)
    ends = 0.72 + 0.08 * wider
    closed = 1.0 - _ramp(map_kpa, 0.50 * spec.barometric_kpa, ends * spec.barometric_kpa)
    return slow * closed


def lambda_target(spec: EngineSpec, rpm: float, map_kpa: float) -> float:
    """Return the mixture target.

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
        Lambda: idle 0.94 (rich school) or 1.0, cruise 1.0, full load 0.87, boost down to
        0.78 (common practice, no source). [–]
    """
    return total(lambda_terms(spec, rpm, map_kpa))


#: Richest mixture a generated table asks for. [–]
RICHEST_LAMBDA = 0.78


def lambda_terms(spec: EngineSpec, rpm: float, map_kpa: float) -> tuple[Term, ...]:
    """Return the mixture target as the terms it is the sum of. [–]

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    rpm : float
        Shaft speed. [1/min]
    map_kpa : float
        Manifold pressure, absolute. [kPa]
    """
    barometric = spec.barometric_kpa
    full = 0.87 - 0.02 * _ramp(rpm, spec.torque_peak_rpm, spec.rev_limit_rpm)
    full -= _HARDER_USE[spec.use]
    load = (full - 1.0) * _ramp(map_kpa, 0.62 * barometric, 0.97 * barometric)
    boost = -0.0009 * max(0.0, map_kpa - barometric)
    boost = max(boost, RICHEST_LAMBDA - 1.0 - load)
    idle = 0.94 if spec.schools.idle_mixture == "rich" else 1.0
    share = _idle_share(spec, rpm, map_kpa)
    return (
        Term("cruise", 1.0, "stoichiometric at light load"),
        Term(
            "load",
            (1.0 - share) * load,
            f"towards {full:.2f} between {0.62 * barometric:.0f} and {0.97 * barometric:.0f} kPa",
        ),
        Term("boost", (1.0 - share) * boost, "0.09 richer for each 100 kPa above barometric"),
        Term(
            "idle",
            share * (idle - 1.0),
            f"{spec.schools.idle_mixture} school, lambda {idle:g}; this cell belongs "
            f"{100.0 * share:.0f} % to idle",
        ),
    )


#: Richer and later under load where an engine is held there for long (common practice, no
#: source): lambda, and degrees.
_HARDER_USE = {"road": 0.0, "towing": 0.02, "stationary": 0.02, "competition": 0.01}
_LATER_USE = {"road": 0.0, "towing": 1.5, "stationary": 1.5, "competition": 0.0}
#: Degrees taken out for each kPa of boost, by how warm the charge is (common practice, no source).
_PER_BOOST_KPA = {"none": 0.13, "air": 0.10, "water": 0.09}


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
    The sum of :func:`spark_terms`: rises with speed to the torque peak, more at light load, less
    for compression and boost, a little more for ethanol; idle 14 ° to 19 ° by cam (common
    practice, no source).
    """
    return min(SPARK_MOST_DEG, max(SPARK_LEAST_DEG, total(spark_terms(spec, rpm, map_kpa))))


SPARK_LEAST_DEG, SPARK_MOST_DEG = 2.0, 38.0


def idle_spark_deg(spec: EngineSpec) -> float:
    """Return the advance in the middle of the idle region. [°]"""
    return 5.0 if spec.cycle == "rotary" else spec.by_cam(14.0, 18.0, 19.0)


def spark_terms(spec: EngineSpec, rpm: float, map_kpa: float) -> tuple[Term, ...]:
    """Return ignition advance as terms, before it is held at 2 and 38. [°]

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    rpm : float
        Shaft speed. [1/min]
    map_kpa : float
        Manifold pressure, absolute. [kPa]
    """
    away = _away_terms(spec, rpm, map_kpa)
    share = _idle_share(spec, rpm, map_kpa, _wider(spec))
    idle = share * (idle_spark_deg(spec) - total(away))
    because = f"{idle_spark_deg(spec):g}° in the idle region; this cell belongs {100.0 * share:.0f} % to it"
    return (*away, Term("idle", idle, because))


@functools.lru_cache(maxsize=256)  # the same for every cell of a map
def _wider(spec: EngineSpec) -> float:
    """Return how much wider than usual idle is blended into the spark map, 0 to 1: the more there
    is to climb from idle advance, the longer the way, so that no step is felt. [–]"""
    there = total(
        _away_terms(spec, warm_idle_rpm(spec) + _IDLE_ENDS_RPM, 0.4 * spec.barometric_kpa)
    )
    climb = abs(there - idle_spark_deg(spec))
    return min(1.0, max(0.0, (climb - 10.0) / 18.0))


def _away_terms(spec: EngineSpec, rpm: float, map_kpa: float) -> list[Term]:
    """Return advance away from idle as terms. [°]"""
    barometric = spec.barometric_kpa
    climb = _ramp(math.log(max(rpm, 400.0)), math.log(600.0), math.log(spec.torque_peak_rpm))
    boosted = max(0.0, map_kpa - barometric)
    per_kpa = _PER_BOOST_KPA[spec.charge_cooling]
    loaded = _ramp(map_kpa, 0.7 * barometric, 0.95 * barometric)
    away = [
        Term("start", 9.0, "at cranking speed and full load"),
        Term("speed", 16.0 * climb, f"up to 16 at the torque peak, {spec.torque_peak_rpm:g} rpm"),
        Term(
            "light load",
            0.16 * max(0.0, min(55.0, barometric - map_kpa)),
            "0.16 for each kPa below barometric, at most 55 kPa: thin charge burns slowly",
        ),
        Term(
            "compression",
            -1.2 * (spec.compression_ratio - 9.5),
            f"−1.2 for each point above 9.5, here {spec.compression_ratio:g}",
        ),
        Term("boost", -per_kpa * boosted, f"−{per_kpa:g} for each kPa above barometric"),
        Term(
            "fuel",
            3.0 * spec.ethanol_volume_share,
            f"3 for pure ethanol, here {100.0 * spec.ethanol_volume_share:.0f} %",
        ),
    ]
    if _LATER_USE[spec.use]:
        away.append(Term("use", -_LATER_USE[spec.use] * loaded, f"held under load: {spec.use}"))
    if spec.bore_mm is not None:
        flame = 0.06 * min(20.0, max(-20.0, spec.bore_mm - 86.0))
        away.append(Term("bore", flame, f"0.06 for each mm off 86, here {spec.bore_mm:g}"))
    if spec.cycle == "rotary":
        away.append(Term("rotor", -3.0, "two plugs, long chamber"))
    return away

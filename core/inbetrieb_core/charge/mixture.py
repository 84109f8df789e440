"""The mixture target: conservative values to start an unknown engine on."""

from __future__ import annotations

from typing import NamedTuple

from ..engine import EngineSpec
from .idle_region import idle_share, ramp

#: Richest mixture a generated table asks for. [–]
RICHEST_LAMBDA = 0.78
#: Richer under load where an engine is held there for long (common practice, no source). [–]
_HARDER_USE = {"road": 0.0, "towing": 0.02, "stationary": 0.02, "competition": 0.01}
#: Manifold pressure over barometric at which the target begins and ceases to fall with load. [–]
LOAD_FROM, LOAD_TO = 0.62, 0.97


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
    return sum(lambda_parts(spec, rpm, map_kpa))


class MixtureParts(NamedTuple):
    """What the mixture target is the sum of. [–]"""

    cruise: float
    load: float
    boost: float
    idle: float


def full_load_lambda(spec: EngineSpec, rpm: float) -> float:
    """Return the mixture target at full load without boost: richer from the torque peak on.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    rpm : float
        Shaft speed. [1/min]
    """
    late = ramp(rpm, spec.torque_peak_rpm, spec.rev_limit_rpm)
    return 0.87 - 0.02 * late - _HARDER_USE[spec.use]


def idle_lambda(spec: EngineSpec) -> float:
    """Return the mixture target in the middle of the idle region, by school. [–]"""
    return 0.94 if spec.schools.idle_mixture == "rich" else 1.0


def lambda_parts(spec: EngineSpec, rpm: float, map_kpa: float) -> MixtureParts:
    """Return the mixture target as what it is the sum of. [–]

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
    loaded = ramp(map_kpa, LOAD_FROM * barometric, LOAD_TO * barometric)
    load = (full_load_lambda(spec, rpm) - 1.0) * loaded
    boost = max(-0.0009 * max(0.0, map_kpa - barometric), RICHEST_LAMBDA - 1.0 - load)
    share = idle_share(spec, rpm, map_kpa)
    away = 1.0 - share
    return MixtureParts(1.0, away * load, away * boost, share * (idle_lambda(spec) - 1.0))

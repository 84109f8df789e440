"""As how warm a wall the fuel of a cold start behaves: what this engine adds to, or takes from, its coolant.

Each thing that is known of an engine moves the temperature at which its fuel vaporises by a few kelvin;
what is not entered moves nothing. Sizes: common practice, no source; starting points, whose width is that
of the start tables (:mod:`..estimate.coordinates`).
"""

from __future__ import annotations

import math

from ..engine import EngineSpec
from ..sentences import listed

#: A point of compression above the usual 9.5, and a turn a minute above the usual 200 of cranking. [K]
_PER_COMPRESSION_POINT, _USUAL_COMPRESSION = 1.2, 9.5
_PER_CRANKING_RPM, _USUAL_CRANKING_RPM = 0.03, 200.0
#: Fuel of the winter boils earlier, that of the summer later; spray aimed at the valve, or along the wall. [K]
_SEASON_K = {"unknown": 0.0, "winter": 5.0, "summer": -4.0}
_SPRAY_K = {"unknown": 0.0, "valve": 4.0, "wall": -5.0}
#: Port and runner behind the injector usually hold so much of a cylinder's displacement; twice as much
#: wall costs so much. [–, K]
_USUAL_PORT, _PER_DOUBLE_PORT_K = 0.35, 5.0
#: Coolant and oil of a usual engine, per litre of displacement; a larger bath lags behind its walls, so
#: that these are warmer than it says once it runs. [l/l, K per l/l]
_USUAL_BATH, _PER_BATH = 6.0, 0.8
#: Coolant and oil together by one of them; as much as all that may move a running wall; less is not
#: worth a word. [–, –, K, K]
_BATH_BY_COOLANT, _BATH_BY_OIL = 1.7, 2.4
_MOST_RUNNING_K, _HEARD_K = 15.0, 0.5


def cranking_wall_c(spec: EngineSpec, coolant_c: float) -> float:
    """Return as how warm the wall behaves while cranking.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    coolant_c : float
        Coolant temperature. [°C]

    Returns
    -------
    float
        [°C]
    """
    return coolant_c + sum(_cranking_k(spec).values())


def running_wall_c(spec: EngineSpec, coolant_c: float) -> float:
    """Return as how warm the wall behaves once the engine runs.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    coolant_c : float
        Coolant temperature. [°C]

    Returns
    -------
    float
        [°C]
    """
    warmer = sum(_running_k(spec).values())
    return coolant_c + min(max(warmer, -_MOST_RUNNING_K), _MOST_RUNNING_K)


def _cranking_k(spec: EngineSpec) -> dict[str, float]:
    """Return by how much each thing warms the wall while cranking, by its name. [K]"""
    found = _fuel_and_port_k(spec)
    if spec.cycle != "rotary":
        found["compression"] = _PER_COMPRESSION_POINT * (
            spec.compression_ratio - _USUAL_COMPRESSION
        )
    if spec.cranking_rpm is not None:
        found["cranking speed"] = _PER_CRANKING_RPM * (spec.cranking_rpm - _USUAL_CRANKING_RPM)
    return found


def _running_k(spec: EngineSpec) -> dict[str, float]:
    """Return by how much each thing warms the wall once it runs, by its name. [K]"""
    found = _fuel_and_port_k(spec)
    if spec.coolant_l is not None or spec.oil_l is not None:
        bath = (spec.coolant_l or 0.0) + (spec.oil_l or 0.0)
        if spec.oil_l is None:
            bath *= _BATH_BY_COOLANT
        elif spec.coolant_l is None:
            bath *= _BATH_BY_OIL
        found["coolant and oil"] = _PER_BATH * (bath / spec.displacement_l - _USUAL_BATH)
    return found


def _fuel_and_port_k(spec: EngineSpec) -> dict[str, float]:
    found = {
        "season of the fuel": _SEASON_K[spec.fuel_season],
        "spray": _SPRAY_K[spec.injector_spray],
    }
    if spec.port_volume_cm3 is not None and not spec.wet_manifold:
        usual = _USUAL_PORT * 1000.0 * spec.chamber_l
        found["port"] = -_PER_DOUBLE_PORT_K * math.log2(spec.port_volume_cm3 / usual)
    return found


def said_of_walls(spec: EngineSpec, *, runs: bool) -> str:
    """Return what this engine adds to its coolant's temperature, in words; empty where nothing.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    runs : bool
        Whether it runs, or is cranked.
    """
    parts = _running_k(spec) if runs else _cranking_k(spec)
    heard = [name for name, warmer in parts.items() if abs(warmer) >= _HEARD_K]
    warmer = running_wall_c(spec, 0.0) if runs else cranking_wall_c(spec, 0.0)
    if not heard or abs(warmer) < _HEARD_K:
        return ""
    word = "warmer" if warmer > 0.0 else "colder"
    return f"; {listed(heard)} let it behave {abs(warmer):.0f} K {word} (assumed)"

"""What the engine is expected to do on its base maps: air, idle vacuum, power, and what is assumed of knock."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..charge.charge_temperature import idle_charge_c
from ..charge.cold_fuel import (
    LONGEST_PRIME_MS,
    MOST_CRANKING_PCT,
    cranking_need_pct,
    prime_need_ms,
)
from ..charge.idle_air import idle_air_gps, idle_map_kpa, warm_idle_rpm
from ..engine import EngineSpec
from ..sentences import celsius, kilopascal, listed
from ..supply.full_load import charge_k, full_load, power_kw
from .boost import reachable_boost_kpa
from .limits import first_limit_rpm
from .spark import spark_deg

#: Efficiency and filling of an engine nobody has measured (assumed). [–]
_POWER_BAND = 0.12
#: Octane that the knock assumptions stand on where the fuel is petrol (assumed). [RON]
_ASSUMED_OCTANE = 95
#: Above these the advance is more guess than rule: compression of a natural engine, and charge
#: temperature under boost (common practice, no source).
_HIGH_COMPRESSION, _HOT_CHARGE_K = 11.5, 345.0


#: Between these a coldest start is looked for. [°C]
_COLDEST_C, _MILD_C = -30.0, 25.0


@dataclass(frozen=True)
class LoadPoint:
    """Full load at one speed.

    Attributes
    ----------
    rpm : float
        [1/min]
    air_gps : float
        Air of the whole engine. [g/s]
    power_low_kw, power_high_kw : float
        Shaft power that can be expected. [kW]
    spark_deg : float
        Advance of the base map. [°]
    mixture : float
        Lambda target. [–]
    """

    rpm: float
    air_gps: float
    power_low_kw: float
    power_high_kw: float
    spark_deg: float
    mixture: float


@dataclass(frozen=True)
class Expected:
    """What to expect of an engine.

    Attributes
    ----------
    idle_rpm, idle_map_kpa, idle_air_gps : float
        Warm idle. [1/min], [kPa], [g/s]
    full_load : tuple of LoadPoint
        Up to the engine's own rev limit.
    power_low_kw, power_high_kw, power_rpm : float
        Peak power and where. [kW], [1/min]
    first_limit_rpm : float
        Rev limit of the first start. [1/min]
    charge_c : float
        Charge temperature at full load. [°C]
    piston_speed_m_s : float or None
        Mean, at the engine's own limit. [m/s]
    knock : tuple of str
        What the advance assumes, and what it does not know.
    cold : tuple of str
        What is to be said of starts in the cold, and of the air that the fuel map believes.
    """

    idle_rpm: float
    idle_map_kpa: float
    idle_air_gps: float
    full_load: tuple[LoadPoint, ...]
    power_low_kw: float
    power_high_kw: float
    power_rpm: float
    first_limit_rpm: float
    charge_c: float
    piston_speed_m_s: float | None
    knock: tuple[str, ...]
    cold: tuple[str, ...] = ()


def expected(spec: EngineSpec) -> Expected:
    """Return what an engine is expected to do on its base maps.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.

    Notes
    -----
    Power from the fuel that the air carries and a brake-specific consumption
    (:func:`~inbetrieb_core.supply.full_load.power_kw`), ±12 %: nobody has measured this engine.
    """
    points = tuple(_load_point(spec, float(rpm)) for rpm in _speeds(spec))
    best = max(points, key=lambda point: point.power_high_kw)
    rpm = warm_idle_rpm(spec)
    return Expected(
        rpm,
        idle_map_kpa(spec),
        idle_air_gps(spec, rpm, 85.0),
        points,
        best.power_low_kw,
        best.power_high_kw,
        best.rpm,
        first_limit_rpm(spec),
        charge_k(spec, spec.top_map_kpa) - 273.15,
        spec.piston_speed_at_limit_m_s,
        tuple(_knock(spec)),
        tuple(_cold(spec)),
    )


def coldest_start_c(spec: EngineSpec) -> float | None:
    """Return the temperature below which too little fuel vaporises to start at all.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.

    Returns
    -------
    float or None
        None where that lies below any morning, −30 °C. [°C]
    """

    def starts(coolant_c: float) -> bool:
        return cranking_need_pct(spec, coolant_c) <= MOST_CRANKING_PCT

    if starts(_COLDEST_C):
        return None
    cold = (c for c in np.arange(_COLDEST_C, _MILD_C, 1.0) if starts(float(c)))
    return float(next(cold, _MILD_C))


def _cold(spec: EngineSpec) -> list[str]:
    """Return what is to be said of cold starts, and of the air that the fuel map believes."""
    said = []
    coldest = coldest_start_c(spec)
    if coldest is not None:
        said.append(
            f"On this fuel it will not start below about {celsius(coldest)} without a block or intake "
            "heater, or starting on petrol: hardly any of it vaporises, whatever the injectors give."
        )
    longest = prime_need_ms(spec, coldest if coldest is not None else -20.0)
    if longest > LONGEST_PRIME_MS:
        said.append(
            f"Prime pulses are held at {LONGEST_PRIME_MS:.0f} ms in the cold, where the walls would take "
            f"{longest:.0f} ms: cranking fuel has to bring the rest."
        )
    said.append(
        f"Charge: the fuel map believes {celsius(idle_charge_c(20.0))} at a hot idle where the intake "
        f"sensor says {celsius(20)}."
        + (
            ""
            if spec.schools.charge == "sensor"
            else " For a controller that takes the sensor alone, choose so below: its correction goes along."
        )
    )
    return said


def _speeds(spec: EngineSpec) -> np.ndarray:
    return np.linspace(max(1000.0, 0.2 * spec.rev_limit_rpm), spec.rev_limit_rpm, 21)


def _load_point(spec: EngineSpec, rpm: float) -> LoadPoint:
    boost = reachable_boost_kpa(spec, rpm) if spec.boost_kpa > 0.0 else 0.0
    point = full_load(spec, rpm, boost)
    power = power_kw(spec, point.fuel_gps)
    return LoadPoint(
        rpm,
        point.air_gps,
        power * (1.0 - _POWER_BAND),
        power * (1.0 + _POWER_BAND),
        spark_deg(spec, rpm, point.map_kpa),
        point.mixture,
    )


def _knock(spec: EngineSpec) -> list[str]:
    """Return what the advance assumes of knock."""
    fuel = (
        f"petrol of {_ASSUMED_OCTANE} octane"
        if spec.ethanol_volume_share < 0.05
        else f"{100.0 * spec.ethanol_volume_share:.0f} % ethanol"
    )
    said = [
        f"No knock margin is known. The advance assumes {fuel}, compression "
        f"{spec.compression_ratio:g} and charge of {celsius(charge_k(spec, spec.top_map_kpa) - 273.15)} "
        f"at {kilopascal(spec.top_map_kpa)}."
    ]
    doubts = []
    if spec.compression_ratio > _HIGH_COMPRESSION and spec.ethanol_volume_share < 0.3:
        doubts.append("the compression is high for petrol")
    if charge_k(spec, spec.top_map_kpa) > _HOT_CHARGE_K:
        doubts.append("the charge is hot under boost")
    if doubts:
        said.append(f"Take two degrees more out before the first pull: {listed(doubts)}.")
    said.append("Listen for knock from the first load on, and keep the margin where it knocked.")
    return said

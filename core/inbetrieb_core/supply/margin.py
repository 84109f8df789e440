"""Supply against demand over the speed range, for petrol and for the blend in the tank."""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from ..engine import EngineSpec
from ..sentences import kilopascal
from .full_load import full_load, power_kw, speeds
from .pump import Line, PumpCurve, delivered_l_h

#: Reserve that a supply should have over full load (common practice, no source). [–]
WANTED_RESERVE = 1.2
#: How much more boost than the engine's own is looked at. [kPa]
_MORE_BOOST_KPA = 100.0


@dataclass(frozen=True)
class Supply:
    """Pump, regulator and line as fitted.

    Attributes
    ----------
    pump : PumpCurve
    line : Line
        From pump to rail.
    returns : bool
        Whether a return line runs from the rail: the regulator then sits at the rail. Without
        one it sits at the tank, and the line's loss is missing at the rail.
    voltage_v : float
        At the pump with the engine at full load. [V]
    """

    pump: PumpCurve
    line: Line
    returns: bool = True
    voltage_v: float = 13.5


@dataclass(frozen=True)
class MarginLine:
    """Demand and supply over speed with one fuel.

    Attributes
    ----------
    fuel : str
        Wording.
    ethanol_pct : float
        [%]
    rpm, demand_l_h : tuple of float
        [1/min, l/h]
    available_l_h : float
        What reaches the rail at full load. [l/h]
    reserve : float
        Available over the highest demand. [–]
    ends_at_rpm : float or None
        Speed from which the supply falls short; None if it never does. [1/min]
    ends_at_boost_kpa : float or None
        Boost at which it falls short at the hardest speed; None if not within 100 kPa above the
        engine's own, or for an engine without boost. [kPa]
    power_kw : float
        The largest power the supply carries on this fuel. [kW]
    """

    fuel: str
    ethanol_pct: float
    rpm: tuple[float, ...]
    demand_l_h: tuple[float, ...]
    available_l_h: float
    reserve: float
    ends_at_rpm: float | None
    ends_at_boost_kpa: float | None
    power_kw: float


@dataclass(frozen=True)
class SupplyMargin:
    """The supply against all fuels.

    Attributes
    ----------
    lines : tuple of MarginLine
        Petrol first, then the blend in the tank if it is another.
    pump_pressure_kpa : float
        What the pump works against at full load, gauge. [kPa]
    rail_drop_kpa : float
        Rail pressure lost at the highest demand; only without a return line. [kPa]
    beyond_data : bool
        Whether the pump's curve had to be extended.
    level : {"good", "attention", "short"}
    sentences : tuple of str
    """

    lines: tuple[MarginLine, ...]
    pump_pressure_kpa: float
    rail_drop_kpa: float
    beyond_data: bool
    level: Literal["good", "attention", "short"]
    sentences: tuple[str, ...]


def rail_gauge_kpa(spec: EngineSpec, boost_kpa: float) -> float:
    """Return rail pressure above outside air at a boost [kPa]: it rises with it if referenced. [kPa]"""
    return spec.rail_pressure_kpa + (boost_kpa if spec.manifold_referenced else 0.0)


def supply_margin(spec: EngineSpec, supply: Supply) -> SupplyMargin:
    """Return supply against demand at full load.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    supply : Supply
        As fitted.
    """
    blends = [0.0] if spec.ethanol_volume_share == 0.0 else [0.0, spec.ethanol_volume_share]
    lines = tuple(_line(replace(spec, ethanol_volume_share=share), supply) for share in blends)
    own = lines[-1]
    rail = rail_gauge_kpa(spec, spec.boost_kpa)
    flow, beyond = _available(supply, rail)
    most = max(own.demand_l_h)
    drop = 0.0 if supply.returns else supply.line.loss(most)
    pump_kpa = rail + (supply.line.loss(flow) if supply.returns else 0.0)
    level: Literal["good", "attention", "short"] = "good"
    if own.reserve < 1.0:
        level = "short"
    elif own.reserve < WANTED_RESERVE or drop > 0.05 * rail:
        level = "attention"
    return SupplyMargin(
        lines, pump_kpa, drop, beyond, level, tuple(_sentences(spec, own, drop, beyond))
    )


def _available(supply: Supply, rail_kpa: float) -> tuple[float, bool]:
    """Return what reaches the rail at a pressure. [l/h]"""
    if supply.returns:
        return delivered_l_h(supply.pump, supply.line, supply.voltage_v, rail_kpa)
    # The regulator at the tank holds the pump's own outlet; the line comes after it.
    return supply.pump.flow_l_h(supply.voltage_v, rail_kpa)


def _line(spec: EngineSpec, supply: Supply) -> MarginLine:
    rpm = speeds(spec)
    points = [full_load(spec, n) for n in rpm]
    demand = tuple(point.fuel_l_h for point in points)
    available = _available(supply, rail_gauge_kpa(spec, spec.boost_kpa))[0]
    hardest = points[int(np.argmax(demand))]
    share = spec.ethanol_volume_share
    return MarginLine(
        "petrol" if share == 0.0 else f"{100 * share:.0f} % ethanol",
        100.0 * share,
        rpm,
        demand,
        available,
        available / max(demand),
        _first_short(rpm, demand, available),
        _boost_end(spec, supply, hardest.rpm),
        power_kw(spec, available * spec.fuel.density_kg_m3 / 3600.0),
    )


def _first_short(
    rpm: tuple[float, ...], demand: tuple[float, ...], available: float
) -> float | None:
    """Return the speed at which demand first crosses the supply, between the points. [1/min]"""
    for i, wanted in enumerate(demand):
        if wanted > available:
            if i == 0:
                return rpm[0]
            share = (available - demand[i - 1]) / (wanted - demand[i - 1])
            return rpm[i - 1] + share * (rpm[i] - rpm[i - 1])
    return None


def _boost_end(spec: EngineSpec, supply: Supply, rpm: float) -> float | None:
    if spec.boost_kpa <= 0.0:
        return None
    for boost in np.arange(0.0, spec.boost_kpa + _MORE_BOOST_KPA + 0.5, 1.0):
        wanted = full_load(spec, rpm, float(boost)).fuel_l_h
        if wanted > _available(supply, rail_gauge_kpa(spec, float(boost)))[0]:
            return float(boost)
    return None


def _sentences(spec: EngineSpec, own: MarginLine, drop: float, beyond: bool) -> list[str]:
    most = max(own.demand_l_h)
    if own.reserve < 1.0:
        where = f"from {own.ends_at_rpm:.0f} rpm on" if own.ends_at_rpm else "at full load"
        sentences = [
            f"The supply falls short {where}: {most:.0f} l/h are drawn, {own.available_l_h:.0f} "
            "reach the rail. The mixture goes lean there: do not load the engine so far."
        ]
    elif own.reserve < WANTED_RESERVE:
        sentences = [
            f"The supply is enough by {100 * (own.reserve - 1):.0f} %; {100 * (WANTED_RESERVE - 1):.0f} % "
            "are wanted for a tired pump, a full filter and a low voltage."
        ]
    else:
        sentences = [f"The supply has {100 * (own.reserve - 1):.0f} % to spare at full load."]
    if own.ends_at_boost_kpa is not None and own.reserve >= 1.0:
        sentences.append(f"It would end at {kilopascal(own.ends_at_boost_kpa)} of boost.")
    if drop > 0.05 * spec.rail_pressure_kpa:
        sentences.append(
            f"Without a return line the rail loses {kilopascal(drop)} at full load: measure the pressure "
            "at the rail, or give the controller a rail pressure sensor."
        )
    if beyond:
        sentences.append("The pump's data do not reach this pressure or voltage: it is extended.")
    return sentences

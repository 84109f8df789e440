"""The parts of the simulated engine, each a small function of plain numbers."""

from __future__ import annotations

import math

_LIQUID_BACK = 0.2


def mixture_work(lambda_vapour: float, coldness: float, rpm: float) -> float:
    """Return work per gram of air relative to lambda 1, 0 where the mixture cannot burn.

    Parameters
    ----------
    lambda_vapour : float
        Lambda of the vaporised part of the fuel. [–]
    coldness : float
        0 warm, 1 at −20 °C: a cold charge narrows the lean limit. [–]
    rpm : float
        Shaft speed: at cranking speed little stirs the charge, which narrows it too. [1/min]

    Returns
    -------
    float
        Best just rich of 1; falls to 0 at about 0.38, and between 1.25 (cranking, cold) and
        1.5 (running, warm). [–]
    """
    calm = min(1.0, max(0.0, (700.0 - rpm) / 400.0))
    width = 0.50 if lambda_vapour < 0.88 else 0.64 - 0.10 * coldness - 0.14 * calm
    return max(0.0, 1.04 * (1.0 - ((lambda_vapour - 0.88) / width) ** 2))


def spark_efficiency(spark_deg: float, best_deg: float) -> float:
    """Return work relative to best ignition: a parabola around it.

    Parameters
    ----------
    spark_deg, best_deg : float
        Ignition in force, and at most torque. [°]

    Returns
    -------
    float
        0.3 to 1. [–]
    """
    return max(0.3, 1.0 - 0.0007 * (spark_deg - best_deg) ** 2)


def film_step(
    film_g: float,
    injected_g: float,
    dt_s: float,
    *,
    wall_share: float,
    time_s: float,
    vapour_share: float,
) -> tuple[float, float]:
    """Return (film, vapour into the chamber) after one combustion event.

    Parameters
    ----------
    film_g : float
        Fuel lying on the walls. [g]
    injected_g : float
        Fuel of this event. [g]
    dt_s : float
        Time since the last event. [s]
    wall_share, time_s : float
        X and τ of the film model. [–, s]
    vapour_share : float
        Share of the airborne fuel that vaporises in time. [–]

    Returns
    -------
    tuple of float
        New film mass and vapour mass. Of the airborne fuel that does not vaporise, a fifth
        returns to the film and the rest is lost past the rings or to the exhaust. [g]

    References
    ----------
    Aquino, SAE 810494.
    """
    evaporated = film_g * (1.0 - math.exp(-dt_s / time_s))
    airborne = (1.0 - wall_share) * injected_g
    liquid = airborne * (1.0 - vapour_share)
    film = film_g - evaporated + wall_share * injected_g + _LIQUID_BACK * liquid
    return film, airborne - liquid + evaporated


def starter_torque_nm(stall_nm: float, free_rpm: float, volts: float, rpm: float) -> float:
    """Return starter torque: a straight line from stall to free speed, both with voltage.

    Parameters
    ----------
    stall_nm, free_rpm : float
        At 12 V, at the crankshaft. [N·m, 1/min]
    volts : float
        At the starter. [V]
    rpm : float
        Shaft speed. [1/min]

    Returns
    -------
    float
        Torque; the overrunning clutch never brakes. [N·m]
    """
    ratio = max(volts, 0.0) / 12.0
    if ratio <= 0.0:
        return 0.0
    return max(0.0, stall_nm * ratio * (1.0 - rpm / (free_rpm * ratio)))

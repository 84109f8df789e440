"""Volumetric efficiency over speed and manifold pressure."""

from __future__ import annotations

import math

from ..engine import EngineSpec

_LOWEST_PCT, _HIGHEST_PCT = 15.0, 135.0


def full_load_ve_pct(spec: EngineSpec, rpm: float) -> float:
    """Return volumetric efficiency at outside pressure in the manifold.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    rpm : float
        Shaft speed, above 0. [1/min]

    Returns
    -------
    float
        Volumetric efficiency. [%]

    Notes
    -----
    A bell over ln(rpm / torque peak) that levels off far below the peak, where waves no longer
    matter: a wilder cam is narrower, loses at low speed and gains at the peak. Sizes as usual
    for production and mildly tuned engines (common practice, no source).
    """
    peak = 84.0 + (6.0 if spec.valves_per_chamber >= 4 or spec.cycle == "rotary" else 0.0)
    peak += 0.8 * (spec.compression_ratio - 9.5) if spec.cycle == "four_stroke" else 0.0
    peak += {"mild": 0.0, "moderate": 3.0, "wild": 6.0}[spec.cam]
    peak -= 4.0 if spec.wet_manifold else 0.0
    width = {"mild": 0.11, "moderate": 0.15, "wild": 0.21}[spec.cam]
    distance = math.log(max(rpm, 300.0) / spec.torque_peak_rpm)
    # Above the peak the intake chokes sooner than it fades below it.
    steep = 2.6 if distance > 0 else 1.0
    return peak * math.exp(-width * steep * distance**2 / (1.0 + (distance / 1.3) ** 2))


def residual_pressure_kpa(spec: EngineSpec, rpm: float) -> float:
    """Return the loss term y of the mean-value charge model, caused by residual gas.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    rpm : float
        Shaft speed, above 0. [1/min]

    Returns
    -------
    float
        Equivalent pressure; grows with overlap and falls with speed. [kPa]
    """
    at_idle = {"mild": 6.0, "moderate": 8.5, "wild": 12.0}[spec.cam]
    return at_idle * math.sqrt(800.0 / max(rpm, 400.0))


def ve_pct(spec: EngineSpec, rpm: float, map_kpa: float) -> float:
    """Return volumetric efficiency referred to manifold pressure.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    rpm : float
        Shaft speed, above 0. [1/min]
    map_kpa : float
        Manifold pressure, absolute, above 0. [kPa]

    Returns
    -------
    float
        Volumetric efficiency, 15 to 135. [%]

    References
    ----------
    Hendricks & Sorenson, SAE 900616: VE·p = s·p − y, with s chosen so that full load meets
    :func:`full_load_ve_pct`.
    """
    y = 100.0 * residual_pressure_kpa(spec, rpm)
    slope = full_load_ve_pct(spec, rpm) + y / spec.barometric_kpa
    return min(_HIGHEST_PCT, max(_LOWEST_PCT, slope - y / map_kpa))

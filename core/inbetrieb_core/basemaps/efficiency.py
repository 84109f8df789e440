"""Volumetric efficiency over speed and manifold pressure."""

from __future__ import annotations

import math

from ..engine import EngineSpec
from .terms import Term, total

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
    peak = total(peak_terms(spec))
    width = spec.by_cam(0.11, 0.15, 0.21)
    distance = math.log(max(rpm, 300.0) / spec.torque_peak_rpm)
    # Above the peak the intake chokes sooner than it fades below it.
    steep = 2.6 if distance > 0 else 1.0
    return peak * math.exp(-width * steep * distance**2 / (1.0 + (distance / 1.3) ** 2))


def peak_terms(spec: EngineSpec) -> tuple[Term, ...]:
    """Return what makes up the filling at the torque peak. [%]"""
    terms = [Term("two valves, dry intake", 84.0, "usual for production engines")]
    if spec.valves_per_chamber >= 4 or spec.cycle == "rotary":
        what = "ports" if spec.cycle == "rotary" else f"{spec.valves_per_chamber} valves"
        terms.append(Term(what, 6.0, "more area than two valves"))
    if spec.cycle == "four_stroke":
        terms.append(
            Term(
                "compression",
                0.8 * (spec.compression_ratio - 9.5),
                f"0.8 for each point above 9.5, here {spec.compression_ratio:g}",
            )
        )
    terms.append(
        Term("cam", spec.by_cam(0.0, 3.0, 6.0), f"wildness {spec.cam_wildness:.1f} of 0 to 2")
    )
    if spec.cam_lift_mm is not None:
        lift = 0.5 * min(4.0, max(-4.0, spec.cam_lift_mm - 10.0))
        terms.append(Term("valve lift", lift, f"0.5 for each mm off 10, here {spec.cam_lift_mm:g}"))
    if spec.wet_manifold:
        terms.append(Term("wet manifold", -4.0, "heated, shared runners"))
    return tuple(terms)


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
    at_idle = spec.by_cam(6.0, 8.5, 18.0)
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
    return min(_HIGHEST_PCT, max(_LOWEST_PCT, total(ve_terms(spec, rpm, map_kpa))))


def ve_slope_pct(spec: EngineSpec, rpm: float) -> float:
    """Return s of VE·p = s·p − y: what the filling tends to as residual gas stops to matter.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    rpm : float
        Shaft speed, above 0. [1/min]

    Returns
    -------
    float
        Slope. [%]
    """
    y = 100.0 * residual_pressure_kpa(spec, rpm)
    return full_load_ve_pct(spec, rpm) + y / spec.barometric_kpa


def ve_terms(spec: EngineSpec, rpm: float, map_kpa: float) -> tuple[Term, ...]:
    """Return volumetric efficiency as s − y/p, before it is held at 15 and 135. [%]

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    rpm : float
        Shaft speed, above 0. [1/min]
    map_kpa : float
        Manifold pressure, absolute, above 0. [kPa]
    """
    full, y = full_load_ve_pct(spec, rpm), residual_pressure_kpa(spec, rpm)
    return (
        Term("full load", full, f"bell over ln(rpm / torque peak {spec.torque_peak_rpm:g} rpm)"),
        Term(
            "slope beyond full load",
            ve_slope_pct(spec, rpm) - full,
            f"y / barometric: {y:.2f} kPa of residual gas over {spec.barometric_kpa:.1f} kPa",
        ),
        Term(
            "residual gas",
            -100.0 * y / map_kpa,
            f"−y / p: {y:.2f} kPa at this speed and cam over {map_kpa:g} kPa",
        ),
    )

"""Volumetric efficiency over speed and manifold pressure."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import NamedTuple

from ..engine import EngineSpec
from .valve_flow import mach_index_per_rpm, passes

#: What is trusted of the formula at its ends. [%]
VE_LEAST_PCT, VE_MOST_PCT = 15.0, 135.0
#: How fast the waves of the intake fade above the torque peak, what its valves take apart. [–]
_WAVES_ABOVE = 0.30
#: Ratio of specific heats of burned gas at the end of the exhaust stroke (Heywood, section 4.6, from memory). [–]
_BURNED_GAMMA = 1.3
#: Speed that the part of the loss is meant at which falls with speed. [1/min]
_LOSS_AT_RPM = 800.0
#: Slower than this no engine idles, and the loss is told no further. [1/min]
_LOSS_LEAST_RPM = 700.0


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
    for production and mildly tuned engines (common practice, no source). Where bore and stroke are
    known, what the valves let past above the peak follows from them: see :mod:`.valve_flow`.
    """
    return Filling.of(spec).full_load_pct(rpm)


@dataclass(frozen=True, slots=True)
class Filling:
    """What the volumetric efficiency of one engine is computed from, worked out once.

    Attributes
    ----------
    peak_pct, torque_peak_rpm : float
        Full load at the torque peak, and its place. [%, 1/min]
    chokes, fades : float
        How fast it falls above and below the peak, over the squared logarithm of speed. [–]
    mach_per_rpm : float or None
        :func:`.valve_flow.mach_index_per_rpm`; what the valves take is not in `chokes` then. [1/(1/min)]
    left_kpa, flows_back_kpa : float
        Of :func:`residual_pressure_kpa` what does not depend on speed, and the rest at 800 1/min. [kPa]
    barometric_kpa : float
        Air pressure that full load is meant at. [kPa]
    """

    peak_pct: float
    torque_peak_rpm: float
    chokes: float
    fades: float
    mach_per_rpm: float | None
    left_kpa: float
    flows_back_kpa: float
    barometric_kpa: float

    @classmethod
    def of(cls, spec: EngineSpec) -> Filling:
        """Return the filling of a checked engine."""
        mach = mach_index_per_rpm(spec)
        return cls(
            peak_pct=sum(peak_parts(spec)),
            torque_peak_rpm=spec.torque_peak_rpm,
            # Above the peak valves and ports choke, and sooner than waves fade below it.
            chokes=spec.by_cam(0.60, 0.60, 0.50) if mach is None else _WAVES_ABOVE,
            fades=spec.by_cam(0.12, 0.16, 0.21),
            mach_per_rpm=mach,
            left_kpa=spec.barometric_kpa / (_BURNED_GAMMA * (spec.compression_ratio - 1.0)),
            flows_back_kpa=spec.by_cam(5.0, 7.0, 12.0),
            barometric_kpa=spec.barometric_kpa,
        )

    def full_load_pct(self, rpm: float) -> float:
        """Return :func:`full_load_ve_pct` at a speed. [1/min → %]"""
        distance = math.log(max(rpm, 300.0) / self.torque_peak_rpm)
        width = self.chokes if distance > 0.0 else self.fades
        filled = self.peak_pct * math.exp(-width * distance**2 / (1.0 + (distance / 1.3) ** 2))
        if self.mach_per_rpm is None or distance <= 0.0:
            return filled
        at_peak = passes(self.mach_per_rpm * self.torque_peak_rpm)
        return filled * passes(self.mach_per_rpm * rpm) / at_peak

    def residual_at_kpa(self, rpm: float) -> float:
        """Return :func:`residual_pressure_kpa` at a speed. [1/min → kPa]"""
        return self.left_kpa + self.flows_back_at_kpa(rpm)

    def flows_back_at_kpa(self, rpm: float) -> float:
        """Return the part of the loss that falls with speed, at one. [1/min → kPa]"""
        return self.flows_back_kpa * _LOSS_AT_RPM / max(rpm, _LOSS_LEAST_RPM)

    def ve_pct(self, rpm: float, map_kpa: float) -> float:
        """Return :func:`ve_pct` at a speed and manifold pressure. [1/min, kPa → %]"""
        y = 100.0 * self.residual_at_kpa(rpm)
        value = self.full_load_pct(rpm) + y / self.barometric_kpa - y / map_kpa
        return min(VE_MOST_PCT, max(VE_LEAST_PCT, value))


class PeakParts(NamedTuple):
    """What the filling at the torque peak is the sum of. [%]"""

    plain: float
    ports: float
    compression: float
    cam: float
    lift: float
    manifold: float


def peak_parts(spec: EngineSpec) -> PeakParts:
    """Return what makes up the filling at the torque peak. [%]"""
    four_stroke = spec.cycle == "four_stroke"
    lift = 0.0
    # With bore and stroke the lift counts by what the valves let past.
    if spec.cam_lift_mm is not None and mach_index_per_rpm(spec) is None:
        lift = min(4.0, max(-4.0, spec.cam_lift_mm - 10.0))
    return PeakParts(
        plain=84.0,
        ports=6.0 if spec.valves_per_chamber >= 4 or not four_stroke else 0.0,
        compression=0.8 * (spec.compression_ratio - 9.5) if four_stroke else 0.0,
        cam=spec.by_cam(0.0, 3.0, 6.0),
        lift=0.5 * lift,
        manifold=-4.0 if spec.wet_manifold else 0.0,
    )


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
        Equivalent pressure; grows with overlap, falls with compression and with speed. [kPa]

    Notes
    -----
    What the exhaust left in the clearance re-expands and takes up room: p_exhaust/(γ·(r − 1)), 9 kPa at a
    compression of 9.5, at any speed (Heywood, eq. 6.2, from memory). What flows back through the overlap goes with
    the time there is for it, by the inverse of speed (Fox, Cheng and Heywood, SAE 931025, from memory): with the
    charge that warms in a hot port five more at idle with a mild cam (common practice, no source).
    """
    return Filling.of(spec).residual_at_kpa(rpm)


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
    return Filling.of(spec).ve_pct(rpm, map_kpa)


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
    parts = ve_parts(spec, rpm, spec.barometric_kpa)
    return parts.full_load + parts.beyond


class FillingParts(NamedTuple):
    """What volumetric efficiency is the sum of: s − y/p, and s as full load and the rest. [%]"""

    full_load: float
    beyond: float
    residual: float


def ve_parts(spec: EngineSpec, rpm: float, map_kpa: float) -> FillingParts:
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
    filling = Filling.of(spec)
    y = 100.0 * filling.residual_at_kpa(rpm)
    return FillingParts(filling.full_load_pct(rpm), y / spec.barometric_kpa, -y / map_kpa)

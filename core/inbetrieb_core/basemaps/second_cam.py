"""Engines with two cam profiles: the second pair of maps, and a switch-over speed to try."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from ..charge.filling import full_load_ve_pct
from ..engine import EngineSpec

_PEAK_HIGHER = 1.35  # (assumed)


def second_profile(spec: EngineSpec) -> EngineSpec:
    """Return the engine on its second cam profile: its torque peak lies a third higher up.

    Nothing else is taken to differ: overlap at idle plays no part above the switch-over.
    """
    peak = min(_PEAK_HIGHER * spec.torque_peak_rpm, 0.9 * spec.rev_limit_rpm)
    return replace(spec, torque_peak_rpm=peak, cam_profiles=1)


def switch_over_rpm(spec: EngineSpec) -> float:
    """Return the speed from which the second profile fills better at full load.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.

    Returns
    -------
    float
        On the 50 of the calibration; a first guess to be found by trying. [1/min]
    """
    second = second_profile(spec)
    speeds = np.arange(0.4 * spec.rev_limit_rpm, 0.95 * spec.rev_limit_rpm, 25.0)
    better = [s for s in speeds if full_load_ve_pct(second, s) > full_load_ve_pct(spec, s)]
    return round((better[0] if better else 0.75 * spec.rev_limit_rpm) / 50.0) * 50.0

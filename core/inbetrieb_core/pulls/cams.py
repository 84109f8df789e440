"""Where to change the cam profile: the crossing of both profiles' torque, with its band."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import stdtrit

from ..errors import field_refused
from .pull import STEP_RPM, PullRecord

_BAND = 0.90
#: A crossing known this well needs no more trying. [1/min]
_WELL_RPM = 150.0


@dataclass(frozen=True)
class CamSwitch:
    """The change-over.

    Attributes
    ----------
    told : bool
    rpm, low_rpm, high_rpm : float or None
        Where the curves cross, with a 90 % band. [1/min]
    try_rpm : tuple of float
        Speeds to try. [1/min]
    curve_rpm, low_cam, high_cam : tuple of float
        Mean torque of both profiles. [1/min, N·m]
    sentence : str
    """

    told: bool
    rpm: float | None
    low_rpm: float | None
    high_rpm: float | None
    try_rpm: tuple[float, ...]
    curve_rpm: tuple[float, ...]
    low_cam: tuple[float, ...]
    high_cam: tuple[float, ...]
    sentence: str


def cam_switch(low_cam: Sequence[PullRecord], high_cam: Sequence[PullRecord]) -> CamSwitch:
    """Return where to change from the low to the high profile.

    Parameters
    ----------
    low_cam, high_cam : sequence of PullRecord
        Pulls on each profile alone, through the speeds in between.

    Raises
    ------
    InputRefused
        If one is missing, or they share too few speeds.
    """
    if not low_cam or not high_cam:
        raise field_refused("pulls", "One pull at least on each profile alone.")
    both = [*low_cam, *high_cam]
    rpm = np.arange(max(p.rpm[0] for p in both), min(p.rpm[-1] for p in both) + 1.0, STEP_RPM)
    if len(rpm) < 8:
        raise field_refused(
            "pulls",
            "The pulls share too few speeds: each profile alone through the speeds in between.",
        )
    means, spreads = [], []
    for pulls in (low_cam, high_cam):
        rows = np.array(
            [
                np.interp(rpm, p.speed[k], p.channel("torque_nm")[k])
                for p in pulls
                if (k := np.isfinite(p.channel("torque_nm"))).sum() > 3
            ]
        )
        if not len(rows):
            raise field_refused("pulls", "A pull of these has no torque.")
        means.append(rows.mean(axis=0))
        spreads.append(rows.std(axis=0, ddof=1) if len(rows) > 1 else 0.012 * rows[0])
    smooth = [np.convolve(np.pad(m, 2, mode="edge"), np.ones(5) / 5.0, "valid") for m in means]
    gap = smooth[1] - smooth[0]
    speeds, low_mean, high_mean = (tuple(v.round(1).tolist()) for v in (rpm, *means))
    signs = np.flatnonzero((gap[:-1] < 0.0) & (gap[1:] >= 0.0))
    if not len(signs):
        better = "high" if gap.mean() > 0.0 else "low"
        return CamSwitch(False, None, None, None, (), speeds, low_mean, high_mean,
            f"The curves do not cross between {rpm[0]:.0f} and {rpm[-1]:.0f} rpm: the {better} profile makes more all through. Pull {'from lower' if better == 'high' else 'to higher'} speeds.")  # fmt: skip
    # Of several crossings the one that gives least away over all.
    areas = [float(np.where(rpm <= rpm[i], smooth[0], smooth[1]).sum()) for i in signs]
    at = int(signs[int(np.argmax(areas))])
    place = float(rpm[at] - gap[at] * STEP_RPM / (gap[at + 1] - gap[at]))
    near = slice(max(0, at - 4), at + 6)
    slope = float(np.polyfit(rpm[near], gap[near], 1)[0])
    count = (len(low_cam), len(high_cam))
    free = max(1, sum(count) - 2)
    error = float(np.sqrt(spreads[0][at] ** 2 / count[0] + spreads[1][at] ** 2 / count[1]))
    half = (
        float(stdtrit(free, 0.5 + _BAND / 2.0)) * error / max(slope, 1e-6)
        if min(count) > 1
        else 2.0 * error / max(slope, 1e-6)
    )
    low, high = max(float(rpm[0]), place - half), min(float(rpm[-1]), place + half)
    tries = () if half <= _WELL_RPM else tuple(round(v / 50.0) * 50.0 for v in (low, place, high))
    said = f"Change at {place:.0f} rpm ({low:.0f} to {high:.0f}): there the profiles make the same."
    if tries:
        said += f" Try {', '.join(f'{v:.0f}' for v in dict.fromkeys(tries))} rpm, two pulls of each, and compare."
    return CamSwitch(
        True,
        round(place),
        round(low),
        round(high),
        tuple(dict.fromkeys(tries)),
        speeds,
        low_mean,
        high_mean,
        said,
    )

"""What counts as a good start. The one definition of the limits.

The limits are common practice (no source); they are deliberately the installer's, not a
certification's.
"""

from __future__ import annotations

from ..charge.cold_fuel import WARM_C

__all__ = [
    "DIP_BELOW_TARGET_RPM",
    "FLARE_ABOVE_TARGET_RPM",
    "FLARE_WITHIN_S",
    "LAMBDA_BAND",
    "SETTLED_BAND_RPM",
    "SETTLED_BAND_SHARE",
    "SETTLED_BY_S",
    "SETTLED_FOR_S",
    "WARM_C",
    "fire_within_s",
    "settled_band_rpm",
    "slow_crank_rpm",
]

FLARE_ABOVE_TARGET_RPM = 450.0
DIP_BELOW_TARGET_RPM = 250.0
SETTLED_BAND_RPM = 80.0
SETTLED_BAND_SHARE = 0.08
SETTLED_BY_S = 12.0
SETTLED_FOR_S = 3.0
FLARE_WITHIN_S = 4.0
LAMBDA_BAND = 0.05


def fire_within_s(coolant_c: float) -> float:
    """Return the longest acceptable cranking before the first fire.

    Parameters
    ----------
    coolant_c : float
        Coolant temperature. [°C]

    Returns
    -------
    float
        1.5, or 2.5 below −5 °C. [s]
    """
    return 2.5 if coolant_c < -5.0 else 1.5


def slow_crank_rpm(coolant_c: float) -> float:
    """Return the cranking speed below which battery and starter come before any table.

    Parameters
    ----------
    coolant_c : float
        Coolant temperature. [°C]

    Returns
    -------
    float
        110 warm, falling to 70 at −20 °C. [1/min]
    """
    return min(110.0, max(70.0, 90.0 + coolant_c))


def settled_band_rpm(target_rpm: float) -> float:
    """Return half the width of the settled band: 80 rpm or 8 % of the target. [1/min]"""
    return max(SETTLED_BAND_RPM, SETTLED_BAND_SHARE * target_rpm)

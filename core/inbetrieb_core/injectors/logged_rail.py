"""Pressure across the injectors from a logged rail pressure, whatever the sensor measures it against."""

from __future__ import annotations

import numpy as np

from ..quantities import FloatArray

#: A span of manifold pressure that shows whether the rail follows it, and from which slope it does. [kPa, –]
_SPAN_KPA, _FOLLOWS = 12.0, 0.5
#: Where little flows, no pump falls away yet: this share of the lightest loads decides. [–]
_LIGHT = 0.6


def across_injectors_kpa(
    rail_kpa: FloatArray, map_kpa: FloatArray, *, wanted_kpa: float, barometric_kpa: float, manifold_referenced: bool
) -> FloatArray:  # fmt: skip
    """Return the pressure across the injectors at each reading.

    A regulator on the manifold holds the difference. A sensor with its reference on the manifold then reads one value; a
    usual gauge, against the air outside, reads the rail sink with vacuum and rise with boost. The readings tell which it is.

    Parameters
    ----------
    rail_kpa : ndarray
        As logged. [kPa]
    map_kpa : ndarray
        Manifold pressure, absolute, equally long; NaN where not known. [kPa]
    wanted_kpa : float
        Rail pressure as entered. [kPa]
    barometric_kpa : float
        Air pressure outside, absolute. [kPa]
    manifold_referenced : bool
        Whether the regulator follows manifold pressure.

    Returns
    -------
    ndarray
        Difference; as logged where manifold pressure is not known. [kPa]
    """
    above_air = map_kpa - barometric_kpa
    by_gauge = np.where(np.isfinite(above_air), rail_kpa - above_air, rail_kpa)
    if manifold_referenced and not _is_gauge(rail_kpa, map_kpa, by_gauge, wanted_kpa):
        return rail_kpa
    return np.asarray(by_gauge)


def _is_gauge(
    rail_kpa: FloatArray, map_kpa: FloatArray, by_gauge: FloatArray, wanted_kpa: float
) -> bool:
    """Say whether a rail pressure under a regulator on the manifold is read against the air outside."""
    known = np.isfinite(rail_kpa) & np.isfinite(map_kpa)
    if not known.any():
        return False
    light = known & (map_kpa <= np.quantile(map_kpa[known], _LIGHT))
    if np.ptp(map_kpa[light]) >= _SPAN_KPA:
        return bool(np.polyfit(map_kpa[light], rail_kpa[light], 1)[0] > _FOLLOWS)
    off, off_gauge = (np.median(np.abs(r[light] - wanted_kpa)) for r in (rail_kpa, by_gauge))
    return bool(off_gauge < off)

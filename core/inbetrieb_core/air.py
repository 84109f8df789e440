"""Air: the standard atmosphere and the charge in a chamber."""

from __future__ import annotations

import math

from .errors import OutOfRangeError

DRY_AIR_GAS_CONSTANT = 0.287053  # [kJ/(kg·K)], ISO 2533
STANDARD_PRESSURE_KPA = 101.325
#: State at which 100 % volumetric efficiency is defined unless the controller says otherwise.
REFERENCE_PRESSURE_KPA = 100.0
REFERENCE_CHARGE_K = 293.15
GAMMA = 1.4
_CHOKED = (2.0 / (GAMMA + 1.0)) ** (GAMMA / (GAMMA - 1.0))
_FLOW_PEAK = math.sqrt(2.0 / (GAMMA - 1.0) * (_CHOKED ** (2 / GAMMA) - _CHOKED ** (1 + 1 / GAMMA)))


def standard_pressure_kpa(altitude_m: float) -> float:
    """Return the pressure of the standard atmosphere.

    Parameters
    ----------
    altitude_m : float
        Geopotential altitude, -500 to 11 000. [m]

    Returns
    -------
    float
        Static air pressure. [kPa]

    Raises
    ------
    OutOfRangeError
        If the altitude lies outside the troposphere range above, or is NaN.

    References
    ----------
    ISO 2533:1975, troposphere: p = 101.325·(1 − 2.25577e-5·h)^5.25588.
    """
    if not -500.0 <= altitude_m <= 11_000.0:
        raise OutOfRangeError("altitude_m", altitude_m, -500.0, 11_000.0, "m")
    return float(STANDARD_PRESSURE_KPA * (1.0 - 2.25577e-5 * altitude_m) ** 5.25588)


def air_per_chamber_g(ve_pct: float, map_kpa: float, chamber_l: float, charge_k: float) -> float:
    """Return the air one chamber traps in one cycle (ideal gas).

    Parameters
    ----------
    ve_pct : float
        Volumetric efficiency, referred to manifold pressure. [%]
    map_kpa : float
        Manifold pressure, absolute. [kPa]
    chamber_l : float
        Displacement of one cylinder, or of one rotor's chamber per shaft turn. [l]
    charge_k : float
        Charge temperature, above 0. [K]

    Returns
    -------
    float
        Mass of air. [g]

    Raises
    ------
    OutOfRangeError
        If the charge temperature is not physical.
    """
    if not 150.0 <= charge_k <= 600.0:
        raise OutOfRangeError("charge_k", charge_k, 150.0, 600.0, "K")
    return ve_pct / 100.0 * map_kpa * chamber_l / (DRY_AIR_GAS_CONSTANT * charge_k)


def flow_function(pressure_ratio: float) -> float:
    """Return compressible flow through an orifice relative to choked flow.

    Parameters
    ----------
    pressure_ratio : float
        Downstream over upstream pressure. [–]

    Returns
    -------
    float
        0 at ratio 1, 1 at or below the critical ratio 0.528. [–]

    References
    ----------
    Isentropic nozzle; Heywood, Internal Combustion Engine Fundamentals, appendix C.
    """
    if pressure_ratio <= _CHOKED:
        return 1.0
    if pressure_ratio >= 1.0:
        return 0.0
    flow = pressure_ratio ** (2 / GAMMA) - pressure_ratio ** (1 + 1 / GAMMA)
    return math.sqrt(2.0 / (GAMMA - 1.0) * flow) / _FLOW_PEAK

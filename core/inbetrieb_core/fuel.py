"""Fuel: stoichiometry of blends, density, and how much of it vaporises.

Densities and air–fuel ratios of petrol and ethanol are values of the trade (from memory); the
tests check them against a combustion library.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from .errors import OutOfRangeError

PETROL_AFR = 14.7  # kg air per kg fuel (memory)
PETROL_KG_M3 = 745.0  # (memory)
ETHANOL_AFR = 9.0  # (memory)
ETHANOL_KG_M3 = 789.0  # (memory)


@dataclass(frozen=True)
class Fuel:
    """A blend of petrol and ethanol.

    Attributes
    ----------
    ethanol_volume_share : float
        Share of ethanol by volume, 0 to 1. [–]

    Raises
    ------
    OutOfRangeError
        If the share is not between 0 and 1.
    """

    ethanol_volume_share: float = 0.0

    def __post_init__(self) -> None:
        if not 0.0 <= self.ethanol_volume_share <= 1.0:
            raise OutOfRangeError("ethanol_volume_share", self.ethanol_volume_share, 0.0, 1.0, "–")

    @property
    def density_kg_m3(self) -> float:
        """Density at about 15 °C, volumes taken as additive. [kg/m³]"""
        share = self.ethanol_volume_share
        return share * ETHANOL_KG_M3 + (1.0 - share) * PETROL_KG_M3

    @property
    def ethanol_mass_share(self) -> float:
        """Share of ethanol by mass. [–]"""
        return self.ethanol_volume_share * ETHANOL_KG_M3 / self.density_kg_m3

    @property
    def stoichiometric_afr(self) -> float:
        """Stoichiometric air–fuel ratio; the air demand of the parts adds by mass. [kg/kg]"""
        ethanol = self.ethanol_mass_share
        return ethanol * ETHANOL_AFR + (1.0 - ethanol) * PETROL_AFR


def ethanol_vapour_pressure_kpa(temperature_c: float) -> float:
    """Return the saturation pressure of ethanol.

    Parameters
    ----------
    temperature_c : float
        Temperature, −60 to 120. [°C]

    Returns
    -------
    float
        Saturation pressure. [kPa]

    Raises
    ------
    OutOfRangeError
        If the temperature lies outside the range above.

    References
    ----------
    Antoine equation, log10 p[mmHg] = 8.20417 − 1642.89/(T[°C] + 230.300), the constants as
    widely tabulated for −57..80 °C (memory); checked against the boiling point.
    """
    if not -60.0 <= temperature_c <= 120.0:
        raise OutOfRangeError("temperature_c", temperature_c, -60.0, 120.0, "°C")
    return float(10.0 ** (8.20417 - 1642.89 / (temperature_c + 230.300)) * 0.1333224)


#: Logistic stand-in for a petrol distillation curve in a cranking engine: half of the fuel
#: vaporises at this wall temperature, and the width says how fast the share grows (assumed).
_PETROL_HALF_VAPOUR_C = 22.0
_PETROL_VAPOUR_WIDTH_K = 30.0
#: Ethanol takes about three times petrol's heat to vaporise, for half more fuel: its charge is so much
#: colder than petrol's when it is lit (common practice, no source). [K]
_ETHANOL_COOLS_K = 15.0
_MOLAR_MASS_RATIO = 46.07 / 28.96  # ethanol to air


def vaporised_share(fuel: Fuel, temperature_c: float, wet_manifold: bool) -> float:
    """Return the share of injected fuel that is vapour when the mixture is lit while cranking.

    Parameters
    ----------
    fuel : Fuel
        The blend in the tank.
    temperature_c : float
        Wall temperature, taken as coolant temperature, −40 to 120. [°C]
    wet_manifold : bool
        Throttle-body injection wets the whole manifold; port injection only the port.

    Returns
    -------
    float
        Vaporised share by mass, 0.02 to 1. [–]

    Notes
    -----
    Petrol: a distillation-like logistic in temperature (assumed, no published source).
    Ethanol: the vapour that air at 95 kPa can hold at saturation against what the mixture
    needs, the charge cooled by its own vapour, so that it fails below about 20 °C. A wet manifold loses a further part that
    shrinks as the walls warm.
    """
    temperature_c = min(max(temperature_c, -40.0), 120.0)
    petrol = 1.0 / (
        1.0 + math.exp(-(temperature_c - _PETROL_HALF_VAPOUR_C) / _PETROL_VAPOUR_WIDTH_K)
    )
    saturation = min(ethanol_vapour_pressure_kpa(temperature_c - _ETHANOL_COOLS_K), 90.0)
    held = saturation / (95.0 - saturation) * _MOLAR_MASS_RATIO  # kg per kg air
    # The vapour ethanol can provide is compared with its own stoichiometric need.
    # The cubic blend rounds the corner where vapour stops being the limit.
    reach = held * ETHANOL_AFR
    ethanol = reach / (1.0 + reach**3) ** (1.0 / 3.0)
    share: float = fuel.ethanol_mass_share * ethanol + (1.0 - fuel.ethanol_mass_share) * petrol
    if wet_manifold:
        share *= 1.0 - 0.3 / (1.0 + math.exp((temperature_c - 40.0) / 20.0))
    return max(0.02, min(1.0, share))

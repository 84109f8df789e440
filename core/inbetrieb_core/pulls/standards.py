"""Corrections of full-load torque and power to a reference day, and how they are undone.

Sources (formulae from memory, as the standards state them for spark-ignition engines): SAE J1349 (reference 99 kPa dry, 25 °C,
mechanical efficiency 0.85: 1.180·(99/p)·√(T/298) − 0.18), ISO 1585 and its like ((99/p)^1.2·(T/298)^0.6), DIN 70020
(101.3 kPa, 20 °C: (101.3/p)·√(T/293), of the whole pressure).
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from ..errors import field_refused
from ..quantities import kelvin

Standard = Literal["none", "sae_j1349", "iso_1585", "din_70020"]
STANDARDS: dict[Standard, str] = {
    "none": "as measured",
    "sae_j1349": "SAE J1349",
    "iso_1585": "ISO 1585",
    "din_70020": "DIN 70020",
}
#: Beyond these the standard says nothing: a test there is none. [–]
_WITHIN: dict[Standard, tuple[float, float]] = {
    "none": (0.0, 9.0),
    "sae_j1349": (0.93, 1.07),
    "iso_1585": (0.93, 1.07),
    "din_70020": (0.9, 1.1),
}


@dataclass(frozen=True)
class Ambient:
    """The air of a day.

    Attributes
    ----------
    temperature_c : float
        Of the air that the engine draws. [°C]
    pressure_kpa : float
        Whole air pressure, not brought to sea level. [kPa]
    humidity_pct : float
        Relative humidity. [%]
    """

    temperature_c: float
    pressure_kpa: float
    humidity_pct: float = 50.0

    @property
    def vapour_kpa(self) -> float:
        """Pressure of the water in it (Magnus' formula, Sonntag 1990, from memory). [kPa]"""
        saturated = 0.6112 * math.exp(17.62 * self.temperature_c / (243.12 + self.temperature_c))
        return self.humidity_pct / 100.0 * saturated

    @property
    def dry_kpa(self) -> float:
        """Pressure of the dry air in it. [kPa]"""
        return self.pressure_kpa - self.vapour_kpa

    def check(self) -> Ambient:
        """Return it once it can be.

        Raises
        ------
        InputRefused
            With a sentence.
        """
        for field, value, low, high, unit in (
            ("temperature_c", self.temperature_c, -40.0, 60.0, "°C"),
            ("pressure_kpa", self.pressure_kpa, 50.0, 110.0, "kPa"),
            ("humidity_pct", self.humidity_pct, 0.0, 100.0, "%"),
        ):
            if not low <= value <= high:
                raise field_refused(
                    f"ambient.{field}",
                    f"Air of {value:g} {unit} cannot be: {low:g} to {high:g} {unit}.",
                )
        return self


def correction_factor(standard: Standard, ambient: Ambient) -> float:
    """Return by what measured torque or power is multiplied. [–]

    Parameters
    ----------
    standard : str
        One of :data:`STANDARDS`.
    ambient : Ambient
        The air of the test.
    """
    temperature = kelvin(ambient.temperature_c)
    if standard == "sae_j1349":
        return 1.180 * (99.0 / ambient.dry_kpa) * math.sqrt(temperature / 298.15) - 0.18
    if standard == "iso_1585":
        return math.pow(99.0 / ambient.dry_kpa, 1.2) * math.pow(temperature / 298.15, 0.6)
    if standard == "din_70020":
        return 101.3 / ambient.pressure_kpa * math.sqrt(temperature / 293.15)
    return 1.0


def is_within(standard: Standard, factor: float) -> bool:
    """Return whether a standard allows a factor at all. [–]

    Parameters
    ----------
    standard : str
        One of :data:`STANDARDS`.
    factor : float
        [–]
    """
    low, high = _WITHIN[standard]
    return low <= factor <= high

"""A table in a controller's own form: its unit, its step, and what rounding does."""

from __future__ import annotations

from dataclasses import dataclass

from ..trade import PETROL_GAUGE_AFR
from .definitions import DEFINITIONS

#: canonical unit -> other spellings of it or other units, with factor and offset from the
#: canonical one.
_UNITS: dict[str, dict[str, tuple[float, float]]] = {
    "–": {"–": (1.0, 0.0), "-": (1.0, 0.0), "lambda": (1.0, 0.0), "λ": (1.0, 0.0)},
    "%": {"%": (1.0, 0.0), "factor": (0.01, 0.0), "fraction": (0.01, 0.0), "percent": (1.0, 0.0)},
    "ms": {"ms": (1.0, 0.0), "µs": (1000.0, 0.0), "us": (1000.0, 0.0), "s": (0.001, 0.0)},
    "s": {"s": (1.0, 0.0), "ms": (1000.0, 0.0), "min": (1.0 / 60.0, 0.0)},
    "rpm": {"rpm": (1.0, 0.0), "1/min": (1.0, 0.0), "Hz": (1.0 / 60.0, 0.0)},
    "°": {"°": (1.0, 0.0), "deg": (1.0, 0.0)},
    "°C": {"°C": (1.0, 0.0), "°F": (1.8, 32.0), "K": (1.0, 273.15)},
    "kPa": {"kPa": (1.0, 0.0), "bar": (0.01, 0.0), "psi": (1.0 / 6.894757293168, 0.0), "mbar": (10.0, 0.0)},
    "g/s": {"g/s": (1.0, 0.0), "kg/h": (3.6, 0.0)},
    "V": {"V": (1.0, 0.0), "mV": (1000.0, 0.0)},
}  # fmt: skip
#: Air–fuel ratio needs the fuel, which is why it is not in the table above.
_AFR = ("AFR", "afr", ":1")


@dataclass(frozen=True)
class ControllerForm:
    """How a controller holds the values of a table.

    Attributes
    ----------
    unit : str
        As its own software shows it.
    step : float
        Smallest difference it stores. [unit]
    factor, offset : float
        From the canonical unit: value·factor + offset.
    known : bool
        Whether the unit is one that can be converted; else values stay canonical.
    """

    unit: str
    step: float
    factor: float
    offset: float
    known: bool

    def shown(self, value: float) -> float:
        """Return a canonical value as the controller shows and stores it.

        Parameters
        ----------
        value : float
            Of the table. [unit of the table]
        """
        steps = round((value * self.factor + self.offset) / self.step)
        return round(steps * self.step, 9)

    def stored(self, value: float) -> float:
        """Return what a canonical value becomes by the controller's rounding, canonical again.

        Parameters
        ----------
        value : float
            Of the table. [unit of the table]
        """
        return (self.shown(value) - self.offset) / self.factor


def controller_form(
    key: str, unit: str = "", step: float = 0.0, stoichiometric_afr: float = PETROL_GAUGE_AFR
) -> ControllerForm:
    """Return the form in which a controller holds a table.

    Parameters
    ----------
    key : str
        Of the table.
    unit : str
        The controller's; empty for the canonical one.
    step : float
        Smallest difference it stores; 0 for the table's own resolution. [unit]
    stoichiometric_afr : float
        Of the fuel, where the controller shows an air–fuel ratio. [–]
    """
    definition = DEFINITIONS[key]
    canonical = definition.unit
    if canonical == "–" and unit in _AFR:
        return ControllerForm("AFR", step or 0.1, stoichiometric_afr, 0.0, True)
    found = _UNITS.get(canonical, {}).get(unit or canonical)
    if found is None:
        return ControllerForm(canonical, definition.resolution, 1.0, 0.0, False)
    factor, offset = found
    return ControllerForm(
        unit or canonical, step or definition.resolution * abs(factor), factor, offset, True
    )


def offered_units(key: str) -> tuple[str, ...]:
    """Return the units in which a controller may hold a table."""
    canonical = DEFINITIONS[key].unit
    return (
        *_UNITS.get(canonical, {canonical: (1.0, 0.0)}),
        *(("AFR",) if canonical == "–" else ()),
    )

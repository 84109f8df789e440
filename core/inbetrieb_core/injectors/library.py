"""Generic injectors that ship with the program: invented names, data as such parts have them.

Common practice, no source; values from memory. None is a data sheet.
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class LibraryInjector:
    """A generic injector.

    Attributes
    ----------
    name : str
        Invented.
    flow_cm3_min : float
        Petrol, at the rated pressure. [cm³/min]
    rated_pressure_kpa : float
        [kPa]
    resistance_ohm : float
        [Ω]
    smallest_pulse_ms : float
        Shortest open time that repeats well, without dead time. [ms]
    voltage_v, dead_time_ms : tuple of float
        [V, ms]
    """

    name: str
    flow_cm3_min: float
    rated_pressure_kpa: float
    resistance_ohm: float
    smallest_pulse_ms: float
    voltage_v: tuple[float, ...]
    dead_time_ms: tuple[float, ...]


_VOLTS = (8.0, 10.0, 12.0, 14.0, 16.0)

INJECTORS: tuple[LibraryInjector, ...] = (
    LibraryInjector(
        "Small port injector, 210 cm³/min", 210.0, 300.0, 14.5, 0.7,
        _VOLTS, (2.30, 1.55, 1.12, 0.86, 0.70),
    ),
    LibraryInjector(
        "Port injector, 330 cm³/min", 330.0, 300.0, 14.0, 0.7,
        _VOLTS, (2.45, 1.66, 1.20, 0.92, 0.74),
    ),
    LibraryInjector(
        "Port injector, 440 cm³/min", 440.0, 300.0, 12.5, 0.75,
        _VOLTS, (2.50, 1.72, 1.26, 0.97, 0.78),
    ),
    LibraryInjector(
        "Large port injector, 720 cm³/min", 720.0, 300.0, 12.0, 0.9,
        _VOLTS, (2.75, 1.92, 1.42, 1.10, 0.89),
    ),
    LibraryInjector(
        "Large low-resistance injector, 900 cm³/min", 900.0, 300.0, 2.4, 1.0,
        _VOLTS, (1.95, 1.40, 1.06, 0.84, 0.69),
    ),
    LibraryInjector(
        "Throttle-body injector, 900 cm³/min at 100 kPa", 900.0, 100.0, 1.8, 1.0,
        _VOLTS, (1.80, 1.30, 1.00, 0.80, 0.66),
    ),
)  # fmt: skip

"""How a bench start is made, and what comes out of it."""

from __future__ import annotations

from dataclasses import dataclass

from ..errors import FieldProblem, InputRefused
from ..quantities import FloatArray


@dataclass(frozen=True)
class StartConditions:
    """How the start is made.

    Attributes
    ----------
    coolant_c : float
        Engine temperature at key-on, −40 to 120. [°C]
    ambient_c : float or None
        Outside; None takes the coolant of a soaked engine, at most 22. [°C]
    seed : int
        Of noise and misfires. [–]
    rate_hz : float
        Logging rate, 5 to 100. [1/s]
    crank_limit_s : float
        When the driver gives up. [s]
    run_s : float
        Logged time after the engine starts to run. [s]
    pedal_pct : float
        Throttle held by the driver while cranking and 2 s after. [%]

    Raises
    ------
    InputRefused
        If a value is out of bounds.
    """

    coolant_c: float
    ambient_c: float | None = None
    seed: int = 0
    rate_hz: float = 25.0
    crank_limit_s: float = 8.0
    run_s: float = 45.0
    pedal_pct: float = 0.0

    def __post_init__(self) -> None:
        bounds = {
            "coolant_c": (-40.0, 120.0),
            "ambient_c": (-50.0, 55.0),
            "rate_hz": (5.0, 100.0),
            "crank_limit_s": (1.0, 30.0),
            "run_s": (1.0, 600.0),
            "pedal_pct": (0.0, 100.0),
        }
        problems = [
            FieldProblem(name, f"{name} must be between {low:g} and {high:g}, not {value:g}.")
            for name, (low, high) in bounds.items()
            if (value := getattr(self, name)) is not None and not low <= value <= high
        ]
        if problems:
            raise InputRefused(problems)

    @property
    def outside_c(self) -> float:
        """Ambient temperature in force. [°C]"""
        return min(self.coolant_c, 22.0) if self.ambient_c is None else self.ambient_c


@dataclass(frozen=True, eq=False)
class BenchRun:
    """The log of one simulated start.

    Attributes
    ----------
    channels : dict of str to ndarray
        Canonical channels, one sample per logging step.
    simulated_s : float
        Length in engine time. [s]
    events : int
        Steps computed. [–]
    """

    channels: dict[str, FloatArray]
    simulated_s: float
    events: int

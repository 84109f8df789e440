"""What is told of a start besides its evidence: the morning, and what was seen and smelled."""

from __future__ import annotations

import math
from dataclasses import dataclass

from inbetrieb_core.errors import FieldProblem, InputRefused, field_refused

_MOST_ATTEMPTS = 20


@dataclass(frozen=True)
class Signs:
    """What the installer saw and smelled, and which attempt of the morning it was."""

    attempt: int = 1
    black_smoke: bool = False
    fuel_smell: bool = False

    def refuse_if_impossible(self) -> None:
        """Refuse an attempt that cannot be.

        Raises
        ------
        InputRefused
            If it is not between 1 and 20.
        """
        if not 1 <= self.attempt <= _MOST_ATTEMPTS:
            raise field_refused("attempt", f"The attempt must be between 1 and {_MOST_ATTEMPTS}.")


@dataclass(frozen=True)
class Told:
    """What is told of a start besides its evidence.

    Attributes
    ----------
    revision : int or None
        In the controller; that of a bench start, else the newest, if not given.
    ambient_c, soak_h, coolant_c : float or None
        Air, hours since it last ran, and coolant where the log has none. [°C, h, °C]
    note : str
    signs : Signs
    """

    revision: int | None = None
    ambient_c: float | None = None
    soak_h: float | None = None
    coolant_c: float | None = None
    note: str = ""
    signs: Signs = Signs()

    def refuse_if_impossible(self) -> None:
        """Refuse figures that cannot be.

        Raises
        ------
        InputRefused
            With a sentence for each.
        """
        refuse_bad_numbers(ambient_c=self.ambient_c, soak_h=self.soak_h, coolant_c=self.coolant_c)
        self.signs.refuse_if_impossible()


def refuse_bad_numbers(**values: float | None) -> None:
    """Refuse temperatures and times of a start that cannot be. [°C, h]

    Raises
    ------
    InputRefused
        With a sentence for each.
    """
    bounds = {"ambient_c": (-60.0, 70.0), "soak_h": (0.0, 10_000.0), "coolant_c": (-60.0, 160.0)}
    problems = [
        FieldProblem(name, f"{name} must be between {bounds[name][0]:g} and {bounds[name][1]:g}.")
        for name, value in values.items()
        if value is not None
        and not (math.isfinite(value) and bounds[name][0] <= value <= bounds[name][1])
    ]
    if problems:
        raise InputRefused(problems)

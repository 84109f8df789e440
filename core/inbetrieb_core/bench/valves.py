"""Idle actuators as they are: where they open, how far they stick, which way round they are wired."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from ..bounds import out_of_bounds
from ..errors import FieldProblem

ValveKind = Literal["two_wire", "three_wire", "stepper", "electronic_throttle"]
#: The same in words.
VALVE_KINDS: dict[ValveKind, str] = {
    "two_wire": "two wires, spring return",
    "three_wire": "three wires",
    "stepper": "stepper",
    "electronic_throttle": "electronic throttle",
}

#: A valve travels at least so far. [%]
_LEAST_TRAVEL_PCT = 10.0
#: A stepper moves in steps of this height; a driver of the wrong frequency shakes a valve by this. [%]
_STEP_PCT, _SHAKES_PCT = 0.6, 2.5
_SHAKES_HZ = 1.7


@dataclass(frozen=True)
class ValveHardware:
    """An idle actuator as it is.

    Attributes
    ----------
    kind : {"two_wire", "three_wire", "stepper", "electronic_throttle"}
    opens_pct, full_pct : float
        Duty at which it begins to pass air, and from which on it passes no more. [%]
    sticks_pct : float
        By so much the same place needs another duty from above than from below. [%]
    inverted : bool
        Whether more duty closes it.
    curve : float
        Exponent of its air over its travel; 1 is a straight line. [–]
    wrong_frequency : bool
        Whether the driver's frequency does not suit it: it buzzes.
    """

    kind: ValveKind = "two_wire"
    opens_pct: float = 22.0
    full_pct: float = 78.0
    sticks_pct: float = 0.0
    inverted: bool = False
    curve: float = 1.0
    wrong_frequency: bool = False

    def travel(self, duty_pct: float) -> float:
        """Return how far it is open at a duty, 0 to 1. [% → –]"""
        duty = round(duty_pct / _STEP_PCT) * _STEP_PCT if self.kind == "stepper" else duty_pct
        share = (duty - self.opens_pct) / max(self.full_pct - self.opens_pct, 1.0)
        share = min(1.0, max(0.0, 1.0 - share if self.inverted else share))
        return float(share**self.curve)

    def problems(self) -> list[FieldProblem]:
        """Return what no valve is, one sentence each."""
        found = [
            problem
            for field, value, lower, upper, unit, title in (
                ("valve.opens_pct", self.opens_pct, 0.0, 80.0, "%", "The valve opens at a duty that"),
                ("valve.full_pct", self.full_pct, 15.0, 100.0, "%", "The valve is wide open at a duty that"),
                ("valve.sticks_pct", self.sticks_pct, 0.0, 20.0, "%", "How far the valve sticks"),
                ("valve.curve", self.curve, 0.5, 2.0, "", "The valve's curve"),
            )
            if (problem := out_of_bounds(field, value, lower, upper, unit, title)) is not None
        ]  # fmt: skip
        if not found and self.full_pct - self.opens_pct < _LEAST_TRAVEL_PCT:
            found = [
                FieldProblem(
                    "valve.full_pct", f"A valve works over at least {_LEAST_TRAVEL_PCT:.0f} %."
                )
            ]
        return found


#: A valve that passes air in proportion to its duty, from none to all.
STRAIGHT_VALVE = ValveHardware(opens_pct=0.0, full_pct=100.0)


class SeatedValve:
    """A valve with the place where it stands: friction holds it until the command has left a band.

    Parameters
    ----------
    hardware : ValveHardware
    duty_pct : float
        Where it stands at first. [%]
    """

    def __init__(self, hardware: ValveHardware, duty_pct: float) -> None:
        self.hardware = hardware
        self._stands_pct = duty_pct

    def travel(self, duty_pct: float, time_s: float) -> float:
        """Return how far it is open after a duty was commanded at a time, 0 to 1. [%, s → –]"""
        slack = 0.5 * self.hardware.sticks_pct
        self._stands_pct = min(max(self._stands_pct, duty_pct - slack), duty_pct + slack)
        place = self._stands_pct
        if self.hardware.wrong_frequency:
            place += _SHAKES_PCT * math.sin(2.0 * math.pi * _SHAKES_HZ * time_s)
        return self.hardware.travel(place)

"""What somebody holding the tablet commands: key, starter, pedal, valve, loads, timing."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace
from typing import Any

from ..bounds import out_of_bounds
from ..errors import FieldProblem, InputRefused

#: How many times quicker than on the wall time may pass in a simulation.
SPEEDS = (1, 4, 20)
#: What can be switched on, in words.
LOADS: dict[str, str] = {
    "gear": "In gear",
    "lamps": "Lamps and fan",
    "air_conditioning": "Air conditioning",
    "steering": "Power steering at its stop",
}


@dataclass(frozen=True)
class Controls:
    """What is commanded.

    Attributes
    ----------
    key, starter : bool
        Switched on; held.
    throttle_pct : float
        Pedal. [%]
    idle_valve_pct : float or None
        Duty that the valve is held at; None leaves it to the controller. [%]
    loads : tuple of str
        Keys of :data:`LOADS` that are on.
    lock_timing_deg : float or None
        Advance that is held; None leaves it to the tables. [°]
    plugs_out : bool
        Whether the spark plugs are out: it turns easily and fires nothing.
    injection, ignition : bool
        Whether injectors and coils are plugged in; both off is the switch that kills it.
    speed : int
        Of time in a simulation, of :data:`SPEEDS`.
    """

    key: bool = False
    starter: bool = False
    throttle_pct: float = 0.0
    idle_valve_pct: float | None = None
    loads: tuple[str, ...] = ()
    lock_timing_deg: float | None = None
    plugs_out: bool = False
    injection: bool = True
    ignition: bool = True
    speed: int = 1


def is_kill(given: Mapping[str, Any]) -> bool:
    """Say whether a command kills fuel and spark and does nothing else: that is everybody's.

    Parameters
    ----------
    given : mapping
        Members of :class:`Controls`.
    """
    return dict(given) == {"injection": False, "ignition": False}


def commanded(before: Controls, given: Mapping[str, Any]) -> Controls:
    """Return what is commanded after a command, of which what is not given stays.

    Parameters
    ----------
    before : Controls
    given : mapping
        Members of :class:`Controls`.

    Raises
    ------
    InputRefused
        With one sentence for each that cannot be.
    """
    after = replace(before, **given)
    if not after.key:
        after = replace(after, starter=False)
    problems = [
        problem
        for field, value, lower, upper, unit, title in (
            ("throttle_pct", after.throttle_pct, 0.0, 100.0, "%", "The pedal"),
            ("idle_valve_pct", after.idle_valve_pct, 0.0, 100.0, "%", "The duty of the idle valve"),
            ("lock_timing_deg", after.lock_timing_deg, -20.0, 60.0, "°", "The locked advance"),
        )
        if value is not None
        and (problem := out_of_bounds(field, value, lower, upper, unit, title)) is not None
    ]
    problems += [
        FieldProblem("loads", f"There is no load '{load[:40]}'; known are {', '.join(LOADS)}.")
        for load in after.loads
        if load not in LOADS
    ]
    if after.speed not in SPEEDS:
        quick = ", ".join(str(speed) for speed in SPEEDS)
        problems.append(FieldProblem("speed", f"Time can pass {quick} times as quick."))
    if given.get("starter") and not after.key:
        problems.append(FieldProblem("starter", "The starter turns with the key on only."))
    if problems:
        raise InputRefused(problems)
    return replace(after, loads=tuple(dict.fromkeys(after.loads)))

"""Which of three unknown wires is supply, ground and signal, told by a meter at key-on."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from ..bounds import out_of_bounds
from ..errors import FieldProblem, InputRefused, field_refused

Role = Literal["supply", "ground", "signal", "unknown"]

#: A reading within this of 5 V or of nothing counts as that. [V]
_NEAR_V = 0.25
_BATTERY_V = 9.0
#: Less than this to battery minus is a ground. [Ω]
_GROUND_OHM = 5.0
#: A supply stays within this when the sensor is plugged in; a signal moves. [V]
_MOVES_V = 0.15


@dataclass(frozen=True)
class WireReading:
    """One wire of the loom's plug, against battery minus.

    Attributes
    ----------
    name : str
        Its colour or place.
    open_v : float
        Key on, sensor unplugged. [V]
    ground_ohm : float or None
        Key off, sensor unplugged, to battery minus; None where it was not measured. [Ω]
    plugged_v : float or None
        Key on, sensor plugged in and at rest. [V]
    """

    name: str
    open_v: float
    ground_ohm: float | None = None
    plugged_v: float | None = None


@dataclass(frozen=True)
class ThreeWire:
    """Which wire is which.

    Attributes
    ----------
    roles : tuple of str
        In the order of the readings; "unknown" where the readings do not tell.
    is_sure : bool
    sentences : tuple of str
        What was found, and what to measure next where it is not sure.
    """

    roles: tuple[Role, ...]
    is_sure: bool
    sentences: tuple[str, ...]


def identify_three_wires(wires: Sequence[WireReading]) -> ThreeWire:
    """Return which of three wires is supply, ground and signal.

    Parameters
    ----------
    wires : sequence of WireReading
        Exactly three.

    Raises
    ------
    InputRefused
        If there are not three, or a reading is none.
    """
    _refuse_bad(wires)
    supply = _supply(wires)
    ground = _ground(wires, supply)
    roles: list[Role] = ["unknown", "unknown", "unknown"]
    if supply is not None:
        roles[supply] = "supply"
    if ground is not None:
        roles[ground] = "ground"
    if supply is not None and ground is not None:
        roles[3 - supply - ground] = "signal"
    return ThreeWire(tuple(roles), "unknown" not in roles, tuple(_said(wires, roles)))


def _supply(wires: Sequence[WireReading]) -> int | None:
    five = [i for i, wire in enumerate(wires) if abs(wire.open_v - 5.0) <= _NEAR_V]
    high = [i for i, wire in enumerate(wires) if wire.open_v >= _BATTERY_V]
    candidates = five or high
    if high and five and len(high) == 1:
        candidates = high  # a sensor fed with 12 V whose signal is pulled up to 5 V
    if len(candidates) == 1:
        return candidates[0]
    # A pulled-up signal reads 5 V too, until the sensor loads it.
    plugged = [wires[i].plugged_v for i in candidates]
    if len(candidates) == 2 and all(v is not None for v in plugged):
        moved = [abs((wires[i].plugged_v or 0.0) - wires[i].open_v) for i in candidates]
        if max(moved) > _MOVES_V >= min(moved):
            return candidates[moved.index(min(moved))]
    return None


def _ground(wires: Sequence[WireReading], supply: int | None) -> int | None:
    nothing = [i for i, wire in enumerate(wires) if abs(wire.open_v) <= _NEAR_V and i != supply]
    by_meter = [
        i for i in nothing if wires[i].ground_ohm is not None and wires[i].ground_ohm <= _GROUND_OHM  # type: ignore[operator]
    ]  # fmt: skip
    if len(by_meter) == 1:
        return by_meter[0]
    if len(nothing) == 1 and not (wires[nothing[0]].ground_ohm or 0.0) > _GROUND_OHM:
        return nothing[0]
    return None


def _said(wires: Sequence[WireReading], roles: Sequence[Role]) -> list[str]:
    sentences = [
        f"{wire.name or f'Wire {i + 1}'}: {role}, {wire.open_v:.2f} V."
        for i, (wire, role) in enumerate(zip(wires, roles, strict=True))
        if role != "unknown"
    ]
    if "supply" in roles:
        volts = wires[roles.index("supply")].open_v
        if volts >= _BATTERY_V:
            sentences.append("It is fed with battery voltage, not with 5 V: do not move it to 5 V.")
    if "supply" not in roles:
        five = sum(abs(wire.open_v - 5.0) <= _NEAR_V for wire in wires)
        sentences.append(
            "Two wires read 5 V: one is a pulled-up signal. Plug the sensor in and measure both "
            "again; the supply stays, the signal moves."
            if five >= 2
            else "No wire carries 5 V: look at key, fuse and the controller's sensor supply first."
        )
    if "ground" not in roles:
        zero = sum(abs(wire.open_v) <= _NEAR_V for wire in wires)
        sentences.append(
            "Two wires read nothing: measure both to battery minus with the key off; the ground has "
            "less than 5 Ω."
            if zero >= 2
            else "No wire is a ground: it is open, or it floats. Measure its way to battery minus."
        )
    return sentences


def _refuse_bad(wires: Sequence[WireReading]) -> None:
    if len(wires) != 3:
        raise field_refused("wires", "Enter the readings of three wires.")
    problems = []
    for i, wire in enumerate(wires):
        checked = [
            out_of_bounds(f"wires.{i}.open_v", wire.open_v, -2.0, 20.0, "V", f"Wire {i + 1}")
        ]
        if wire.ground_ohm is not None:
            checked.append(
                out_of_bounds(
                    f"wires.{i}.ground_ohm", wire.ground_ohm, 0.0, 1e8, "Ω", f"Wire {i + 1}"
                )
            )
        if wire.plugged_v is not None:
            checked.append(
                out_of_bounds(
                    f"wires.{i}.plugged_v", wire.plugged_v, -2.0, 20.0, "V", f"Wire {i + 1}"
                )
            )
        problems += [problem for problem in checked if problem is not None]
        if len(wire.name) > 40:
            problems.append(FieldProblem(f"wires.{i}.name", "A short name, please."))
    if problems:
        raise InputRefused(problems)

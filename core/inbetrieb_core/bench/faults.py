"""Faults for training and tests: each changes the engine's truth, never the log afterwards."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Protocol, TypeVar

from ..errors import FieldProblem, InputRefused
from .truth import EngineTruth


@dataclass(frozen=True)
class Fault:
    """One fault of the bench engine.

    Attributes
    ----------
    kind : str
        Key of :data:`FAULTS`.
    size : float or None
        How large, in the unit the fault kind states; None takes its default.
    """

    kind: str
    size: float | None = None


@dataclass(frozen=True)
class FaultKind:
    """A kind of fault: wording, default size with its unit and bounds, and what it does."""

    key: str
    title: str
    unit: str
    default: float
    lower: float
    upper: float
    act: Callable[[EngineTruth, float], EngineTruth]


class SizedKind(Protocol):
    """What every kind of fault states: wording, default size with its unit, and bounds."""

    @property
    def title(self) -> str:
        """Wording."""

    @property
    def unit(self) -> str:
        """Of a size."""

    @property
    def default(self) -> float:
        """Size where none is given. [unit]"""

    @property
    def lower(self) -> float:
        """Smallest size. [unit]"""

    @property
    def upper(self) -> float:
        """Largest size. [unit]"""


Kind = TypeVar("Kind", bound=SizedKind)


def sized(faults: Sequence[Fault], kinds: Mapping[str, Kind]) -> list[tuple[Kind, float]]:
    """Return the kind of each fault and its size. [unit of the kind]

    Raises
    ------
    InputRefused
        With a sentence for every kind that is unknown and every size out of bounds.
    """
    problems: list[FieldProblem] = []
    found: list[tuple[Kind, float]] = []
    for fault in faults:
        kind = kinds.get(fault.kind)
        if kind is None:
            known = ", ".join(kinds)
            sentence = f"There is no fault '{fault.kind[:40]}'; known are {known}."
            problems.append(FieldProblem("faults", sentence))
            continue
        size = kind.default if fault.size is None else fault.size
        if not kind.lower <= size <= kind.upper:
            bounds = f"{kind.lower:g} and {kind.upper:g} ({kind.unit})"
            sentence = f"{kind.title}: the size must be between {bounds}, not {size:g}."
            problems.append(FieldProblem("faults", sentence))
            continue
        found.append((kind, size))
    if problems:
        raise InputRefused(problems)
    return found


def _weak_battery(truth: EngineTruth, size: float) -> EngineTruth:
    return replace(
        truth,
        battery_rest_v=truth.battery_rest_v - 0.9 * size,
        battery_ohm=truth.battery_ohm * (1.0 + 1.1 * size),
    )


def _valve_at_limit(truth: EngineTruth, size: float) -> EngineTruth:
    return replace(
        truth,
        stop_gps=0.05 * truth.stop_gps,
        valve_full_gps=truth.valve_full_gps * size,
        idle_trim=True,
    )


FAULTS: dict[str, FaultKind] = {
    kind.key: kind
    for kind in (
        FaultKind(
            "injector_flow",
            "Injector flow entered wrong",
            "true flow ÷ entered flow",
            1.6,
            0.2,
            5.0,
            lambda t, s: replace(t, flow_scale=t.flow_scale * s),
        ),
        FaultKind(
            "dead_time",
            "Dead time off",
            "ms",
            0.4,
            -1.5,
            1.5,
            lambda t, s: replace(t, dead_time_offset_ms=t.dead_time_offset_ms + s),
        ),
        FaultKind(
            "weak_battery",
            "Weak battery",
            "0 fresh … 1.5 nearly flat",
            1.0,
            0.0,
            1.5,
            _weak_battery,
        ),
        FaultKind(
            "slow_pressure",
            "Fuel pressure builds slowly",
            "s",
            4.0,
            0.1,
            30.0,
            lambda t, s: replace(t, rail_time_s=s),
        ),
        FaultKind(
            "lost_sync",
            "Crank position lost",
            "s until found",
            60.0,
            0.0,
            60.0,
            lambda t, s: replace(t, sync_delay_s=s),
        ),
        FaultKind(
            "idle_valve_limit",
            "Idle valve at its limit",
            "remaining valve flow ÷ proper flow",
            0.5,
            0.05,
            1.0,
            _valve_at_limit,
        ),
    )
}


def apply_faults(
    truth: EngineTruth, faults: Sequence[Fault], kinds: Mapping[str, FaultKind] = FAULTS
) -> EngineTruth:
    """Return the engine with faults of some kinds built in.

    Raises
    ------
    InputRefused
        If a kind is unknown or its size out of bounds.
    """
    for kind, size in sized(faults, kinds):
        truth = kind.act(truth, size)
    return truth

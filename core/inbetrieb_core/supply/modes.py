"""How often each injector opens, and which modes the crank and cam signals allow."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from typing import Literal

from ..engine import EngineSpec
from ..injectors import DUTY_LIMIT_PCT
from .full_load import hardest, possible, running_dead_time_ms
from .judgement import idle_open_ms

Signals = Literal["speed_only", "crank", "crank_and_cam"]


@dataclass(frozen=True)
class InjectionMode:
    """One way to inject, with its consequence in numbers.

    Attributes
    ----------
    key, title : str
        Identifier and wording.
    injections_per_cycle : int
        Openings of each injector in one engine cycle. [–]
    allowed : bool
        Whether the signals allow it.
    in_use : bool
        Whether the engine is entered with so many injections.
    idle_open_ms, idle_pulse_ms : float
        Warm idle without and with dead time. [ms]
    dead_time_share_pct : float
        Dead time in the idle pulse. [%]
    duty_at_limit_pct : float or None
        Highest duty; None where the rail cannot push against the boost. [%]
    sentence : str
        What speaks against it; empty if nothing does.
    """

    key: str
    title: str
    injections_per_cycle: int
    allowed: bool
    in_use: bool
    idle_open_ms: float
    idle_pulse_ms: float
    dead_time_share_pct: float
    duty_at_limit_pct: float | None
    sentence: str


_FOUR_STROKE: tuple[tuple[str, str, int, tuple[Signals, ...]], ...] = (
    ("sequential", "Sequential, once per cycle", 1, ("crank_and_cam",)),
    ("semi_sequential", "Semi-sequential, pairs a turn apart", 2, ("crank", "crank_and_cam")),
    ("paired", "Paired, by banks", 2, ("crank", "crank_and_cam")),
    ("simultaneous_twice", "Simultaneous, once per turn", 2, ("speed_only", "crank", "crank_and_cam")),
    ("simultaneous", "Simultaneous, once per cycle", 1, ("speed_only", "crank", "crank_and_cam")),
)  # fmt: skip
_ROTARY: tuple[tuple[str, str, int, tuple[Signals, ...]], ...] = (
    ("sequential", "Each rotor by itself, once per turn", 1, ("crank", "crank_and_cam")),
    ("simultaneous", "All together, once per turn", 1, ("speed_only", "crank", "crank_and_cam")),
)

_NEEDS = {
    "sequential": "a cam signal as well as a crank signal",
    "semi_sequential": "a crank signal with a gap",
    "paired": "a crank signal with a gap",
}


def injection_modes(
    spec: EngineSpec, signals: Signals, steady_open_ms: float
) -> tuple[InjectionMode, ...]:
    """Return every mode with its consequence, those that the signals forbid too.

    Parameters
    ----------
    spec : EngineSpec
        A checked engine.
    signals : {"speed_only", "crank", "crank_and_cam"}
        What the controller knows of the crankshaft: only its speed; its position; or which
        turn of the cycle it is in as well.
    steady_open_ms : float
        Shortest open time that repeats well. [ms]
    """
    table = _ROTARY if spec.cycle == "rotary" else _FOUR_STROKE
    return tuple(
        _mode(spec, key, title, count, signals in allowed, steady_open_ms)
        for key, title, count, allowed in table
    )


def _mode(
    spec: EngineSpec, key: str, title: str, count: int, allowed: bool, steady_open_ms: float
) -> InjectionMode:
    trial = replace(spec, injections_per_cycle=count)
    opened = idle_open_ms(trial)
    dead = running_dead_time_ms(trial)
    duty = hardest(trial).duty_pct
    share = 100.0 * dead / (opened + dead)
    if not allowed:
        needs = "" if spec.cycle == "rotary" and key == "sequential" else _NEEDS.get(key, "")
        sentence = f"Needs {needs or 'a crank signal with a gap'}."
    elif opened < steady_open_ms:
        sentence = (
            f"The injector would be open only {opened:.2f} ms at idle, below its steady "
            f"{steady_open_ms:g} ms."
        )
    elif not math.isfinite(duty):
        sentence = "The rail cannot push fuel against the boost."
    elif duty > DUTY_LIMIT_PCT:
        sentence = f"{duty:.0f} % open at the limit: too long."
    else:
        sentence = ""
    return InjectionMode(
        key,
        title,
        count,
        allowed,
        count == spec.injections_per_cycle,
        opened,
        opened + dead,
        share,
        possible(duty),
        sentence,
    )

"""Each coil and injector commanded once: what was heard, what the battery did, what it means."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from ..bounds import out_of_bounds
from ..engine import EngineSpec
from ..errors import InputRefused
from ..wiring import Fitting, coil_count, injector_groups

Heard = Literal["works", "nothing", "other"]
Kind = Literal["coil", "injector"]

#: A dip below this is no dip, one above it a short (common practice, no source). [V]
_LEAST_DIP_V, _MOST_DIP_V = 0.03, 2.0
#: What is made safe before anything is commanded.
SAFE_FIRST: dict[Kind, tuple[str, ...]] = {
    "coil": (
        "Fuel made safe: pump fuse out, injectors unplugged, no fuel smell.",
        "Each coil on a spare plug that lies on engine ground, nobody touching it.",
        "Gearbox in neutral, ignition on, engine standing; charger on the battery.",
    ),
    "injector": (
        "Rail without pressure: pump fuse out, pressure let off, rag and extinguisher at hand.",
        "Ignition made safe: coils unplugged.",
        "Commanded for a moment only: an injector that stays open floods its cylinder.",
    ),
}


@dataclass(frozen=True)
class TestedOutput:
    """One output to be tried: key of its function, title, kind."""

    key: str
    title: str
    kind: Kind


@dataclass(frozen=True)
class OutputTestResult:
    """What a test means."""

    passed: bool
    sentence: str


def outputs_to_test(spec: EngineSpec, fitting: Fitting) -> tuple[TestedOutput, ...]:
    """Return every coil and every group of injectors that must answer before the first start.

    Parameters
    ----------
    spec : EngineSpec
        The engine.
    fitting : Fitting
        What is fitted to it.
    """
    coils = tuple(
        TestedOutput(f"coil_{n}", f"Coil {n}", "coil")
        for n in range(1, coil_count(spec, fitting) + 1)
    )
    injectors = tuple(
        TestedOutput(
            f"injector_{group[0]}",
            "Injector " + " and ".join(str(n) for n in group),
            "injector",
        )
        for group in injector_groups(spec, fitting)
    )
    return coils + injectors


def judge_output_test(output: TestedOutput, heard: Heard, dip_v: float | None) -> OutputTestResult:
    """Judge one test.

    Parameters
    ----------
    output : TestedOutput
        What was commanded.
    heard : {"works", "nothing", "other"}
        Whether it sparked or clicked, did nothing, or another one did.
    dip_v : float or None
        By which the battery fell meanwhile; None where nobody looked. [V]

    Raises
    ------
    InputRefused
        If the dip cannot be.
    """
    if dip_v is not None:
        found = out_of_bounds("dip_v", dip_v, 0.0, 8.0, "V", "The dip of the battery")
        if found is not None:
            raise InputRefused([found])
    does = "sparks" if output.kind == "coil" else "clicks"
    if heard == "other":
        return OutputTestResult(
            False, f"{output.title}: another one answered. Two wires are swapped at pin or plug."
        )
    if dip_v is not None and dip_v > _MOST_DIP_V:
        return OutputTestResult(
            False,
            f"{output.title}: the battery fell by {dip_v:g} V. A short, or a battery that is empty.",
        )
    if heard == "works":
        seen = "" if dip_v is None else f", battery dip {dip_v:g} V"
        return OutputTestResult(True, f"{output.title} {does}{seen}.")
    if dip_v is None:
        return OutputTestResult(
            False,
            f"{output.title} is silent. Repeat it and watch the battery: a dip tells wire from part.",
        )
    if dip_v >= _LEAST_DIP_V:
        part = "the plug or its lead" if output.kind == "coil" else "an injector that is stuck"
        return OutputTestResult(
            False, f"{output.title} is silent although current flows: look at {part}."
        )
    return OutputTestResult(
        False, f"{output.title} is silent and no current flows: feed, fuse, wire or output."
    )


@dataclass(frozen=True)
class OutputFact:
    """The newest test of one output."""

    title: str
    passed: bool | None


def missing_tests(facts: Sequence[OutputFact]) -> tuple[list[str], list[str]]:
    """Return the outputs that were not tried, and those that failed."""
    return (
        [fact.title for fact in facts if fact.passed is None],
        [fact.title for fact in facts if fact.passed is False],
    )

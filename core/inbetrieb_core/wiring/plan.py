"""A wiring plan: what is fitted on which pin, every wire, what is wrong with it and what helps."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Literal

from ..bounds import out_of_bounds
from ..engine import EngineSpec
from ..errors import FieldProblem, InputRefused
from ..firing import order_of
from ..sensors import SensorEntry
from .allocate import Allocation, LeftOut, allocate, can_serve_all
from .colours import is_colour
from .fitting import Fitting
from .functions import functions_of
from .lines import LineEdit, WiringLine, lines_of, sizes_mm2
from .profile import ControllerProfile
from .remedies import Remedy, remedies
from .wired_function import WiredFunction

_MOST_EDITS = 500
_LONGEST_NOTE = 300


@dataclass(frozen=True)
class PlanEntry:
    """What an installer decides of a wiring plan.

    Attributes
    ----------
    fitting : Fitting
    by_hand : mapping of function to pin
    edits : mapping of line to LineEdit
    """

    fitting: Fitting
    by_hand: Mapping[str, str] = field(default_factory=dict)
    edits: Mapping[str, LineEdit] = field(default_factory=dict)


@dataclass(frozen=True)
class WiringPlan:
    """The plan.

    Attributes
    ----------
    functions : tuple of WiredFunction
    allocation : Allocation
    lines : tuple of WiringLine
    level : {"good", "attention", "stop"}
    sentences : tuple of str
    remedy : Remedy or None
        The cheapest change that gives everything a pin; None where nothing is short.
    others : tuple of Remedy
        Other changes that do, dearer ones.
    """

    functions: tuple[WiredFunction, ...]
    allocation: Allocation
    lines: tuple[WiringLine, ...]
    level: Literal["good", "attention", "stop"]
    sentences: tuple[str, ...]
    remedy: Remedy | None
    others: tuple[Remedy, ...] = ()


def smallest_that_fits(
    spec: EngineSpec, fitting: Fitting, profiles: Mapping[str, ControllerProfile]
) -> str:
    """Return the key of the controller with the fewest pins on which everything has a place.

    Parameters
    ----------
    spec : EngineSpec
        The engine.
    fitting : Fitting
        What is fitted to it.
    profiles : mapping of key to ControllerProfile
        At least one; where none is enough the largest is returned.
    """
    by_size = sorted(profiles, key=lambda key: len(profiles[key].pins))
    for key in by_size:
        if can_serve_all(profiles[key], functions_of(spec, fitting, profiles[key])):
            return key
    return by_size[-1]


def plan_wiring(
    spec: EngineSpec,
    profile: ControllerProfile,
    entry: PlanEntry,
    sensors: Sequence[SensorEntry] = (),
    firing_order: Sequence[int] = (),
) -> WiringPlan:
    """Return the wiring plan of an engine on a controller.

    Parameters
    ----------
    spec : EngineSpec
        The engine.
    profile : ControllerProfile
        A checked controller.
    entry : PlanEntry
        What is fitted, and what was decided by hand.
    sensors : sequence of SensorEntry
        As entered.
    firing_order : sequence of int
        As entered with the trigger; empty where it is not.

    Raises
    ------
    InputRefused
        If something is fitted that cannot be, or an edit is none.
    """
    entry.fitting.check(spec)
    problems = list(_edit_problems(entry))
    if problems:
        raise InputRefused(problems)
    functions = functions_of(spec, entry.fitting, profile, firing_order)
    allocation = allocate(profile, functions, entry.by_hand)
    lines = lines_of(entry.fitting, profile, functions, allocation, sensors, entry.edits)
    short = [left for left in allocation.left_out if left.importance != "later"]
    known: tuple[Remedy, ...] = ()
    by_hand = any(placed.by_hand for placed in allocation.placed)
    if short and not allocation.conflicts and not (by_hand and can_serve_all(profile, functions)):
        known = remedies(spec, entry.fitting, profile)
    remedy = known[0] if known else None
    level, sentences = _judged(profile, functions, allocation, lines, remedy)
    sentences += _believed(spec, entry.fitting, firing_order)
    return WiringPlan(functions, allocation, lines, level, tuple(sentences), remedy, known[1:])


def _believed(spec: EngineSpec, fitting: Fitting, firing_order: Sequence[int]) -> list[str]:
    """Return what was taken for the firing order where cylinders share an output by it."""
    shared = fitting.ignition == "wasted_spark" or fitting.injection != "sequential"
    if firing_order or not shared or spec.cycle == "rotary" or spec.chambers < 4:
        return []
    order = "-".join(map(str, order_of(spec)))
    return [
        f"Which cylinders share an output follows from the firing order, and that is only believed: {order}. "
        "Enter it with the trigger, and check it on the engine before coils are connected."
    ]


def _judged(
    profile: ControllerProfile,
    functions: Sequence[WiredFunction],
    allocation: Allocation,
    lines: Sequence[WiringLine],
    remedy: Remedy | None,
) -> tuple[Literal["good", "attention", "stop"], list[str]]:
    sentences = list(allocation.conflicts)
    short = [left for left in allocation.left_out if left.importance != "later"]
    sentences += _shortages(short, {f.key: f.title for f in functions})
    level: Literal["good", "attention", "stop"] = "good"
    if sentences:
        level = "stop"
        if short and can_serve_all(profile, functions):
            sentences.append("Without the pins chosen by hand everything has a place.")
        elif short and remedy is None and not allocation.conflicts:
            sentences.append("No change that is known here makes it fit: take a larger controller.")
    later = [left for left in allocation.left_out if left.importance == "later"]
    if later:
        level = "attention" if level == "good" else level
        sentences.append(f"{len(later)} output(s) kept for later find no pin: {later[0].sentence}")
    thin = [line for line in lines if line.too_thin]
    if thin:
        level = "attention" if level == "good" else level
        names = ", ".join(line.title for line in thin[:4])
        sentences.append(f"Too thin for current or length: {names}.")
    for capability, name in (("power_ground", "power ground"), ("supply", "battery supply")):
        if not profile.with_capability(capability):  # type: ignore[arg-type]
            level = "attention" if level == "good" else level
            sentences.append(f"This profile names no pin for {name}: add it from the manual.")
    if level == "good":
        spare = len(allocation.spare)
        sentences.append(f"All {len(functions)} functions have a pin; {spare} pins are spare.")
    return level, sentences


def _shortages(short: Sequence[LeftOut], titles: Mapping[str, str]) -> list[str]:
    """Return one sentence for all functions that miss the same pins."""
    groups: dict[tuple[str, ...], list[LeftOut]] = {}
    for left in short:
        groups.setdefault(left.contested or ("", left.need), []).append(left)
    sentences = []
    for pins, members in groups.items():
        if len(members) == 1:
            sentences.append(members[0].sentence)
            continue
        missing = ", ".join(titles[left.function] for left in members)
        need = members[0].need
        if not members[0].contested:
            close = members[0].sentence.partition("; ")[2]
            sentences.append(f"{missing}: each needs {need}; {close}")
            continue
        sentences.append(
            f"{missing}: each needs {need}, and the {len(pins)} pin(s) that can are taken. "
            f"{len(members)} pins too few."
        )
    return sentences


def _edit_problems(entry: PlanEntry) -> Iterator[FieldProblem]:
    if len(entry.edits) > _MOST_EDITS or len(entry.by_hand) > _MOST_EDITS:
        yield FieldProblem("edits", f"At most {_MOST_EDITS} lines can be edited.")
        return
    for key, edit in entry.edits.items():
        at = f"edits.{key}"
        if edit.length_m is not None:
            found = out_of_bounds(f"{at}.length_m", edit.length_m, 0.05, 30.0, "m", "The length")
            if found is not None:
                yield found
        if edit.size_mm2 is not None and edit.size_mm2 not in sizes_mm2():
            sold = ", ".join(f"{size:g}" for size in sizes_mm2())
            yield FieldProblem(f"{at}.size_mm2", f"Wires are sold in {sold} mm².")
        if edit.colour and not is_colour(edit.colour):
            yield FieldProblem(
                f"{at}.colour", f"'{edit.colour[:20]}' is no colour: write letters such as GN-WH."
            )
        if len(edit.note) > _LONGEST_NOTE:
            yield FieldProblem(f"{at}.note", f"A note has up to {_LONGEST_NOTE} letters.")


@dataclass(frozen=True)
class LineChange:
    """What differs between two lists in one line.

    Attributes
    ----------
    key, title : str
    kind : {"added", "removed", "changed"}
    sentence : str
    """

    key: str
    title: str
    kind: Literal["added", "removed", "changed"]
    sentence: str


_COMPARED = (
    ("pin", "pin"), ("size_mm2", "mm²"), ("colour", "colour"), ("length_m", "length"),
    ("fuse_a", "fuse"), ("pull_up", "pull-up"), ("active", "active state"), ("note", "note"),
    ("supply", "supply"), ("ground", "ground"), ("protection", "shield"),
)  # fmt: skip


def changes_between(
    before: Sequence[WiringLine], after: Sequence[WiringLine]
) -> tuple[LineChange, ...]:
    """Return what changed from one wiring list to another, line by line."""
    old = {line.key: line for line in before}
    new = {line.key: line for line in after}
    changes: list[LineChange] = []
    for key, line in new.items():
        if key not in old:
            where = f" on pin {line.pin}" if line.pin else ""
            changes.append(LineChange(key, line.title, "added", f"{line.title}: new{where}."))
            continue
        parts = [
            f"{word} {_said(getattr(old[key], name))} → {_said(getattr(line, name))}"
            for name, word in _COMPARED
            if getattr(old[key], name) != getattr(line, name)
        ]
        if parts:
            changes.append(
                LineChange(key, line.title, "changed", f"{line.title}: {'; '.join(parts)}.")
            )
    changes += [
        LineChange(key, line.title, "removed", f"{line.title}: no longer on pin {line.pin or '–'}.")
        for key, line in old.items()
        if key not in new
    ]
    return tuple(changes)


def _said(value: object) -> str:
    if value is None or value == "":
        return "none"
    return f"{value:g}" if isinstance(value, float) else str(value)

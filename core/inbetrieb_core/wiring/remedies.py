"""What to change where a controller has no pins for everything: the cheapest change that does.

Changes of two kinds are looked for. How the engine is wired (paired injection, shared coils, a converter)
changes which pins are wanted: there are few such sets, and all that may be cheapest are tried. What is
left out or wired without the controller then follows from one assignment problem, solved exactly.
"""

from __future__ import annotations

import heapq
from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from typing import Literal

import numpy as np
from scipy.optimize import linear_sum_assignment

from ..engine import EngineSpec
from ..errors import InputRefused
from ..injectors.drivers import needs_current_limit
from .allocate import makers_of
from .fitting import OUTPUT_KINDS, SWITCH_INPUTS, Fitting
from .functions import functions_of
from .profile import ControllerProfile, Pin
from .wired_function import Way, shortfall

#: No more sets of changes are tried than this, and so many remedies are offered.
_MOST_TRIED, _OFFERED = 400, 3
#: What it costs to wire a load without the controller, or to do without an input, as a practitioner ranks
#: them: a lamp or an instrument long before the way the engine is fuelled (our own weighting). [–]
_WITHOUT = {
    "warning_lamp": 0.8, "tachometer": 1.2, "map_switch": 1.0, "clutch_switch": 1.6, "brake_switch": 1.4,
    "speed": 2.2, "compressor_request": 2.2, "compressor": 2.5, "purge_valve": 2.0,
    "charge_cooler_pump": 2.4, "fan_2": 2.2, "fan_1": 2.8, "cam_valve": 8.0, "boost_valve": 9.0,
    "launch_switch": 0.9, "neutral_switch": 1.2, "gear_position": 1.5, "wideband_2": 2.6, "knock_2": 2.6,
    "knock": 4.5, "cam_2": 6.0, "cam_3": 6.0, "cam_4": 6.0, "cam_phaser": 9.0, "cam_phaser_2": 9.0,
}  # fmt: skip
#: Of anything else that may be left out, and of what has to have a pin. [–]
_ANY_OTHER, _NEEDED = 3.0, 1e6


@dataclass(frozen=True)
class Change:
    """One change of what is fitted.

    Attributes
    ----------
    key, sentence : str
        What to do, and what it gives.
    cost : float
        Work, parts and what is lost (our own weighting). [–]
    """

    key: str
    sentence: str
    cost: float


@dataclass(frozen=True)
class Remedy:
    """A set of changes with which everything has a pin.

    Attributes
    ----------
    changes : tuple of Change
        What is done.
    fitting : Fitting
        What is fitted after them.
    """

    changes: tuple[Change, ...]
    fitting: Fitting

    @property
    def cost(self) -> float:
        """All of them together. [–]"""
        return sum(change.cost for change in self.changes)


Step = tuple[Change, Callable[[Fitting], Fitting]]


def possible_changes(spec: EngineSpec, fitting: Fitting, profile: ControllerProfile) -> list[Step]:
    """Return the changes of how it is wired that make sense for what is fitted, cheapest first."""
    steps = [*_parts(fitting, profile), *_ignition(spec, fitting)]
    return sorted(steps, key=lambda step: step[0].cost)


def _parts(fitting: Fitting, profile: ControllerProfile) -> Iterator[Step]:
    if (
        profile.built_in_pressure is not None
        and "manifold_pressure" in fitting.sensors
        and not fitting.built_in_pressure
    ):
        yield (
            Change(
                "built_in_pressure",
                "Use the pressure sensor built into the controller: it frees an analogue input.",
                0.5,
            ),
            lambda f: replace(f, built_in_pressure=True),
        )
    if not fitting.external_pull_ups:
        yield (
            Change(
                "external_pull_ups",
                "Fit a 2.49 kΩ resistor from 5 V to the input of two-wire sensors: then any "
                "analogue input does.",
                1.0,
            ),
            lambda f: replace(f, external_pull_ups=True),
        )
    if {"fan_1", "fan_2"} <= set(fitting.outputs) and not fitting.fans_together:
        yield (
            Change("fans_together", "Put both fans on one output, each with its own relay.", 1.5),
            lambda f: replace(f, fans_together=True),
        )
    low = fitting.injector_ohm is not None and needs_current_limit(fitting.injector_ohm)
    if low and not fitting.series_resistors:
        yield (
            Change(
                "series_resistors",
                "Fit a resistor in series with each injector, and enter the dead time measured with it.",
                2.5,
            ),
            lambda f: replace(f, series_resistors=True),
        )
    if "inductive" in (fitting.crank_sensor, fitting.cam_sensor) and not fitting.signal_converter:
        yield (
            Change(
                "signal_converter",
                "Fit a converter that makes a digital signal of the inductive sensor's.",
                3.0,
            ),
            lambda f: replace(f, signal_converter=True),
        )
    if "wideband" in fitting.sensors and not fitting.wideband_on_bus:
        yield (
            Change("wideband_on_bus", "Let the wideband talk over the bus, if it can.", 2.0),
            lambda f: replace(f, wideband_on_bus=True),
        )


def _ignition(spec: EngineSpec, fitting: Fitting) -> Iterator[Step]:
    if fitting.reserve_coil_per_cylinder:
        yield (
            Change("no_reserve", "Give up the outputs kept for a coil at each plug later.", 2.0),
            lambda f: replace(f, reserve_coil_per_cylinder=False),
        )
    if fitting.coils == "plain" and not fitting.igniters:
        yield (
            Change("igniters", "Fit power stages between the controller and the coils.", 3.0),
            lambda f: replace(f, igniters=True),
        )
    if fitting.injection == "sequential" and spec.injectors.count > 2:
        yield (
            Change(
                "paired", "Inject in pairs: half the injector outputs, a heavier dead time.", 3.5
            ),
            lambda f: replace(f, injection="paired"),
        )
    if fitting.injection != "simultaneous" and spec.injectors.count > 2:
        yield (
            Change("simultaneous", "Inject all together in two banks.", 5.0),
            lambda f: replace(f, injection="simultaneous"),
        )
    if fitting.ignition == "coil_per_cylinder" and spec.cycle != "rotary" and not spec.chambers % 2:
        yield (
            Change("wasted_spark", "Let two plugs share a coil: wasted spark.", 4.0),
            lambda f: replace(f, ignition="wasted_spark"),
        )
    if fitting.ignition != "distributor" and spec.cycle != "rotary":
        freed = (
            spec.chambers - 1 if fitting.ignition == "coil_per_cylinder" else spec.chambers // 2 - 1
        )
        yield (
            Change("distributor", f"Keep a distributor: it frees {freed} ignition output(s).", 5.0),
            lambda f: replace(f, ignition="distributor"),
        )


def leave_out(fitting: Fitting) -> dict[str, Step]:
    """Return what the engine runs without, by key: leaving it out, or wiring it without the controller."""
    found: dict[str, Step] = {}
    for key in fitting.outputs:
        if key not in ("fuel_pump", "main_relay", "electronic_throttle"):
            title = OUTPUT_KINDS[key].title.lower()
            change = Change(f"without_{key}", f"Wire it without the controller: {title}.", _WITHOUT.get(key, _ANY_OTHER))  # fmt: skip
            found[key] = change, _without("outputs", key)
    for key in fitting.inputs:
        title = SWITCH_INPUTS.get(key, key.replace("_", " ")).lower()
        change = Change(f"without_{key}", f"Do without: {title}.", _WITHOUT.get(key, _ANY_OTHER))
        found[key] = change, _without("inputs", key)
    return found


def _without(field: Literal["outputs", "inputs"], key: str) -> Callable[[Fitting], Fitting]:
    def change(fitting: Fitting) -> Fitting:
        left = tuple(k for k in getattr(fitting, field) if k != key)
        return (
            replace(fitting, outputs=left) if field == "outputs" else replace(fitting, inputs=left)
        )

    return change


def remedies(spec: EngineSpec, fitting: Fitting, profile: ControllerProfile) -> tuple[Remedy, ...]:
    """Return sets of changes after which everything has a pin, the cheapest first; three at most.

    Parameters
    ----------
    spec : EngineSpec
        The engine.
    fitting : Fitting
        What is fitted and has no place.
    profile : ControllerProfile
        The controller.

    Notes
    -----
    Sets of changes of the wiring are tried in the order of their cost. What each leaves out is the
    cheapest there is for it: functions to pins, each with its own cost of being left out, is a
    rectangular assignment problem. No set dearer than the best remedies found can be one of them.
    """
    steps = possible_changes(spec, fitting, profile)
    search = _Pins(profile)
    found: list[Remedy] = []
    queue: list[tuple[float, tuple[int, ...]]] = [(0.0, ())]
    for _ in range(_MOST_TRIED):
        if not queue:
            break
        cost, chosen = heapq.heappop(queue)
        if len(found) >= _OFFERED and cost >= found[_OFFERED - 1].cost:
            break
        changed = fitting
        for i in chosen:
            changed = steps[i][1](changed)
        if _can_be(spec, changed):
            left = search.left_out(spec, changed)
            if left is not None and (chosen or left):
                out = leave_out(changed)
                for key in left:
                    changed = out[key][1](changed)
                changes = (*(steps[i][0] for i in chosen), *(out[key][0] for key in left))
                _offer(found, Remedy(changes, changed))
        for i in range(chosen[-1] + 1 if chosen else 0, len(steps)):
            heapq.heappush(queue, (cost + steps[i][0].cost, (*chosen, i)))
    return tuple(found[:_OFFERED])


def _offer(found: list[Remedy], remedy: Remedy) -> None:
    """Put a remedy among those found, by its cost; one that only adds to another is none."""
    mine = {change.key for change in remedy.changes}
    if any({change.key for change in other.changes} <= mine for other in found):
        return
    found[:] = [other for other in found if not mine < {change.key for change in other.changes}]
    found.append(remedy)
    found.sort(key=lambda r: r.cost)


def _can_be(spec: EngineSpec, fitting: Fitting) -> bool:
    try:
        fitting.check(spec)
    except InputRefused:
        return False
    return True


class _Pins:
    """The pins of a controller, with what was found of them kept: many fittings ask the same."""

    def __init__(self, profile: ControllerProfile) -> None:
        self.profile = profile
        self.pins = [pin for pin in profile.pins if not pin.is_shared]
        self.makers: Mapping[str, str] = makers_of(self.pins)
        self._known: dict[tuple[tuple[Way, ...], str | None], np.ndarray] = {}

    def _serve(self, ways: tuple[Way, ...], only: str | None) -> np.ndarray:
        """Return which pins serve one of the ways, as truth values."""
        key = ways, only
        if key not in self._known:
            self._known[key] = np.array(
                [self._serves(pin, ways, only) for pin in self.pins], dtype=bool
            )
        return self._known[key]

    @staticmethod
    def _serves(pin: Pin, ways: tuple[Way, ...], only: str | None) -> bool:
        if (pin.name != only) if only is not None else bool(pin.function):
            return False
        return any(shortfall(pin, way) is None for way in ways)

    def left_out(self, spec: EngineSpec, fitting: Fitting) -> tuple[str, ...] | None:
        """Return the cheapest that has to be left out, None where that is not enough."""
        functions = [
            f for f in functions_of(spec, fitting, self.profile) if f.importance != "later"
        ]
        optional = leave_out(fitting)
        count, pins = len(functions), len(self.pins)
        cost = np.full((count, pins + count), 2.0 * _NEEDED)
        for i, function in enumerate(functions):
            served = self._serve(function.ways, self.makers.get(function.key))
            cost[i, :pins][served] = 0.0
            known = optional.get(function.key)
            cost[i, pins + i] = _NEEDED if known is None else known[0].cost
        rows, columns = linear_sum_assignment(cost)
        left = [functions[i].key for i, j in zip(rows, columns, strict=True) if j >= pins]
        return None if any(key not in optional for key in left) else tuple(left)

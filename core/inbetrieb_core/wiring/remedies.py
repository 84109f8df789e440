"""What to change where a controller has no pins for everything: the cheapest change that does."""

from __future__ import annotations

import heapq
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from typing import Literal

from ..engine import EngineSpec
from ..errors import InputRefused
from ..injectors.drivers import needs_current_limit
from .allocate import can_serve_all
from .fitting import OUTPUT_KINDS, Fitting
from .functions import functions_of
from .profile import ControllerProfile

#: No more than so many changes together are looked for, and no more sets of them.
_MOST_TOGETHER, _MOST_TRIED = 5, 4000


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
        The cheapest set there is.
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
    """Return the changes that make sense for what is fitted, cheapest first."""
    steps = [*_parts(fitting, profile), *_ignition(spec, fitting), *_left_out(fitting)]
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
    if fitting.ignition == "coil_per_cylinder" and (
        spec.chambers % 2 == 0 or spec.cycle == "rotary"
    ):
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


def _left_out(fitting: Fitting) -> Iterator[Step]:
    """Yield leaving out what the engine runs without."""
    for key in fitting.outputs:
        if key in ("fuel_pump", "main_relay"):
            continue
        yield (
            Change(f"without_{key}", f"Wire it without the controller: {OUTPUT_KINDS[key].title.lower()}.", 6.0),
            _without("outputs", key),
        )  # fmt: skip
    for key in fitting.inputs:
        yield (
            Change(f"without_{key}", f"Do without: {key.replace('_', ' ')}.", 5.0),
            _without("inputs", key),
        )


def _without(field: Literal["outputs", "inputs"], key: str) -> Callable[[Fitting], Fitting]:
    def change(fitting: Fitting) -> Fitting:
        left = tuple(k for k in getattr(fitting, field) if k != key)
        return (
            replace(fitting, outputs=left) if field == "outputs" else replace(fitting, inputs=left)
        )

    return change


def cheapest_remedy(
    spec: EngineSpec, fitting: Fitting, profile: ControllerProfile
) -> Remedy | None:
    """Return the cheapest set of changes after which everything has a pin; None if there is none.

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
    Sets are tried in the order of their cost, so the first that works is the cheapest.
    """
    steps = possible_changes(spec, fitting, profile)
    queue: list[tuple[float, tuple[int, ...]]] = [(0.0, ())]
    for _ in range(_MOST_TRIED):
        if not queue:
            return None
        cost, chosen = heapq.heappop(queue)
        changed = fitting
        for i in chosen:
            changed = steps[i][1](changed)
        if chosen and _works(spec, changed, profile):
            return Remedy(tuple(steps[i][0] for i in chosen), changed)
        if len(chosen) < _MOST_TOGETHER:
            for i in range(chosen[-1] + 1 if chosen else 0, len(steps)):
                heapq.heappush(queue, (cost + steps[i][0].cost, (*chosen, i)))
    return None


def _works(spec: EngineSpec, fitting: Fitting, profile: ControllerProfile) -> bool:
    try:
        fitting.check(spec)
    except InputRefused:
        return False
    return can_serve_all(profile, functions_of(spec, fitting, profile))

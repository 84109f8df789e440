"""One function that needs a pin, the ways to serve it, and whether a pin can."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from .capability import CAPABILITIES, Capability
from .profile import InjectorClass, Pin

Group = Literal["trigger", "ignition", "fuel", "sensor", "output", "bus", "own"]
Importance = Literal["needed", "wanted", "later"]

_BRIEF = (
    ("Injector ", "Inj "), ("Ignition coil", "Coil"), ("Leading coil, rotor ", "Lead "),
    ("Trailing coil, rotor ", "Trail "), (" temperature", ""), ("Manifold pressure", "Manif. press"),
    ("pressure", "press"), ("Vehicle speed", "Speed"), (", reserved", " later"), (" sensor", ""),
    ("Wideband lambda", "Wide-band"), ("Tachometer", "Tacho"), ("Charge-cooler", "Cooler"),
    ("Intake air", "Intake air"), (", high wire", " high"), (", low wire", " low"), (" and ", "+"),
    ("Air-conditioning request", "A/C req."), ("Cam-profile valve", "Cam valve"),
    ("Air-conditioning compressor", "A/C"), ("Barometric press", "Baro"),
)  # fmt: skip


@dataclass(frozen=True)
class Way:
    """One way in which a pin can serve a function.

    Attributes
    ----------
    capability : str
        Needed of the pin.
    cost : float
        How much worse than the best way it is. [–]
    pull_up : bool
        Whether the pin must have a pull-up.
    current_a : float
        Through the pin. [A]
    hz : tuple of float or None
        Frequencies that it must be able to give: any within this span. [Hz]
    injector_class : {"plain", "current_limiting"}
        Needed of an injector driver.
    outside_pull_up : bool
        Whether a resistor is fitted at the input instead.
    """

    capability: Capability
    cost: float = 0.0
    pull_up: bool = False
    current_a: float = 0.0
    hz: tuple[float, float] | None = None
    injector_class: InjectorClass = "plain"
    outside_pull_up: bool = False

    @property
    def words(self) -> str:
        """What it needs, in one phrase."""
        text = CAPABILITIES[self.capability]
        if self.injector_class == "current_limiting":
            text += " with current limiting"
        if self.pull_up:
            text += " with pull-up"
        if self.hz:
            text += f" at {self.hz[0]:g} to {self.hz[1]:g} Hz"
        return text + (f" for {self.current_a:g} A" if self.current_a >= 0.1 else "")


@dataclass(frozen=True)
class WiredFunction:
    """A function that needs one pin.

    Attributes
    ----------
    key, title : str
    group : {"trigger", "ignition", "fuel", "sensor", "output", "bus", "own"}
    ways : tuple of Way
        The best first.
    importance : {"needed", "wanted", "later"}
        What is left out first where pins are short.
    branch : str
        Key of :data:`BRANCH_TITLES`.
    length_m : float
        Usual length of its wire. [m]
    wires : {1, 2, 3}
        Wires at the part itself. [–]
    load_a : float
        Current of the load, behind its relay if it has one. [A]
    relay : bool
        Whether the load is switched through a relay.
    parts : int
        How many of them hang on it side by side. [–]
    short : str
        For a drawing; made from the title where it is not given.
    """

    key: str
    title: str
    group: Group
    ways: tuple[Way, ...]
    importance: Importance = "needed"
    branch: str = "engine"
    length_m: float = 1.5
    wires: int = 1
    load_a: float = 0.0
    relay: bool = False
    parts: int = 1
    short: str = ""

    def __post_init__(self) -> None:
        if not self.short:
            object.__setattr__(self, "short", _shortened(self.title))


def _shortened(title: str) -> str:
    """Return a title short enough for a pin's place in a drawing."""
    for long, brief in _BRIEF:
        title = title.replace(long, brief)
    return title


def shortfall(pin: Pin, way: Way) -> str | None:
    """Return why a pin cannot serve a way, None where it can.

    Parameters
    ----------
    pin : Pin
        Of the controller.
    way : Way
        Wanted of it.
    """
    if way.capability not in pin.capabilities:
        return f"pin {pin.name} is: {pin.words}"
    if way.pull_up and pin.pull_up == "none":
        return f"pin {pin.name} has no pull-up"
    if pin.current_a is not None and way.current_a > pin.current_a + 1e-9:
        return f"pin {pin.name} carries only {pin.current_a:g} A"
    if way.injector_class == "current_limiting" and pin.injector_class != "current_limiting":
        return f"pin {pin.name} does not limit the injector's current"
    if way.hz is not None:
        low, high = pin.lowest_hz or 0.0, math.inf if pin.highest_hz is None else pin.highest_hz
        if max(low, way.hz[0]) > min(high, way.hz[1]):
            return f"pin {pin.name} pulses at {low:g} to {high:g} Hz only"
    return None

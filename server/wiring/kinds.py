"""What is entered of the wiring: plan, conditions of the outputs, unknown three-wire sensors."""

from __future__ import annotations

from dataclasses import dataclass

from inbetrieb_core.wiring import ControllerProfile, OutputSettings, PlanEntry, WireReading

from server.entries.kinds import Kind, Shape


@dataclass(frozen=True)
class PlanSaved:
    """A plan as it is kept: the controller's profile goes with it.

    Attributes
    ----------
    controller : str
        Key from which the profile came.
    """

    controller: str
    profile: ControllerProfile
    entry: PlanEntry


@dataclass(frozen=True)
class ThreeWiresSaved:
    """Readings of a sensor that nobody knows."""

    name: str
    wires: tuple[WireReading, ...]


CONTROLLER: Shape[ControllerProfile] = Shape(ControllerProfile)
PLAN: Kind[PlanSaved] = Kind("wiring", PlanSaved)
OUTPUTS: Kind[OutputSettings] = Kind("outputs", OutputSettings)
THREE_WIRE: Kind[ThreeWiresSaved] = Kind("three_wire", ThreeWiresSaved)

"""Shapes of the wiring endpoints."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from inbetrieb_core.wiring import (
    ControllerProfile,
    FanPicture,
    LineChange,
    OutputSettings,
    OutputSheet,
    PlanEntry,
    ThreeWire,
    WireReading,
    WiringPlan,
)
from ninja import Field, Schema

from server.config.bodies import Body
from server.config.body import RequestBody


class NamedOut(Schema):
    """One of several choices."""

    key: str
    title: str


class OutputKindOut(NamedOut):
    """A load that can be fitted."""

    current_a: float = Field(description="[A]")
    relay: bool


class WiringVocabularyOut(Schema):
    """Everything the sheet needs to know once."""

    capabilities: list[NamedOut]
    shared: list[str] = Field(description="capabilities of supplies and grounds")
    ignitions: list[NamedOut]
    injections: list[NamedOut]
    idle_valves: list[NamedOut]
    outputs: list[OutputKindOut]
    inputs: list[NamedOut]
    sensors: list[NamedOut]
    branches: list[NamedOut]
    colours: list[NamedOut] = Field(description="letters of IEC 60757")
    sizes_mm2: list[float]
    fade_laws: list[NamedOut]
    size_source: str = Field(description="where wire sizes come from")


class ControllerOut(Schema):
    """A controller that can be chosen."""

    key: str
    library_id: int | None = Field(description="of the workshop's own; none for what ships")
    profile: ControllerProfile


class ControllerIn(Body):
    """A controller to keep."""

    profile: ControllerProfile


class PinListIn(RequestBody):
    """A pin list pasted from a spreadsheet or a manual."""

    name: str = ""
    text: str


class PinListOut(Schema):
    """What was understood of it; nothing is saved."""

    profile: ControllerProfile
    sentences: list[str]


class WireCheckOut(Schema):
    """The newest look at a wire."""

    line: str
    pin: str
    reading: float | None
    unit: str
    good: bool
    sentence: str
    stale: bool = Field(description="whether the wire has moved to another pin since")
    created_at: datetime
    created_by: str


class SignOffOut(Schema):
    """A sign-off of the wiring list."""

    plan: int
    note: str
    created_at: datetime
    created_by: str


class WiringIn(Body):
    """A plan."""

    controller: str = Field(description="key of a controller; 'saved' for the one of the plan")
    entry: PlanEntry


class WiringPreviewOut(Schema):
    """What follows from a plan that is still being changed."""

    plan: WiringPlan
    changes: list[LineChange] = Field(description="against the signed list")


class WiringOut(WiringPreviewOut):
    """The plan of a job."""

    number: int = Field(description="version; 0 where everything is proposed")
    controller: str
    profile: ControllerProfile
    entry: PlanEntry
    checks: list[WireCheckOut]
    signed: SignOffOut | None
    reason: str = Field(description="why no plan is needed; empty if nothing was written")


class SignOffIn(RequestBody):
    """What is signed."""

    number: int = Field(description="version of the plan that was read")
    note: str = ""


class WireCheckIn(RequestBody):
    """A wire that was looked at."""

    line: str
    reading: float | None = Field(None, description="on the meter; none for a plain tick")
    unit: str = ""
    good: bool = Field(True, description="what a plain tick says")


class ReasonIn(RequestBody):
    """Why a gate is passed without what it asks for."""

    reason: str


class ReasonOut(Schema):
    """A written reason."""

    gate: Literal["wiring", "trigger", "outputs"]
    reason: str


class OutputsIn(Body):
    """Conditions of the outputs."""

    settings: OutputSettings


class OutputsOut(Schema):
    """Conditions of the outputs, and how each is tried."""

    settings: OutputSettings
    number: int = Field(description="version; 0 where they are proposed")
    sheets: list[OutputSheet]
    fan: FanPicture
    fan_2: FanPicture


class ThreeWireIn(Body):
    """Readings of three unknown wires."""

    name: str = ""
    wires: list[WireReading] = Field(min_length=1, max_length=6)


class ThreeWireOut(Schema):
    """Which wire is which."""

    name: str
    number: int = Field(description="version; 0 where nothing is saved")
    wires: list[WireReading]
    result: ThreeWire
    created_at: datetime | None
    created_by: str

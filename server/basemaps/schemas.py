"""Base maps as they travel."""

from __future__ import annotations

from typing import Literal

from inbetrieb_core.basemaps.expected import Expected
from inbetrieb_core.basemaps.nearest import DistancePart
from inbetrieb_core.basemaps.schools import SchoolChoice
from inbetrieb_core.basemaps.terms import Term
from inbetrieb_core.engine import EngineEntry
from inbetrieb_core.wiring import OutputLine
from ninja import Field, Schema

from server.config.bodies import Body
from server.config.body import RequestBody

Axes = dict[str, list[float]]


class BaseMapsOut(Schema):
    """Everything the sheet of base maps begins with."""

    revision: int
    engine: EngineEntry
    expected: Expected
    schools: list[SchoolChoice]
    controller: str = Field(description="empty where none is chosen")
    limits: dict[str, int] = Field(description="most breakpoints of each axis in the controller")
    axes: Axes = Field(description="in force")
    proposed_axes: Axes
    outputs: list[OutputLine] = Field(description="fan and pump, set with the wiring")
    outputs_assumed: bool


class BaseMapsPreviewIn(Body):
    """Engine data that are still being changed."""

    engine: EngineEntry
    axes: Axes | None = Field(None, description="chosen for engine and controller if not given")


class TableChangeOut(Schema):
    """What generating would do to a table."""

    key: str
    title: str
    unit: str
    cells: int
    largest: float
    reshaped: bool = Field(description="whether it comes, goes, or gets other axes")
    evidence: int = Field(description="measured or carried-over cells that would be lost")


class BaseMapsPreviewOut(Schema):
    """What base maps engine data would give."""

    expected: Expected
    schools: list[SchoolChoice]
    changes: list[TableChangeOut]
    proposed_axes: Axes


class GenerateIn(BaseMapsPreviewIn):
    """What to generate."""

    tables: list[str] | None = Field(None, description="all that such an engine has if not given")
    based_on: int
    note: str = ""


class WhyOut(Schema):
    """How the generated value of a cell comes about."""

    key: str
    unit: str
    formula: str
    terms: list[Term]
    beneath: list[Term] = Field(description="what the first term is made of")
    value: float
    held: str
    is_sum: bool = Field(description="whether the terms add up to the value")
    band: tuple[float, float] | None = Field(
        description="within which the engine's own value lies with 90 %; none of what is chosen"
    )
    in_force: float | None = Field(description="what stands in the newest revision there")


class CarrySourceOut(Schema):
    """A calibration that can be carried over."""

    kind: Literal["job", "example"]
    key: str
    name: str
    distance: float
    parts: list[DistancePart]
    revision: int
    good_trials: int


class CarryIn(RequestBody):
    """What to carry over."""

    kind: Literal["job", "example"]
    key: str
    tables: list[str] | None = None
    based_on: int = 0
    note: str = ""


class CarriedTableOut(Schema):
    """What became of one table."""

    key: str
    title: str
    unit: str
    carried: bool
    cells: int
    kept: int
    largest: float
    sentence: str


class CarriedOut(Schema):
    """A calibration with tables carried over."""

    revision: int
    sentence: str
    tables: list[CarriedTableOut]


class AxesIn(RequestBody):
    """Other breakpoints."""

    axes: Axes
    based_on: int = 0
    note: str = ""


class ReaxedOut(Schema):
    """What a table loses on other breakpoints."""

    key: str
    title: str
    unit: str
    worst: float
    worst_at: list[float]
    rms: float
    outside: int
    sentence: str


class AxesPreviewOut(Schema):
    """What other breakpoints would lose."""

    no_room: dict[str, str] = Field(
        description="axes with more breakpoints than the controller holds"
    )
    tables: list[ReaxedOut]

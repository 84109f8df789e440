"""Base maps as they travel."""

from __future__ import annotations

from typing import Literal

from inbetrieb_core.wiring import OutputLine
from ninja import Field, Schema

from server.jobs.engine_data import EngineIn

Axes = dict[str, list[float]]


class LoadPointOut(Schema):
    """Full load at one speed."""

    rpm: float
    air_gps: float
    power_low_kw: float
    power_high_kw: float
    spark_deg: float
    mixture: float


class ExpectedOut(Schema):
    """What to expect of an engine on its base maps."""

    idle_rpm: float
    idle_map_kpa: float
    idle_air_gps: float
    full_load: list[LoadPointOut]
    power_low_kw: float
    power_high_kw: float
    power_rpm: float
    first_limit_rpm: float
    charge_c: float
    piston_speed_m_s: float | None
    knock: list[str]


class SchoolOptionOut(Schema):
    """One side of a choice."""

    value: str
    title: str
    consequence: str


class SchoolChoiceOut(Schema):
    """A choice on which good installers differ."""

    key: str
    title: str
    why: str
    chosen: str
    options: list[SchoolOptionOut]


class BaseMapsOut(Schema):
    """Everything the sheet of base maps begins with."""

    revision: int
    engine: EngineIn
    expected: ExpectedOut
    schools: list[SchoolChoiceOut]
    controller: str = Field(description="empty where none is chosen")
    limits: dict[str, int] = Field(description="most breakpoints of each axis in the controller")
    axes: Axes = Field(description="in force")
    proposed_axes: Axes
    outputs: list[OutputLine] = Field(description="fan and pump, set with the wiring")
    outputs_assumed: bool


class BaseMapsPreviewIn(Schema):
    """Engine data that are still being changed."""

    engine: EngineIn
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

    expected: ExpectedOut
    schools: list[SchoolChoiceOut]
    changes: list[TableChangeOut]
    proposed_axes: Axes


class GenerateIn(BaseMapsPreviewIn):
    """What to generate."""

    tables: list[str] | None = Field(None, description="all that such an engine has if not given")
    based_on: int
    note: str = ""


class TermOut(Schema):
    """One part of a value."""

    name: str
    amount: float
    because: str


class WhyOut(Schema):
    """How the generated value of a cell comes about."""

    key: str
    unit: str
    formula: str
    terms: list[TermOut]
    beneath: list[TermOut] = Field(description="what the first term is made of")
    value: float
    held: str
    is_sum: bool = Field(description="whether the terms add up to the value")
    in_force: float | None = Field(description="what stands in the newest revision there")


class DistancePartOut(Schema):
    """One way in which two engines differ."""

    name: str
    amount: float
    sentence: str


class CarrySourceOut(Schema):
    """A calibration that can be carried over."""

    kind: Literal["job", "example"]
    key: str
    name: str
    distance: float
    parts: list[DistancePartOut]
    revision: int
    good_trials: int


class CarryIn(Schema):
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


class AxesIn(Schema):
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

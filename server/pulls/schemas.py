"""What travels at station 12."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated

from inbetrieb_core.pulls import (
    BoostTables,
    BrakePoint,
    Exceeded,
    HeardKnock,
    HeldPoint,
    PullCheck,
    PullLimits,
    SparkPoint,
    Standard,
    SupplyLine,
    Vehicle,
)
from ninja import Field, Schema

from server.config.bodies import Body
from server.config.body import RequestBody

from . import services
from .kinds import Conditions, PullSaved

Numbers = Annotated[list[int], Field(max_length=services.MOST_IN_SERIES)]
_Short = Annotated[str, Field(max_length=200)]


class PullRowOut(Schema):
    """A pull on the board."""

    number: int
    at: datetime
    by: str
    conditions: Conditions
    origin: str
    torque: str = Field(description="measured, relative to other pulls of the same car, or none")
    revision: int | None
    from_rpm: float
    to_rpm: float
    peak_torque: float | None = Field(description="[N·m], or relative")
    peak_torque_rpm: float | None
    peak_power_kw: float | None
    peak_power_rpm: float | None
    most_kpa: float | None = Field(description="manifold pressure [kPa]")
    passed: list[Exceeded]
    stop: str
    doubts: list[str]
    aside: str
    stand_in: bool


class CheckOut(Schema):
    """A check with its tick."""

    check: PullCheck
    done: bool
    note: str
    by: str
    at: datetime | None


class PullsOut(Schema):
    """Station 12 of a job."""

    pulls: list[PullRowOut] = Field(description="newest first")
    limits: PullLimits | None
    proposed: PullLimits
    titles: dict[str, tuple[str, str]] = Field(description="title and unit of every limit")
    checks: list[CheckOut]
    open_checks: list[str]
    closed_by: int | None = Field(
        description="pull that closes the station until a reason is written"
    )
    closed_sentence: str
    supply: SupplyLine
    standards: dict[str, str]
    faults: dict[str, str] = Field(description="what can be hidden in a simulated pull")
    is_boosted: bool
    channels: dict[str, str] = Field(description="what can be laid over each other")
    units: dict[str, str] = Field(description="of each of these; empty for none")


class PullWholeOut(Schema):
    """One pull, whole."""

    number: int
    saved: PullSaved
    power_kw: list[float | None] = Field(description="of its torque, over its speeds [kW]")
    aside: str


class LimitsIn(Body):
    """Limits that no pull may pass."""

    limits: PullLimits


class BeyondLimitsOut(Schema):
    """What was measured beyond them already."""

    beyond: list[str]


class NoteIn(RequestBody):
    """What was done, or that there is none."""

    note: str = Field("", max_length=500)


class PullReasonIn(RequestBody):
    """Why."""

    reason: str = Field(max_length=2000)


class FromLogIn(Body):
    """Which stretch of which log is a pull."""

    log_id: int
    begin_s: float
    end_s: float
    conditions: Conditions = Field(default_factory=Conditions)
    vehicle: Vehicle | None = None


class TypedIn(Body):
    """Points of a pull."""

    points: list[tuple[float, float]] = Field(
        max_length=400, description="speed and torque [1/min, N·m]"
    )
    conditions: Conditions = Field(default_factory=Conditions)


class BenchPullIn(Body):
    """A pull of the simulated engine."""

    conditions: Conditions = Field(default_factory=Conditions)
    faults: list[_Short] = Field(default_factory=list, max_length=8)
    change_pct: float = Field(0.0, description="what a part makes more [%]")
    seed: int = 0


class NumberOut(Schema):
    """The number of what was kept."""

    number: int


class CompareIn(RequestBody):
    """A against B."""

    a: Numbers
    b: Numbers
    wanted_pct: float = Field(1.0, description="difference that should be seen [%]")
    standard: Standard = "none"


class NumbersIn(RequestBody):
    """Some pulls."""

    numbers: Numbers


class CamsIn(RequestBody):
    """Pulls on each profile alone."""

    low: Numbers
    high: Numbers


class KnockIn(Body):
    """Quiet pulls, and what was heard."""

    quiet: Numbers = Field(default_factory=list)
    heard: list[HeardKnock] = Field(default_factory=list, max_length=60)


class SparkSweepIn(Body):
    """A sweep of spark at one load point."""

    points: list[SparkPoint] = Field(max_length=60)
    fuel: str = Field("", max_length=80)
    knocks_from_deg: float | None = Field(None, description="where knock began [°]")


class TargetIn(RequestBody):
    """Boost that is wanted."""

    target_kpa: float = Field(description="absolute [kPa]")


class PullPlanIn(RequestBody):
    """How many pulls of each, or which load points."""

    each: int = Field(3, ge=1, le=20)
    from_rpm: float = Field(1500.0, ge=300, le=20_000)
    to_rpm: float = Field(6000.0, ge=300, le=20_000)
    step_rpm: float = Field(500.0, ge=100, le=5000)
    throttles: list[float] = Field(
        default_factory=lambda: [5.0, 10.0, 20.0, 40.0, 100.0], max_length=20
    )
    log_ids: list[int] = Field(default_factory=list, max_length=20, description="logs of the brake")


class PullPlanOut(Schema):
    """The order of pulls, and load points on a brake."""

    order: list[str]
    points: list[BrakePoint]
    held: list[HeldPoint] = Field(description="each point as the logs have it")
    gaps: str


class BoostTakenOut(Schema):
    """What was written."""

    revision: int
    tables: BoostTables

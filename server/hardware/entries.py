"""Entered parts, version by version: reading the newest, adding one, never changing one."""

from __future__ import annotations

from typing import Any, Literal

from django.contrib.auth.models import User
from django.db.models import F, Max, Window
from django.db.models.functions import RowNumber
from inbetrieb_core.commissioning import IntakeEntry, IntakeItem
from inbetrieb_core.errors import FieldProblem, InputRefused
from inbetrieb_core.sensors import (
    FUNCTIONS,
    FrequencyEntry,
    LinearEntry,
    SensorEntry,
    TableEntry,
    ThermistorEntry,
    ThermocoupleEntry,
)
from inbetrieb_core.supply import DeadTimeEntry, InjectorEntry, PumpFlow, ReportEntry, SupplyEntry
from inbetrieb_core.triggers import CaptureChoice, Coil, DwellEntry, LightReading, TriggerEntry
from inbetrieb_core.wiring import (
    AxisFormat,
    BuiltInPressure,
    Connector,
    ControllerProfile,
    Fitting,
    LineEdit,
    OutputSettings,
    OwnFunction,
    Pin,
    PlanEntry,
    TableFormat,
    WireReading,
)
from pydantic import ConfigDict, TypeAdapter

from server.jobs.models import Job

from .models import HardwareEntry

Kind = Literal[
    "sensor", "injectors", "supply", "agreement",
    "wiring", "outputs", "three_wire", "trigger", "timing", "coil", "reason",
    "engine", "intake",
]  # fmt: skip

# A misspelt field is refused, not quietly left out. Said here because the core knows no pydantic.
for _entry in (
    SensorEntry, LinearEntry, FrequencyEntry, TableEntry, ThermistorEntry, ThermocoupleEntry,
    InjectorEntry, DeadTimeEntry, ReportEntry, SupplyEntry, PumpFlow,
    ControllerProfile, Connector, Pin, AxisFormat, TableFormat, BuiltInPressure,
    Fitting, OwnFunction, PlanEntry, LineEdit, OutputSettings, WireReading,
    TriggerEntry, LightReading, Coil, DwellEntry, CaptureChoice, IntakeEntry, IntakeItem,
):  # fmt: skip
    setattr(_entry, "__pydantic_config__", ConfigDict(extra="forbid"))  # noqa: B010

SENSOR = TypeAdapter(SensorEntry)
INJECTORS = TypeAdapter(InjectorEntry)
SUPPLY = TypeAdapter(SupplyEntry)
CONTROLLER = TypeAdapter(ControllerProfile)
PLAN = TypeAdapter(PlanEntry)
FITTING = TypeAdapter(Fitting)
OUTPUTS = TypeAdapter(OutputSettings)
TRIGGER = TypeAdapter(TriggerEntry)
DWELL = TypeAdapter(DwellEntry)
INTAKE = TypeAdapter(IntakeEntry)
WIRES = TypeAdapter(tuple[WireReading, ...])
READINGS = TypeAdapter(tuple[LightReading, ...])


def history(job: Job, kind: Kind, key: str = "") -> list[HardwareEntry]:
    """Return all versions of a part, newest first."""
    rows = HardwareEntry.objects.select_related("created_by")
    return list(rows.filter(job=job, kind=kind, key=key).order_by("-number"))


def newest(job: Job, kind: Kind, key: str = "") -> HardwareEntry | None:
    """Return the newest version of a part; None if it was never entered."""
    return HardwareEntry.objects.filter(job=job, kind=kind, key=key).order_by("number").last()


def add(job: Job, user: User, kind: Kind, key: str, data: Any) -> HardwareEntry:
    """Write the next version of a part; `data` is JSON, None removes it. Callers hold the transaction."""
    last = HardwareEntry.objects.filter(job=job, kind=kind, key=key).aggregate(n=Max("number"))["n"]
    return HardwareEntry.objects.create(
        job=job, kind=kind, key=key, number=(last or 0) + 1, data=data, created_by=user
    )


def sensor_rows(job: Job) -> list[HardwareEntry]:
    """Return the newest version of every entered sensor, in the order of the functions."""
    ranked = HardwareEntry.objects.filter(job=job, kind="sensor").annotate(
        rank=Window(RowNumber(), partition_by=F("key"), order_by=F("number").desc())
    )
    rows = [row for row in ranked if row.rank == 1 and row.data is not None]
    order = list(FUNCTIONS)
    return sorted(rows, key=lambda row: order.index(row.key))


def sensors_of(job: Job) -> list[SensorEntry]:
    """Return the sensors of a job as they are now."""
    return [SENSOR.validate_python(row.data) for row in sensor_rows(job)]


def versions_of(job: Job) -> dict[str, int]:
    """Return the version number of every sensor that a job has now."""
    return {row.key: row.number for row in sensor_rows(job)}


def refuse(field: str, sentence: str) -> InputRefused:
    """Return the refusal of one field, to be raised."""
    return InputRefused([FieldProblem(field, sentence)])

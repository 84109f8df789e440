"""Shapes that more than one of the hardware endpoints use."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from inbetrieb_core.sensors import (
    FuelLevelSheet,
    SensorEntry,
    SensorSheet,
    TableRow,
)
from inbetrieb_core.supply import InjectorEntry, InjectorSheet, SupplyEntry, SupplySheet
from ninja import Field, Schema

from server.config.bodies import Body


class SensorIn(Body):
    """A sensor as entered."""

    sensor: SensorEntry


class SensorPreviewIn(SensorIn):
    """A sensor that is still being typed, and the axis on which its value table is wanted."""

    of: Literal["signal", "resistance"] = "signal"
    axis: list[float] | None = Field(
        None, description="the controller's own breakpoints [V, Hz or Ω]", max_length=500
    )


class SensorPreviewOut(Schema):
    """What follows from a sensor."""

    sheet: SensorSheet
    table: list[TableRow] = Field(description="at [V, Hz or Ω], value [unit of the function]")
    fuel_level: FuelLevelSheet | None


class SensorOut(Schema):
    """A sensor of a job."""

    function: str
    number: int = Field(description="version; every save is a new one")
    sensor: SensorEntry
    created_at: datetime
    created_by: str


class VersionOut(Schema):
    """One version of a sensor; none where it was removed."""

    number: int
    sensor: SensorEntry | None
    created_at: datetime
    created_by: str


class InjectorSetIn(Body):
    """Injectors as entered."""

    injectors: InjectorEntry


class InjectorSetOut(Schema):
    """The injectors of a job and what follows from them."""

    injectors: InjectorEntry
    number: int = Field(description="version; 0 where only the job's form tells them")
    rated_petrol_cm3_min: float = Field(description="at the rated pressure [cm³/min]")
    fluid_density_kg_m3: float = Field(description="of the fluid of the rating [kg/m³]")
    sheet: InjectorSheet
    revision: int | None = Field(None, description="written because tables followed")


class SupplyIn(Body):
    """A fuel supply as entered."""

    supply: SupplyEntry


class SupplyOut(Schema):
    """The supply of a job and what follows from it."""

    supply: SupplyEntry
    number: int = Field(description="version; 0 where no pump is entered")
    sheet: SupplySheet | None
    revision: int | None = Field(None, description="written because tables followed")

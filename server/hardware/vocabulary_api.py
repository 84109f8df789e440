"""What can be fitted: functions, libraries, fluids, regulators, fuels on sale; and pasted tables."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Literal

from inbetrieb_core.errors import CoreError, field_refused
from inbetrieb_core.injectors import FLUIDS
from inbetrieb_core.pasted import PURPOSES, read_pasted, sensor_purpose
from inbetrieb_core.quantities import written_unit
from inbetrieb_core.sensors import (
    FUNCTIONS,
    BlendNeed,
    SensorEntry,
    SensorFunction,
    ThrottleCapture,
    capture_throttle,
    read_share,
    share_in_use,
    sold_blends,
)
from inbetrieb_core.sensors.entry import INPUT_FULL_V
from inbetrieb_core.supply import REGULATORS, InjectorEntry, SupplyEntry
from ninja import Field, Router, Schema, Status

from server.accounts.requests import SignedInRequest
from server.config.bodies import Body
from server.config.body import RequestBody
from server.config.problems import Problem

from . import library
from .kinds import INJECTORS, SENSOR, SUPPLY

router = Router(tags=["hardware"])


class LibrarySensorOut(Schema):
    """A sensor to begin from."""

    id: int | None = Field(description="of the workshop's own; none for what ships")
    sensor: SensorEntry


class LibraryInjectorsOut(Schema):
    """Injectors to begin from."""

    id: int | None
    injectors: InjectorEntry


class LibrarySupplyOut(Schema):
    """A pump to begin from."""

    id: int | None
    supply: SupplyEntry


class ChoiceOut(Schema):
    """One of several choices."""

    key: str
    title: str


class FluidOut(ChoiceOut):
    """A fluid in which injectors are rated."""

    density_kg_m3: float


class SensorDefaultsOut(Schema):
    """What a sensor has until somebody says otherwise."""

    adc_bits: Literal[10, 12]
    lamp_share_pct: float = Field(description="[%]")
    freeze_rpm: float = Field(description="[1/min]")
    dead_zone_pct: float = Field(description="[%]")
    supply_v: float = Field(description="of a pull-up [V]")


class HardwareOut(Schema):
    """Everything the two sheets need to know once."""

    functions: list[SensorFunction]
    transfers: list[ChoiceOut]
    sensors: list[LibrarySensorOut]
    injectors: list[LibraryInjectorsOut]
    supplies: list[LibrarySupplyOut]
    fluids: list[FluidOut]
    flow_units: list[str]
    regulators: list[ChoiceOut]
    drivers: list[ChoiceOut]
    signals: list[ChoiceOut]
    sold_fuels: list[BlendNeed]
    sensor_defaults: SensorDefaultsOut
    paste_purposes: dict[str, dict[str, str]] = Field(
        description="function, kind of transfer: purpose of a table pasted for it"
    )


_TRANSFERS = {
    "linear": "straight line",
    "table": "table",
    "thermistor": "thermistor",
    "frequency": "frequency",
    "thermocouple": "thermocouple K",
}
_DRIVERS = {
    "plain": "plain",
    "current_limiting": "current-limiting",
    "unknown": "not known",
}
_SIGNALS = {
    "speed_only": "speed only",
    "crank": "crank position, no cam",
    "crank_and_cam": "crank and cam position",
}


def _choices(titles: Mapping[Any, str]) -> list[ChoiceOut]:
    return [ChoiceOut(key=key, title=title) for key, title in titles.items()]


@router.get("/hardware", response=HardwareOut, operation_id="hardware_get")
def get_hardware(request: SignedInRequest) -> HardwareOut:
    """Return functions, libraries (the workshop's own first) and choices."""
    user = request.user
    own = library.own_items
    return HardwareOut(
        functions=list(FUNCTIONS.values()),
        transfers=_choices(_TRANSFERS),
        sensors=[
            LibrarySensorOut(id=item.pk, sensor=SENSOR.read(item.data))
            for item in own(user, "sensor")
        ]
        + [LibrarySensorOut(id=None, sensor=sensor) for sensor in library.generic_sensors()],
        injectors=[
            LibraryInjectorsOut(id=item.pk, injectors=INJECTORS.read(item.data))
            for item in own(user, "injectors")
        ]
        + [LibraryInjectorsOut(id=None, injectors=part) for part in library.generic_injectors()],
        supplies=[
            LibrarySupplyOut(id=item.pk, supply=SUPPLY.read(item.data))
            for item in own(user, "supply")
        ]
        + [LibrarySupplyOut(id=None, supply=part) for part in library.generic_supplies()],
        fluids=[
            FluidOut(key=key, title=fluid.title, density_kg_m3=fluid.density_kg_m3)
            for key, fluid in FLUIDS.items()
        ],
        flow_units=["cm³/min", "lb/h", "g/s"],
        regulators=_choices(REGULATORS),
        drivers=_choices(_DRIVERS),
        signals=_choices(_SIGNALS),
        sold_fuels=list(sold_blends()),
        sensor_defaults=SensorDefaultsOut(
            adc_bits=SensorEntry.adc_bits,
            lamp_share_pct=SensorEntry.lamp_share_pct,
            freeze_rpm=SensorEntry.freeze_rpm,
            dead_zone_pct=SensorEntry.dead_zone_pct,
            supply_v=INPUT_FULL_V,
        ),
        paste_purposes={
            key: {kind: sensor_purpose(kind, function.unit) for kind in _TRANSFERS}
            for key, function in FUNCTIONS.items()
        },
    )


class LibraryIn(Body):
    """A part to keep for the next job: exactly one of the three."""

    sensor: SensorEntry | None = None
    injectors: InjectorEntry | None = None
    supply: SupplyEntry | None = None


class LibraryItemOut(Schema):
    """A kept part."""

    id: int
    kind: Literal["sensor", "injectors", "supply"]
    name: str


@router.post(
    "/library", response={201: LibraryItemOut, 422: Problem}, operation_id="library_create"
)
def keep_part(request: SignedInRequest, payload: LibraryIn) -> Status[LibraryItemOut]:
    """Keep a part in the workshop's library; one of the same name is replaced."""
    parts = [part for part in (payload.sensor, payload.injectors, payload.supply) if part]
    if len(parts) != 1:
        raise CoreError("Send one part: a sensor, injectors or a supply.")
    item = library.keep(request.user, parts[0])
    return Status(
        201,
        LibraryItemOut(
            id=item.pk,
            kind=item.kind,  # type: ignore[arg-type]
            name=item.name,
        ),
    )


@router.delete(
    "/library/{item_id}", response={204: None, 404: Problem}, operation_id="library_delete"
)
def drop_part(request: SignedInRequest, item_id: int) -> Status[None]:
    """Drop a part from the workshop's library; jobs keep their own copy."""
    library.drop(request.user, item_id)
    return Status(204, None)


class PastedIn(RequestBody):
    """Text pasted from a spreadsheet, a data sheet or a report."""

    purpose: str = Field(description=", ".join(PURPOSES))
    text: str
    factors: dict[str, float] = Field(
        default_factory=dict, description="by column, answers to doubts: 1 for as it was read"
    )


class PastedColumnOut(Schema):
    """A column that was looked for."""

    key: str
    title: str
    unit: str


class DoubtOut(Schema):
    """Something that may have been meant otherwise."""

    column: str
    sentence: str
    factor: float = Field(description="by which its values are multiplied if so")


class PastedOut(Schema):
    """What was understood of it."""

    doubts: list[DoubtOut]

    columns: list[PastedColumnOut]
    rows: list[list[float]]
    sentences: list[str] = Field(description="how it was read, and what was passed over")


@router.post("/pasted", response={200: PastedOut, 422: Problem}, operation_id="pasted_read")
def read_paste(request: SignedInRequest, payload: PastedIn) -> PastedOut:
    """Read a pasted table; saves nothing."""
    if payload.purpose not in PURPOSES:
        raise field_refused("purpose", f"Nothing of the kind '{payload.purpose}' can be pasted.")
    wanted = PURPOSES[payload.purpose]
    pasted = read_pasted(payload.text, wanted, payload.factors)
    return PastedOut(
        doubts=[
            DoubtOut(column=d.column, sentence=d.sentence, factor=d.factor) for d in pasted.doubts
        ],
        columns=[
            PastedColumnOut(key=c.key, title=c.title, unit=written_unit(c.unit)) for c in wanted
        ],
        rows=[list(row) for row in pasted.rows],
        sentences=list(pasted.sentences),
    )


class ThrottleIn(RequestBody):
    """The two captured ends of the throttle."""

    closed_v: float = Field(description="shut [V]")
    open_v: float = Field(description="pedal on the floor [V]")
    dead_zone_pct: float = Field(1.0, description="of travel at each end [%]")


@router.post(
    "/throttle-capture",
    response={200: ThrottleCapture, 422: Problem},
    operation_id="throttle_capture",
)
def throttle(request: SignedInRequest, payload: ThrottleIn) -> ThrottleCapture:
    """Return the throttle's line from its two ends; saves nothing."""
    return capture_throttle(payload.closed_v, payload.open_v, payload.dead_zone_pct)


class EthanolIn(Body):
    """A reading of the flexible-fuel sensor."""

    signal_hz: float = Field(description="[Hz]")
    rpm: float = Field(0.0, description="engine speed [1/min]")
    last_pct: float = Field(0.0, description="share in use until now [%]")
    freeze_rpm: float = Field(3000.0, description="above it the last share is kept [1/min]")
    sensor: SensorEntry | None = Field(None, description="as entered; the usual one if not given")


class EthanolOut(Schema):
    """What the reading means."""

    read_pct: float = Field(description="share that the frequency stands for [%]")
    in_use_pct: float = Field(description="share to fuel by [%]")
    frozen: bool


@router.post("/ethanol-share", response={200: EthanolOut, 422: Problem}, operation_id="ethanol")
def ethanol(request: SignedInRequest, payload: EthanolIn) -> EthanolOut:
    """Return the ethanol share of a frequency, kept above the set speed; saves nothing."""
    values = _bounded(payload)
    if payload.sensor is not None and payload.sensor.function != "flexible_fuel":
        raise field_refused("sensor", "Only a flexible-fuel sensor reads an ethanol share.")
    read = read_share(values["signal_hz"], payload.sensor)
    used = share_in_use(
        values["signal_hz"],
        values["rpm"],
        values["last_pct"] / 100.0,
        values["freeze_rpm"],
        payload.sensor,
    )
    return EthanolOut(
        read_pct=100.0 * read, in_use_pct=100.0 * used, frozen=abs(used - read) > 1e-9
    )


def _bounded(payload: EthanolIn) -> dict[str, float]:
    """Return the numbers of a reading.

    Raises
    ------
    InputRefused
        If one cannot be.
    """
    bounds = {"signal_hz": 5000.0, "rpm": 30_000.0, "last_pct": 100.0, "freeze_rpm": 30_000.0}
    values: dict[str, float] = payload.model_dump(exclude={"sensor"})
    for name, top in bounds.items():
        if not 0.0 <= values[name] <= top:
            raise field_refused(name, f"This must be between 0 and {top:g}.")
    return values

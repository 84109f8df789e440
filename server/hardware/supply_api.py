"""Injectors and fuel supply over HTTP."""

from __future__ import annotations

from inbetrieb_core.injectors import InferredInjectors, OperatingPoint
from inbetrieb_core.supply import (
    InjectorEntry,
    PrimeResult,
    SupplyEntry,
    judge_prime,
    prime_readings,
    supply_sheet,
)
from ninja import Field, Router, Schema, Status

from server.accounts.requests import SignedInRequest
from server.config.body import RequestBody
from server.config.problems import Problem
from server.jobs.engine_data import spec_of
from server.jobs.models import Job
from server.jobs.services import job_of
from server.logbook.samples import read_trace
from server.logbook.services import log_of

from . import supply
from .schemas import InjectorSetIn, InjectorSetOut, SupplyIn, SupplyOut

router = Router(tags=["injectors and supply"])


def _injectors_out(
    job: Job, entry: InjectorEntry, number: int, revision: int | None = None
) -> InjectorSetOut:
    sheet = supply.sheet_of(job, entry)
    return InjectorSetOut(
        injectors=entry,
        number=number,
        rated_petrol_cm3_min=sheet.rated_cm3_min,
        fluid_density_kg_m3=entry.density_kg_m3,
        sheet=sheet,
        revision=revision,
    )


@router.get(
    "/jobs/{job_id}/injectors",
    response={200: InjectorSetOut, 404: Problem},
    operation_id="injectors_get",
)
def get_injectors(request: SignedInRequest, job_id: int) -> InjectorSetOut:
    """Return the injectors of a job and what follows from them."""
    job = job_of(request.user, job_id)
    return _injectors_out(job, *supply.injectors_of(job))


@router.post(
    "/jobs/{job_id}/injectors/preview",
    response={200: InjectorSetOut, 404: Problem, 422: Problem},
    operation_id="injectors_preview",
)
def preview_injectors(
    request: SignedInRequest, job_id: int, payload: InjectorSetIn
) -> InjectorSetOut:
    """Return what follows from injectors that are still being typed; saves nothing."""
    return _injectors_out(job_of(request.user, job_id), payload.injectors, 0)


@router.post(
    "/jobs/{job_id}/injectors",
    response={201: InjectorSetOut, 404: Problem, 422: Problem},
    operation_id="injectors_save",
)
def save_injectors(
    request: SignedInRequest, job_id: int, payload: InjectorSetIn
) -> Status[InjectorSetOut]:
    """Save injectors and put them in force; dead time and prime follow in a new revision."""
    job = job_of(request.user, job_id)
    revision = supply.save_injectors(job, request.user, payload.injectors)
    entry, number = supply.injectors_of(job)
    return Status(201, _injectors_out(job, entry, number, revision))


class InferIn(RequestBody):
    """Steady warm points: typed, or of a log."""

    points: list[OperatingPoint] = Field(default_factory=list, max_length=200)
    log_id: int | None = None


class InferOut(Schema):
    """The points used and what they tell."""

    points: list[OperatingPoint]
    result: InferredInjectors
    proposal: InjectorEntry = Field(description="the injectors in force with the result in place")


@router.post(
    "/jobs/{job_id}/injectors/infer",
    response={200: InferOut, 404: Problem, 422: Problem},
    operation_id="injectors_infer",
)
def infer(request: SignedInRequest, job_id: int, payload: InferIn) -> InferOut:
    """Infer true flow, and dead time where the points can tell it; saves nothing."""
    job = job_of(request.user, job_id)
    points = tuple(payload.points)
    if payload.log_id is not None:
        points += supply.points_of(log_of(job, payload.log_id))
    result = supply.infer(job, points)
    return InferOut(points=list(points), result=result, proposal=supply.inferred_entry(job, result))


def _supply_out(
    job: Job, entry: SupplyEntry, number: int, revision: int | None = None
) -> SupplyOut:
    sheet = supply_sheet(spec_of(job), entry) if number or entry.readings else None
    return SupplyOut(supply=entry, number=number, sheet=sheet, revision=revision)


@router.get(
    "/jobs/{job_id}/supply", response={200: SupplyOut, 404: Problem}, operation_id="supply_get"
)
def get_supply(request: SignedInRequest, job_id: int) -> SupplyOut:
    """Return the fuel supply of a job and what follows from it."""
    job = job_of(request.user, job_id)
    return _supply_out(job, *supply.supply_of(job))


@router.post(
    "/jobs/{job_id}/supply/preview",
    response={200: SupplyOut, 404: Problem, 422: Problem},
    operation_id="supply_preview",
)
def preview_supply(request: SignedInRequest, job_id: int, payload: SupplyIn) -> SupplyOut:
    """Return what follows from a supply that is still being typed; saves nothing."""
    job = job_of(request.user, job_id)
    return SupplyOut(
        supply=payload.supply,
        number=0,
        sheet=supply_sheet(spec_of(job), payload.supply),
        revision=None,
    )


@router.post(
    "/jobs/{job_id}/supply",
    response={201: SupplyOut, 404: Problem, 422: Problem},
    operation_id="supply_save",
)
def save_supply(request: SignedInRequest, job_id: int, payload: SupplyIn) -> Status[SupplyOut]:
    """Save a supply and put its rail pressure in force."""
    job = job_of(request.user, job_id)
    revision = supply.save_supply(job, request.user, payload.supply)
    entry, number = supply.supply_of(job)
    return Status(201, _supply_out(job, entry, number, revision))


class PrimeIn(RequestBody):
    """A key-on log with fuel pressure."""

    log_id: int


class PrimeOut(Schema):
    """The pressure rise in a log and what it says."""

    readings: list[tuple[float, float]] = Field(description="(seconds since pump on, kPa)")
    result: PrimeResult


@router.post(
    "/jobs/{job_id}/supply/prime",
    response={200: PrimeOut, 404: Problem, 422: Problem},
    operation_id="supply_prime",
)
def prime(request: SignedInRequest, job_id: int, payload: PrimeIn) -> PrimeOut:
    """Return the pressure rise of a key-on log and how long the pump must run; saves nothing."""
    job = job_of(request.user, job_id)
    readings = prime_readings(read_trace(log_of(job, payload.log_id)))
    wanted = supply.supply_of(job)[0].rail_pressure_kpa
    return PrimeOut(readings=list(readings), result=judge_prime(readings, wanted))

"""Base maps over HTTP: what would be generated and why, the nearest job, and axes."""

from __future__ import annotations

from dataclasses import asdict

from inbetrieb_core.basemaps.carry import Carried, not_carried
from inbetrieb_core.basemaps.expected import Expected, expected
from inbetrieb_core.basemaps.schools import SchoolChoice, school_choices
from inbetrieb_core.basemaps.why import why
from inbetrieb_core.engine import EngineSpec
from inbetrieb_core.estimate import band_of
from inbetrieb_core.tables import DEFINITIONS, Calibration
from inbetrieb_core.wiring import fan_and_pump
from ninja import Query, Router, Status

from server.accounts.requests import SignedInRequest
from server.calibration.api import RevisionOut, revision_out
from server.calibration.services import calibration_of, revision_of
from server.config.problems import Problem
from server.jobs.engine_data import entry_of_job, spec_of
from server.jobs.services import job_of
from server.wiring.services import outputs_of, profile_of

from . import services
from .schemas import (
    AxesIn,
    AxesPreviewOut,
    BaseMapsOut,
    BaseMapsPreviewIn,
    BaseMapsPreviewOut,
    CarriedOut,
    CarriedTableOut,
    CarryIn,
    CarrySourceOut,
    GenerateIn,
    ReaxedOut,
    TableChangeOut,
    WhyOut,
)

router = Router(tags=["base maps"])


def _schools(spec: EngineSpec) -> list[SchoolChoice]:
    return list(school_choices(spec))


def _expected(spec: EngineSpec) -> Expected:
    return expected(spec)


@router.get(
    "/jobs/{job_id}/base-maps",
    response={200: BaseMapsOut, 404: Problem},
    operation_id="base_maps_get",
)
def get_base_maps(request: SignedInRequest, job_id: int) -> BaseMapsOut:
    """Return engine, schools, what to expect, and the axes in force and proposed."""
    job = job_of(request.user, job_id)
    spec, profile = spec_of(job), profile_of(job)
    outputs, version = outputs_of(job)
    return BaseMapsOut(
        revision=revision_of(job).number,
        engine=entry_of_job(job),
        expected=_expected(spec),
        schools=_schools(spec),
        controller="" if profile is None else profile.name,
        limits={name: limit.most_points for name, limit in services.axis_limits(profile).items()},
        axes={name: list(points) for name, points in services.axes_in_force(job).items()},
        proposed_axes=services.plain_axes(services.proposed_axes(job, spec)),
        outputs=list(fan_and_pump(outputs)),
        outputs_assumed=version == 0,
    )


@router.post(
    "/jobs/{job_id}/base-maps/preview",
    response={200: BaseMapsPreviewOut, 404: Problem, 422: Problem},
    operation_id="base_maps_preview",
)
def preview(
    request: SignedInRequest, job_id: int, payload: BaseMapsPreviewIn
) -> BaseMapsPreviewOut:
    """Return what base maps engine data would give; saves nothing."""
    job = job_of(request.user, job_id)
    made = services.preview(job, payload.engine, payload.axes)
    return BaseMapsPreviewOut(
        expected=_expected(made.spec),
        schools=_schools(made.spec),
        changes=[
            TableChangeOut(
                **asdict(change),
                title=DEFINITIONS[change.key].title,
                unit=DEFINITIONS[change.key].unit,
            )
            for change in made.changes
        ],
        proposed_axes=services.plain_axes(services.proposed_axes(job, made.spec)),
    )


@router.post(
    "/jobs/{job_id}/base-maps/generate",
    response={201: RevisionOut, 404: Problem, 409: Problem, 422: Problem},
    operation_id="base_maps_generate",
    by_alias=True,
)
def generate(request: SignedInRequest, job_id: int, payload: GenerateIn) -> Status[RevisionOut]:
    """Put engine data in force and write base maps as a new revision."""
    revision = services.generate_revision(
        job_of(request.user, job_id),
        request.user,
        engine=payload.engine,
        axes=payload.axes,
        tables=payload.tables,
        based_on=payload.based_on,
        note=payload.note,
    )
    return Status(201, revision_out(revision))


@router.get(
    "/jobs/{job_id}/base-maps/why",
    response={200: WhyOut | None, 404: Problem, 422: Problem},
    operation_id="base_maps_why",
)
def explain(
    request: SignedInRequest,
    job_id: int,
    table: str,
    at: list[float] = Query([], max_length=2, description="breakpoints of the cell"),  # type: ignore[type-arg]  # noqa: B008
) -> WhyOut | None:
    """Return the formula of a cell with this engine's numbers, beside what is in force.

    Nothing where the engine data say nothing of the table: learned trims, boost of a natural engine.
    """
    job = job_of(request.user, job_id)
    spec = spec_of(job)
    reason = why(spec, table, *at)
    if reason is None:
        return None
    calibration = calibration_of(revision_of(job))
    in_force = calibration[table].at(*at) if table in calibration else None
    return WhyOut(
        key=reason.key,
        unit=reason.unit,
        formula=reason.formula,
        terms=list(reason.terms),
        beneath=list(reason.beneath),
        value=reason.value,
        held=reason.held,
        is_sum=reason.is_sum,
        band=band_of(spec, table, reason.value, *at),
        in_force=in_force,
    )


@router.get(
    "/jobs/{job_id}/base-maps/nearest",
    response={200: list[CarrySourceOut], 404: Problem},
    operation_id="base_maps_nearest",
)
def nearest(request: SignedInRequest, job_id: int) -> list[CarrySourceOut]:
    """Return earlier jobs and shipped examples, the nearest engine first."""
    job = job_of(request.user, job_id)
    return [
        CarrySourceOut(
            kind=source.kind,  # type: ignore[arg-type]
            key=source.key,
            name=source.name,
            distance=source.distance,
            parts=[part for part in map(asdict, source.parts) if part["amount"] > 0.005],  # type: ignore[misc]
            revision=source.revision,
            good_trials=source.good_trials,
        )
        for source in services.sources_of(job, request.user)
    ]


def _carried(result: Carried, revision: int, before: Calibration) -> CarriedOut:
    changes = {c.key: c for c in services.changes_against(before, result.calibration)}
    return CarriedOut(
        revision=revision,
        sentence=not_carried(result),
        tables=[
            CarriedTableOut(
                **asdict(table),
                title=DEFINITIONS[table.key].title,
                unit=DEFINITIONS[table.key].unit,
                largest=changes[table.key].largest if table.key in changes else 0.0,
            )
            for table in result.tables
        ],
    )


@router.post(
    "/jobs/{job_id}/base-maps/carry-over/preview",
    response={200: CarriedOut, 404: Problem, 422: Problem},
    operation_id="base_maps_carry_preview",
)
def preview_carry(request: SignedInRequest, job_id: int, payload: CarryIn) -> CarriedOut:
    """Return what carrying another engine's tables over would do, table by table."""
    job = job_of(request.user, job_id)
    result = services.carried(job, request.user, payload.kind, payload.key, payload.tables)
    newest = revision_of(job)
    return _carried(result, newest.number, calibration_of(newest))


@router.post(
    "/jobs/{job_id}/base-maps/carry-over",
    response={201: CarriedOut, 404: Problem, 409: Problem, 422: Problem},
    operation_id="base_maps_carry",
)
def carry(request: SignedInRequest, job_id: int, payload: CarryIn) -> Status[CarriedOut]:
    """Write another engine's tables, rescaled, as a new revision."""
    job = job_of(request.user, job_id)
    before = calibration_of(revision_of(job))
    revision, result = services.carry_over_revision(
        job,
        request.user,
        kind=payload.kind,
        key=payload.key,
        tables=payload.tables,
        based_on=payload.based_on,
        note=payload.note,
    )
    return Status(201, _carried(result, revision.number, before))


@router.post(
    "/jobs/{job_id}/base-maps/axes/preview",
    response={200: AxesPreviewOut, 404: Problem, 422: Problem},
    operation_id="base_maps_axes_preview",
)
def preview_axes(request: SignedInRequest, job_id: int, payload: AxesIn) -> AxesPreviewOut:
    """Return what other breakpoints would lose, table by table."""
    job = job_of(request.user, job_id)
    _, reports = services.reaxed(job, payload.axes)
    return AxesPreviewOut(
        no_room=services.no_room(job, payload.axes),
        tables=[
            ReaxedOut(
                key=report.table.key,
                title=report.table.definition.title,
                unit=report.table.definition.unit,
                worst=report.worst,
                worst_at=list(report.worst_at),
                rms=report.rms,
                outside=report.outside,
                sentence=report.sentence,
            )
            for report in reports
        ],
    )


@router.post(
    "/jobs/{job_id}/base-maps/axes",
    response={201: RevisionOut, 404: Problem, 409: Problem, 422: Problem},
    operation_id="base_maps_axes",
    by_alias=True,
)
def change_axes(request: SignedInRequest, job_id: int, payload: AxesIn) -> Status[RevisionOut]:
    """Write the newest calibration on other breakpoints as a new revision."""
    revision = services.reaxe_revision(
        job_of(request.user, job_id),
        request.user,
        axes=payload.axes,
        based_on=payload.based_on,
        note=payload.note,
    )
    return Status(201, revision_out(revision))

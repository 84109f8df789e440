"""Calibrations over HTTP."""

from __future__ import annotations

import json
from datetime import datetime
from typing import Annotated, Any, Literal

from django.http import HttpResponse
from inbetrieb_core.provenance import Provenance
from inbetrieb_core.sentences import plain
from inbetrieb_core.tables import Axis, calibration_difference, reshaped_tables
from ninja import Field, File, Form, Query, Router, Schema, UploadedFile
from pydantic import AliasChoices

from server.accounts.requests import SignedInRequest
from server.config.body import RequestBody
from server.config.problems import Problem
from server.jobs.services import job_of

from . import exports, services
from .models import Origin, Revision

router = Router(tags=["calibration"])

Values = list[float] | list[list[float]]
#: A setting is edited, checked and worked on like a table; it is one number.
AnyValues = float | list[float] | list[list[float]]


class TableOut(Schema):
    """A table with the origin of every cell."""

    unit: str
    axes: list[Axis]
    values: Values = Field(description="[unit], nested as the axes")
    provenance: list[Provenance] | list[list[Provenance]] = Field(description="nested as values")


class SettingOut(Schema):
    """A single number with its origin."""

    unit: str
    value: float
    provenance: Provenance


class CellChangeOut(Schema):
    """One cell before and after."""

    index: list[int]
    at: list[float] = Field(description="breakpoints of the cell")
    before: float = Field(
        validation_alias=AliasChoices("from", "before"), serialization_alias="from"
    )
    to: float = Field(validation_alias=AliasChoices("to", "after"), serialization_alias="to")


class RevisionHeadOut(Schema):
    """What a list and the revision itself say alike."""

    revision: int
    based_on: int | None
    origin: Origin
    note: str
    author: str
    created_at: datetime
    in_the_car: bool = Field(description="whether it was the last one transferred")
    inherited: bool = Field(description="whether it is what was found in the controller")


class RevisionRowOut(RevisionHeadOut):
    """A saved state in a list."""

    changed: list[str] = Field(
        description="keys of the tables in which it differs from the one before"
    )


class RevisionOut(RevisionHeadOut):
    """A saved state without its tables."""

    changed: dict[str, list[CellChangeOut]]


class CellPastOut(CellChangeOut):
    """What a revision changed in one cell."""

    revision: int
    author: str
    created_at: datetime


class CalibrationOut(Schema):
    """A whole calibration."""

    revision: int
    note: str
    tables: dict[str, TableOut]
    settings: dict[str, SettingOut] = Field(description="single numbers, which have no axes")


class TableEdit(Schema):
    """New values of one table, or the one number of a setting."""

    values: AnyValues


class CalibrationEdit(Schema):
    """An edit of one or more tables."""

    note: str = ""
    based_on: int = Field(description="revision the edit was made on; 409 if it is not the newest")
    tables: dict[str, TableEdit]
    provenance: Literal["measured", "data_sheet", "calculated", "carried_over", "assumed"] = Field(
        "assumed", description="how the changed cells are known"
    )


class RestoreIn(RequestBody):
    """Which revision to bring back."""

    revision: int
    based_on: int
    note: str = ""


class DiffOut(Schema):
    """What differs between two revisions."""

    first: int
    second: int
    tables: dict[str, list[CellChangeOut]]
    reshaped: list[str] = Field(description="tables that came, went, or have other axes")


def revision_out(revision: Revision, in_the_car: int | None = None) -> RevisionOut:
    """Return a revision as it travels."""
    return RevisionOut(**_head(revision, in_the_car), changed=revision.changed)


def _head(revision: Revision, in_the_car: int | None) -> dict[str, Any]:
    return {
        "revision": revision.number,
        "based_on": revision.based_on,
        "origin": revision.origin,
        "note": revision.note,
        "author": revision.created_by.get_username(),
        "created_at": revision.created_at,
        "in_the_car": revision.number == in_the_car,
        "inherited": revision.origin == "inherited",
    }


def _calibration_response(revision: Revision, status: int = 200) -> HttpResponse:
    # The tables are JSON text already: building them again through schemas would cost most
    # of the request.
    body = (
        f'{{"revision":{revision.number},"note":{json.dumps(plain(revision.note), ensure_ascii=False)},'
        f"{services.tables_json(revision)}}}"
    )
    return HttpResponse(body, status=status, content_type="application/json")


@router.get(
    "/jobs/{job_id}/calibration",
    response={200: CalibrationOut, 404: Problem},
    operation_id="calibration_get",
)
def get_calibration(
    request: SignedInRequest, job_id: int, revision: int | None = None
) -> HttpResponse:
    """Return the newest calibration, or that of a revision."""
    return _calibration_response(services.revision_of(job_of(request.user, job_id), revision))


@router.post(
    "/jobs/{job_id}/calibration",
    response={201: CalibrationOut, 404: Problem, 409: Problem, 422: Problem},
    operation_id="calibration_edit",
)
def edit_calibration(
    request: SignedInRequest, job_id: int, payload: CalibrationEdit
) -> HttpResponse:
    """Save edits as a new revision."""
    revision = services.edit(
        job_of(request.user, job_id),
        request.user,
        note=payload.note,
        based_on=payload.based_on,
        tables={key: table.values for key, table in payload.tables.items()},
        provenance=payload.provenance,
    )
    return _calibration_response(revision, 201)


@router.get(
    "/jobs/{job_id}/revisions",
    response={200: list[RevisionRowOut], 404: Problem},
    operation_id="revisions_list",
    by_alias=True,
)
def list_revisions(
    request: SignedInRequest,
    job_id: int,
    limit: Annotated[int, Query(ge=1, le=500)] = 50,
    offset: Annotated[int, Query(ge=0, le=1_000_000)] = 0,
) -> list[RevisionRowOut]:
    """Return the revisions of a job in short, newest first, on pages."""
    job = job_of(request.user, job_id)
    rows = services.revisions_in_short(job, limit, offset)
    carried = services.number_in_the_car(job)
    return [
        RevisionRowOut(**_head(revision, carried), changed=list(changed))
        for revision, changed in rows
    ]


@router.get(
    "/jobs/{job_id}/calibration/past",
    response={200: list[CellPastOut], 404: Problem, 422: Problem},
    operation_id="calibration_past",
    by_alias=True,
)
def past_of_cell(
    request: SignedInRequest,
    job_id: int,
    table: Annotated[str, Query(max_length=60)],
    index: Annotated[list[int], Query(max_length=3)],
) -> list[dict[str, Any]]:
    """Return what the newest revisions changed in one cell, newest first."""
    job = job_of(request.user, job_id)
    return [
        {**change, "revision": revision.number, "author": revision.created_by.get_username(),
         "created_at": revision.created_at}
        for revision, change in services.past_of_cell(job, table, index)
    ]  # fmt: skip


@router.get(
    "/jobs/{job_id}/calibration/diff",
    response={200: DiffOut, 404: Problem, 422: Problem},
    operation_id="calibration_diff",
    by_alias=True,
)
def diff(
    request: SignedInRequest, job_id: int, second: int, first: int | None = None, of_job: int | None = None
) -> dict[str, Any]:  # fmt: skip
    """Return the cells in which two revisions differ; the first may be of another job, its newest unless one is named."""
    job = job_of(request.user, job_id)
    other = job if of_job is None else job_of(request.user, of_job)
    earlier = services.revision_of(other, first)
    before, after = (
        services.calibration_of(revision)
        for revision in (earlier, services.revision_of(job, second))
    )
    changes = services.changes_plain(calibration_difference(before, after))
    reshaped = list(reshaped_tables(before, after))
    return {"first": earlier.number, "second": second, "tables": changes, "reshaped": reshaped}


@router.post(
    "/jobs/{job_id}/calibration/restore",
    response={201: CalibrationOut, 404: Problem, 409: Problem, 422: Problem},
    operation_id="calibration_restore",
)
def restore(request: SignedInRequest, job_id: int, payload: RestoreIn) -> HttpResponse:
    """Bring an old revision back as a new one."""
    revision = services.restore(
        job_of(request.user, job_id),
        request.user,
        number=payload.revision,
        based_on=payload.based_on,
        note=payload.note,
    )
    return _calibration_response(revision, 201)


@router.get(
    "/jobs/{job_id}/export",
    response={200: None, 404: Problem, 422: Problem},
    operation_id="calibration_export",
)
def export(
    request: SignedInRequest,
    job_id: int,
    format: str = "json",
    revision: int | None = None,
    table: str = "",
) -> HttpResponse:
    """Return the calibration or one table as a file: json, csv, csv-set or workbook (docs/formats.md)."""
    job = job_of(request.user, job_id)
    made = exports.exported(job, services.revision_of(job, revision), format, table)
    response = HttpResponse(made.body, content_type=made.content_type)
    response["Content-Disposition"] = f'attachment; filename="{made.name}"'
    return response


@router.post(
    "/jobs/{job_id}/import",
    response={201: CalibrationOut, 404: Problem, 422: Problem},
    operation_id="calibration_import",
)
def import_calibration(
    request: SignedInRequest, job_id: int, file: File[UploadedFile], note: Form[str] = ""
) -> HttpResponse:
    """Import a calibration file as a new revision."""
    revision = services.import_file(
        job_of(request.user, job_id), request.user, data=file.read(), note=note
    )
    return _calibration_response(revision, 201)

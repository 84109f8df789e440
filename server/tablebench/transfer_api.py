"""The transfer sheet over HTTP."""

from __future__ import annotations

from datetime import datetime
from typing import Literal

from inbetrieb_core.tables.controller_form import ControllerForm
from inbetrieb_core.tables.transfer import TransferTable
from inbetrieb_core.wiring import OutputLine
from ninja import Field, Router, Schema, Status

from server.accounts.requests import SignedInRequest
from server.calibration.models import Transfer
from server.config.body import RequestBody
from server.config.problems import Problem
from server.jobs.engine_data import spec_of
from server.jobs.services import job_of
from server.wiring.services import profile_of

from . import transfer

router = Router(tags=["transfer"])


class TransferOut(Schema):
    """A confirmed transfer."""

    revision: int
    how: Literal["typed", "loaded"]
    lines: int
    note: str
    author: str
    created_at: datetime


class TransferSheetOut(Schema):
    """What has to be typed to bring the newest revision into the controller."""

    controller: str
    revision: int
    in_the_car: TransferOut | None
    history: list[TransferOut]
    tables: list[TransferTable]
    outputs: list[OutputLine]
    lines: int = Field(description="values to type")


class TransferConfirmIn(RequestBody):
    """That a revision is in the car now."""

    revision: int
    how: Literal["typed", "loaded"] = "typed"
    ticked: int = 0
    note: str = ""


def _transfer_out(row: Transfer) -> TransferOut:
    return TransferOut(
        revision=row.revision.number,
        how=row.how,  # type: ignore[arg-type]
        lines=row.lines,
        note=row.note,
        author=row.created_by.get_username(),
        created_at=row.created_at,
    )


def _sheet_out(sheet: transfer.Sheet, history: list[TransferOut]) -> TransferSheetOut:
    tables = list(sheet.tables)
    return TransferSheetOut(
        controller=sheet.controller,
        revision=sheet.revision,
        in_the_car=None if sheet.in_the_car is None else _transfer_out(sheet.in_the_car),
        history=history,
        tables=tables,
        outputs=list(sheet.outputs),
        lines=sum(len(table.cells) for table in tables),
    )


@router.get(
    "/jobs/{job_id}/transfer",
    response={200: TransferSheetOut, 404: Problem},
    operation_id="transfer_get",
)
def get_sheet(request: SignedInRequest, job_id: int, since: int | None = None) -> TransferSheetOut:
    """Return what has to be typed since the last confirmed transfer, or since a revision."""
    job = job_of(request.user, job_id)
    rows = Transfer.objects.filter(job=job).select_related("revision", "created_by")
    history = [_transfer_out(row) for row in rows.order_by("-pk")[:50]]
    return _sheet_out(transfer.sheet_of(job, since), history)


@router.post(
    "/jobs/{job_id}/transfer",
    response={201: TransferOut, 404: Problem, 409: Problem, 422: Problem},
    operation_id="transfer_confirm",
)
def confirm(
    request: SignedInRequest, job_id: int, payload: TransferConfirmIn
) -> Status[TransferOut]:
    """Write down that the newest revision is in the car."""
    made, _ = transfer.confirm(
        job_of(request.user, job_id),
        request.user,
        revision=payload.revision,
        how=payload.how,
        ticked=payload.ticked,
        note=payload.note,
    )
    return Status(201, _transfer_out(made))


@router.get(
    "/jobs/{job_id}/controller-forms",
    response={200: dict[str, ControllerForm], 404: Problem},
    operation_id="controller_forms",
)
def controller_forms(request: SignedInRequest, job_id: int) -> dict[str, ControllerForm]:
    """Return in which unit and step the job's controller holds each table."""
    job = job_of(request.user, job_id)
    return transfer.forms_of(profile_of(job), spec_of(job))

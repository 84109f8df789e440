"""The table bench over HTTP: what a region operation or a paste would do, checks, evidence."""

from __future__ import annotations

from typing import Annotated

from inbetrieb_core.tables import Index
from inbetrieb_core.tables.regions import (
    OPERATIONS,
    Operated,
    Operation,
    Region,
    canonical_grid,
    operate,
    paste,
    read_grid,
)
from ninja import Field, Router, Schema

from server.accounts.requests import SignedInRequest
from server.calibration import services
from server.calibration.api import AnyValues
from server.config.body import RequestBody
from server.config.problems import Problem
from server.intake import review
from server.intake.findings import TableFindingOut, findings_out
from server.jobs.services import job_of

from . import evidence

router = Router(tags=["table bench"])

Cell = Annotated[list[int], Field(max_length=2)]


class DraftIn(RequestBody):
    """A table as it is being edited."""

    revision: int = Field(description="revision whose axes it has")
    table: str
    values: AnyValues
    locked: list[Cell] = Field(default_factory=list, max_length=4096)


class OperateIn(DraftIn):
    """An operation on a region."""

    region: Region
    operation: Operation
    amount: float = Field(0.0, description="value, difference, percent, or share to smooth")


class BenchPasteIn(DraftIn):
    """A block from a spreadsheet."""

    row: int
    column: int = 0
    text: str = Field(max_length=500_000)
    factor: float = Field(1.0, description="pasted numbers are canonical · factor + offset")
    offset: float = 0.0


class CellTo(Schema):
    """A cell and its new value."""

    index: list[int]
    to: float


class OperatedOut(Schema):
    """What would happen; nothing is saved."""

    changes: list[CellTo]
    held: int = Field(description="cells that stop at a bound")
    locked: int = Field(description="cells of the region that are locked")
    sentence: str
    sentences: list[str] = Field(description="what was read of a paste, and what was passed over")


class OperationOut(Schema):
    """An operation of the bench."""

    key: str
    title: str


class BenchCheckIn(RequestBody):
    """Tables as they are being edited."""

    revision: int
    tables: dict[str, AnyValues]


class AcceptFindingIn(BenchCheckIn):
    """Why a finding is right."""

    identifier: str
    reason: str


class EvidenceOut(Schema):
    """Where logs or trials have been in a table."""

    hits: AnyValues = Field(description="samples, or trials, that each cell took part in")
    logs: int
    sentence: str


def operated_out(done: Operated, sentences: tuple[str, ...] = ()) -> OperatedOut:
    """Return what an operation would do as it travels."""
    changes = [CellTo(index=list(c.index), to=c.after) for c in done.changes]
    return OperatedOut(
        changes=changes, held=done.held, locked=done.locked, sentence=done.sentence,
        sentences=list(sentences),
    )  # fmt: skip


def _locked(cells: list[list[int]]) -> list[Index]:
    return [tuple(cell) for cell in cells]


@router.get("/table-bench", response=list[OperationOut], operation_id="table_bench_operations")
def operations(request: SignedInRequest) -> list[OperationOut]:
    """Return the operations of the table bench."""
    return [OperationOut(key=key, title=title) for key, title in OPERATIONS.items()]


@router.post(
    "/jobs/{job_id}/table-bench/operate",
    response={200: OperatedOut, 404: Problem, 422: Problem},
    operation_id="table_bench_operate",
)
def operate_region(request: SignedInRequest, job_id: int, payload: OperateIn) -> OperatedOut:
    """Say what an operation does to a region before it happens."""
    saved = services.revision_of(job_of(request.user, job_id), payload.revision)
    calibration = services.calibration_of(saved)
    table = review.drafted_table(calibration, payload.table, payload.values)
    region = payload.region
    done = operate(table, region, payload.operation, payload.amount, _locked(payload.locked))
    return operated_out(done)


@router.post(
    "/jobs/{job_id}/table-bench/paste",
    response={200: OperatedOut, 404: Problem, 422: Problem},
    operation_id="table_bench_paste",
)
def paste_block(request: SignedInRequest, job_id: int, payload: BenchPasteIn) -> OperatedOut:
    """Say what pasting a block from a spreadsheet does before it happens."""
    saved = services.revision_of(job_of(request.user, job_id), payload.revision)
    calibration = services.calibration_of(saved)
    table = review.drafted_table(calibration, payload.table, payload.values)
    grid = read_grid(payload.text)
    values = canonical_grid(grid.values, payload.factor, payload.offset)
    done = paste(table, payload.row, payload.column, values, _locked(payload.locked))
    return operated_out(done, grid.sentences)


@router.post(
    "/jobs/{job_id}/table-bench/check",
    response={200: list[TableFindingOut], 404: Problem, 422: Problem},
    operation_id="table_bench_check",
)
def check(request: SignedInRequest, job_id: int, payload: BenchCheckIn) -> list[TableFindingOut]:
    """Return what stands out in tables that are being edited."""
    job = job_of(request.user, job_id)
    saved = services.revision_of(job, payload.revision)
    return findings_out(review.checked_draft(job, saved, payload.tables))


@router.post(
    "/jobs/{job_id}/table-bench/accept",
    response={200: list[TableFindingOut], 404: Problem, 422: Problem},
    operation_id="table_bench_accept",
)
def accept(
    request: SignedInRequest, job_id: int, payload: AcceptFindingIn
) -> list[TableFindingOut]:
    """Write down why a finding is right all the same."""
    job = job_of(request.user, job_id)
    saved = services.revision_of(job, payload.revision)
    review.accept_finding(
        job, request.user, saved, payload.tables, payload.identifier, payload.reason
    )
    if payload.tables:
        return findings_out(review.checked_draft(job, saved, payload.tables))
    return findings_out(review.looked_over(job, saved))


@router.get(
    "/jobs/{job_id}/table-bench/evidence",
    response={200: EvidenceOut, 404: Problem, 422: Problem},
    operation_id="table_bench_evidence",
)
def table_evidence(request: SignedInRequest, job_id: int, table: str) -> EvidenceOut:
    """Return where logs and trials of the job have been in a table."""
    job = job_of(request.user, job_id)
    found = evidence.evidence_of(job, table)
    return EvidenceOut(hits=found.hits.tolist(), logs=found.logs, sentence=found.sentence)

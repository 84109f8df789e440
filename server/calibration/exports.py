"""A calibration, or one of its tables, as a file."""

from __future__ import annotations

from dataclasses import dataclass

from django.utils.text import slugify
from inbetrieb_core.tables import write_csv, write_json
from inbetrieb_core.tables.file_sets import write_csv_set, write_table_csv, write_workbook

from server.config.problems import Refusal
from server.jobs.models import Job

from .models import Revision
from .services import calibration_of

_CSV = "text/csv; charset=utf-8"
_WORKBOOK = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"


@dataclass(frozen=True)
class Exported:
    """A file to send.

    Attributes
    ----------
    name, content_type : str
    body : bytes
    """

    name: str
    content_type: str
    body: bytes


def exported(job: Job, revision: Revision, form: str, table: str) -> Exported:
    """Return a revision, or one table of it, in one of the formats of docs/formats.md.

    Raises
    ------
    Refusal
        422 if there is no such format or table.
    """
    calibration = calibration_of(revision)
    name = f"{slugify(job.name) or 'job'}-revision-{revision.number}"
    if table and table not in calibration:
        raise Refusal(422, "Input refused", f"There is no table '{table[:40]}' in this revision.")
    chosen = [calibration[table]] if table else list(calibration.tables.values())
    if table:
        name += f"-{table}"
    if form == "json":
        about = {
            "job": job.name,
            "engine": job.engine,
            "revision": revision.number,
            "note": revision.note,
        }
        return Exported(f"{name}.json", "application/json", write_json(calibration, about, chosen))
    if form == "csv" and table:
        return Exported(f"{name}.csv", _CSV, write_table_csv(chosen[0]))
    if form == "csv":
        return Exported(f"{name}.csv", _CSV, write_csv(calibration))
    if form == "csv-set":
        return Exported(f"{name}.zip", "application/zip", write_csv_set(chosen))
    if form == "workbook":
        title = f"{job.name}, revision {revision.number}"
        return Exported(f"{name}.xlsx", _WORKBOOK, write_workbook(chosen, title))
    raise Refusal(422, "Input refused", "The format must be json, csv, csv-set or workbook.")

"""What can be done at station 13: look at the papers, tick what closes the job, and have a paper as PDF."""

from __future__ import annotations

import hashlib
import math
import re
from collections.abc import Sequence
from dataclasses import fields, is_dataclass, replace
from pathlib import Path
from typing import Any, TypeVar

from django.conf import settings
from django.contrib.auth.models import User
from inbetrieb_core.handover import (
    CLOSING,
    MapSheet,
    Paper,
    PaperKey,
    Plot,
    paper,
    refuse_parts,
)
from inbetrieb_core.sentences import fixed, typed

from server.config.kept_files import folder_of, keep_newest, kept_file, part_in
from server.config.problems import Refusal
from server.config.writes import writing
from server.entries.reasons import worth_reading
from server.intake.models import Photograph
from server.intake.photographs import path_of
from server.jobs.models import Job
from server.jobs.units import shown
from server.tasks.services import Progress

from .facts import gather
from .kinds import CLOSED, REOPENED, CameBack, ClosingDone
from .pdf import Size, paper_pdf

T = TypeVar("T")
_NAME = re.compile(r"[0-9a-f]{64}\.pdf")
#: Papers of a job that are kept; older ones are made again where somebody asks.
_KEPT = 30


def paper_of(job: Job, key: PaperKey) -> Paper:
    """Return a paper of a job as it stands now."""
    return paper(key, gather(job))


@writing()
def close_check(job: Job, user: User, key: str, note: str) -> None:
    """Write down what a closing check found.

    Raises
    ------
    Refusal
        404 without it.
    """
    if key not in {check.key for check in CLOSING}:
        raise Refusal(404, "Not found", "There is no such closing check.")
    CLOSED.add(job, user, ClosingDone(note.strip()[:1000]), key)


@writing()
def reopen(job: Job, user: User, parts: Sequence[str], reason: str) -> None:
    """Write down that a job came back with other parts: what stands on them falls, all else is kept.

    Raises
    ------
    InputRefused
        If no part is named, one is unknown, or no reason is written.
    """
    REOPENED.add(
        job, user, CameBack(refuse_parts(parts), worth_reading(reason, "Say why it came back"))
    )


def in_units(value: T, units: dict[str, str]) -> T:
    """Return a value of the core with every sentence in it written in the units of a job.

    Parameters
    ----------
    value : any
        A dataclass, a tuple or a text.
    units : dict of str to str
        Of the job.
    """
    return _written(value, units)  # type: ignore[no-any-return]


def _written(value: Any, units: dict[str, str]) -> Any:
    if isinstance(value, str):
        return _text(value, units)
    if isinstance(value, Plot):
        return _plot(value, units)
    if isinstance(value, MapSheet):
        return _sheet(value, units)
    if isinstance(value, tuple):
        return tuple(_written(one, units) for one in value)
    if is_dataclass(value) and not isinstance(value, type):
        return replace(
            value, **{f.name: _written(getattr(value, f.name), units) for f in fields(value)}
        )
    return value


def _plot(plot: Plot, units: dict[str, str]) -> Plot:
    """Return a plot with the numbers and units of a job."""
    lines = tuple(
        replace(line, x=_shown(line.x, plot.x_unit, units), y=_shown(line.y, plot.y_unit, units))
        for line in plot.lines
    )
    x_unit, y_unit = (shown(0.0, unit, units)[0] for unit in (plot.x_unit, plot.y_unit))
    title = _text(plot.title, units)
    return replace(plot, title=title, lines=lines, x_unit=x_unit, y_unit=y_unit)


def _sheet(sheet: MapSheet, units: dict[str, str]) -> MapSheet:
    """Return a table with the numbers and units of a job, with as many decimals as they are worth."""
    unit, one = shown(1.0, sheet.unit, units)
    factor = abs(one - shown(0.0, sheet.unit, units)[1]) or 1.0
    return replace(
        sheet, unit=unit, down_unit=shown(0.0, sheet.down_unit, units)[0], across_unit=shown(0.0, sheet.across_unit, units)[0],
        down=_shown(sheet.down, sheet.down_unit, units), across=_shown(sheet.across, sheet.across_unit, units),
        values=tuple(_shown(row, sheet.unit, units) for row in sheet.values),
        decimals=max(0, round(sheet.decimals - math.log10(factor))),
    )  # fmt: skip


def _shown(values: Sequence[Any], unit: str, units: dict[str, str]) -> tuple[Any, ...]:
    return tuple(None if value is None else shown(value, unit, units)[1] for value in values)


def _text(text: str, units: dict[str, str]) -> str:
    found = typed(text)
    written = []
    for quantity in found.quantities:
        unit, value = shown(quantity.value, quantity.unit, units)
        number = fixed(value, quantity.decimals, signed=quantity.signed)
        written.append(number if quantity.bare or unit == "lambda" else f"{number} {unit}")
    return found.template.format(*written)


def make_pdf(job: Job, key: PaperKey, size: Size, progress: Progress) -> str:
    """Make a paper as PDF and keep it; return its digest."""
    progress.tell(0.1, "Gathering what the job holds")
    found = in_units(paper_of(job, key), dict(job.units))
    progress.tell(0.6, "Setting the pages")
    pictures = {
        row.number: path_of(row) for row in Photograph.objects.filter(job=job).select_related("job")
    }
    data = paper_pdf(found, size, pictures)
    digest = hashlib.sha256(data).hexdigest()
    folder = folder_of(settings.PAPERS, job.pk)
    with part_in(folder) as part:
        part.write_bytes(data)
        part.replace(folder / f"{digest}.pdf")
    keep_newest(folder, ".pdf", _KEPT)
    return digest


def pdf_of(job: Job, digest: str) -> Path:
    """Return the file of a paper that was made.

    Raises
    ------
    Refusal
        404 without it.
    """
    return kept_file(settings.PAPERS, job.pk, f"{digest}.pdf", _NAME)

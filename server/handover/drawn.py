"""What the papers draw of a job: tables, ladder, starts, pulls and photographs."""

from __future__ import annotations

import numpy as np
from inbetrieb_core.handover import ORIGIN_LETTERS, PULLED, LadderFact, MapSheet, Picture, TraceFact
from inbetrieb_core.pulls import Feed, PullRecord
from inbetrieb_core.quantities import FloatArray, listed
from inbetrieb_core.tables import AXES, DEFINITIONS, Calibration, Table

from server.intake.models import Photograph
from server.intake.photographs import is_aside
from server.jobs.models import Job
from server.logbook.samples import read_window
from server.trials.analysis import analysis_of
from server.trials.estimates import estimate_of
from server.trials.models import Trial

#: Points of a trace on paper, and seconds of it before and after cranking begins. [–, s, s]
_POINTS, _BEFORE_S, _AFTER_S = 240, 1.0, 20.0


#: A mixture travels without a unit in the tables; the units of a job call it lambda, or show a ratio.
_MIXTURE = {"–": "lambda"}


def map_sheets(calibration: Calibration) -> tuple[MapSheet, ...]:
    """Return every table with axes as it stands."""
    return tuple(_sheet(table) for table in calibration.tables.values() if table.axes)


def _sheet(table: Table) -> MapSheet:
    rows = np.atleast_2d(table.values.T).T if len(table.axes) == 1 else table.values
    kinds = table.provenance.reshape(rows.shape)
    down, across = table.axes[0], table.axes[1] if len(table.axes) > 1 else None
    first, second = AXES[down.name], AXES[across.name] if across else None
    return MapSheet(
        table.definition.title, _MIXTURE.get(table.definition.unit, table.definition.unit), first.title, first.unit, tuple(down.points),
        second.title if second else "", second.unit if second else "", tuple(across.points) if across else (),
        tuple(tuple(float(v) for v in row) for row in rows),
        tuple(tuple(ORIGIN_LETTERS[mark.kind] for mark in row) for row in kinds),
        table.definition.decimals,
    )  # fmt: skip


def ladder_of(job: Job) -> tuple[LadderFact, ...]:
    """Return the start tables in force, each with the band of what is needed."""
    return tuple(
        LadderFact(DEFINITIONS[view.table].title, DEFINITIONS[view.table].unit, view.at_c, view.now, view.low, view.high)
        for view in estimate_of(job).curves
    )  # fmt: skip


def traces_of(job: Job) -> tuple[TraceFact, ...]:
    """Return how speed rose at the coldest good start, the newest, and the newest that was not good."""
    logged = Trial.objects.filter(job=job, kind="start", log__isnull=False).select_related("log")
    chosen = (
        logged.filter(good=True).order_by("coolant_c").first(),
        logged.order_by("-number").first(),
        logged.filter(good=False).order_by("-number").first(),
    )  # fmt: skip
    trials = {trial.pk: trial for trial in chosen if trial is not None}
    return tuple(_trace(trial) for trial in sorted(trials.values(), key=lambda t: t.number))


def _trace(trial: Trial) -> TraceFact:
    assert trial.log is not None
    begins = next((p.start_s for p in analysis_of(trial).said.phases if p.name == "cranking"), 0.0)
    window = read_window(trial.log, ["rpm"], begins - _BEFORE_S, begins + _AFTER_S, _POINTS)
    return TraceFact(
        trial.number, trial.created_at.date().isoformat(), trial.coolant_c, trial.verdict,
        tuple(round(float(t - begins), 2) for t in window.time_s), listed(window.channels["rpm"], 0),
    )  # fmt: skip


def drawn_of(pull: PullRecord, feed: Feed) -> dict[str, tuple[float | None, ...]]:
    """Return the channels of a pull that are drawn; relative torque is no torque."""
    told: dict[str, FloatArray] = {"power_kw": pull.power_kw, "duty_pct": feed.duty_pct(pull)}
    found = {name: told.get(name, pull.channel(name)) for name, _, _ in PULLED}
    if pull.torque != "measured":
        del found["torque_nm"], found["power_kw"]
    return {name: listed(values, 1) for name, values in found.items() if np.isfinite(values).any()}


def pictures_of(job: Job) -> tuple[Picture, ...]:
    """Return the photographs of a job that were not put aside."""
    rows = (
        Photograph.objects.filter(job=job)
        .prefetch_related("asides")
        .select_related("created_by")
        .order_by("number")
    )
    return tuple(
        Picture(row.number, row.caption, row.created_at.date().isoformat(), row.created_by.username, row.width, row.height)
        for row in rows
        if not is_aside(row)
    )  # fmt: skip

"""The estimate of a job's start tables: computed once for each state of its evidence."""

from __future__ import annotations

import functools
from dataclasses import dataclass

import numpy as np
from inbetrieb_core.errors import CoreError
from inbetrieb_core.estimate import (
    Chance,
    CurveView,
    Evidence,
    LadderEstimate,
    Pull,
    chances,
    curve_views,
    estimate,
    pulls,
)
from inbetrieb_core.sentences import celsius, quantity
from inbetrieb_core.starts.acceptance import RUN_SHARE, run_within_s
from inbetrieb_core.tables import Calibration

from server.calibration.services import calibration_of, revision_of
from server.jobs.engine_data import spec_of
from server.jobs.models import Job

from .models import Trial, Weighing
from .services import history_of

_KEPT = 32


@dataclass(frozen=True)
class JobEstimate:
    """The estimate of a job with the tables in force.

    Attributes
    ----------
    revision : int
        Number of the revision that is judged.
    believed : LadderEstimate
        What is believed of the needs.
    curves : tuple of CurveView
        At the breakpoints of each table.
    chances : tuple of Chance
        Of a good start at every rung.
    """

    revision: int
    calibration: Calibration
    believed: LadderEstimate
    curves: tuple[CurveView, ...]
    chances: tuple[Chance, ...]


def estimate_of(job: Job) -> JobEstimate:
    """Return the estimate of a job as its trials and its newest revision stand."""
    key = (
        revision_of(job, None).pk,
        Trial.objects.filter(job=job).count(),
        Weighing.objects.filter(trial__job=job).count(),
        str(job.engine),
    )
    if key not in _known:
        while len(_known) >= _KEPT:
            _known.pop(next(iter(_known)), None)
        _known[key] = _computed(job)
    return _known[key]


#: Estimates by the revision, trials, weighings and engine data they stand on; oldest first.
_known: dict[tuple[object, ...], JobEstimate] = {}


def _computed(job: Job) -> JobEstimate:
    revision = revision_of(job, None)
    calibration = calibration_of(revision)
    believed = estimate(spec_of(job), calibration, evidence_of(job))
    rungs = np.array(calibration["cranking_fuel"].axes[0].points)
    return JobEstimate(
        revision.number,
        calibration,
        believed,
        curve_views(believed, calibration),
        chances(believed, calibration, _limit_s, rungs, tried_of(job)),
    )


def evidence_of(job: Job) -> list[Evidence]:
    """Return what all trials of a job taught, but for those that are set aside."""
    return [evidence for past in history_of(job) for evidence in past.taught]


def tried_of(job: Job) -> list[tuple[float, bool]]:
    """Return where every start of a job was and whether it was good, oldest first. [°C]"""
    rows = Trial.objects.filter(job=job, kind="start").order_by("number")
    return list(rows.values_list("coolant_c", "good"))


def pulls_of(job: Job, table: str, coolant_c: float) -> tuple[Pull, ...]:
    """Return what each trial does to the believed need of a cell.

    Raises
    ------
    CoreError
        If the table is not estimated.
    """
    found = estimate_of(job)
    if table not in {curve.table for curve in found.curves}:
        raise CoreError("Only start tables that starts teach of have an estimate.")
    return pulls(found.believed, found.calibration, table, coolant_c)


def forecast(job: Job, coolant_c: float) -> tuple[Chance, str]:
    """Return the chance of a good start at a temperature, and a sentence of what it hangs on."""
    if not -60.0 <= coolant_c <= 130.0:
        raise CoreError("The temperature of a start must be between -60 and 130 °C.")
    found = estimate_of(job)
    at_c = np.array([coolant_c])
    (chance,) = chances(found.believed, found.calibration, _limit_s, at_c, tried_of(job))
    points = {
        "running in time": chance.runs,
        "living on after it": chance.lives,
        "the flare": chance.flare,
        "the mixture once it has settled": chance.mixture,
        "idle speed": chance.idle,
    }
    weakest = min(points, key=lambda name: points[name])
    good = quantity(100.0 * chance.good, "%", 0)
    where = "" if chance.coverage != "extrapolated" else " Nothing was tried near it yet."
    text = f"A start at {celsius(coolant_c)} is good with {good}."
    if chance.good < 0.95:
        text += f" What is least sure is {weakest}: {quantity(100.0 * points[weakest], '%', 0)}."
    return chance, text + where


@functools.cache
def _limit_s(coolant_c: float) -> float:
    return RUN_SHARE * run_within_s(coolant_c)

"""The estimate of a job's start tables: computed once for each state of its evidence."""

from __future__ import annotations

import functools
from dataclasses import dataclass

import numpy as np
from inbetrieb_core.errors import CoreError
from inbetrieb_core.estimate import CurveView, LadderEstimate, Pull, curve_views, estimate, pulls
from inbetrieb_core.starts import Chance, chances
from inbetrieb_core.tables import Calibration

from server.calibration.models import Revision
from server.calibration.services import calibration_of, revision_of
from server.jobs.engine_data import spec_of
from server.jobs.models import Job

from .likes import known_of, state_beside
from .models import Trial, Weighing
from .proofs import proofs_of
from .services import history_of
from .told import refuse_bad_numbers


@dataclass(frozen=True)
class JobEstimate:
    """The estimate of a job with the tables in force.

    Attributes
    ----------
    revision : int
        Number of the revision that is judged.
    calibration : Calibration
        Its tables.
    believed : LadderEstimate
        What is believed of the needs.
    curves : tuple of CurveView
        At the breakpoints of each table.
    tried : tuple of (float, bool)
        Coolant temperature of every start that can prove one and whether it was good, oldest
        first. [°C]
    """

    revision: int
    calibration: Calibration
    believed: LadderEstimate
    curves: tuple[CurveView, ...]
    tried: tuple[tuple[float, bool], ...]

    @property
    def chances(self) -> tuple[Chance, ...]:
        """The chance of a good start at every rung of the ladder."""
        return self.chances_at(self.calibration["cranking_fuel"].axes[0].points)

    def chances_at(self, coolant_c: tuple[float, ...]) -> tuple[Chance, ...]:
        """Return the chance of a good start at temperatures [°C] with the tables in force."""
        return chances(self.believed, self.calibration, np.array(coolant_c), self.tried)


def estimate_of(job: Job) -> JobEstimate:
    """Return the estimate of a job as its trials and its newest revision stand."""
    return _computed(
        job.pk,
        revision_of(job, None).pk,
        Trial.objects.filter(job=job).count(),
        Weighing.objects.filter(trial__job=job).count(),
        state_beside(job),
        str(job.engine),
    )


@functools.lru_cache(maxsize=32)
def _computed(
    job_id: int, revision_id: int, trials: int, weighings: int, beside: tuple[int, int], engine: str
) -> JobEstimate:
    """Return the estimate of a state; trials and weighings are append-only, so counts name it."""
    job, revision = Job.objects.get(pk=job_id), Revision.objects.get(pk=revision_id)
    calibration = calibration_of(revision)
    evidence = [*known_of(job), *(e for past in history_of(job) for e in past.taught)]
    believed = estimate(spec_of(job), calibration, evidence)
    return JobEstimate(
        revision.number,
        calibration,
        believed,
        curve_views(believed, calibration),
        proofs_of(job),
    )


def pulls_of(job: Job, table: str, coolant_c: float) -> tuple[Pull, ...]:
    """Return what each trial does to the believed need of a cell.

    Raises
    ------
    CoreError
        If the table is not estimated, or the temperature impossible.
    """
    refuse_bad_numbers(coolant_c=coolant_c)
    found = estimate_of(job)
    if table not in {curve.table for curve in found.curves}:
        raise CoreError("Only start tables that starts teach of have an estimate.")
    return pulls(found.believed, found.calibration, table, coolant_c)


def forecast(job: Job, coolant_c: float) -> Chance:
    """Return the chance of a good start at a temperature.

    Raises
    ------
    CoreError
        If the temperature is impossible.
    """
    refuse_bad_numbers(coolant_c=coolant_c)
    (chance,) = estimate_of(job).chances_at((coolant_c,))
    return chance

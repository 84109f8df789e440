"""Looking tables over: what stands out in a revision or a draft, and what was accepted with a reason."""

from __future__ import annotations

import functools
import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from django.contrib.auth.models import User
from inbetrieb_core.basemaps import generated_on
from inbetrieb_core.commissioning import CONFIGURABLE_INPUTS
from inbetrieb_core.engine import EngineSpec
from inbetrieb_core.errors import field_refused
from inbetrieb_core.tables import Axis, Calibration, Table, TableError, from_plain
from inbetrieb_core.tables.review import Review, ReviewContext, ReviewFinding, review

from server.calibration.models import AcceptedFinding, Inherited, Revision
from server.calibration.services import calibration_of
from server.config.writes import writing
from server.entries.reasons import worth_reading
from server.jobs.engine_data import spec_of
from server.jobs.models import Job
from server.wiring import services as wiring

from .kinds import INTAKE


@dataclass(frozen=True)
class Accepted:
    """A finding that somebody accepted.

    Attributes
    ----------
    reason, author : str
    """

    reason: str
    author: str


@dataclass(frozen=True)
class Looked:
    """A review and which of its findings were accepted, by identifier."""

    review: Review
    accepted: dict[str, Accepted]


@functools.lru_cache(maxsize=64)
def _expected(spec: EngineSpec, shape: tuple[tuple[str, tuple[Axis, ...]], ...]) -> Calibration:
    """Return what engine data suggest on given axes; kept, because every edit asks for it."""
    return generated_on(spec, dict(shape))


@dataclass(frozen=True)
class Known:
    """What is known of a job besides its tables, and which of them are looked at.

    Attributes
    ----------
    spec : EngineSpec
    configured, wired : tuple of str
        Inputs as people call them; wired is None where there is no plan.
    only : frozenset of str or None
        Tables to look at; all of them where None.
    """

    spec: EngineSpec
    configured: tuple[str, ...]
    wired: tuple[str, ...] | None
    only: frozenset[str] | None

    def context(self, calibration: Calibration) -> ReviewContext:
        """Return it as the review takes it, with what the engine data suggest."""
        axes = tuple((key, table.axes) for key, table in calibration.tables.items())
        expected = _expected(self.spec, axes)
        return ReviewContext(self.spec, expected, self.configured, self.wired, self.only)


def known_of(job: Job, only: frozenset[str] | None = None) -> Known:
    """Return what is known of a job besides its tables."""
    configured: tuple[str, ...] = ()
    wired: tuple[str, ...] | None = None
    entered = INTAKE.value(job)
    if entered is not None:
        configured = entered[0].configured_inputs
    plan = wiring.saved_plan(job)
    if plan is not None:
        fitting = plan.entry.fitting
        built_in = ("manifold_pressure",) if fitting.built_in_pressure else ()
        wired = (*fitting.sensors, *fitting.inputs, *built_in)
    return Known(
        spec_of(job),
        tuple(CONFIGURABLE_INPUTS[key] for key in configured),
        None if wired is None else tuple(CONFIGURABLE_INPUTS.get(key, key) for key in wired),
        only,
    )


@functools.lru_cache(maxsize=256)
def _reviewed(revision_id: int, text: str, known: Known) -> Review:
    """Return the review of a revision; a board of many jobs asks for it at every look."""
    calibration = from_plain(json.loads(text))
    return review(calibration, known.context(calibration))


def looked_over(job: Job, revision: Revision) -> Looked:
    """Return the review of a revision; of an inherited one only what was really found."""
    found = Inherited.objects.filter(revision=revision).first()
    known = known_of(job, None if found is None else frozenset(found.tables))
    result = _reviewed(revision.pk, revision.tables, known)
    return Looked(result, _accepted(job, result.findings, calibration_of(revision)))


def stops_of(job: Job, revision: Revision) -> tuple[str, ...]:
    """Return the sentences of findings that say stop and were not accepted, the gravest first."""
    looked = looked_over(job, revision)
    return tuple(
        found.sentence
        for found in looked.review.findings
        if found.severity == "stop" and found.identifier not in looked.accepted
    )


def checked_draft(job: Job, revision: Revision, tables: Mapping[str, Any]) -> Looked:
    """Return what stands out in tables that are still being edited.

    Raises
    ------
    InputRefused
        If a table is unknown, has another shape, or a value is out of bounds.
    """
    calibration = drafted(calibration_of(revision), tables)
    known = known_of(job, frozenset(tables))
    result = review(calibration, known.context(calibration))
    return Looked(result, _accepted(job, result.findings, calibration))


def drafted(calibration: Calibration, tables: Mapping[str, Any]) -> Calibration:
    """Return a calibration with the values of a draft in it.

    Raises
    ------
    InputRefused
        If a table is unknown, has another shape, or a value is out of bounds.
    """
    for key, values in tables.items():
        calibration = calibration.with_table(drafted_table(calibration, key, values))
    return calibration


def drafted_table(calibration: Calibration, key: str, values: Any) -> Table:
    """Return one table with the values of a draft.

    Raises
    ------
    InputRefused
        If there is no such table, or the values do not fit it.
    """
    if key not in calibration:
        raise field_refused("table", f"There is no table '{key[:40]}'.")
    table = calibration[key]
    try:
        wanted = np.array(values, dtype=float)
        return Table(key, table.axes, wanted, table.provenance)
    except TableError as error:
        raise field_refused("values", str(error)) from error
    except (ValueError, TypeError) as error:
        raise field_refused("values", "The values are not numbers in rows.") from error


def _values_at(calibration: Calibration, found: ReviewFinding) -> list[float]:
    if not found.table:
        return []
    table = calibration[found.table]
    return [float(table.values[cell]) for cell in found.cells]


def _accepted(
    job: Job, findings: Sequence[ReviewFinding], calibration: Calibration
) -> dict[str, Accepted]:
    """Return the findings whose cells still hold what they held when somebody accepted them."""
    rows = AcceptedFinding.objects.filter(job=job).select_related("created_by").order_by("pk")
    by_identifier = {row.identifier: row for row in rows}
    result = {}
    for found in findings:
        row = by_identifier.get(found.identifier)
        if row is not None and np.allclose(row.cells["values"], _values_at(calibration, found)):
            result[found.identifier] = Accepted(row.reason, row.created_by.get_username())
    return result


@writing()
def accept_finding(
    job: Job,
    user: User,
    revision: Revision,
    tables: Mapping[str, Any],
    identifier: str,
    reason: str,
) -> AcceptedFinding:
    """Write down why a finding is right all the same.

    Raises
    ------
    InputRefused
        If there is no such finding, or no reason worth reading.
    """
    kept = worth_reading(reason, "Write down why this is right")
    looked = checked_draft(job, revision, tables) if tables else looked_over(job, revision)
    found = next((f for f in looked.review.findings if f.identifier == identifier), None)
    if found is None:
        raise field_refused("identifier", "That finding is not there any more.")
    calibration = drafted(calibration_of(revision), tables)
    cells = {
        "table": found.table,
        "indices": [list(cell) for cell in found.cells],
        "values": _values_at(calibration, found),
        "sentence": found.sentence,
    }
    return AcceptedFinding.objects.create(
        job=job, identifier=identifier, cells=cells, reason=kept, created_by=user
    )

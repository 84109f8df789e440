"""What can be done to the injectors and the fuel supply of a job."""

from __future__ import annotations

from dataclasses import replace

from django.contrib.auth.models import User
from inbetrieb_core.basemaps import filling_error, refit_injectors
from inbetrieb_core.engine import EngineSpec, entry_of
from inbetrieb_core.errors import field_refused
from inbetrieb_core.injectors import InferredInjectors, OperatingPoint, infer_injectors
from inbetrieb_core.supply import (
    DeadTimeEntry,
    InjectorEntry,
    InjectorSheet,
    SupplyEntry,
    injector_sheet,
    judge_injectors,
    steady_points,
)

from server.calibration.services import calibration_of, revise, revision_of
from server.config.writes import writing
from server.jobs.engine_data import entry_of_job, plain_engine, spec_of
from server.jobs.models import Job
from server.logbook.models import Log
from server.logbook.samples import read_trace

from .kinds import INJECTORS, SUPPLY


def injectors_of(job: Job) -> tuple[InjectorEntry, int]:
    """Return the injectors of a job and their version; 0 where only the job's form tells them."""
    entered = INJECTORS.value(job)
    if entered is not None:
        return entered
    spec = spec_of(job)
    curve = spec.injectors.dead_time
    return InjectorEntry(
        name="As entered with the job",
        count=spec.injectors.count,
        flow=spec.injectors.flow_cm3_min,
        rated_pressure_kpa=spec.injectors.rated_pressure_kpa,
        dead_time=None
        if spec.injectors.dead_time_assumed
        else DeadTimeEntry(curve.voltage_v, (curve.dead_time_ms,)),
        injections_per_cycle=spec.injections_per_cycle,
        override_reason=job.override_reason,
    ), 0


def supply_of(job: Job) -> tuple[SupplyEntry, int]:
    """Return the supply of a job and its version; 0, and no pump, where none is entered."""
    entered = SUPPLY.value(job)
    if entered is not None:
        return entered
    spec = spec_of(job)
    return SupplyEntry(
        name="",
        readings=(),
        regulator="referenced_return" if spec.manifold_referenced else "fixed_return",
        rail_pressure_kpa=spec.rail_pressure_kpa,
    ), 0


def sheet_of(job: Job, entry: InjectorEntry) -> InjectorSheet:
    """Return what follows from injectors on the engine and the controller's axis of a job."""
    axis = calibration_of(revision_of(job))["dead_time"].axes[0].points
    return injector_sheet(spec_of(job), entry, axis)


@writing()
def save_injectors(job: Job, user: User, entry: InjectorEntry) -> int | None:
    """Write injectors down and put them in force; return the new revision's number, if any.

    Raises
    ------
    InputRefused
        If data cannot be, or are implausible without a written reason.
    """
    job.refresh_from_db()
    after = entry.fitted_to(spec_of(job))
    judgement = judge_injectors(after)
    if judgement.level == "implausible" and not entry.override_reason.strip():
        raise field_refused(
            "override_reason",
            " ".join(judgement.sentences) + " If it is really so, say why in writing.",
        )
    INJECTORS.add(job, user, entry)
    job.override_reason = entry.override_reason.strip()
    return _put_in_force(job, user, after, f"Injectors: {entry.name.strip()}")


@writing()
def save_supply(job: Job, user: User, entry: SupplyEntry) -> int | None:
    """Write a supply down and put its rail pressure in force; return the new revision's number."""
    job.refresh_from_db()
    entry.check()
    after = entry.fitted_to(spec_of(job))
    injectors, version = injectors_of(job)
    if version:
        # Dead time may be known at several pressures; the rail decides which holds.
        after = injectors.fitted_to(after)
    SUPPLY.add(job, user, entry)
    return _put_in_force(job, user, after, f"Fuel supply: {entry.name.strip()}")


def _put_in_force(job: Job, user: User, after: EngineSpec, note: str) -> int | None:
    """Make an engine the job's own and refit the tables that depend on its injectors."""
    before = spec_of(job)
    entered = entry_of_job(job)
    now = entry_of(after)
    job.engine = plain_engine(
        replace(
            entered,
            rail_pressure_kpa=now.rail_pressure_kpa,
            manifold_referenced=now.manifold_referenced,
            injections_per_cycle=now.injections_per_cycle,
            injectors=now.injectors,
        )
    )
    job.save(update_fields=["engine", "override_reason"])
    newest = revision_of(job)
    calibration = calibration_of(newest)
    refitted = refit_injectors(calibration, before, spec_of(job))
    revision = revise(job, user, refitted, origin="injectors", note=note)
    return None if revision is None else revision.number


def points_of(log: Log) -> tuple[OperatingPoint, ...]:
    """Return the steady warm points of a log."""
    return steady_points(read_trace(log))


def infer(job: Job, points: tuple[OperatingPoint, ...]) -> InferredInjectors:
    """Return the true injectors as the mixture tells them, against those in force."""
    spec = spec_of(job)
    calibration = calibration_of(revision_of(job))
    return infer_injectors(
        points,
        flow_cm3_min=spec.injectors.flow_cm3_min,
        dead_time=spec.injectors.dead_time,
        believed_kpa=spec.rail_pressure_kpa,
        filling_error=filling_error(calibration, [(p.rpm, p.map_kpa) for p in points]),
    )


def inferred_entry(job: Job, result: InferredInjectors) -> InjectorEntry:
    """Return the injectors in force with the inferred flow and dead time in their place."""
    entry, _ = injectors_of(job)
    spec = spec_of(job)
    curve = spec.injectors.dead_time
    offset = result.dead_time_offset_ms
    dead_time = entry.dead_time
    if offset is not None:
        shifted = tuple(round(max(0.0, t + offset), 3) for t in curve.dead_time_ms)
        dead_time = DeadTimeEntry(curve.voltage_v, (shifted,))
    return replace(
        entry,
        flow=round(result.flow_cm3_min, 1),
        flow_unit="cm³/min",
        fluid="petrol",
        rated_pressure_kpa=spec.injectors.rated_pressure_kpa,
        report=None,
        dead_time=dead_time,
        provenance="calculated",
        note=" ".join(result.sentences)[:1000],
    )

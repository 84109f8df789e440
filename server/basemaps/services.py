"""What can be done about base maps: look at what would be generated, generate, carry over, re-axe."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from django.contrib.auth.models import User
from inbetrieb_core.basemaps import choose_axes, generate, refit_injectors
from inbetrieb_core.basemaps.axes import AxisLimit, controller_points
from inbetrieb_core.basemaps.carry import Carried, carry_over, not_carried
from inbetrieb_core.basemaps.nearest import DistancePart, distance, distance_parts
from inbetrieb_core.bench import NAMED
from inbetrieb_core.bench.examples import example_calibration
from inbetrieb_core.engine import EngineEntry, EngineSpec, engine_of
from inbetrieb_core.errors import FieldProblem, InputRefused, field_refused
from inbetrieb_core.tables import AXES, DEFINITIONS, Axis, AxisError, Calibration, Table, make_axis
from inbetrieb_core.tables.reaxe import Reaxed, reaxe
from inbetrieb_core.wiring import ControllerProfile

from server.calibration.models import Revision
from server.calibration.services import calibration_of, newest_numbers, revise, revision_of
from server.config.problems import Refusal
from server.config.writes import writing
from server.entries.kinds import Kind
from server.hardware.kinds import INJECTORS
from server.hardware.supply import injectors_of
from server.jobs.engine_data import entry_of_job, plain_engine, spec_of
from server.jobs.models import Job
from server.jobs.services import jobs_of
from server.jobs.tried import good_starts
from server.wiring.services import profile_of

ENGINE: Kind[EngineEntry] = Kind("engine", EngineEntry)

Points = Mapping[str, Sequence[float]]
#: So many of the workshop's jobs are offered, the nearest ones.
_NEAREST = 20


def with_own_injectors(job: Job, engine: EngineEntry) -> EngineEntry:
    """Return engine data with the injectors and the rail that the job has: those have their own station."""
    own = entry_of_job(job)
    return replace(
        engine,
        injectors=own.injectors,
        rail_pressure_kpa=own.rail_pressure_kpa,
        manifold_referenced=own.manifold_referenced,
    )


def axis_limits(profile: ControllerProfile | None) -> dict[str, AxisLimit]:
    """Return what a controller allows on each axis: the least of all its tables."""
    limits: dict[str, AxisLimit] = {}
    for table in () if profile is None else profile.tables:
        for axis in table.axes:
            if axis.name == "coolant_c" and axis.points:
                continue  # few fixed values are fitted to the curve when they are typed in
            before = limits.get(axis.name)
            most = axis.most_points if before is None else min(before.most_points, axis.most_points)
            points = axis.points or (() if before is None else before.points)
            limits[axis.name] = AxisLimit(most, points)
    return limits


def proposed_axes(job: Job, spec: EngineSpec) -> dict[str, Axis]:
    """Return axes for the engine within what the job's controller allows."""
    limits = axis_limits(profile_of(job))
    three = spec.schools.curve == "three_point"
    points = {
        name: given
        for name, given in controller_points(spec, limits).items()
        if not (three and name == "coolant_c")
    }
    return choose_axes(spec, points)


def axes_in_force(job: Job) -> dict[str, tuple[float, ...]]:
    """Return the breakpoints of the newest revision; of several, those of the first table."""
    found: dict[str, tuple[float, ...]] = {}
    for table in calibration_of(revision_of(job)).tables.values():
        for axis in table.axes:
            found.setdefault(axis.name, axis.points)
    return found


def generation_axes(job: Job, spec: EngineSpec) -> dict[str, tuple[float, ...]]:
    """Return the axes in force where they suit engine and controller, else those proposed."""
    limits = axis_limits(profile_of(job))
    before = axes_in_force(job)
    points = {name: axis.points for name, axis in proposed_axes(job, spec).items()}
    for name, old in before.items():
        limit = limits.get(name)
        fits = limit is None or (
            len(old) <= limit.most_points and (not limit.points or limit.points == old)
        )
        if fits and _covers(name, old, spec):
            points[name] = old
    return points


def _covers(name: str, points: tuple[float, ...], spec: EngineSpec) -> bool:
    """Return whether an axis reaches as far as the engine does, and suits the school."""
    if name == "map_kpa":
        return points[-1] >= spec.top_map_kpa - 6.0
    if name == "rpm":
        return points[-1] >= spec.rev_limit_rpm - 100.0
    if name == "coolant_c":
        return (len(points) == 3) == (spec.schools.curve == "three_point")
    return True


@dataclass(frozen=True)
class TableChange:
    """What generating would do to one table.

    Attributes
    ----------
    key : str
    cells : int
        Cells that change. [–]
    largest : float
        Largest change. [unit of the table]
    reshaped : bool
        Whether it comes, goes, or gets other axes.
    evidence : int
        Cells that are measured or accepted now, and would be lost. [–]
    """

    key: str
    cells: int
    largest: float
    reshaped: bool
    evidence: int


@dataclass(frozen=True)
class Preview:
    """What base maps an engine would get.

    Attributes
    ----------
    spec : EngineSpec
    calibration : Calibration
    changes : tuple of TableChange
        Against the newest revision; unchanged tables are left out.
    """

    spec: EngineSpec
    calibration: Calibration
    changes: tuple[TableChange, ...]


def preview(job: Job, engine: EngineEntry, axes: Points | None) -> Preview:
    """Return the base maps of engine data that are still being changed; saves nothing."""
    spec = engine_of(with_own_injectors(job, engine))
    made = generate(spec, axes or generation_axes(job, spec))
    return Preview(spec, made, changes_against(calibration_of(revision_of(job)), made))


def changes_against(before: Calibration, after: Calibration) -> tuple[TableChange, ...]:
    """Return what one calibration would change in another, table by table."""
    result = []
    for key in DEFINITIONS:
        if key not in before and key not in after:
            continue
        if key not in before or key not in after or before[key].axes != after[key].axes:
            table = before[key] if key in before else after[key]
            proven = _proven(before[key]) if key in before else 0
            result.append(TableChange(key, table.values.size, 0.0, True, proven))
            continue
        off = abs(after[key].values - before[key].values)
        changed = int((off > 1e-9).sum())
        if changed:
            result.append(TableChange(key, changed, float(off.max()), False, _proven(before[key])))
    return tuple(result)


def _proven(table: Table) -> int:
    """Return how many cells rest on more than engine data."""
    if not table.axes:
        return 0
    return sum(mark.kind in ("measured", "carried_over") for mark in table.provenance.flat)


@writing()
def put_engine_in_force(job: Job, user: User, engine: EngineEntry) -> EngineSpec:
    """Write engine data down as the next version and make them the job's own; tables stay.

    How often the injectors open in a cycle is a school here and a fact of station 4: it goes there
    too, so that the next saving of the injectors does not take it back.
    """
    job.refresh_from_db()
    kept = with_own_injectors(job, engine)
    spec = engine_of(kept)
    entry, version = injectors_of(job)
    if version and entry.injections_per_cycle != spec.injections_per_cycle:
        entry = replace(entry, injections_per_cycle=spec.injections_per_cycle)
        INJECTORS.add(job, user, entry)
    plain = plain_engine(kept)
    if plain != plain_engine(entry_of_job(job)):
        ENGINE.add(job, user, kept)
        job.engine = plain
        job.save(update_fields=["engine"])
    return spec


@writing()
def generate_revision(
    job: Job, user: User, *, engine: EngineEntry, axes: Points | None, tables: Sequence[str] | None,
    based_on: int, note: str,
) -> Revision:  # fmt: skip
    """Put engine data in force and write the chosen base maps as a new revision.

    Raises
    ------
    InputRefused
        If a field or an axis cannot be, or a wanted table does not exist.
    Refusal
        409 if the sheet is stale; 422 if nothing would change.
    """
    earlier = spec_of(job)
    spec = put_engine_in_force(job, user, engine)
    made = generate(spec, axes or generation_axes(job, spec))
    # Tables that stay give the same fuel with the same injectors opened more or less often.
    before = refit_injectors(calibration_of(revision_of(job)), earlier, spec)
    wanted = set(made.tables) if tables is None else set(tables)
    unknown = sorted(wanted - set(made.tables))
    if unknown:
        raise field_refused("tables", f"This engine has no table '{unknown[0][:40]}'.")
    after = _merged(before, made, wanted)
    what = "Base maps generated" if tables is None else f"{len(wanted)} base maps generated"
    revision = revise(
        job, user, after, origin="base_maps", based_on=based_on,
        note=note or f"{what} from the engine data.",
    )  # fmt: skip
    if revision is None:
        raise Refusal(422, "Nothing changed", "The tables are those already; no revision was made.")
    return revision


def _merged(before: Calibration, made: Calibration, wanted: set[str]) -> Calibration:
    """Return the old calibration with wanted tables in it; start tables keep one coolant axis."""
    tables = {key: table for key, table in before.tables.items() if key not in wanted}
    tables |= {key: made[key] for key in wanted}
    if wanted >= set(made.tables):
        # Everything anew: what such an engine does not have goes, and what was learned on top of
        # the old tables with it.
        tables = {key: table for key, table in tables.items() if key in made}
    coolant = next((t.axes[0] for k, t in tables.items() if k in wanted and _is_curve(t)), None)
    if coolant is not None:
        tables = {
            key: reaxe(table, [coolant]).table
            if _is_curve(table) and table.axes[0] != coolant
            else table
            for key, table in tables.items()
        }
    return Calibration(tables)


def _is_curve(table: Table) -> bool:
    return [axis.name for axis in table.axes] == ["coolant_c"]


# --- carrying over ------------------------------------------------------------------------


@dataclass(frozen=True)
class Source:
    """A calibration that can be carried over.

    Attributes
    ----------
    kind : {"job", "example"}
    key, name : str
    spec : EngineSpec
    distance : float
        [–]
    parts : tuple of DistancePart
    revision : int
        0 for an example.
    good_trials : int
        Starts within acceptance. [–]
    """

    kind: str
    key: str
    name: str
    spec: EngineSpec
    distance: float
    parts: tuple[DistancePart, ...]
    revision: int
    good_trials: int


def sources_of(job: Job, user: User) -> list[Source]:
    """Return earlier jobs of the workshop and shipped examples, the nearest first."""
    spec = spec_of(job)
    found = []
    others = list(jobs_of(user).exclude(pk=job.pk))
    far = {other.pk: distance(spec, spec_of(other)) for other in others}
    near = sorted(others, key=lambda other: far[other.pk])[:_NEAREST]
    newest, good = newest_numbers(near), good_starts(near)
    for other in near:
        its = spec_of(other)
        found.append(
            Source(
                "job", str(other.pk), other.name, its, far[other.pk], distance_parts(spec, its),
                newest[other.pk], good.get(other.pk, 0),
            )
        )  # fmt: skip
    for key, engine in NAMED.items():
        found.append(
            Source(
                "example", key, f"Example: {engine.title}", engine.spec, distance(spec, engine.spec),
                distance_parts(spec, engine.spec), 0, 0,
            )
        )  # fmt: skip
    return sorted(found, key=lambda source: source.distance)


def carried(job: Job, user: User, kind: str, key: str, tables: Sequence[str] | None) -> Carried:
    """Return the newest calibration with tables of another engine on it; saves nothing.

    Raises
    ------
    Refusal
        404 if there is no such job or example.
    """
    spec = spec_of(job)
    target = calibration_of(revision_of(job))
    if kind == "example" and key in NAMED:
        engine = NAMED[key]
        return carry_over(
            target, spec, example_calibration(engine), engine.spec, engine.title, tables
        )
    other = jobs_of(user).exclude(pk=job.pk).filter(pk=key).first() if key.isdecimal() else None
    if kind != "job" or other is None:
        raise Refusal(404, "Not found", "That calibration is not here, or it is not yours.")
    saved = revision_of(other)
    name = f"{other.name}, revision {saved.number}"
    return carry_over(target, spec, calibration_of(saved), spec_of(other), name, tables)


@writing()
def carry_over_revision(
    job: Job, user: User, *, kind: str, key: str, tables: Sequence[str] | None, based_on: int, note: str
) -> tuple[Revision, Carried]:  # fmt: skip
    """Write tables of another engine, rescaled, as a new revision.

    Raises
    ------
    Refusal
        404 if there is no such source; 409 if the sheet is stale; 422 if nothing would change.
    """
    result = carried(job, user, kind, key, tables)
    text = note or f"Carried over. {not_carried(result)}"
    revision = revise(job, user, result.calibration, origin="carried", note=text, based_on=based_on)
    if revision is None:
        raise Refusal(422, "Nothing changed", "Every value is that already; no revision was made.")
    return revision, result


# --- axes ---------------------------------------------------------------------------------


def reaxed(job: Job, axes: Points) -> tuple[Calibration, tuple[Reaxed, ...]]:
    """Return the newest calibration on other breakpoints, and what each table loses; saves nothing.

    Raises
    ------
    InputRefused
        If an axis is unknown or its breakpoints do not rise.
    """
    made: dict[str, Axis] = {}
    problems = []
    for name, points in axes.items():
        try:
            if name not in AXES:
                raise AxisError(f"there is no axis named {name[:30]}")
            made[name] = make_axis(name, points)
        except AxisError as error:
            problems.append(
                FieldProblem(f"axes.{name}", f"{str(error)[:1].upper()}{str(error)[1:]}.")
            )
    if problems:
        raise InputRefused(problems)
    calibration = calibration_of(revision_of(job))
    reports = []
    for table in calibration.tables.values():
        wanted = tuple(made.get(axis.name, axis) for axis in table.axes)
        if wanted != table.axes:
            report = reaxe(table, wanted)
            reports.append(report)
            calibration = calibration.with_table(report.table)
    return calibration, tuple(reports)


def no_room(job: Job, axes: Points) -> dict[str, str]:
    """Return a sentence for each axis that has more breakpoints than the job's controller holds."""
    limits = axis_limits(profile_of(job))
    return {
        name: f"{len(points)} breakpoints; the controller holds {limits[name].most_points}."
        for name, points in axes.items()
        if name in limits and len(points) > limits[name].most_points
    }


@writing()
def reaxe_revision(job: Job, user: User, *, axes: Points, based_on: int, note: str) -> Revision:
    """Write the newest calibration on other breakpoints as a new revision."""
    calibration, reports = reaxed(job, axes)
    names = ", ".join(AXES[name].title.lower() for name in axes)
    revision = revise(
        job, user, calibration, origin="axes", based_on=based_on,
        note=note or f"Other breakpoints: {names}. " + " ".join(r.sentence for r in reports)[:1500],
    )  # fmt: skip
    if revision is None:
        raise Refusal(422, "Nothing changed", "The breakpoints are those already.")
    return revision


def plain_axes(axes: Mapping[str, Axis]) -> dict[str, list[float]]:
    """Return axes as they travel."""
    return {name: list(axis.points) for name, axis in axes.items()}

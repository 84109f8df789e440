"""The facts of a job, gathered from every app that holds some of them; nothing is written here."""

from __future__ import annotations

from collections import Counter
from datetime import datetime
from typing import Any

import numpy as np
from django.db.models import Max
from inbetrieb_core.commissioning import checks_of
from inbetrieb_core.engine import EngineSpec
from inbetrieb_core.handover import (
    PARTS,
    ChanceFact,
    ClosingFact,
    DecisionFact,
    GateFact,
    GoodStart,
    JobFacts,
    PullFact,
    Reopened,
    Reopening,
    RevisionFact,
    Stand,
    StartFact,
    TableFact,
    what_stands,
)
from inbetrieb_core.runsheet import steps_of
from inbetrieb_core.sentences import kilopascal
from inbetrieb_core.tables import DEFINITIONS, Calibration, Table

from server.calibration.models import Revision
from server.calibration.services import calibration_of, number_in_the_car, revision_of
from server.entries.kinds import Kind
from server.entries.models import Entry
from server.entries.reasons import REASON
from server.firststart.kinds import DONE
from server.firststart.services import setup_of
from server.fuelling.kinds import PASS, TAKEN, TRANSIENTS
from server.hardware.kinds import INJECTORS, SUPPLY
from server.hardware.models import KeyOnCheck
from server.idle.kinds import STOP, SWEEP
from server.idle.services import facts_of, verdict_on
from server.jobs.engine_data import spec_of
from server.jobs.models import Job
from server.mornings.services import entry_of
from server.order.gates import gates_of
from server.pulls.kinds import OPENED, PULL
from server.pulls.services import feed_of, limits_of, rows_of
from server.trials.estimates import estimate_of
from server.trials.models import Decision, Trial
from server.trigger.kinds import TIMING
from server.wiring.kinds import PLAN
from server.wiring.services import computed, saved_plan

from .drawn import drawn_of, ladder_of, map_sheets, pictures_of, traces_of
from .kinds import CLOSED, REOPENED

_MOST_PLACES = 6


def gather(job: Job) -> JobFacts:
    """Return the facts of a job as they stand now."""
    spec, newest = spec_of(job), revision_of(job)
    calibration = calibration_of(newest)
    idle = verdict_on(job, facts_of(job))
    plan = saved_plan(job)
    passes = list(PASS.rows(job))
    taken = TAKEN.rows(job).count()
    last_pass = PASS.read(passes[-1].data) if passes else None
    limits = limits_of(job)
    return JobFacts(
        name=job.name, workshop=job.workshop.name, engine=_engine(spec), fuel=_fuel(spec),
        controller=plan.profile.name if plan is not None else "not written down", altitude_m=spec.altitude_m,
        revision=newest.number, in_car=number_in_the_car(job), note=job.note, tables=_tables(calibration),
        gates=tuple(GateFact(_title(gate.key), gate.is_open, gate.sentence) for gate in gates_of(job)),
        starts=_starts(job), revisions=_revisions(job), decisions=_decisions(job), skipped=_skipped(job), faults=_faults(job),
        chances=_chances(job), monthly_c=tuple(entry_of(job)[0].monthly_c), idle=idle.sentence, is_idle_true=idle.is_true,
        passes=len(passes), passes_taken=taken, map_done=None if last_pass is None else last_pass.done_share,
        cold_driven=last_pass is not None and any(one.key == "warm_up_enrichment" and one.is_told for one in last_pass.corrections),
        has_transients=TRANSIENTS.newest(job) is not None, pulls=_pulls(job), is_boosted=spec.boost_kpa > 0.0,
        limits=() if limits is None else (f"manifold pressure {kilopascal(limits.boost_kpa)}", f"lambda {limits.leanest:g} at full load", f"engine speed {limits.speed_rpm:.0f} rpm"),
        wiring=() if plan is None else tuple((line.title, " ".join(filter(None, (line.connector, line.pin))), f"{line.size_mm2:g} mm² {line.colour}") for line in computed(job, plan.profile, plan.entry).lines),
        maps=map_sheets(calibration), ladder=ladder_of(job), traces=traces_of(job), pictures=pictures_of(job),
        reopened=_reopened(job), reopening=reopening_of(job),
        closing=tuple(ClosingFact(row.key, CLOSED.read(row.data).note, row.created_by.username, _day(row.created_at)) for row in CLOSED.newest_of_each(job)),
    )  # fmt: skip


def _day(moment: datetime) -> str:
    return moment.date().isoformat()


def _engine(spec: EngineSpec) -> str:
    chambers = f"{spec.chambers} rotors" if spec.cycle == "rotary" else f"{spec.chambers} cylinders"
    boost = f", boost {kilopascal(spec.boost_kpa)}" if spec.boost_kpa else ""
    where = "throttle-body injection" if spec.wet_manifold else "port injection"
    return f"{spec.displacement_l:g} l, {chambers}, {where}{boost}"


def _fuel(spec: EngineSpec) -> str:
    share = spec.ethanol_volume_share
    return "petrol" if share < 0.02 else f"{100 * share:.0f} % ethanol"


def _title(key: str) -> str:
    return key.replace("-", " ").capitalize()


def _tables(calibration: Calibration) -> tuple[TableFact, ...]:
    return tuple(_table(table) for table in calibration.tables.values())


def _table(table: Table) -> TableFact:
    kinds = np.array([mark.kind for mark in np.ravel(table.provenance)])
    cells = Counter(kinds.tolist())
    places = [table.place(tuple(index)) for index in np.argwhere(kinds.reshape(table.values.shape) == "assumed")[:_MOST_PLACES]] if table.axes else []  # fmt: skip
    rest = cells["assumed"] - len(places)
    said = "; ".join(places) + (f" and {rest} more" if places and rest > 0 else "")
    return TableFact(table.definition.title, table.definition.unit, dict(cells), said)


def _starts(job: Job) -> tuple[StartFact, ...]:
    rows = Trial.objects.filter(job=job, kind="start").select_related("in_short").order_by("number")
    return tuple(
        StartFact(t.number, _day(t.created_at), t.coolant_c, t.verdict, t.good, t.in_short.sentence if hasattr(t, "in_short") else "")
        for t in rows
    )  # fmt: skip


def _revisions(job: Job) -> tuple[RevisionFact, ...]:
    rows = (
        Revision.objects.filter(job=job)
        .defer("tables")
        .select_related("created_by")
        .order_by("number")
    )
    return tuple(
        RevisionFact(
            r.number, _day(r.created_at), r.created_by.username, r.origin, r.note, _changed(r)
        )
        for r in rows
    )


def _changed(revision: Revision) -> str:
    """Return in which tables a revision changed how many cells."""
    counts = {DEFINITIONS[key].short: len(cells) for key, cells in revision.changed.items()}
    return ", ".join(f"{name}: {n} cell{'' if n == 1 else 's'}" for name, n in counts.items() if n)


def _decisions(job: Job) -> tuple[DecisionFact, ...]:
    found = [
        DecisionFact(_title(row.key), "passed without it", row.created_by.username, _day(row.created_at), REASON.read(row.data).reason)
        for row in REASON.newest_of_each(job)
        if REASON.read(row.data).reason
    ]  # fmt: skip
    found += [
        DecisionFact(f"Fuel map, pass {t.number}", "taken although a cause was likely", row.created_by.username, _day(row.created_at), t.reason)
        for row in TAKEN.rows(job).select_related("created_by")
        if (t := TAKEN.read(row.data)).reason
    ]  # fmt: skip
    found += [
        DecisionFact(f"Pull {OPENED.read(row.data).pull}", "pulled on after a stop", row.created_by.username, _day(row.created_at), OPENED.read(row.data).reason)
        for row in OPENED.rows(job).select_related("created_by")
    ]  # fmt: skip
    found += [
        DecisionFact(f"Trial {d.trial.number}", "advice declined", d.created_by.username, _day(d.created_at), d.note or "no reason")
        for d in Decision.objects.filter(trial__job=job, kind="declined").select_related("trial", "created_by")
    ]  # fmt: skip
    return tuple(found)


def _skipped(job: Job) -> tuple[DecisionFact, ...]:
    titles = {step.key: step.title for step in steps_of(spec_of(job), setup_of(job))}
    return tuple(
        DecisionFact("First start", titles.get(row.key, row.key), row.created_by.username, _day(row.created_at), done.skipped)
        for row in DONE.newest_of_each(job)
        if (done := DONE.read(row.data)).skipped
    )  # fmt: skip


def _faults(job: Job) -> tuple[str, ...]:
    """Return what stopped the work or was no table's, each with what came of it since."""
    return (*_stopped_first_start(job), *_causes_of_drives(job), *_stopped_pulls(job))


def _stopped_first_start(job: Job) -> list[str]:
    rows = list(DONE.rows_of_all(job))
    passed = {
        row.key: row
        for row in rows
        if not (read := DONE.read(row.data)).stopped and not read.skipped
    }
    return [
        f"First start, {row.key.replace('_', ' ')}: {stop}{_since(passed.get(row.key), row, 'read right')}"
        for row in rows
        for stop in DONE.read(row.data).stopped
    ]  # fmt: skip


def _causes_of_drives(job: Job) -> list[str]:
    rows = [(row, PASS.read(row.data)) for row in PASS.rows(job)]
    free = next((row for row, read in reversed(rows) if not read.blocks), None)
    return [
        f"Fuel map, pass {row.number}: {read.cause_sentence}{_since(free, row, 'not seen any more')}"
        for row, read in rows
        if read.blocks
    ]


def _stopped_pulls(job: Job) -> list[str]:
    rows = [row for row in rows_of(job) if not row.aside]
    free = [row.number for row in rows if not (row.saved.stop or row.saved.passed)]
    later = max(free, default=0)
    return [
        f"Pull {row.number}: {row.saved.stop or row.saved.passed[0].sentence}"
        + (f" Not seen any more in pull {later}." if later > row.number else " Open.")
        for row in rows
        if row.saved.stop or row.saved.passed
    ]


def _since(good: Entry | None, bad: Entry, words: str) -> str:
    """Return what came of a fault: read again without it, or still open."""
    if good is None or good.pk <= bad.pk:
        return " Open."
    return f" Mended: {words} on {_day(good.created_at)}."


def _chances(job: Job) -> tuple[ChanceFact, ...]:
    places = tuple(check.coolant_c for check in checks_of(()))
    return tuple(
        ChanceFact(c.coolant_c, c.good, c.coverage) for c in estimate_of(job).chances_at(places)
    )


def _pulls(job: Job) -> tuple[PullFact, ...]:
    found, feed = [], feed_of(job)
    for row in rows_of(job):
        if row.aside:
            continue
        pull = row.saved.pull
        peak = pull.peak("power_kw") if pull.torque == "measured" else None
        c = row.saved.conditions
        words = ", ".join(
            filter(
                None,
                (
                    c.part,
                    c.gear and f"gear {c.gear}",
                    c.fuel,
                    "" if c.duty_pct is None else f"{c.duty_pct:g} % duty",
                    c.note,
                ),
            )
        )
        stop = row.saved.stop or (row.saved.passed[0].sentence if row.saved.passed else "")
        found.append(
            PullFact(
                row.number,
                _day(row.at),
                words,
                None if peak is None else peak[0],
                stop,
                pull.rpm,
                drawn_of(pull, feed),
            )
        )
    return tuple(found)


def _reopened(job: Job) -> tuple[DecisionFact, ...]:
    return tuple(
        DecisionFact("Come back", ", ".join(PARTS[part] for part in read.parts), row.created_by.username, _day(row.created_at), read.reason)
        for row in REOPENED.rows(job).select_related("created_by")
        if (read := REOPENED.read(row.data))
    )  # fmt: skip


def reopening_of(job: Job) -> Reopening | None:
    """Return what of a record stands since the job came back; None where it never did."""
    rows = list(REOPENED.rows(job))
    if not rows:
        return None
    back = [Reopened(row.created_at, REOPENED.read(row.data).parts) for row in rows]
    good = Trial.objects.filter(job=job, kind="start", good=True)
    starts = [GoodStart(at, coolant) for at, coolant in good.values_list("created_at", "coolant_c")]
    return what_stands(back, _proven_at(job), starts)


#: Entries of any key that prove a part of the record; the key-on check and the controller read back are looked up apart.
_PROOFS: dict[Stand, tuple[Kind[Any], ...]] = {
    "wiring": (PLAN,), "injectors": (INJECTORS, SUPPLY), "trigger": (TIMING,), "idle": (STOP, SWEEP), "map": (PASS,),
    "transients": (TRANSIENTS,), "pulls": (PULL,),
}  # fmt: skip


def _proven_at(job: Job) -> dict[Stand, datetime | None]:
    """Return when each part of the record but the starts was last proven."""
    written = Entry.objects.filter(job=job, data__isnull=False).values_list("kind")
    newest = dict(written.annotate(at=Max("created_at")))
    found: dict[Stand, datetime | None] = {
        stand: max((newest[kind.name] for kind in kinds if kind.name in newest), default=None)
        for stand, kinds in _PROOFS.items()
    }
    passed = KeyOnCheck.objects.filter(job=job, state="pass")
    found["sensors"] = passed.aggregate(at=Max("created_at"))["at"]
    read = next((row for row in CLOSED.newest_of_each(job) if row.key == "read_back"), None)
    found["read_back"] = None if read is None else read.created_at
    return found

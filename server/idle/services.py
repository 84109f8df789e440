"""What can be done at station 8: stop, return, sweep, air, hunting, loads, and what follows into tables."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TypeVar

from django.contrib.auth.models import User
from django.db.models import Max
from inbetrieb_core.errors import field_refused
from inbetrieb_core.estimate import basis_of
from inbetrieb_core.idle import (
    AIR_STEPS,
    AirStepKey,
    Closing,
    Habit,
    Hunting,
    IdleAir,
    IdleFacts,
    IdleReading,
    LoadKind,
    LoadResult,
    ReturnTest,
    StepResponse,
    StopAdvice,
    StopReading,
    Sweep,
    WarmIdle,
    after_air_step,
    closings_of,
    fit_sweep,
    habits,
    idle_air_of,
    idle_reading,
    judge_hunting,
    judge_load,
    judge_return,
    judge_stop,
    load_in_log,
    spark_table,
    step_response,
    warm_idle,
    within_limits,
)
from inbetrieb_core.logs import Trace
from inbetrieb_core.tables import Table

from server.calibration.models import Revision
from server.calibration.services import calibration_of, revise, revision_of
from server.config.problems import Refusal
from server.config.writes import writing
from server.entries.kinds import Kind
from server.entries.models import Entry
from server.jobs.engine_data import spec_of
from server.jobs.models import Job
from server.logbook.samples import read_between, read_channels, read_trace
from server.logbook.services import log_of
from server.wiring.services import outputs_of, saved_plan

from .kinds import (
    AIR,
    HUNTING,
    LOAD,
    RETURN,
    STOP,
    SWEEP,
    AirSaved,
    HuntingSaved,
    LoadSaved,
    ReturnSaved,
    StandsOn,
    StopSaved,
    SweepSaved,
)

T = TypeVar("T")
_MOST_READINGS = 60


# --- what it stands on ----------------------------------------------------------------------


def _stands(
    job: Job, log_id: int | None = None, readings: Sequence[StopReading] | None = None
) -> StandsOn:
    """Return what a reading stands on now; `readings` are the stop's where they are just written."""
    if readings is None:
        saved = STOP.value(job)
        readings = () if saved is None else saved[0].readings
    turned = round(sum(reading.turned for reading in readings), 3)
    return StandsOn(basis_of(spec_of(job)), turned, log_id)


def _fell(then: StandsOn, now: StandsOn, *, turned: bool) -> bool:
    """Return whether what a reading stands on was changed since."""
    return then.basis != now.basis or (turned and abs(then.turned - now.turned) > 1e-6)


def has_valve(job: Job) -> bool:
    """Return whether an idle valve is planned; one is, where nothing was planned."""
    plan = saved_plan(job)
    return plan is None or plan.entry.fitting.idle_valve != "none"


def newest_sweep(job: Job) -> Sweep | None:
    """Return the newest sweep that told the limits; None without one."""
    for row in SWEEP.rows(job).reverse():
        saved = SWEEP.read(row.data)
        if saved.result.told:
            return saved.result
    return None


def facts_of(job: Job) -> IdleFacts:
    """Return the newest of everything that was read of the warm idle."""
    now = _stands(job)
    stale: set[str] = set()

    def read(kind: Kind[T], key: str) -> T | None:
        found = kind.value(job)
        if found is None:
            return None
        if _fell(found[0].stands, now, turned=key != "stop"):  # type: ignore[attr-defined]
            stale.add(key)
        return found[0]

    stop, closing = read(STOP, "stop"), read(RETURN, "return")
    sweep, hunting, air = read(SWEEP, "sweep"), read(HUNTING, "hunting"), read(AIR, "air")
    loads = []
    for row in LOAD.newest_of_each(job):
        saved = LOAD.read(row.data)
        loads.append(saved.result)
        if _fell(saved.stands, now, turned=True):
            stale.add(f"load-{row.key}")
    return IdleFacts(
        None if stop is None else stop_advice(job, stop.readings),
        None if closing is None else closing.result,
        None if sweep is None else sweep.result,
        None if air is None else air.result,
        None if hunting is None else hunting.result,
        tuple(loads),
        frozenset(stale),
    )


def habits_of(job: Job, response: StepResponse | None) -> tuple[Habit, ...]:
    """Return how the idle is set beside what was measured: mixture, loop, follower and fan."""
    outputs, _ = outputs_of(job)
    return habits(response, outputs.fan_on_c, outputs.fan_off_c)


def verdict_on(job: Job, facts: IdleFacts) -> WarmIdle:
    """Return whether the warm idle of a job is true by what was read of it."""
    return warm_idle(facts, has_valve=has_valve(job))


def newest_evidence(job: Job) -> int:
    """Return the newest thing that was read of the warm idle; 0 where nothing was."""
    names = [kind.name for kind in (STOP, RETURN, SWEEP, HUNTING, AIR, LOAD)]
    return Entry.objects.filter(job=job, kind__in=names).aggregate(n=Max("pk"))["n"] or 0


def was_begun(job: Job) -> bool:
    """Return whether anything was read of the warm idle."""
    return newest_evidence(job) > 0


# --- reading --------------------------------------------------------------------------------


def _between(job: Job, log_id: int, start_s: float | None, end_s: float | None) -> Trace:
    log = log_of(job, log_id)
    if start_s is None and end_s is None:
        return read_trace(log)
    return read_between(log, start_s or 0.0, log.duration_s if end_s is None else end_s)


def stop_advice(job: Job, readings: Sequence[StopReading]) -> StopAdvice:
    """Return what readings of the warm valve say of the stop, with the limits that a sweep told.

    Raises
    ------
    InputRefused
        If a reading cannot be, or there are too many.
    """
    if len(readings) > _MOST_READINGS:
        raise field_refused("readings", f"At most {_MOST_READINGS} readings.")
    sweep = newest_sweep(job)
    if sweep is None:
        return judge_stop(readings)
    return judge_stop(
        readings,
        minimum_pct=sweep.minimum_pct,
        maximum_pct=sweep.maximum_pct,
        inverted=bool(sweep.inverted),
    )


@writing()
def save_stop(job: Job, user: User, readings: Sequence[StopReading]) -> StopAdvice:
    """Write readings at the stop down, and return what they say.

    Raises
    ------
    InputRefused
        As :func:`stop_advice`.
    """
    advice = stop_advice(job, readings)
    STOP.add(job, user, StopSaved(tuple(readings), _stands(job, readings=readings)))
    return advice


def closings_in(job: Job, log_id: int) -> tuple[Closing, ...]:
    """Return the closings of the throttle in a log.

    Raises
    ------
    Refusal
        422 if there are none.
    """
    found = closings_of(read_trace(log_of(job, log_id)).channels)
    if not found:
        raise Refusal(
            422, "No closing found",
            "The throttle is nowhere opened, let go and left shut for three seconds in this log.",
        )  # fmt: skip
    return found


@writing()
def save_return(
    job: Job, user: User, closings: Sequence[Closing], log_id: int | None
) -> ReturnTest:
    """Write a return test down, and return what it says.

    Raises
    ------
    InputRefused
        If a figure cannot be, or there are too many.
    """
    if len(closings) > _MOST_READINGS:
        raise field_refused("closings", f"At most {_MOST_READINGS} closings.")
    result = judge_return(closings)
    RETURN.add(job, user, ReturnSaved(tuple(closings), result, _stands(job, log_id)))
    return result


def save_sweep(
    job: Job, user: User, log_id: int, start_s: float | None, end_s: float | None
) -> Entry:
    """Read a sweep and write it down.

    Raises
    ------
    LogRefused
        If speed or valve is missing.
    """
    channels = _between(job, log_id, start_s, end_s).channels
    result = fit_sweep(channels)
    followed = step_response(channels) if result.told else None
    saved = SweepSaved(result, start_s, end_s, _stands(job, log_id), followed)
    with writing():
        return SWEEP.add(job, user, saved)


def save_hunting(
    job: Job, user: User, log_id: int, start_s: float | None, end_s: float | None
) -> Hunting:
    """Read whether an idle hunts, write it down, and return it.

    Raises
    ------
    LogRefused
        If there is no idle long enough.
    """
    sweep = newest_sweep(job)
    gain = None if sweep is None else sweep.gain_rpm_per_pct
    result = judge_hunting(_between(job, log_id, start_s, end_s).channels, valve_gain=gain)
    with writing():
        HUNTING.add(job, user, HuntingSaved(result, _stands(job, log_id)))
    return result


def save_air(job: Job, user: User, typed: IdleReading, log_id: int | None) -> IdleAir:
    """Say where the idle air comes from, typed before logged, and write it down.

    Raises
    ------
    InputRefused
        If speed or pressure is missing, or a figure cannot be.
    LogRefused
        If the log does not idle.
    """
    reading = typed
    if log_id is not None:
        reading = typed.or_else(idle_reading(read_trace(log_of(job, log_id)).channels))
    result = idle_air_of(spec_of(job), calibration_of(revision_of(job)), reading)
    with writing():
        AIR.add(job, user, AirSaved(result, _stands(job, log_id)))
    return result


def save_load_of_log(
    job: Job, user: User, load: LoadKind, log_id: int, at_s: float | None
) -> LoadResult:
    """Judge a load in a log, at a time or where speed shows it, and write it down. [s]

    Raises
    ------
    LogRefused
        If the log does not hold the seconds about it.
    """
    channels = read_channels(log_of(job, log_id), ("time_s", "rpm")).channels
    return _save_load(job, user, load_in_log(load, channels, at_s), log_id)


def save_load(
    job: Job, user: User, load: LoadKind, idle_rpm: float, lowest_rpm: float, recovers_s: float | None
) -> LoadResult:  # fmt: skip
    """Judge a load by readings, and write it down.

    Raises
    ------
    InputRefused
        If speeds cannot be.
    """
    return _save_load(job, user, judge_load(load, idle_rpm, lowest_rpm, recovers_s), None)


@writing()
def _save_load(job: Job, user: User, result: LoadResult, log_id: int | None) -> LoadResult:
    LOAD.add(job, user, LoadSaved(result, _stands(job, log_id)), result.load)
    return result


# --- into the tables ------------------------------------------------------------------------


def _take(job: Job, user: User, table: Table, note: str, based_on: Revision) -> Revision | None:
    """Write one table as the next revision; None where nothing changes."""
    changed = calibration_of(based_on).with_table(table)
    return revise(job, user, changed, origin="edit", note=note, based_on=based_on.number)


@writing()
def take_limits(job: Job, user: User, number: int, *, rescale: bool) -> Revision | None:
    """Take the limits of a sweep into the idle tables as one revision; None where nothing changes.

    Raises
    ------
    Refusal
        404 without such a sweep, 409 if it told no limits.
    """
    row = SWEEP.rows(job).filter(number=number).first()
    if row is None:
        raise Refusal(404, "Not found", "There is no such sweep.")
    sweep = SWEEP.read(row.data).result
    if not sweep.tells_limits:
        raise Refusal(409, "Nothing to take", "This sweep told no limits.")
    newest, source = revision_of(job), f"sweep {number}"
    table = calibration_of(newest)["idle_valve"]
    changed = within_limits(table, sweep, source, rescale=rescale)
    return _take(job, user, changed, f"Idle valve within its real limits ({source})", newest)


@writing()
def take_spark(job: Job, user: User, lopey: float) -> Revision | None:
    """Write the idle spark correction of a choice as one revision; None where nothing changes.

    Raises
    ------
    InputRefused
        If the choice is none.
    """
    table = spark_table(spec_of(job), lopey)
    return _take(job, user, table, "Idle spark correction", revision_of(job))


@writing()
def take_air_step(job: Job, user: User, at_c: float | None, step: AirStepKey) -> Revision | None:
    """Move the idle air by one step of the trade as one revision; None where nothing changes.

    Raises
    ------
    InputRefused
        If there is no such step.
    """
    newest = revision_of(job)
    table = after_air_step(calibration_of(newest)["idle_valve"], step, at_c)
    return _take(job, user, table, AIR_STEPS[step][1], newest)

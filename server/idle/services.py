"""What can be done at station 8: stop, return, sweep, air, hunting, loads, and what follows into tables."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TypeVar

import numpy as np
from django.contrib.auth.models import User
from django.db.models import Max
from inbetrieb_core.charge.charge_temperature import idle_charge_c
from inbetrieb_core.errors import LogRefused, field_refused
from inbetrieb_core.estimate import basis_of
from inbetrieb_core.idle import (
    Closing,
    Hunting,
    IdleAir,
    IdleFacts,
    LoadResult,
    ReturnTest,
    StopAdvice,
    StopReading,
    Sweep,
    WarmIdle,
    air_step,
    closings_of,
    fit_sweep,
    idle_spark,
    judge_hunting,
    judge_idle_air,
    judge_return,
    judge_stop,
    speed_density_gps,
    warm_idle,
)
from inbetrieb_core.idle.settings import Outcome
from inbetrieb_core.logs import Trace
from inbetrieb_core.provenance import Provenance
from inbetrieb_core.tables import Axis, Table

from server.calibration.models import Revision
from server.calibration.services import calibration_of, revise, revision_of
from server.config.problems import Refusal
from server.config.writes import writing
from server.entries.kinds import Kind
from server.entries.models import Entry
from server.jobs.engine_data import spec_of
from server.jobs.models import Job
from server.logbook.models import Log
from server.logbook.samples import read_between, read_trace
from server.logbook.services import log_of
from server.wiring.services import saved_plan

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


def _turned(job: Job) -> float:
    saved = STOP.value(job)
    return 0.0 if saved is None else round(sum(r.turned for r in saved[0].readings), 3)


def _stands(job: Job, log_id: int | None = None) -> StandsOn:
    return StandsOn(basis_of(spec_of(job)), _turned(job), log_id)


def _fell(then: StandsOn, now: StandsOn, *, turned: bool) -> bool:
    """Return whether what a reading stands on was changed since."""
    return then.basis != now.basis or (turned and abs(then.turned - now.turned) > 1e-6)


def has_valve(job: Job) -> bool:
    """Return whether an idle valve is planned; one is, where nothing was planned."""
    plan = saved_plan(job)
    return plan is None or plan.entry.fitting.idle_valve != "none"


def newest_sweep(job: Job) -> tuple[Sweep, int] | None:
    """Return the newest sweep that told the limits, and its number; None without one."""
    for row in SWEEP.rows(job).reverse():
        saved = SWEEP.read(row.data)
        if saved.result.told:
            return saved.result, row.number
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


def verdict_of(job: Job) -> WarmIdle:
    """Return whether the warm idle of a job is true."""
    return warm_idle(facts_of(job), has_valve=has_valve(job))


def newest_evidence(job: Job) -> int:
    """Return the newest thing that was read of the warm idle; 0 where nothing was."""
    names = [kind.name for kind in (STOP, RETURN, SWEEP, HUNTING, AIR, LOAD)]
    return Entry.objects.filter(job=job, kind__in=names).aggregate(n=Max("pk"))["n"] or 0


def was_begun(job: Job) -> bool:
    """Return whether anything was read of the warm idle."""
    return newest_evidence(job) > 0


# --- reading --------------------------------------------------------------------------------


def _trace(log: Log, start_s: float | None = None, end_s: float | None = None) -> Trace:
    if start_s is None and end_s is None:
        return read_trace(log)
    return read_between(
        log, start_s if start_s is not None else 0.0, end_s if end_s is not None else 1e9
    )


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
    found = sweep[0]
    return judge_stop(
        readings,
        minimum_pct=found.minimum_pct,
        maximum_pct=found.maximum_pct,
        inverted=bool(found.inverted),
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
    turned = round(sum(r.turned for r in readings), 3)
    stands = StandsOn(basis_of(spec_of(job)), turned)
    STOP.add(job, user, StopSaved(tuple(readings), stands))
    return advice


def closings_in(job: Job, log_id: int) -> tuple[Closing, ...]:
    """Return the closings of the throttle in a log.

    Raises
    ------
    Refusal
        422 if there are none.
    """
    found = closings_of(_trace(log_of(job, log_id)).channels)
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


def read_sweep(job: Job, log_id: int, start_s: float | None, end_s: float | None) -> Sweep:
    """Return what the sweep in a log says.

    Raises
    ------
    LogRefused
        If speed or valve is missing.
    """
    return fit_sweep(_trace(log_of(job, log_id), start_s, end_s).channels)


def save_sweep(
    job: Job, user: User, log_id: int, start_s: float | None, end_s: float | None
) -> tuple[Sweep, int]:
    """Read a sweep, write it down, and return it with its number."""
    result = read_sweep(job, log_id, start_s, end_s)
    with writing():
        row = SWEEP.add(job, user, SweepSaved(result, start_s, end_s, _stands(job, log_id)))
    return result, row.number


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
    gain = None if sweep is None else sweep[0].gain_rpm_per_pct
    result = judge_hunting(_trace(log_of(job, log_id), start_s, end_s).channels, valve_gain=gain)
    with writing():
        HUNTING.add(job, user, HuntingSaved(result, _stands(job, log_id)))
    return result


def breathed_gps(job: Job, rpm: float, map_kpa: float, intake_c: float, coolant_c: float) -> float:
    """Return the idle air by speed-density, with the fuel map in force. [g/s]

    Parameters
    ----------
    job : Job
    rpm, map_kpa, intake_c, coolant_c : float
        Warm idle. [1/min, kPa, °C, °C]

    Raises
    ------
    InputRefused
        If a figure cannot be.
    """
    if not (200.0 <= rpm <= 4000.0 and 10.0 <= map_kpa <= 120.0):
        raise field_refused("map_kpa", "Idle lies between 200 and 4000 rpm, and 10 and 120 kPa.")
    if not (-50.0 <= intake_c <= 120.0 and -50.0 <= coolant_c <= 140.0):
        raise field_refused("intake_c", "Temperatures lie between −50 and 140 °C.")
    spec, table = spec_of(job), calibration_of(revision_of(job))["ve"]
    filling = table.at_load(rpm, map_kpa, 0.0)
    if table.by_throttle:
        filling *= spec.barometric_kpa / map_kpa  # held against a full charge there
    return speed_density_gps(spec, float(filling), rpm, map_kpa, idle_charge_c(intake_c, coolant_c))


@writing()
def save_air(
    job: Job, user: User, breathed: float, *, meter_gps: float | None, valve_gps: float | None,
    stop_gps: float | None, log_id: int | None,
) -> IdleAir:  # fmt: skip
    """Write down where the idle air comes from, and return it."""
    result = judge_idle_air(breathed, meter_gps=meter_gps, valve_gps=valve_gps, stop_gps=stop_gps)
    AIR.add(job, user, AirSaved(result, _stands(job, log_id)))
    return result


@writing()
def save_load(job: Job, user: User, result: LoadResult, log_id: int | None) -> LoadResult:
    """Write down what a load did."""
    LOAD.add(job, user, LoadSaved(result, _stands(job, log_id)), result.load)
    return result


def idle_in(job: Job, log_id: int) -> dict[str, float]:
    """Return the middle of the warm idle in a log, for what is typed otherwise.

    Raises
    ------
    LogRefused
        If there is no steady idle with speed and pressure.
    """
    channels = _trace(log_of(job, log_id)).channels
    rpm, kpa = channels.get("rpm"), channels.get("map_kpa")
    if rpm is None or kpa is None:
        raise LogRefused("Idle air needs speed and manifold pressure in the log.")
    idles = (rpm > 400.0) & (rpm < 1800.0) & np.isfinite(kpa)
    throttle = channels.get("throttle_pct")
    if throttle is not None and np.isfinite(throttle).any():
        idles &= throttle < float(np.nanquantile(throttle, 0.05)) + 2.0
    if idles.sum() < 20:
        raise LogRefused("There is no idle in this log.")
    wanted = {"rpm": rpm, "map_kpa": kpa}
    for name in ("intake_c", "coolant_c", "flow_gps", "idle_valve_pct"):
        if name in channels and np.isfinite(channels[name][idles]).any():
            wanted[name] = channels[name]
    return {name: float(np.nanmedian(values[idles])) for name, values in wanted.items()}


# --- into the tables ------------------------------------------------------------------------


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
    if not sweep.told or (sweep.minimum_pct is None and sweep.maximum_pct is None):
        raise Refusal(409, "Nothing to take", "This sweep told no limits.")
    low = 0.0 if sweep.minimum_pct is None else sweep.minimum_pct
    high = 100.0 if sweep.maximum_pct is None else sweep.maximum_pct
    newest = revision_of(job)
    calibration = calibration_of(newest)
    table = calibration["idle_valve"]
    values = table.values
    if rescale:
        # Generated openings are shares of a valve that works over its whole range.
        values = (
            (high - values / 100.0 * (high - low))
            if sweep.inverted
            else low + values / 100.0 * (high - low)
        )
    values = np.clip(values, low, high).round(1)
    mark = Provenance(
        "measured", f"Within {low:.1f} to {high:.1f} %, the valve's real limits by sweep {number}."
    )
    changed = _replaced(table, values, mark)
    return revise(
        job, user, calibration.with_table(changed), origin="edit",
        note=f"Idle valve within its real limits (sweep {number})", based_on=newest.number,
    )  # fmt: skip


def _replaced(table: Table, values: np.ndarray, mark: Provenance) -> Table:
    marks = np.array(table.provenance, dtype=object, copy=True)
    for index in np.ndindex(table.values.shape):
        if abs(float(values[index]) - float(table.values[index])) > 1e-9:
            marks[index] = mark
    return Table(table.key, table.axes, values, marks)


@writing()
def take_spark(job: Job, user: User, lopey: float) -> Revision | None:
    """Write the idle spark correction of a choice as one revision; None where nothing changes.

    Raises
    ------
    InputRefused
        If the choice is none.
    """
    spark = idle_spark(spec_of(job), lopey)
    newest = revision_of(job)
    calibration = calibration_of(newest)
    axis = Axis("speed_error_rpm", "rpm", spark.errors_rpm)
    mark = Provenance(
        "assumed", f"Idle between clean (0) and lopey (1): {lopey:g}. Common practice."
    )
    marks = np.empty(len(spark.errors_rpm), dtype=object)
    marks[:] = mark
    table = Table("idle_spark_correction", (axis,), np.array(spark.correction_deg), marks)
    return revise(
        job, user, calibration.with_table(table), origin="edit",
        note="Idle spark correction", based_on=newest.number,
    )  # fmt: skip


@writing()
def take_air_step(job: Job, user: User, at_c: float, outcome: Outcome | str) -> Revision | None:
    """Move the idle air by one step of the trade as one revision; None where nothing changes.

    Raises
    ------
    InputRefused
        If the outcome is none that is known.
    """
    newest = revision_of(job)
    calibration = calibration_of(newest)
    table = calibration["idle_valve"]
    step = air_step(np.array(table.axes[0].points), at_c, outcome)  # type: ignore[arg-type]
    values = (table.values * np.array(step.factors)).clip(
        table.definition.lower, table.definition.upper
    )
    mark = Provenance("calculated", step.sentence)
    return revise(
        job, user, calibration.with_table(_replaced(table, values.round(1), mark)), origin="edit",
        note=step.sentence, based_on=newest.number,
    )  # fmt: skip

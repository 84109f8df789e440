"""What can be done at station 5: the wheel, the timing light, dwell, and output tests."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from django.contrib.auth.models import User
from inbetrieb_core.basemaps import fitted_dwell
from inbetrieb_core.commissioning import (
    OutputFact,
    TestedOutput,
    judge_output_test,
    outputs_to_test,
)
from inbetrieb_core.errors import field_refused
from inbetrieb_core.tables import Axis
from inbetrieb_core.triggers import (
    DwellEntry,
    DwellSheet,
    LightReading,
    TimingFit,
    TriggerEntry,
    fit_timing,
    usual_trigger,
)
from inbetrieb_core.wiring import sparks_per_turn

from server.calibration.services import calibration_of, revise, revision_of
from server.config.problems import Refusal
from server.config.writes import writing
from server.entries.models import Entry
from server.jobs.engine_data import spec_of
from server.jobs.models import Job
from server.wiring.services import change_sensors, fitting_of

from .kinds import COIL, TIMING, TRIGGER, LightSaved
from .models import OutputTest

_MOST_READINGS = 100


# --- the wheel ------------------------------------------------------------------------------


def trigger_of(job: Job) -> tuple[TriggerEntry, int]:
    """Return the trigger of a job and its version; 0 where a usual one is proposed."""
    fitting = fitting_of(job)
    kinds: dict[str, Any] = {"crank_kind": fitting.crank_sensor, "cam_kind": fitting.cam_sensor}
    found = TRIGGER.value(job)
    if found is None:
        usual = usual_trigger(spec_of(job))
        pattern = usual.pattern if fitting.cam_sensor != "none" else "36−1"
        return replace(usual, pattern=pattern, **kinds), 0
    # The plan of the wiring says what is fitted: one fact, whichever sheet it was entered on.
    entry, number = found
    return replace(entry, **kinds), number


@writing()
def save_trigger(job: Job, user: User, entry: TriggerEntry) -> int:
    """Write a trigger down as the next version and return its number; a plan of the wiring takes its sensors.

    Raises
    ------
    InputRefused
        If the wheel is none, or a figure cannot be.
    """
    entry.check(spec_of(job))
    change_sensors(job, user, entry.crank_kind, entry.cam_kind)
    return TRIGGER.add(job, user, entry).number


def wheel_facts(plain: dict[str, object]) -> dict[str, object]:
    """Return what of a trigger a capture depends on: all but offset, order and notes."""
    apart = ("offset_deg", "raising_advances", "firing_order", "note", "filter_us")
    return {key: value for key, value in plain.items() if key not in apart}


# --- the timing light -----------------------------------------------------------------------


@dataclass(frozen=True)
class LightSession:
    """Readings of one time the light was used, and what they say."""

    row: Entry
    readings: tuple[LightReading, ...]
    offset_deg: float
    raising_advances: bool
    fit: TimingFit


def sessions_of(job: Job) -> list[LightSession]:
    """Return the timing-light sessions of a job, newest first."""
    return [_session(row) for row in TIMING.history(job)]


def newest_session(job: Job) -> LightSession | None:
    """Return the newest timing-light session of a job."""
    row = TIMING.newest(job)
    return None if row is None else _session(row)


def _session(row: Entry) -> LightSession:
    saved = TIMING.read(row.data)
    offset, raising = saved.offset_deg, saved.raising_advances
    fit = fit_timing(saved.readings, offset, raising_advances=raising)
    return LightSession(row, saved.readings, offset, raising, fit)


def fit_of(job: Job, readings: Sequence[LightReading], raising_advances: bool | None) -> TimingFit:
    """Return what readings say with the offset in force.

    Raises
    ------
    InputRefused
        If there is none, there are too many, or one cannot be.
    """
    if len(readings) > _MOST_READINGS:
        raise field_refused("readings", f"At most {_MOST_READINGS} readings.")
    trigger, _ = trigger_of(job)
    raising = trigger.raising_advances if raising_advances is None else raising_advances
    return fit_timing(readings, trigger.offset_deg, raising_advances=raising)


@writing()
def save_session(
    job: Job, user: User, readings: Sequence[LightReading], raising_advances: bool | None
) -> LightSession:
    """Write one use of the timing light down.

    Raises
    ------
    InputRefused
        As :func:`fit_of`.
    """
    fit_of(job, readings, raising_advances)
    trigger, _ = trigger_of(job)
    raising = trigger.raising_advances if raising_advances is None else raising_advances
    saved = LightSaved(tuple(readings), trigger.offset_deg, raising)
    return _session(TIMING.add(job, user, saved))


@writing()
def take_offset(job: Job, user: User, number: int) -> int:
    """Put the offset of the newest session in force and return the trigger's new version.

    Raises
    ------
    Refusal
        409 if the session is not the newest, or its offset was taken before.
    """
    session = newest_session(job)
    if session is None or session.row.number != number:
        raise Refusal(409, "Not the newest", "That is not the newest reading of the timing light.")
    trigger, _ = trigger_of(job)
    if abs(trigger.offset_deg - session.offset_deg) > 1e-9:
        raise Refusal(
            409, "Taken already", "The offset was changed after these readings: repeat them first."
        )
    return save_trigger(
        job, user, replace(
            trigger, offset_deg=round(session.fit.new_offset_deg, 1),
            raising_advances=session.raising_advances,
        )
    )  # fmt: skip


# --- dwell ----------------------------------------------------------------------------------


def dwell_of(job: Job) -> tuple[DwellEntry | None, int]:
    """Return the coil of a job and its version; None where none is entered."""
    return COIL.value(job) or (None, 0)


def dwell_axis(job: Job) -> Axis:
    """Return the voltage axis of the job's dwell table."""
    return calibration_of(revision_of(job))["dwell"].axes[0]


def dwell_sheet_of(job: Job, entry: DwellEntry) -> DwellSheet:
    """Return the dwell of a coil on the job's axis, and what limits it."""
    spec = spec_of(job)
    sparks = sparks_per_turn(spec, fitting_of(job))
    return entry.sheet(dwell_axis(job).points, spec.rev_limit_rpm, sparks)


@writing()
def save_dwell(job: Job, user: User, entry: DwellEntry) -> int | None:
    """Write a coil down and put its dwell in the table; return the new revision's number, if any.

    Raises
    ------
    InputRefused
        If the coil cannot be.
    """
    sheet = dwell_sheet_of(job, entry)
    COIL.add(job, user, entry)
    calibration = calibration_of(revision_of(job)).with_table(
        fitted_dwell(entry, sheet, dwell_axis(job))
    )
    revision = revise(job, user, calibration, origin="dwell", note=f"Dwell: {entry.name.strip()}.")
    return None if revision is None else revision.number


# --- output tests ---------------------------------------------------------------------------


def outputs_of(job: Job) -> tuple[TestedOutput, ...]:
    """Return the coils and injectors of a job that must answer."""
    return outputs_to_test(spec_of(job), fitting_of(job))


def newest_tests(job: Job) -> dict[str, OutputTest]:
    """Return the newest test of every output."""
    rows = OutputTest.objects.filter(job=job).select_related("created_by").order_by("pk")
    return {row.output: row for row in rows}


def output_facts(job: Job) -> list[OutputFact]:
    """Return the outputs as the gate sees them."""
    tests = newest_tests(job)
    return [
        OutputFact(output.title, tests[output.key].passed if output.key in tests else None)
        for output in outputs_of(job)
    ]


@writing()
def add_output_test(
    job: Job,
    user: User,
    *,
    output: str,
    heard: str,
    dip_v: float | None,
    made_safe: bool,
    note: str,
) -> OutputTest:
    """Write down that an output was commanded.

    Raises
    ------
    InputRefused
        If there is no such output, or nothing was made safe first.
    """
    tested = next((entry for entry in outputs_of(job) if entry.key == output), None)
    if tested is None:
        raise field_refused("output", f"There is no output '{output[:40]}' to be tried.")
    if not made_safe:
        raise field_refused(
            "made_safe", "First make ignition and fuel safe; then confirm that it is done."
        )
    result = judge_output_test(tested, heard, dip_v)  # type: ignore[arg-type]
    return OutputTest.objects.create(
        job=job, output=output, heard=heard, dip_v=dip_v, passed=result.passed,
        sentence=result.sentence, note=note.strip()[:500], created_by=user,
    )  # fmt: skip

"""What can be done at station 7: set the sheet up, tick, read, skip with a reason, and say what it did."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from datetime import datetime

from django.contrib.auth.models import User
from inbetrieb_core.errors import field_refused
from inbetrieb_core.runsheet import (
    GATE_RISKS,
    Outcome,
    RunIn,
    Setup,
    Step,
    contradiction,
    judge_reading,
    outcome_of,
    run_in_of,
    steps_of,
    told_of,
)
from inbetrieb_core.starts import Observation

from server.config.problems import Refusal
from server.config.writes import writing
from server.entries.reasons import worth_reading
from server.jobs.engine_data import spec_of
from server.jobs.models import Job
from server.logbook.samples import read_channels
from server.logbook.services import log_of
from server.order.gates import gates_of
from server.trials import judging
from server.trials.told import Told

from .kinds import DONE, SETUP, ReadingTaken, StepDone


@dataclass(frozen=True)
class SheetStep:
    """A step with what became of it."""

    step: Step
    done: StepDone | None
    by: str
    at: datetime | None

    @property
    def is_closed(self) -> bool:
        """Whether the sheet may go on behind it."""
        return self.done is not None and not self.done.stopped


@dataclass(frozen=True)
class OpenGate:
    """A gate that is not open, and what that risks."""

    key: str
    sentence: str
    risk: str


def setup_of(job: Job) -> Setup:
    """Return how the sheet was set up; as for a fresh engine where nobody said."""
    found = SETUP.value(job)
    return Setup() if found is None else found[0]


@writing()
def save_setup(job: Job, user: User, setup: Setup) -> None:
    """Write down how the engine stands there."""
    SETUP.add(job, user, setup)


def sheet_of(job: Job) -> list[SheetStep]:
    """Return the steps of a job in order, each with what became of it."""
    rows = {row.key: row for row in DONE.newest_of_each(job)}
    found = []
    for step in steps_of(spec_of(job), setup_of(job)):
        row = rows.get(step.key)
        done = None if row is None else DONE.read(row.data)
        found.append(
            SheetStep(
                step,
                done,
                "" if row is None else row.created_by.username,
                None if row is None else row.created_at,
            )
        )
    return found


def open_gates(job: Job) -> list[OpenGate]:
    """Return the gates that are not open before the first start, with what each risks."""
    return [
        OpenGate(gate.key, gate.sentence, GATE_RISKS.get(gate.key, ""))
        for gate in gates_of(job)
        if not gate.is_open
    ]


def _step(job: Job, key: str) -> Step:
    step = next((s for s in steps_of(spec_of(job), setup_of(job)) if s.key == key), None)
    if step is None:
        raise Refusal(404, "Not found", "There is no such step on this sheet.")
    return step


def _readings(step: Step, values: Sequence[ReadingTaken]) -> tuple[str, ...]:
    """Return what says stop.

    Raises
    ------
    InputRefused
        If a reading is missing, or nobody can have read it.
    """
    by_key = {v.key: v.value for v in values}
    known = {reading.key for reading in step.readings}
    for key in by_key:
        if key not in known:
            raise field_refused(f"values.{key[:40]}", "This step does not ask for that.")
    stops = []
    for reading in step.readings:
        if reading.key not in by_key:
            raise field_refused(f"values.{reading.key}", f"{reading.title} is still to be read.")
        judged = judge_reading(reading, by_key[reading.key])
        if judged.level == "stop":
            stops.append(judged.sentence)
    return tuple(stops)


def do_step(
    job: Job, user: User, key: str, *, values: Sequence[ReadingTaken], choice: str, coolant_c: float | None, seconds: float, log_id: int | None = None
) -> StepDone:  # fmt: skip
    """Write a step down as done, its readings judged; a stop is written down, too, and holds the sheet.

    Raises
    ------
    Refusal
        404 without such a step.
    InputRefused
        If a reading is missing or impossible.
    """
    step = _step(job, key)
    told = told_of(key, {v.key: v.value for v in values}, wanted_kpa=spec_of(job).rail_pressure_kpa)
    done = StepDone(
        tuple(values),
        stopped=_readings(step, values),
        seconds=max(0.0, min(seconds, 36_000.0)),
        told=told,
    )
    if step.choice:
        outcome = outcome_of(choice)
        trial, told = _trial(job, user, outcome, coolant_c, log_id)
        done = replace(done, choice=outcome.key, trial=trial, log_id=log_id, told=told)
        if outcome.key != "runs":
            done = replace(done, stopped=(outcome.next,))
    with writing():
        DONE.add(job, user, done, key)
    return done


def _trial(
    job: Job, user: User, outcome: Outcome, coolant_c: float | None, log_id: int | None
) -> tuple[int | None, tuple[str, ...]]:
    """Record what the engine did as a trial, and say where its log says otherwise.

    None where neither a log is there nor its temperature was read.
    """
    if log_id is not None:
        log = log_of(job, log_id)
        revision = log.about.get("revision")
        trial = judging.add_trial(
            job, user, log=log, observation=None, told=Told(revision=revision)
        )
        return trial.number, contradiction(outcome, trial.verdict)
    if coolant_c is None:
        return None, ()
    if not -40.0 <= coolant_c <= 130.0:
        raise field_refused("coolant_c", "Coolant lies between −40 and 130 °C.")
    seen = Observation(outcome.verdict, coolant_c)  # type: ignore[arg-type]
    return judging.add_trial(job, user, log=None, observation=seen, told=Told()).number, ()


@writing()
def skip_step(job: Job, user: User, key: str, reason: str) -> StepDone:
    """Write down that a step is skipped, and why.

    Raises
    ------
    InputRefused
        If a serious step is skipped without a reason worth reading.
    """
    step = _step(job, key)
    kept = (
        worth_reading(reason, "Say why this step is skipped")
        if step.serious
        else reason.strip()[:2000] or "Skipped."
    )
    done = StepDone(skipped=kept)
    DONE.add(job, user, done, key)
    return done


def run_in(job: Job, log_id: int, before_s: float) -> RunIn:
    """Return how much of a run-in a log holds."""
    trace = read_channels(log_of(job, log_id), ("time_s", "rpm"))
    if "rpm" not in trace.channels:
        raise Refusal(
            422, "Log refused", "The run-in is counted from the speed: it is missing in this log."
        )
    return run_in_of(trace.channels["time_s"], trace.channels["rpm"], before_s=before_s)

"""What can be done to the wiring of a job: plan, check at the bench, sign off."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from dataclasses import asdict, dataclass, replace
from typing import Any

from django.contrib.auth.models import User
from inbetrieb_core.charge.fading import STRAIGHT, StartFading
from inbetrieb_core.errors import field_refused
from inbetrieb_core.sentences import plain
from inbetrieb_core.wiring import (
    BRANCH_TITLES,
    CamSensorKind,
    ControllerProfile,
    Fitting,
    LineChange,
    OutputSettings,
    PlanEntry,
    SensorKind,
    WireReading,
    WiringLine,
    WiringPlan,
    changes_between,
    identify_three_wires,
    judge_check,
    plan_wiring,
    smallest_that_fits,
    usual_fitting,
    usual_settings,
    with_sensors,
)
from pydantic import TypeAdapter

from server.config.problems import Refusal
from server.config.writes import writing
from server.entries.models import Entry
from server.hardware.kinds import sensor_rows, sensors_of
from server.hardware.supply import injectors_of
from server.jobs.engine_data import spec_of
from server.jobs.models import Job

from . import controllers
from .kinds import OUTPUTS, PLAN, THREE_WIRE, PlanSaved, ThreeWiresSaved
from .models import WireCheck, WiringSignOff

_LINES = TypeAdapter(tuple[WiringLine, ...])


@dataclass(frozen=True)
class SavedPlan:
    """A plan as it was saved.

    Attributes
    ----------
    number : int
        Version; 0 where there is none yet and everything is proposed.
    controller : str
        Key from which the profile came.
    """

    number: int
    controller: str
    profile: ControllerProfile
    entry: PlanEntry


def saved_plan(job: Job) -> SavedPlan | None:
    """Return the newest plan of a job; None if there is none."""
    found = PLAN.value(job)
    if found is None:
        return None
    saved, number = found
    return SavedPlan(number, saved.controller, saved.profile, saved.entry)


def profile_of(job: Job) -> ControllerProfile | None:
    """Return the controller chosen for a job; None where none is."""
    plan = saved_plan(job)
    return None if plan is None else plan.profile


def fading_of(job: Job) -> StartFading:
    """Return how the controller of a job runs its start fuel down; in a straight line where none is chosen."""
    profile = profile_of(job)
    return STRAIGHT if profile is None else profile.fading


def proposed_plan(job: Job) -> SavedPlan:
    """Return a plan to begin from: what such an engine usually has, on the smallest controller that fits."""
    spec = spec_of(job)
    sensors = [row.key for row in sensor_rows(job)]
    ohm = injectors_of(job)[0].resistance_ohm
    fitting = replace(_proposed_fitting(job, sensors), injector_ohm=ohm)
    profiles = controllers.shipped()
    key = smallest_that_fits(spec, fitting, profiles)
    return SavedPlan(0, key, profiles[key], PlanEntry(fitting))


def computed(job: Job, profile: ControllerProfile, entry: PlanEntry) -> WiringPlan:
    """Return what follows from a plan."""
    return plan_wiring(spec_of(job), profile, entry, sensors_of(job), firing_order_of(job))


def firing_order_of(job: Job) -> tuple[int, ...]:
    """Return the firing order as entered with the trigger; empty where it is not."""
    return tuple(int(cylinder) for cylinder in _trigger_of(job).get("firing_order", ()))


def fitting_of(job: Job) -> Fitting:
    """Return what is fitted: as planned, or as it is proposed."""
    plan = saved_plan(job)
    return _proposed_fitting(job) if plan is None else plan.entry.fitting


def _proposed_fitting(job: Job, sensors: Sequence[str] = ()) -> Fitting:
    """Return what such an engine usually has, with the sensors of crank and cam that the trigger was entered with."""
    spec, entered = spec_of(job), _trigger_of(job)
    fitting = usual_fitting(spec, sensors)
    crank = entered.get("crank_kind", fitting.crank_sensor)
    return with_sensors(fitting, spec, crank, entered.get("cam_kind", fitting.cam_sensor))


def _trigger_of(job: Job) -> dict[str, Any]:
    """Return the trigger as entered; empty where it is not."""
    entered = Entry.objects.filter(job=job, kind="trigger").order_by("-number").first()
    return {} if entered is None else dict(entered.data)


@writing()
def change_sensors(job: Job, user: User, crank: SensorKind, cam: CamSensorKind) -> None:
    """Carry the kinds of crank and cam sensor into the plan, where one is saved and says otherwise.

    Raises
    ------
    InputRefused
        If the plan cannot be with them.
    """
    plan = saved_plan(job)
    if plan is None:
        return
    fitting = replace(plan.entry.fitting, crank_sensor=crank, cam_sensor=cam)
    if fitting != plan.entry.fitting:
        save_plan(job, user, "saved", replace(plan.entry, fitting=fitting))


def chosen_controller(job: Job, user: User, key: str) -> tuple[str, ControllerProfile]:
    """Return the key and profile of a controller: "saved" is the plan's copy, its own key takes it as it is now.

    Raises
    ------
    InputRefused
        If it is not known.
    """
    before = saved_plan(job)
    if before is not None and key == "saved":
        return before.controller, before.profile
    return key, controllers.profile_of(user, key)


@writing()
def save_plan(job: Job, user: User, key: str, entry: PlanEntry) -> SavedPlan:
    """Write a plan down as the next version; the controller's profile goes with it.

    Raises
    ------
    InputRefused
        If the controller is not known, or something fitted cannot be.
    """
    key, profile = chosen_controller(job, user, key)
    computed(job, profile, entry)
    PLAN.add(job, user, PlanSaved(key, profile, entry))
    after = saved_plan(job)
    assert after is not None  # just written
    return after


def sign_off_of(job: Job) -> WiringSignOff | None:
    """Return the newest sign-off of a job."""
    return WiringSignOff.objects.filter(job=job).select_related("created_by").order_by("pk").last()


def changes_since(signed: WiringSignOff | None, plan: WiringPlan) -> tuple[LineChange, ...]:
    """Return what differs from the signed list; nothing where none was signed."""
    if signed is None:
        return ()
    return changes_between(_LINES.validate_python(signed.lines), plan.lines)


@writing()
def sign_off(job: Job, user: User, number: int, note: str) -> WiringSignOff:
    """Sign the newest wiring list off.

    Raises
    ------
    Refusal
        409 if it is not the newest, does not place everything, or a wire read wrong.
    """
    saved = saved_plan(job)
    if saved is None or saved.number != number:
        raise Refusal(
            409, "Not the newest", "Somebody saved another plan meanwhile: look at it first."
        )
    plan = computed(job, saved.profile, saved.entry)
    if not plan.allocation.is_whole:
        raise Refusal(409, "Not whole", "Not every function has a pin: " + " ".join(plan.sentences))
    wrong = [c for c in newest_checks(job).values() if not c.good and _still(c, plan)]
    if wrong:
        raise Refusal(
            409,
            "A wire is wrong",
            f"{len(wrong)} wire(s) read wrong: {wrong[0].sentence} Mend, then check again.",
        )
    return WiringSignOff.objects.create(
        job=job,
        plan=number,
        lines=[asdict(line) for line in plan.lines],
        note=note.strip()[:2000],
        created_by=user,
    )


def _still(check: WireCheck, plan: WiringPlan) -> bool:
    return any(line.key == check.line and line.pin == check.pin for line in plan.lines)


def newest_checks(job: Job) -> dict[str, WireCheck]:
    """Return the newest check of every wire, by its line."""
    rows = WireCheck.objects.filter(job=job).select_related("created_by").order_by("pk")
    return {row.line: row for row in rows}


@writing()
def check_wire(
    job: Job, user: User, line: str, reading: float | None, unit: str, good: bool
) -> WireCheck:
    """Write down that a wire was looked at.

    Parameters
    ----------
    line : str
        Key of the line in the newest plan.
    reading : float or None
        On the meter; None for a plain tick. [unit]
    unit : str
    good : bool
        What a plain tick says.

    Raises
    ------
    Refusal
        409 if there is no plan; 404 if it has no such line.
    """
    saved = saved_plan(job)
    if saved is None:
        raise Refusal(409, "No plan", "Save the plan first: the checks belong to its lines.")
    plan = computed(job, saved.profile, saved.entry)
    found = next((entry for entry in plan.lines if entry.key == line), None)
    if found is None:
        raise Refusal(404, "Not found", f"The plan has no line '{line[:40]}'.")
    sentence = "Looked at and ticked." if good else "Looked at and found wrong."
    if reading is not None:
        result = judge_check(found.check, reading, unit)
        good, sentence = result.is_good, result.sentence
    return WireCheck.objects.create(
        job=job, line=line, pin=found.pin, reading=reading, unit=unit if reading is not None else "",
        good=good, sentence=f"{found.title}: {sentence}", created_by=user,
    )  # fmt: skip


def outputs_of(job: Job) -> tuple[OutputSettings, int]:
    """Return the conditions of the outputs and their version; 0 where they are proposed."""
    return OUTPUTS.value(job) or (usual_settings(spec_of(job)), 0)


@writing()
def save_outputs(job: Job, user: User, settings: OutputSettings) -> int:
    """Write conditions down as the next version.

    Raises
    ------
    InputRefused
        If one of them cannot be.
    """
    settings.check()
    return OUTPUTS.add(job, user, settings).number


@writing()
def save_three_wire(job: Job, user: User, name: str, wires: tuple[WireReading, ...]) -> Entry:
    """Write the readings of an unknown three-wire sensor down.

    Raises
    ------
    InputRefused
        If it has no name, or the readings cannot be.
    """
    if not name.strip() or len(name.strip()) > 40:
        raise field_refused("name", "Say in up to 40 letters which sensor it is.")
    identify_three_wires(wires)
    return THREE_WIRE.add(job, user, ThreeWiresSaved(name.strip(), wires), name.strip())


def three_wires_of(job: Job) -> list[tuple[Entry, tuple[WireReading, ...]]]:
    """Return the newest readings of every unknown sensor, newest first."""
    rows = reversed(THREE_WIRE.newest_of_each(job))
    return [(row, THREE_WIRE.read(row.data).wires) for row in rows]


_COLUMNS = (
    "pin", "connector", "function", "signal", "colour", "size_mm2", "gauge_awg", "length_m",
    "current_a", "drop_v", "fuse_a", "relay", "protection", "pull_up", "active_state", "supply",
    "ground", "branch", "note", "check", "expected_low", "expected_high", "unit", "reading", "result",
)  # fmt: skip


def _harmless(text: str) -> str:
    """Return a text that no spreadsheet takes for a formula."""
    return f"'{text}" if text[:1] in ("=", "+", "-", "@", "\t", "\r") else text


def list_csv(job: Job, saved: SavedPlan) -> str:
    """Return the wiring list as CSV text."""
    plan = computed(job, saved.profile, saved.entry)
    checks = newest_checks(job)
    text = io.StringIO()
    writer = csv.writer(text, lineterminator="\r\n")
    writer.writerow(_COLUMNS)
    for line in plan.lines:
        check = checks.get(line.key)
        writer.writerow(
            _harmless(cell) if isinstance(cell, str) else cell
            for cell in (
                line.pin, line.connector, line.title, line.signal, line.colour, line.size_mm2,
                line.gauge, line.length_m, line.current_a, line.drop_v,
                "" if line.fuse_a is None else line.fuse_a, "yes" if line.relay else "no",
                line.protection, line.pull_up, line.active, line.supply, line.ground,
                BRANCH_TITLES[line.branch], line.note, line.check.instruction, line.check.lower,
                line.check.upper, line.check.unit,
                "" if check is None or check.reading is None else check.reading,
                "" if check is None else ("good" if check.good else "wrong"),
            )
        )  # fmt: skip
    return plain(text.getvalue())

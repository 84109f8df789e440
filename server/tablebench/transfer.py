"""Bringing a revision into the controller: the sheet to type from, and what is in the car."""

from __future__ import annotations

from dataclasses import dataclass

from django.contrib.auth.models import User
from inbetrieb_core.basemaps.axes import THREE_POINTS_C
from inbetrieb_core.basemaps.held import held_tables
from inbetrieb_core.engine import EngineSpec
from inbetrieb_core.tables import DEFINITIONS
from inbetrieb_core.tables.controller_form import ControllerForm, controller_form
from inbetrieb_core.tables.transfer import HeldTable, TransferTable, transfer_sheet
from inbetrieb_core.wiring import ControllerProfile, OutputLine, fan_and_pump

from server.calibration.models import Revision, Transfer
from server.calibration.services import calibration_of, newest_number, revision_of
from server.config.problems import Refusal
from server.config.writes import writing
from server.jobs.engine_data import spec_of
from server.jobs.models import Job
from server.wiring import services as wiring


@dataclass(frozen=True)
class Sheet:
    """What has to be typed to bring a revision into the controller.

    Attributes
    ----------
    controller : str
        Its name; empty where none is chosen and canonical units stand.
    in_the_car : Transfer or None
        The last one confirmed.
    revision : int
        What shall be in the car.
    tables : tuple of TransferTable
    outputs : tuple of OutputLine
        Fan and pump, which are set with the wiring; empty once something was transferred.
    """

    controller: str
    in_the_car: Transfer | None
    revision: int
    tables: tuple[TransferTable, ...]
    outputs: tuple[OutputLine, ...]


def forms_of(profile: ControllerProfile | None, spec: EngineSpec) -> dict[str, ControllerForm]:
    """Return the form in which a controller holds each table: its own where it is known."""
    formats = {} if profile is None else {table.key: table for table in profile.tables}
    afr = spec.fuel.stoichiometric_afr
    return {
        key: controller_form(key, formats[key].unit, formats[key].step, afr)
        if key in formats
        else controller_form(key)
        for key in DEFINITIONS
    }


def _held(profile: ControllerProfile | None, spec: EngineSpec) -> dict[str, HeldTable]:
    """Return how the controller holds each table; start tables of the three-point school have three."""
    formats = {} if profile is None else {table.key: table for table in profile.tables}
    three = spec.schools.curve == "three_point"
    result = {}
    for key, form in forms_of(profile, spec).items():
        axes = formats[key].axes if key in formats else ()
        points: tuple[float, ...] = ()
        if DEFINITIONS[key].axes == ("coolant_c",):
            points = axes[0].points if axes else ()
            if three and not points and DEFINITIONS[key].group == "start":
                points = THREE_POINTS_C
        result[key] = HeldTable(form, points, tuple(axis.most_points for axis in axes))
    return result


def last_transfer(job: Job) -> Transfer | None:
    """Return the newest confirmed transfer of a job."""
    rows = Transfer.objects.filter(job=job).select_related("revision", "created_by")
    return rows.order_by("pk").last()


def sheet_of(job: Job, since: int | None = None) -> Sheet:
    """Return the transfer sheet of a job's newest revision.

    Parameters
    ----------
    job : Job
    since : int, optional
        Revision that is known to be in the controller, if no transfer says so; 0 for none.
    """
    spec, profile = spec_of(job), wiring.profile_of(job)
    newest = revision_of(job)
    last = last_transfer(job)
    number = since if since is not None else None if last is None else last.revision.number
    before = None
    if number:
        before = held_tables(calibration_of(revision_of(job, number)), spec)
    after = held_tables(calibration_of(newest), spec)
    outputs = fan_and_pump(wiring.outputs_of(job)[0]) if before is None else ()
    return Sheet(
        "" if profile is None else profile.name,
        last,
        newest.number,
        transfer_sheet(before, after, _held(profile, spec)),
        outputs,
    )


@writing()
def confirm(
    job: Job, user: User, *, revision: int, how: str, ticked: int, note: str
) -> tuple[Transfer, Revision]:
    """Write down that a revision is in the car.

    Raises
    ------
    Refusal
        409 if a newer revision was saved meanwhile; 422 if lines are left unticked.
    """
    if revision != newest_number(job):
        raise Refusal(
            409,
            "Somebody saved meanwhile",
            f"Revision {newest_number(job)} was saved after this sheet was made. What is typed stays typed: "
            "open the sheet again for the rest.",
        )
    tables = sheet_of(job).tables
    large = [table.title.lower() for table in tables if table.too_large]
    if how == "typed" and large:
        raise Refusal(
            422,
            "It does not fit",
            f"The controller has no room for {', '.join(large)} as they are: change the breakpoints first.",
        )
    lines = sum(len(table.cells) for table in tables)
    if how == "typed" and ticked < lines:
        raise Refusal(
            422,
            "Not all is typed",
            f"{lines - ticked} of {lines} values are not ticked. Type them, or say that a file was loaded.",
        )
    saved = revision_of(job, revision)
    made = Transfer.objects.create(
        job=job, revision=saved, how=how, lines=lines, note=note.strip()[:2000], created_by=user
    )
    return made, saved

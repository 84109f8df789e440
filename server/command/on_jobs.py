"""Commands on jobs and their files: judge, convert, diff, report, archive, take."""

from __future__ import annotations

from pathlib import Path

import click
from django.contrib.auth.models import User
from inbetrieb_core.errors import CoreError
from inbetrieb_core.handover import PAPERS, PaperKey
from inbetrieb_core.logs import bus_table, import_log, log_csv, log_mdf
from inbetrieb_core.sentences import plain
from inbetrieb_core.starts import StartSetting, find_starts, judge_log
from inbetrieb_core.tables import difference_csv
from inbetrieb_core.tables.files import read_calibration

from server.accounts.services import workshop_of
from server.archive.services import look as look_at_archive
from server.archive.services import take as take_archive
from server.archive.writing import write_archive
from server.calibration.services import calibration_of, revision_of
from server.config.problems import Refusal
from server.handover.services import in_units, paper_of
from server.jobs.engine_data import spec_of
from server.jobs.models import Job

#: How measurement files end.
_MDF = (".mf4", ".mdf")


def _job(number: int) -> Job:
    job: Job | None = Job.objects.filter(pk=number).first()
    if job is None:
        raise click.ClickException(f"There is no job {number}.")
    return job


def _refuse_there(file: Path) -> None:
    if file.exists():
        raise click.ClickException(f"{file} is there already; nothing was overwritten.")


@click.command(help="Write the whole job NUMBER into FILE (a zip).")
@click.argument("number", type=int)
@click.argument("file", type=click.Path(path_type=Path))
def archive(number: int, file: Path) -> None:
    """Write the archive of a job."""
    job = _job(number)
    _refuse_there(file)
    write_archive(job, file, _quiet)
    click.echo(f"{file} holds {job.name}.")


@click.command(help="Take the job of the archive FILE into the workshop of the user NAME.")
@click.argument("file", type=click.Path(path_type=Path, exists=True))
@click.argument("name")
def take(file: Path, name: str) -> None:
    """Take a job out of an archive."""
    user = User.objects.filter(username=name).first()
    if user is None:
        raise click.ClickException(f"There is no user {name}.")
    try:
        click.echo(look_at_archive(file).sentence)
        number = take_archive(file, workshop_of(user), user, _quiet)
    except Refusal as error:
        raise click.ClickException(error.detail) from error
    click.echo(f"Job {number} holds it.")


def _quiet(share: float, sentence: str) -> None:
    """Say nothing on the way."""


@click.command(help="Judge the starts of the log LOG: what happened, and which number to change.")
@click.argument("log", type=click.Path(path_type=Path, exists=True))
@click.argument("number", type=int)
def judge(log: Path, number: int) -> None:
    """Judge a log against the newest tables of a job; nothing is written."""
    job = _job(number)
    try:
        trace = import_log(log.read_bytes()).trace
    except CoreError as error:
        raise click.ClickException(str(error)) from error
    spec, tables = spec_of(job), calibration_of(revision_of(job))
    for start, _ in enumerate(find_starts(trace, spec.crank_to_run_rpm), 1):
        found = judge_log(trace, tables, StartSetting(spec), start_number=start)
        click.echo(f"Start {start}: {plain(found.sentence)}")
        for advice in found.advice[:1]:
            click.echo(f"  {plain(advice.reason)}")


@click.command(
    help="Write the log LOG (text, MDF, or a bus log with its DBC) as CSV or MDF, by the name of OUT."
)
@click.argument("log", type=click.Path(path_type=Path, exists=True))
@click.argument("out", type=click.Path(path_type=Path))
@click.option(
    "--dbc", type=click.Path(path_type=Path, exists=True), help="Names the signals of a bus log."
)
def convert(log: Path, out: Path, dbc: Path | None) -> None:
    """Convert a log."""
    _refuse_there(out)
    try:
        data = log.read_bytes()
        imported = import_log(data if dbc is None else bus_table(data, dbc.read_bytes()))
    except CoreError as error:
        raise click.ClickException(str(error)) from error
    write = log_mdf if out.suffix.lower() in _MDF else log_csv
    out.write_bytes(write(imported.trace))
    click.echo(
        f"{out}: {len(imported.trace.channels)} channels, {imported.trace.time_s.size} samples."
    )
    for problem in imported.problems:
        click.echo(f"  {plain(problem)}")


@click.command(
    help="Say what the calibration files FIRST and SECOND differ by, cell by cell, as CSV."
)
@click.argument("first", type=click.Path(path_type=Path, exists=True))
@click.argument("second", type=click.Path(path_type=Path, exists=True))
def diff(first: Path, second: Path) -> None:
    """Compare two calibrations of this program's JSON."""
    try:
        one, other = (read_calibration(file.read_bytes()) for file in (first, second))
    except CoreError as error:
        raise click.ClickException(str(error)) from error
    click.echo(difference_csv(one, other).decode(), nl=False)


@click.command(help="Print what of the job NUMBER is proven, and what is not.")
@click.argument("number", type=int)
@click.option("--paper", type=click.Choice(sorted(PAPERS)), default="shop", show_default=True)
def report(number: int, paper: PaperKey) -> None:
    """Print a paper of a job as text."""
    job = _job(number)
    found = in_units(paper_of(job, paper), dict(job.units))
    click.echo(f"{found.title}\n{found.head}")
    for section in found.sections:
        click.echo(f"\n{section.title}")
        for text in section.paragraphs:
            click.echo(f"  {text}")
        for row in section.grid.rows if section.grid else ():
            click.echo("  " + " | ".join(row))


#: In the order in which help lists them.
COMMANDS = (judge, convert, diff, report, archive, take)

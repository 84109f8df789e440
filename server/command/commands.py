"""The commands themselves."""

from __future__ import annotations

from pathlib import Path

import click
from django.conf import settings
from django.contrib.auth.models import User
from django.core.management import call_command
from inbetrieb_core.errors import CoreError, InputRefused
from inbetrieb_core.handover import PAPERS, PaperKey
from inbetrieb_core.logs import import_log, log_csv, log_mdf
from inbetrieb_core.sentences import plain
from inbetrieb_core.starts import StartSetting, find_starts, judge_log
from inbetrieb_core.tables import difference_csv
from inbetrieb_core.tables.files import read_calibration

from server.accounts.services import register, workshop_of
from server.archive.services import look as look_at_archive
from server.archive.services import take as take_archive
from server.archive.writing import write_archive
from server.calibration.services import calibration_of, revision_of
from server.config.problems import Refusal
from server.handover.services import in_units, paper_of
from server.jobs.engine_data import spec_of
from server.jobs.models import Job
from server.live.services import end_lost

from .backup import Backup, BackupError, make_backup, restore_backup
from .check import problems


@click.group(
    help="Run an installation of Inbetrieb: users, backup, check, serve; judge, convert, diff, report, archive."
)
def inbetrieb() -> None:
    """Run an installation."""


@inbetrieb.command(help="Bring the database up to date with this version of the program.")
def upgrade() -> None:
    """Apply what is missing."""
    call_command("migrate", verbosity=0)
    click.echo("The database is up to date.")


@inbetrieb.command(help="Make a user with a workshop of their own.")
@click.argument("name")
@click.option("--workshop", default="", help="Name of the workshop.")
@click.password_option()
def user(name: str, workshop: str, password: str) -> None:
    """Make a user."""
    call_command("migrate", verbosity=0)
    try:
        register(username=name, password=password, workshop=workshop)
    except InputRefused as error:
        raise click.ClickException(error.sentence) from error
    click.echo(f"{name} can sign in.")


@inbetrieb.command(help="Give a user another password.")
@click.argument("name")
@click.password_option()
def password(name: str, password: str) -> None:
    """Set a password."""
    found = User.objects.filter(username=name).first()
    if found is None:
        raise click.ClickException(f"There is no user {name}.")
    found.set_password(password)
    found.save(update_fields=["password"])
    click.echo(f"{name} signs in by the new password from now on.")


@inbetrieb.command(help="Write database and files into FILE (a zip), while others go on writing.")
@click.argument("file", type=click.Path(path_type=Path))
def backup(file: Path) -> None:
    """Make a backup and read it back."""
    _say(_trusted(make_backup, settings.VAR, file), f"{file} is written and was read back")


@inbetrieb.command(help="Put the backup FILE into the empty folder INTO.")
@click.argument("file", type=click.Path(path_type=Path, exists=True))
@click.argument("into", type=click.Path(path_type=Path))
def restore(file: Path, into: Path) -> None:
    """Restore a backup."""
    _say(_trusted(restore_backup, file, into), f"{into} holds what was backed up")
    click.echo(f"Serve it with INBETRIEB_DATA={into} ./inbetrieb serve")


def _trusted(work: object, *given: Path) -> Backup:
    try:
        found: Backup = work(*given)  # type: ignore[operator]
    except BackupError as error:
        raise click.ClickException(str(error)) from error
    return found


def _say(found: Backup, what: str) -> None:
    jobs, trials = found.rows.get("jobs_job", 0), found.rows.get("trials_trial", 0)
    click.echo(f"{what}: {jobs} jobs, {trials} trials, {found.files} files, of {found.made_at}.")


@inbetrieb.command(help="Look the database and every file over.")
def check() -> None:
    """Say what is wrong; end with 1 where something is."""
    found = list(problems())
    for sentence in found:
        click.echo(sentence, err=True)
    if found:
        raise click.exceptions.Exit(1)
    click.echo("Nothing is wrong.")


@inbetrieb.command(help="Write the whole job NUMBER into FILE (a zip).")
@click.argument("number", type=int)
@click.argument("file", type=click.Path(path_type=Path))
def archive(number: int, file: Path) -> None:
    """Write the archive of a job."""
    job = Job.objects.filter(pk=number).first()
    if job is None:
        raise click.ClickException(f"There is no job {number}.")
    if file.exists():
        raise click.ClickException(f"{file} is there already; nothing was overwritten.")
    write_archive(job, file, _quiet)
    click.echo(f"{file} holds {job.name}.")


@inbetrieb.command(help="Take the job of the archive FILE into the workshop of the user NAME.")
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


@inbetrieb.command(
    help="Judge the starts of the log LOG: what happened, and which number to change."
)
@click.argument("log", type=click.Path(path_type=Path, exists=True))
@click.argument("number", type=int)
def judge(log: Path, number: int) -> None:
    """Judge a log against the newest tables of a job; nothing is written."""
    job = Job.objects.filter(pk=number).first()
    if job is None:
        raise click.ClickException(f"There is no job {number}.")
    try:
        trace = import_log(log.read_bytes()).trace
    except CoreError as error:
        raise click.ClickException(str(error)) from error
    spec = spec_of(job)
    for start, _ in enumerate(find_starts(trace, spec.crank_to_run_rpm), 1):
        found = judge_log(
            trace, calibration_of(revision_of(job)), StartSetting(spec), start_number=start
        )
        click.echo(f"Start {start}: {plain(found.sentence)}")
        for advice in found.advice[:1]:
            click.echo(f"  {plain(advice.reason)}")


@inbetrieb.command(
    help="Write the measurement file LOG as CSV with canonical channels and units to OUT."
)
@click.argument("log", type=click.Path(path_type=Path, exists=True))
@click.argument("out", type=click.Path(path_type=Path))
def convert(log: Path, out: Path) -> None:
    """Convert a log."""
    if out.exists():
        raise click.ClickException(f"{out} is there already; nothing was overwritten.")
    try:
        imported = import_log(log.read_bytes())
    except CoreError as error:
        raise click.ClickException(str(error)) from error
    is_mdf = out.suffix.lower() in (".mf4", ".mdf")
    out.write_bytes(log_mdf(imported.trace) if is_mdf else log_csv(imported.trace))
    click.echo(
        f"{out}: {len(imported.trace.channels)} channels, {imported.trace.time_s.size} samples."
    )
    for problem in imported.problems:
        click.echo(f"  {plain(problem)}")


@inbetrieb.command(
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


@inbetrieb.command(help="Print what of the job NUMBER is proven, and what is not.")
@click.argument("number", type=int)
@click.option("--paper", type=click.Choice(sorted(PAPERS)), default="shop", show_default=True)
def report(number: int, paper: PaperKey) -> None:
    """Print a paper of a job as text."""
    job = Job.objects.filter(pk=number).first()
    if job is None:
        raise click.ClickException(f"There is no job {number}.")
    found = in_units(paper_of(job, paper), dict(job.units))
    click.echo(f"{found.title}\n{found.head}")
    for section in found.sections:
        click.echo(f"\n{section.title}")
        for text in section.paragraphs:
            click.echo(f"  {text}")
        for row in section.grid.rows if section.grid else ():
            click.echo("  " + " | ".join(row))


@inbetrieb.command(help="Serve it; behind a proxy for HTTPS.")
@click.option("--host", default="127.0.0.1", show_default=True)
@click.option("--port", default=8000, show_default=True)
def serve(host: str, port: int) -> None:
    """Bring the database up to date and serve."""
    import uvicorn

    call_command("migrate", verbosity=0)
    ended = len(end_lost())
    if ended:
        click.echo(f"{ended} live session(s) had broken off: their logs are written.")
    uvicorn.run(
        "server.config.asgi:application",
        host=host,
        port=port,
        log_level="warning",
        timeout_graceful_shutdown=10,
    )

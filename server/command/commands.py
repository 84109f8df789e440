"""The commands themselves."""

from __future__ import annotations

from pathlib import Path

import click
from django.conf import settings
from django.contrib.auth.models import User
from django.core.management import call_command
from inbetrieb_core.errors import InputRefused

from server.accounts.services import register
from server.live.services import end_lost

from .backup import Backup, BackupError, make_backup, restore_backup
from .check import problems
from .on_jobs import COMMANDS


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


for _command in COMMANDS:
    inbetrieb.add_command(_command)

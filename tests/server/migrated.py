"""An installation's empty database, migrated once in a process of the tests and copied for each."""

import atexit
import functools
import os
import shutil
import subprocess
import sys
from pathlib import Path
from tempfile import mkdtemp

from django.conf import settings


@functools.cache
def _template() -> Path:
    folder = mkdtemp(prefix="inbetrieb-migrated-")
    atexit.register(shutil.rmtree, folder, ignore_errors=True)
    run = [sys.executable, "manage.py", "migrate", "-v0"]
    subprocess.run(run, cwd=settings.ROOT, env=environment(folder), check=True)
    return Path(folder) / "inbetrieb.sqlite3"


def environment(folder) -> dict[str, str]:
    """Return what a process of an installation in a folder runs with."""
    return {
        **os.environ,
        "INBETRIEB_DATA": str(folder),
        "INBETRIEB_SECRET_KEY": "x",
        "DJANGO_SETTINGS_MODULE": "server.config.settings",
    }


def migrated(folder) -> dict[str, str]:
    """Put an empty database into a folder; return what a process of it runs with."""
    shutil.copy(_template(), Path(folder) / "inbetrieb.sqlite3")
    return environment(folder)

"""Settings of the tests: a database in a file of its own, without write-ahead log."""

import atexit
import shutil
from pathlib import Path
from tempfile import mkdtemp

from .settings import *  # noqa: F403
from .settings import DATABASES

VAR = Path(mkdtemp(prefix="inbetrieb-test-"))
atexit.register(shutil.rmtree, VAR, ignore_errors=True)
UPLOADS = VAR / "uploads"
SECRET_KEY = "only for tests"
DEMO = False
ALLOWED_HOSTS = ["*"]
# A file, because the live server and the tests share it; no write-ahead log, because parallel
# runs copy only the main file.
DATABASES["default"]["TEST"] = {"NAME": VAR / "test.sqlite3"}
DATABASES["default"]["OPTIONS"]["init_command"] = (
    "PRAGMA journal_mode=MEMORY; PRAGMA synchronous=OFF; PRAGMA foreign_keys=ON;"
)
PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]
TASKS_AT_ONCE = True
REGISTRATION_OPEN = True
#: Says what was slow, and survives what cannot be pickled.
TEST_RUNNER = "tests.runner.Runner"

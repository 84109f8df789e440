"""Settings. Everything stays on this machine: no network service is used."""

from __future__ import annotations

import os
import secrets
from pathlib import Path
from typing import Any

from inbetrieb_core.logs import LARGEST_BYTES
from inbetrieb_core.triggers import LARGEST_CAPTURE_BYTES

ROOT = Path(__file__).resolve().parents[2]
#: Database, uploads and keys are nobody's but the owner's.
os.umask(0o077)
VAR = Path(os.environ.get("INBETRIEB_DATA", ROOT / "var"))
VAR.mkdir(parents=True, exist_ok=True)

#: Demo mode signs the demo user in without a password, for requests from this machine only.
DEMO = os.environ.get("INBETRIEB_DEMO") == "1"
DEBUG = os.environ.get("INBETRIEB_DEBUG") == "1"
ALLOWED_HOSTS = [
    host.strip()
    for host in os.environ.get("INBETRIEB_HOSTS", "127.0.0.1,localhost,[::1]").split(",")
    if host.strip()
]
#: Whether it is reached by HTTPS through a proxy, which says so in X-Forwarded-Proto.
HTTPS = os.environ.get("INBETRIEB_HTTPS") == "1"
#: Whether anybody may make a workshop of their own; in the demo they may.
REGISTRATION_OPEN = DEMO or os.environ.get("INBETRIEB_REGISTRATION") == "open"


def _secret_key() -> str:
    """Return the installation's own key, made on first use."""
    path = VAR / "secret_key"
    if not path.exists():
        path.write_text(secrets.token_urlsafe(50))
        path.chmod(0o600)
    return path.read_text()


SECRET_KEY = os.environ.get("INBETRIEB_SECRET_KEY") or _secret_key()

INSTALLED_APPS = [
    "django.contrib.auth",
    "django.contrib.contenttypes",
    "django.contrib.sessions",
    "whitenoise.runserver_nostatic",
    "django.contrib.staticfiles",
    "ninja",
    "server.accounts",
    "server.jobs",
    "server.entries",
    "server.tasks",
    "server.logbook",
    "server.calibration",
    "server.hardware",
    "server.wiring",
    "server.trigger",
    "server.intake",
    "server.idle",
    "server.trials.apps.TrialsConfig",
    "server.order.apps.OrderConfig",
    "server.firststart",
    "server.mornings",
    "server.bench",
    "server.trainer",
    "server.live",
    "server.fuelling",
    "server.pulls",
    "server.handover",
    "server.archive",
    "server.guide",
    "server.demo",
]

MIDDLEWARE = [
    "django.middleware.security.SecurityMiddleware",
    "whitenoise.middleware.WhiteNoiseMiddleware",
    "django.middleware.gzip.GZipMiddleware",
    "server.config.middleware.ContentPolicy",
    "server.config.middleware.RefuseHugeBodies",
    "django.contrib.sessions.middleware.SessionMiddleware",
    "django.middleware.common.CommonMiddleware",
    "django.middleware.csrf.CsrfViewMiddleware",
    "django.contrib.auth.middleware.AuthenticationMiddleware",
    "server.accounts.middleware.SignInDemoUser",
    "django.middleware.clickjacking.XFrameOptionsMiddleware",
]

ROOT_URLCONF = "server.config.urls"
ASGI_APPLICATION = "server.config.asgi.application"
TEMPLATES = [{"BACKEND": "django.template.backends.django.DjangoTemplates", "APP_DIRS": True}]

DATABASES: dict[str, dict[str, Any]] = {
    "default": {
        "ENGINE": "django.db.backends.sqlite3",
        "NAME": VAR / "inbetrieb.sqlite3",
        "OPTIONS": {
            "timeout": 20,
            "transaction_mode": "IMMEDIATE",
            "init_command": (
                "PRAGMA journal_mode=WAL; PRAGMA synchronous=FULL; PRAGMA foreign_keys=ON;"
            ),
        },
    }
}
DEFAULT_AUTO_FIELD = "django.db.models.BigAutoField"

AUTH_PASSWORD_VALIDATORS = [
    {"NAME": "django.contrib.auth.password_validation.MinimumLengthValidator"},
    {"NAME": "django.contrib.auth.password_validation.CommonPasswordValidator"},
]

USE_TZ = True
TIME_ZONE = "UTC"
LANGUAGE_CODE = "en-gb"

STATIC_URL = "/static/"
STATIC_ROOT = VAR / "static"
STATIC_ROOT.mkdir(exist_ok=True)
WEB_DIST = ROOT / "web" / "dist"
STATICFILES_DIRS = [WEB_DIST] if WEB_DIST.exists() else []
WHITENOISE_USE_FINDERS = True
WHITENOISE_AUTOREFRESH = False
#: A file whose name holds the sum of its content never changes.
WHITENOISE_IMMUTABLE_FILE_TEST = r"^/static/assets/.+-[\w-]{8}\.\w+$"

# A log of this size is streamed to disk; the importer's own limit refuses larger ones.
FILE_UPLOAD_MAX_MEMORY_SIZE = 4 * 1024 * 1024
DATA_UPLOAD_MAX_MEMORY_SIZE = 8 * 1024 * 1024
#: Long work is done within the request; for tests whose transaction no thread can see into.
TASKS_AT_ONCE = False
UPLOADS = VAR / "uploads"
PAPERS = VAR / "papers"
ARCHIVES = VAR / "archives"
#: A unix socket or a file being written, on which a logger of one's own sends lines of JSON; empty for none.
LIVE_LINES = os.environ.get("INBETRIEB_LIVE_LINES", "")
#: So many bytes of files that are not saved yet a workshop may keep.
UPLOAD_QUOTA = 2_000_000_000
#: Part of an address, the largest body it takes, and what to do with a larger one; first match.
LARGEST_BODIES = (
    (
        "/archives",
        2_000_000_000,
        "Archive jobs one by one.",
    ),
    ("/captures", LARGEST_CAPTURE_BYTES, "Capture a shorter stretch."),
    ("/photographs", 40_000_000, "Make the picture smaller."),
    ("/inherited/file", 40_000_000, "Bring the files one by one."),
    ("/import", 40_000_000, "Bring the calibration alone."),
    ("/logs", LARGEST_BYTES, "Cut the log to the part around the start."),
    ("/trials/starts", LARGEST_BYTES, "Cut the log to the part around the start."),
    ("", 4_000_000, "No sheet needs as much."),
)
#: Nobody who is not signed in sends more than a name and a password. [bytes]
LARGEST_BODY_OF_STRANGERS = 65_536
#: Says whether a request comes from somebody signed in, before its body is read.
KNOWS_WHO = "server.accounts.who.is_known"

if HTTPS:
    SECURE_PROXY_SSL_HEADER = ("HTTP_X_FORWARDED_PROTO", "https")
    SESSION_COOKIE_SECURE = CSRF_COOKIE_SECURE = True
    SECURE_HSTS_SECONDS = 365 * 24 * 3600
    CSRF_TRUSTED_ORIGINS = [f"https://{host}" for host in ALLOWED_HOSTS]
SESSION_COOKIE_SAMESITE = "Lax"
SESSION_COOKIE_HTTPONLY = True
SECURE_CONTENT_TYPE_NOSNIFF = True
SECURE_REFERRER_POLICY = "same-origin"
X_FRAME_OPTIONS = "DENY"

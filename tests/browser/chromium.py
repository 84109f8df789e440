"""Which chromium drives the tests: the one without a window needs half the time; see chromium.sh."""

from pathlib import Path

_SHELL, _WINDOWED = "/usr/bin/chromium-headless-shell", "/usr/bin/chromium"
CHROMIUM = _SHELL if Path(_SHELL).exists() else _WINDOWED

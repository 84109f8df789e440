#!/usr/bin/env python
"""Django's command line for Inbetrieb."""

import os
import sys
from pathlib import Path

CORE = Path(__file__).parent / "core"


def stale() -> list[str]:
    """Return the modules whose compiled form is older than their source: what runs is not what stands there."""
    found = []
    for name in (CORE / "compiled.txt").read_text().split():
        source = CORE / "inbetrieb_core" / name
        for compiled in source.parent.glob(f"{source.stem}.*.so"):
            if compiled.stat().st_mtime < source.stat().st_mtime:
                found.append(name)
    return found


def main() -> None:
    """Run a management command with the project's settings."""
    testing = len(sys.argv) > 1 and sys.argv[1] == "test"
    module = "server.config.settings_test" if testing else "server.config.settings"
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", module)
    from django.core.management import execute_from_command_line

    if older := stale():
        print(
            f"Compiled before it was changed, run make setup: {', '.join(older)}", file=sys.stderr
        )
    execute_from_command_line(sys.argv)


if __name__ == "__main__":
    main()

#!/usr/bin/env python
"""Django's command line for Inbetrieb."""

import os
import sys


def main() -> None:
    """Run a management command with the project's settings."""
    testing = len(sys.argv) > 1 and sys.argv[1] == "test"
    module = "server.config.settings_test" if testing else "server.config.settings"
    os.environ.setdefault("DJANGO_SETTINGS_MODULE", module)
    from django.core.management import execute_from_command_line

    execute_from_command_line(sys.argv)


if __name__ == "__main__":
    main()

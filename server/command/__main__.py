"""Entry of the command line: `./inbetrieb`, or `python -m server.command`."""

import os

import django

os.environ.setdefault("DJANGO_SETTINGS_MODULE", "server.config.settings")
django.setup()

from .commands import inbetrieb  # noqa: E402 – settings come first

inbetrieb(prog_name="inbetrieb")

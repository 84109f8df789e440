"""The live link: a source of samples behind one small interface, what is commanded, what is let in."""

from .controls import LOADS, SPEEDS, Controls, commanded, is_kill
from .guard import MOST_HZ, Guard
from .lines import channels_of, rows_of_lines
from .source import Opened, Source, SourceWithLight
from .stretch import newest_start_s
from .sweeping import SweepRun

__all__ = [
    "LOADS",
    "MOST_HZ",
    "SPEEDS",
    "Controls",
    "Guard",
    "Opened",
    "Source",
    "SweepRun",
    "SourceWithLight",
    "channels_of",
    "commanded",
    "is_kill",
    "newest_start_s",
    "rows_of_lines",
]

"""Logs: from files of many dialects to canonical channels."""

from .alignment import Alignment, align
from .columns import Column, ColumnUse
from .holds import Holds, what_holds
from .importer import LARGEST_BYTES, ImportedLog, LogPreview, import_log, preview_log, read_columns
from .names import CHANNELS, ChannelName
from .pauses import after_newest_pause
from .trace import Trace

__all__ = [
    "CHANNELS",
    "LARGEST_BYTES",
    "ChannelName",
    "Column",
    "ColumnUse",
    "Alignment",
    "align",
    "ImportedLog",
    "LogPreview",
    "Trace",
    "Holds",
    "after_newest_pause",
    "what_holds",
    "import_log",
    "preview_log",
    "read_columns",
]

"""Logs: from files of many dialects to canonical channels."""

from .alignment import Alignment, align
from .bus import bus_table, is_bus_log
from .columns import Column, ColumnUse
from .holds import Holds, what_holds
from .importer import (
    LARGEST_BYTES,
    ImportedLog,
    LogPreview,
    as_table,
    import_log,
    preview_log,
    read_columns,
)
from .mdf import is_mdf, log_mdf, mdf_table
from .names import CHANNELS, ChannelName
from .pauses import after_newest_pause
from .trace import Trace
from .written import head_of, log_csv

__all__ = [
    "as_table",
    "bus_table",
    "is_bus_log",
    "is_mdf",
    "log_mdf",
    "mdf_table",
    "head_of",
    "log_csv",
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

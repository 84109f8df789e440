"""Logs: from files of many dialects to canonical channels."""

from .alignment import Alignment, align
from .bus import bus_table, is_bus_log
from .columns import Column, ColumnUse
from .holds import Holds, what_holds
from .importer import (
    LARGEST_BYTES,
    ImportedLog,
    LogPreview,
    import_log,
    preview_log,
    read_columns,
)
from .mdf import is_mdf, log_mdf, mdf_table
from .names import CHANNELS, ChannelName
from .pauses import after_newest_pause
from .trace import Trace
from .track import LARGEST_TRACK_BYTES, Track, is_track, read_track, track_lies, with_track
from .written import head_of, log_csv

__all__ = [
    "CHANNELS",
    "LARGEST_BYTES",
    "LARGEST_TRACK_BYTES",
    "Alignment",
    "ChannelName",
    "Column",
    "ColumnUse",
    "Holds",
    "ImportedLog",
    "LogPreview",
    "Trace",
    "Track",
    "after_newest_pause",
    "align",
    "bus_table",
    "head_of",
    "import_log",
    "is_bus_log",
    "is_mdf",
    "is_track",
    "log_csv",
    "log_mdf",
    "mdf_table",
    "preview_log",
    "read_columns",
    "read_track",
    "track_lies",
    "what_holds",
    "with_track",
]
